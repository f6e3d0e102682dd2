"""One move at the pace that is in force, after which the bench's gauge tells how much shaking is left."""

from __future__ import annotations

from typing import Any

from idler.core.machine import Machine
from idler.core.proof.claims import pace_claim
from idler.core.values.parameter import Value
from idler.session.session import Session

from ..at_rest import Stopwatch
from ..engine import Ending, Procedure, Result, Run

LENGTH = 20.0  # mm or °: a move in which the ends matter
READ_AFTER = 0.15  # s at rest


def shaken_by(machine: Machine, slot: int, shape: str) -> tuple[Value, ...]:
    """What the shaking of a move depends on."""
    values = machine.axis(slot).values
    keys = ("pace.top_speed", "pace.acceleration", "pace.deceleration", "pace.jerk", "frame.rings")
    return (machine.names[slot], shape, *(values[key] for key in keys))


class ShapeRun(Procedure):
    """seen: shaking in µm, by what it depends on."""

    what = "a move that shows the shaking"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.seen: dict[tuple[Value, ...], float] = {}
        self._way = 1.0

    def look_at(self, slot: int) -> str:
        """A sentence where it cannot begin."""
        if why := self._session.motion_obstacle(pace_claim(self._session.machine, slot).rests):
            return why
        self.begin(self._looking(slot), "Esc stops it.")
        return ""

    def _looking(self, slot: int) -> Run:
        session = self._session
        top = float(session.machine.axis(slot).number("pace.top_speed"))
        way, self._way = self._way, -self._way
        yield self.move(slot, way * LENGTH, top)
        rest = Stopwatch(session)
        yield lambda: rest.look() > READ_AFTER
        hands, replies = session.bench_hands, list[dict[str, Any]]()
        if hands is None:
            return Result(Ending.DONE, "")
        hands.ask(replies.append, do="look")
        yield lambda: bool(replies)
        shape, name = str(session.machine.axis(slot).choice("pace.shape")), session.machine.names[slot]
        for axis in replies[0].get("axes", ()):
            if axis["name"] == name:
                self.seen[shaken_by(session.machine, slot, shape)] = float(axis["shaking"])
        return Result(Ending.DONE, "")
