"""What one axis did while it homed, written down as it went."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from idler.core.machine import Machine
from idler.core.profile.codec import Place
from idler.core.profile.homing import FIRST_PLACE, TOUCH_PLACE, HomingResult, Phase


@dataclass
class Record:
    """What one axis did. begin: seconds after the run began; machine: as it was told then; gave_up: its drive did.

    points    seconds, coordinate, and whether its switch was made
    phases    each phase with the second at which it began
    others    inputs of other things that were made while it moved
    found     what the controller measured, by place: mm (°), or a share of the torque; empty until it was read
    """

    slot: int
    begin: float
    machine: Machine
    was_homed: bool = False
    gave_up: bool = False
    points: list[tuple[float, float, bool]] = field(default_factory=list)
    phases: list[tuple[Phase, float]] = field(default_factory=list)
    end: float = 0.0
    result: HomingResult = HomingResult.NONE
    others: set[int] = field(default_factory=set)
    found: dict[Place, float] = field(default_factory=dict)

    @property
    def seconds(self) -> float:
        return self.end - self.begin

    def during(self, *phases: Phase) -> list[tuple[float, float, bool]]:
        """The points of these phases."""
        if not self.phases:
            return []
        ends = [begin for _, begin in self.phases[1:]] + [math.inf]
        spans = [(begin, end) for (phase, begin), end in zip(self.phases, ends, strict=True) if phase in phases]
        return [point for point in self.points if any(begin <= point[0] < end for begin, end in spans)]

    def places(self, met_at: float) -> list[float]:
        """Coordinates of the run as they were to become: what comes before home was found is shifted by what was found."""
        if self.was_homed and self.result is not HomingResult.FOUND:
            return [place for _, place, _ in self.points]
        known = self.found.get(TOUCH_PLACE if self.result is HomingResult.FOUND else FIRST_PLACE)
        if known is None or not self.during(Phase.HALT, Phase.BACK_OFF):
            return []
        leaves = next((begin for phase, begin in self.phases if phase is Phase.LEAVE), math.inf)
        return [place + (met_at - known if time < leaves else 0.0) for time, place, _ in self.points]

    def let_go(self, towards: int) -> float | None:
        """How far behind the place where it made the switch was seen to let go on the way back; None where it was not."""
        first = self.found.get(FIRST_PLACE)
        back = self.during(Phase.BACK_OFF)
        clear = [towards * place for _, place, made in back if not made]
        return towards * first - max(clear) if first is not None and clear and back[0][2] else None
