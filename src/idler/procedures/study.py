"""The filter study: what the inputs pick up while nobody touches the machine, with the spindle running where it is wanted."""

from __future__ import annotations

from idler.core.profile.terminals import Condition
from idler.core.proof.claims import spindle_way_claim
from idler.core.values.roles import InputRole
from idler.core.wiring import Input, inputs
from idler.core.wiring.filterstudy import Study, study
from idler.link.events import Asked
from idler.link.trace import Edges
from idler.session.session import Session

from .dead_man import USUAL_LEVEL, DeadMan
from .engine import Ending, Result, Run
from .wiring import WatchingProcedure


class FilterStudy(WatchingProcedure):
    """studies: what the last record found, by the slot of the input."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.studies: dict[int, Study] = {}
        self._dead_man = DeadMan(session)
        self._begun = 0  # µs of the controller's clock

    def record(self, seconds: int, *, spindle: bool) -> str:
        """A sentence where it cannot begin."""
        session = self._session
        if not session.connected:
            return "No controller is connected: nothing can be recorded."
        if spindle:
            if why := session.unsent(spindle_way_claim(session.machine).rests) or session.spindle_obstacle():
                return why
            self._dead_man.hold(Asked(run=1, level=USUAL_LEVEL))
        self._begun = self.now
        self.begin(self._recording(seconds, spindle), f"{seconds} s")
        return ""

    def _recording(self, seconds: int, spindle: bool) -> Run:
        ran = False

        def over() -> bool:
            nonlocal ran
            runs = bool(self._session.panel.conditions & Condition.SPINDLE)
            ran = ran or runs
            if spindle and (self._dead_man.asked == Asked() or (ran and not runs)):
                self._session.tell("warn", "The spindle was stopped: the record ended early.")
                return True
            left = seconds - (self.now - self._begun) / 1e6
            self.say(f"{max(0.0, left):.0f} s")
            return left <= 0

        yield over
        return Result(Ending.DONE, "Recorded.")

    def _end(self, result: Result) -> None:
        self._dead_man.let_go()
        edges = self._session.trace.since(self._begun)
        if len(edges.levels):
            found = (item for item in inputs(self._session.machine) if not item.role.pulses)
            self.studies = {item.slot: _study(edges, item, self._begun) for item in found}
        super()._end(result)


def _study(edges: Edges, item: Input, start: int) -> Study:
    """A free input's contact at rest is not known: it is the level that it has come back to."""
    mine = edges.inputs == item.slot
    rest = int(edges.levels[item.slot]) if item.role is InputRole.NONE else int(item.closed_at_rest)
    return study(edges.times[mine].tolist(), edges.closed[mine].tolist(), rest, start, edges.now)
