"""The filter study: what the inputs pick up while nobody touches the machine, with the spindle running where it is wanted."""

from __future__ import annotations

from idler.core.machine import Address
from idler.core.profile.terminals import Condition
from idler.core.proof.claims import Proof, Witness, quiet_claim, spindle_way_claim, state, stop_claim
from idler.core.spindle import Meter, meters
from idler.core.spindle.runup import STANDS_RPM
from idler.core.values.roles import InputRole
from idler.core.wiring import Duty, Input, input_of, inputs
from idler.core.wiring.filterstudy import Study, proposals, quiet, studied, study
from idler.core.wiring.tool import tool_of
from idler.link.events import Asked
from idler.link.trace import Edges
from idler.session.session import Session

from ..dead_man import USUAL_LEVEL, DeadMan
from ..engine import Ending, Result, Run, Steps, Trouble
from ..questions import Question, done
from ..seen import is_it_on, not_on, which_way
from .trials import WatchingProcedure

UNSEEN = 60.0  # s for which it is on while nobody says whether it is seen to be
LAST_PULSE = 2_000_000  # µs without a pulse, after which it does not turn any more


class FilterStudy(WatchingProcedure):
    """studies: what the last record found, by the slot of the input."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.studies: dict[int, Study] = {}
        self._dead_man = DeadMan(session)
        self._waits = False  # whether a spindle is to run down before it is told to turn
        session.hands_off.subscribe(self._lifted)
        self._begun = self._missed = 0  # µs of the controller's clock; edges that were not heard before

    def record(self, seconds: int, *, spindle: bool) -> str:
        """A sentence where it cannot begin."""
        session = self._session
        if not session.connected:
            return "No controller is connected: nothing can be recorded."
        if why := session.terminals_obstacle():
            return why
        if spindle and (why := session.unsent(spindle_way_claim(session.machine).rests) or session.spindle_obstacle()):
            return why
        self._begun, self._missed, self.studies = self.now, session.trace.missed, {}
        self.begin(self._recording(seconds, spindle), f"{seconds} s")
        return ""

    def _recording(self, seconds: int, spindle: bool) -> Run:
        stopped = False
        if spindle:
            yield from self._stands()
            self._dead_man.hold(Asked(run=1, level=USUAL_LEVEL))
            limit = self._session.loop.now() + UNSEEN
            yield lambda: self._on or self._let_go or self._session.loop.now() > limit
            stopped = not self._on
            if not stopped and self._meter is Meter.TYPED:
                seen = yield from self.ask(self._does_it_work(), unless=lambda: not self._on or self._late(limit))
                if seen in ("nothing", "no"):
                    raise not_on(tool_of(self._session.machine))
                stopped = seen is None
            self._begun, self._missed = self.now, self._session.trace.missed

        def over() -> bool:
            nonlocal stopped
            stopped = stopped or (spindle and (self._let_go or not self._on))
            left = seconds - (self.now - self._begun) / 1e6
            self.say(f"{max(0.0, left):.0f} s")
            return stopped or left <= 0

        yield over
        return self._heard(seconds, spindle, stopped=stopped)

    def _stands(self) -> Steps:
        """One that still runs down would be taken for one that turns; what no meter tells, eyes do."""
        if self._meter is Meter.TYPED:
            if tool_of(self._session.machine).turns:
                yield from self.ask(done("spindle.stands", "Wait until the spindle stands. With your answer it turns."))
            return
        self._waits, until = True, self._session.loop.now() + UNSEEN
        if self._runs_down():
            self.say("The spindle still turns: it is told to once it stands.")
            yield lambda: not self._runs_down() or self._session.loop.now() > until
        self._waits = False
        if self._runs_down():
            raise Trouble("The spindle turns, and nothing has told it to. Look at its drive, and at what measures it.")

    def _runs_down(self) -> bool:
        if self._meter is Meter.ENCODER:
            return abs(self._session.panel.speed) > STANDS_RPM
        return self._pulsed(self.now - LAST_PULSE)

    def _pulsed(self, since: int) -> bool:
        """Whether a pulse has come lately, and since then (µs of the controller's clock)."""
        edges, pulses = self._session.trace.since(since), input_of(self._session.machine, Duty(InputRole.PULSE))
        times = edges.times[edges.inputs == pulses.slot] if pulses is not None else []
        return len(times) > 0 and self.now - int(times[-1]) < LAST_PULSE

    def _lifted(self) -> None:
        """Whoever went away does not start it later."""
        if self._waits:
            self.stop("")

    @property
    def _on(self) -> bool:
        return bool(self._session.panel.conditions & Condition.SPINDLE)

    @property
    def _let_go(self) -> bool:
        return self._dead_man.asked == Asked()

    def _late(self, limit: float) -> bool:
        """What nobody looks at does not turn for ever."""
        return self._session.loop.now() > limit

    @property
    def _meter(self) -> Meter:
        """What tells that it turns; eyes, where that is a hand tachometer, or where nothing turns."""
        machine = self._session.machine
        return meters(machine)[0] if tool_of(machine).turns else Meter.TYPED

    def _does_it_work(self) -> Question[str]:
        tool = tool_of(self._session.machine)
        return which_way() if tool.turns else is_it_on(tool)

    def _turned(self) -> bool:
        """Whether it still turns at the end of the record, by what measures it."""
        if self._meter is Meter.ENCODER:
            return abs(self._session.panel.speed) > STANDS_RPM
        return self._meter is not Meter.PULSE or self._pulsed(self._begun)  # else eyes have seen it

    def _heard(self, seconds: int, spindle: bool, *, stopped: bool) -> Result:
        machine = self._session.machine
        self._study()
        if spindle and not stopped and not self._turned():
            raise not_on(tool_of(machine))
        held, found = quiet(machine, self.studies)
        edit = {Address(slot, "input.filter"): ms for slot, ms in proposals(machine, self.studies).items()}
        if stopped:
            self._session.tell("warn", "The spindle was stopped: the record ended early.")
            return Result(Ending.DONE, f"The spindle was stopped: the record ended early. {found}", edit=edit)
        if not spindle:
            return Result(Ending.DONE, f"In {seconds} s. {found}", edit=edit)
        if self._session.trace.missed != self._missed or {item.slot for item in studied(machine)} - self.studies.keys():
            return Result(Ending.DONE, f"Not everything was heard: record again. {found}", edit=edit)
        turns = tool_of(machine).turns
        seen = spindle_way_claim(machine) if turns else stop_claim(machine, "esc")
        if state(machine, seen, self._session.proofs) is not Proof.PROVEN:
            first = "see which way it goes" if turns else "prove that Esc ends it"
            unseen = f"Nobody has seen that this spindle turns yet: {first} first, and listen again."
            return Result(Ending.DONE, f"{unseen} {found}", edit=edit)
        how = f"at {USUAL_LEVEL / 10:g} % of its level" if turns else "on"
        words = f"In {seconds} s with the spindle {how}. {found}"
        self.keep_proof(quiet_claim(machine), held, words, Witness.TERMINALS)
        return Result.of(held, words, edit)

    def _end(self, result: Result) -> None:
        self._waits = False
        self._dead_man.let_go()
        if result.end is Ending.STOPPED:
            self._study()
        super()._end(result)

    def _study(self) -> None:
        edges = self._session.trace.since(self._begun)
        if len(edges.levels):
            found = (item for item in inputs(self._session.machine) if not item.role.pulses)
            self.studies = {item.slot: _study(edges, item, self._begun) for item in found}


def _study(edges: Edges, item: Input, start: int) -> Study:
    """A free input's contact at rest is not known: it is the level that it has come back to."""
    mine = edges.inputs == item.slot
    rest = int(edges.levels[item.slot]) if item.role is InputRole.NONE else int(item.closed_at_rest)
    return study(edges.times[mine].tolist(), edges.closed[mine].tolist(), rest, start, edges.now)
