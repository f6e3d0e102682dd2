"""Procedures as steps: each step begins something that has an end of its own, and yields what says that the end is there.

STOP, an incident, a lost link or a refusal of the controller end a procedure at any step, and what it tried is put back.
Nothing here decides what to move.
"""

from __future__ import annotations

from collections.abc import Callable, Generator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import Enum
from typing import Any, TypeVar

from idler.core.errors import Refusal
from idler.core.incident import Incident
from idler.core.machine import Address
from idler.core.profile import homing
from idler.core.profile.cia402 import fault_text
from idler.core.profile.codec import Place, Raw, encode, place
from idler.core.profile.homing import Phase
from idler.core.proof.claims import Claim, Witness
from idler.core.values.parameter import Value
from idler.core.wiring import homeless
from idler.core.wiring.tool import tool_of
from idler.link.events import Read
from idler.session.calls import Call
from idler.session.session import Session
from idler.session.topic import Topic

from .at_rest import AtRest
from .questions import Question, QuestionKind

LOOK = 0.02  # s between two looks
ARRIVED = 0.1  # s at rest where it should be
TOUCH_SPEED = 60.0  # mm/min or °/min, where none was told: an axis may stand before iron

IRON, USUAL = 0.85, 0.6  # of the torque: what iron takes, and the most that an axis takes which can be told from it
FEW = 4  # readings of the effort before it is judged
NOTHING = 5  # readings in a row without any effort: no motor that moves something takes none

A = TypeVar("A")
Wait = Callable[[], bool]
Steps = Generator[Wait, None, None]


class Ending(Enum):
    """DONE where there was nothing to prove; FAILED where a step could not be done; STOPPED by a person or the machine."""

    PROVEN = "proven"
    NOT_PROVEN = "not proven"
    DONE = "done"
    FAILED = "failed"
    STOPPED = "stopped"


@dataclass(frozen=True)
class Result:
    """words: what was found. figures: by name, in the units that the names say. edit: values that are proposed by it."""

    end: Ending
    words: str
    figures: Mapping[str, float | str] = field(default_factory=dict)
    edit: Mapping[Address, Value] = field(default_factory=dict)

    @staticmethod
    def of(held: bool, words: str, edit: Mapping[Address, Value] | None = None, **figures: float | str) -> Result:
        return Result(Ending.PROVEN if held else Ending.NOT_PROVEN, words, figures, edit or {})


Run = Generator[Wait, None, Result]


class Trouble(Exception):
    """A sentence on why a procedure ends before its end."""

    def __init__(
        self, words: str, end: Ending = Ending.FAILED, edit: Mapping[Address, Value] | None = None
    ) -> None:  # fmt: skip
        super().__init__(words)
        self.result = Result(end, words, edit=edit or {})


def is_iron(efforts: Sequence[float]) -> bool:
    """Whether the newest reading of an effort says that something stands in the way of a slow move."""
    if len(efforts) < FEW:
        return False
    before = sorted(efforts[:-1])
    return efforts[-1] > IRON and before[len(before) // 2] < USUAL


def has_no_current(efforts: Sequence[float]) -> bool:
    """Whether the newest readings of the effort of an axis that moves say that its motor turns nothing."""
    return len(efforts) >= NOTHING and not any(efforts[-NOTHING:])


class Procedure:
    """`changed` at every step and at the end; `progressed` with every look at what moves, where that is drawn;
    `ended` at the end, with the result. words: what it does now, or why it ended.

    Values that are tried are written without storing, and put back by the steps or, where they were ended, at the next rest.
    """

    what = "a run"  # as the floor names it
    takes = 0.0  # s, where that is known beforehand
    leads = False  # whether it says what is next where it had the machine stopped
    moves = True  # whether it is the one thing that runs; what only watches runs beside another

    def __init__(self, session: Session) -> None:
        self.changed: Topic[()] = Topic()
        self.progressed: Topic[()] = Topic()
        self.ended: Topic[Result] = Topic()
        self._session = session
        self.words = ""
        self.result: Result | None = None  # of the last run
        self.question: Question[Any] | None = None  # what the person is asked now
        self._answer: object = None
        self._answered = False
        self._free = False  # whether the person may move the machine before he answers
        self._beforehand = False  # whether an answer of this run was given before it was asked for
        self._steps: Run | None = None
        self._stepping = False
        self._ready: Wait = lambda: True
        self._read: dict[Place, Raw] = {}
        self._written = False
        self._owed = False  # whether the controller has not said yet that it has taken what is put back
        self._homing = False  # whether the controller took the last homing
        self._taken = False  # whether the controller took the last move
        self.felt: float | None = None  # where the last move was ended by iron
        self._spoilt: dict[Place, Raw] = {}  # what must be put back
        self._timer = session.loop.timer(LOOK, self._look)
        session.halted.subscribe(self._halted)
        session.stopped.subscribe(self._incident)
        session.restarted.subscribe(self._restarted)
        session.dead.subscribe(self._dead)
        session.held.subscribe(self._held)
        session.read.subscribe(self._take)
        session.done.subscribe(self._done)
        session.failed.subscribe(self._failed)

    def feel_anew(self) -> None:
        """What was felt before does not count for what comes now."""
        self.felt = None

    @property
    def running(self) -> bool:
        return self._steps is not None

    @property
    def _blind(self) -> bool:
        """Whether nothing is heard of the machine, so that no step can be judged."""
        return not (self._session.axes if self.moves else self._session.connected)

    @property
    def settled(self) -> bool:
        """Whether nothing runs and nothing is left to be put back."""
        return not self.running and not self._timer.active

    def begin(self, steps: Run, words: str) -> None:
        if self.moves:
            self._session.floor.take(self, self.what, self.takes)
        self._session.runs.add(self)
        self._session.watch(self, True)  # edges, pulses, and the controller's clock
        self._steps, self._ready, self.words, self.result = steps, lambda: True, self._worded(words), None
        self._beforehand = False
        self._timer.start()
        self.changed.publish()
        self._look()

    def stop(self, why: str) -> None:
        """Ends it; what was tried is put back as soon as the machine rests."""
        if self._steps is not None:
            self._end(Result(Ending.STOPPED, why))

    def _end(self, result: Result) -> None:
        self._steps = self.question = None
        self._session.floor.leave(self)
        self._session.watch(self, False)
        self._session.runs.discard(self)
        result = replace(result, words=self._worded(result.words))
        self.words, self.result = result.words, result
        self.changed.publish()
        if result.end is not Ending.STOPPED:
            self._session.calls.publish(Call.END)
        self.ended.publish(result)

    def say(self, words: str) -> None:
        self.words = self._worded(words)
        self.changed.publish()

    def _worded(self, words: str) -> str:
        """Of what cuts on this machine."""
        return tool_of(self._session.machine).worded(words)

    def _halted(self) -> None:
        """Esc, or STOP."""
        self.stop("It was stopped.")

    def _restarted(self) -> None:
        """Whatever is seen after it may be its doing: drives without power, outputs off, inputs that are read anew."""
        self.stop("The controller restarted by itself.")

    def _dead(self, words: str) -> None:
        """A motor takes no torque any more: nothing that moves can come to its end."""
        if self.running and self.moves:
            self._end(Result(Ending.FAILED, words))

    def _incident(self, incident: Incident) -> None:
        self.stop(f"The machine stopped: {fault_text(incident.code)}.")

    def _held(self) -> None:
        if not self._session.connected:
            self._spoilt.clear()  # the values of a controller that is gone are read anew when it is back
            self._owed = False
            self.stop("The link was lost.")

    def _look(self) -> None:
        """Goes on where the step has ended."""
        if self._steps is None:
            if self._spoilt and self._session.connected and not self._session.moving:
                self._put_back()
            elif not self._spoilt and not self._owed:
                self._timer.stop()
            return
        if self._blind or self._stepping:
            return
        self._stepping = True  # whoever is told of a step may answer at once: that is looked at after it
        try:
            if self._ready():
                self._ready = next(self._steps)
        except StopIteration as end:
            self._end(end.value)
        except Trouble as why:
            self._end(why.result)
        finally:
            self._stepping = False

    def _failed(self, what: str) -> None:
        if what == "try":
            self._owed = False
        self.stop(f"A step of it was not done. {self._session.refusal}".rstrip())

    def _take(self, event: Read) -> None:
        self._read.update(event.raws)

    def _done(self, what: str) -> None:
        if what == "try":
            self._written, self._owed = True, False
        elif what == "homing":
            self._homing = True
        elif what == "jog":
            self._taken = True

    # -- the person -----------------------------------------------------------------------------------------------

    @property
    def must_rest(self) -> bool:
        """Whether what is asked can only be answered when the machine, which may be jogged meanwhile, has come to rest."""
        return self.question is not None and self._free and self._session.moving

    def answer(self, typed: str, *, beforehand: bool = False) -> None:
        """The person's answer to `question`. Raises Refusal where it is none; then it is asked still.

        beforehand: it was given before it was asked for. It is taken, but no eye and no instrument has borne it out, and
        the proof says so. That something may go on ("done") bears out nothing, and may be said at any time.
        """
        if self.question is None:
            raise Refusal("answer", "", "nothing is asked now")
        if self._free and (why := self._session.floor.obstacle(self) or "the machine still moves." * self.must_rest):
            raise Refusal("answer", "", why.removesuffix("."), "", "answer when it has come to rest")
        self._answer = self.question.take(typed)
        self._beforehand |= beforehand and self.question.kind is not QuestionKind.DONE
        self._answered, self.question = True, None
        self._look()

    def ask(
        self, question: Question[A], *, unless: Wait = lambda: False, free: bool = False
    ) -> Generator[Wait, None, A | None]:
        """Asks the person; over when there is an answer, or, with None, when the world has given it.

        free: nothing hangs on where the axes stand meanwhile; who wants to jog before he answers may.
        """
        question = replace(question, text=self._worded(question.text))
        self._answered, self.question, self._free = False, question, free and self.moves
        if free:
            self._session.floor.leave(self)
        self.changed.publish()
        self._session.calls.publish(Call.QUESTION)
        yield lambda: self._answered or unless()
        self.question = None
        if self.moves:
            if why := self._session.floor.obstacle(self):
                raise Trouble(why)
            self._session.floor.take(self, self.what, self.takes)
        return self._answer if self._answered else None  # type: ignore[return-value]

    def keep_proof(self, claim: Claim, passed: bool, words: str, witness: Witness) -> None:
        """Keeps a proof that this run gathered. What it says of its witness, and whether it may be kept, is the session's."""
        self._session.keep_proof(claim, passed, words, witness.given_beforehand() if self._beforehand else witness)

    def hear(self, words: str) -> bool:
        """What a person says while nothing is asked; False where it means nothing here. Raises Refusal."""
        return False

    # -- steps ----------------------------------------------------------------------------------------------------

    def touch_speed(self, slot: int) -> float:
        """The speed at which iron may be met, in mm/min (°/min)."""
        axis = self._session.machine.axis(slot)
        slow, top = float(axis.number("homing.touch")) or TOUCH_SPEED, float(axis.number("pace.top_speed"))
        return min(slow, top) if top else slow

    def jog(self, slot: int, distance: float, speed: float, *, seek: bool = False) -> AtRest:
        """Begins a move by a distance in mm (°) at mm/min (°/min); what is found of its motion and its rest."""
        self._taken = False
        rest = AtRest(self._session, slot, lambda: self._taken)
        self._session.link.jog_step(slot, distance, speed, seek=seek)
        return rest

    def move(self, slot: int, distance: float, speed: float, *, seek: bool = False, feel: bool = False) -> Wait:
        """A move by a distance in mm (°) at mm/min (°/min); over when the axis has come to rest.

        feel: it ends where the motor's effort says iron; that place is then in `felt`. Only for slow moves.
        A move that a limit does not let begin is over at once.
        """
        since, rest = self._session.loop.now(), self.jog(slot, distance, speed, seek=seek)
        self.felt = None

        def ready() -> bool:
            axis = rest.look()
            if axis.moving:
                if feel and self.felt is None and is_iron(self._session.link.efforts(slot, since)):
                    self.felt = axis.position
                    self._session.link.stop_axis(slot)
            elif not rest.started and not seek and self._taken and axis.reached and axis.at_limit:
                return True  # it stands at the end already
            elif rest.stuck:
                raise Trouble("The axis did not start.")
            return rest.started and rest.seconds > ARRIVED

        return ready

    def find_home(self, slot: int) -> Wait:
        """The homing of one axis; over when it has found its home. Raises Trouble with what became of it otherwise."""
        machine = self._session.machine
        if why := homeless(machine, machine.names[slot]):
            raise Trouble(why)
        self._homing = False
        self._session.link.home((slot,))

        def ready() -> bool:
            axis = self._session.axes[slot]
            if not self._homing or axis.homing_phase is not Phase.NONE:
                return False
            if axis.homing_result is not homing.HomingResult.FOUND:
                raise Trouble(f"{self._session.machine.names[slot]}: {axis.homing_result.words}.")
            return not axis.moving

        return ready

    def read(self, *places: Place) -> Wait:
        """Single objects of the controller; over when they are in `raw`."""
        for where in places:
            self._read.pop(where, None)
        self._session.link.ask_for(places)
        return lambda: set(places) <= set(self._read)

    def raw(self, where: Place) -> int:
        return int(self._read[where])

    def try_values(self, values: Mapping[Address, Value]) -> Wait:
        """Values that the controller is to use for a while."""
        holding = self._session.holding
        assert holding is not None
        raws: dict[Place, Raw] = {}
        for address, value in values.items():
            raws[place(address)] = encode(address.row, value)
            self._spoilt.setdefault(place(address), holding.raws[place(address)])
        self._written = False
        self._session.link.try_values(raws)
        return lambda: self._written

    def put_back(self) -> Wait:
        self._put_back()
        return lambda: self._written

    def _put_back(self) -> None:
        values, self._spoilt = self._spoilt, {}
        self._written, self._owed = False, True
        self._session.link.try_values(values)
