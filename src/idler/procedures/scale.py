"""One pass, step by step: take up the play, zero the instrument, move, read. It moves only when its button is pressed."""

from __future__ import annotations

from enum import Enum

from idler.core.chain import Chain
from idler.core.measures import Measures
from idler.core.proofs import Proof, ends_claim, pace_claim, state
from idler.core.scale import Instrument
from idler.session.session import Session
from idler.session.topic import Topic

from .engine import is_iron

NEVER_ARRIVES = 1.5  # s at rest elsewhere than where it was sent
HALF = 180.0  # ° of a turn, for axes that begin again
SLOW = 60.0  # mm/min or °/min, where no touch speed was told
TAKE_UP = 2.0  # mm or °: further than any play that could be compensated


class Stage(Enum):
    START = "start"
    MOVING = "moving"
    ZERO = "zero"
    MOVE = "move"
    READ = "read"


class Procedure:
    """moved, speed and counts_per_unit are those of the move that is to be read. fast: whether the next move is at top
    speed."""

    def __init__(self, session: Session) -> None:
        self.changed: Topic[()] = Topic()
        self.turned: Topic[int] = Topic()  # something was met: 1 or -1, the way that the next pass goes
        self._session = session
        self.stage = Stage.START
        self.moved = 0.0
        self.counts_per_unit = 0.0
        self.speed = 0.0
        self.fast = False
        self._slot = 0
        self._queue: list[float] = []
        self._after = Stage.START
        self._start: float | None = None
        self._away = 0.0  # how far from the start mark the axis stands
        self._iron = 0.0  # the way on which something was met: the next pass first goes clear of it
        self._target: float | None = None
        self._rest_since = self._rest_before = 0.0
        self._stood = self._seen = self._turned = (
            0.0  # where the move began, where the axis was last, how far it has gone
        )
        self._under_way = False
        self._pace = SLOW
        session.halted.subscribe(self._halt)
        session.stopped.subscribe(lambda _: self._halt())
        session.held.subscribe(self._held)

    def begin(self, slot: int) -> None:
        """Another axis, or anew."""
        self._slot, self._start, self._away = slot, None, 0.0
        self._queue.clear()
        self._set(Stage.START)

    def again(self) -> None:
        """The next pass begins at the same start mark."""
        self._start = None
        self._set(Stage.START)

    def _set(self, stage: Stage) -> None:
        self.stage = stage
        if stage is not Stage.MOVING:
            self._session.floor.leave(self)
        self.changed.publish()

    def _halt(self) -> None:
        """STOP, or something stopped the machine: the pass is void."""
        if self.stage is not Stage.START:
            self.begin(self._slot)

    def _held(self) -> None:
        if not self._session.connected:
            self._halt()

    @property
    def travelled(self) -> float | None:
        """How far the axis has gone from its start mark by its own counting."""
        axes = self._session.axes
        if self._start is None or self._slot >= len(axes):
            return None
        if self._wraps:
            return abs(self._turned)
        return abs(axes[self._slot].position - self._start)

    @property
    def _wraps(self) -> bool:
        return self._session.in_force.axis(self._slot).wraps

    def _apart(self, a: float, b: float) -> float:
        """From b to a; on an endless axis the shorter way round."""
        return (a - b + HALF) % (2 * HALF) - HALF if self._wraps else a - b

    def go(self, length: float, instrument: Instrument) -> str:
        """The next step; a sentence where it cannot be taken now."""
        if why := self._session.motion_obstacle():
            return why
        reads = self._session.machine.axis(self._slot).reads
        if abs(length) > instrument.reach:
            return (
                f"The {instrument.words(reads)} reaches {reads.length(instrument.reach, trim=True)}; the move is "
                f"{reads.length(abs(length), trim=True)}. Take another one."
            )
        way = 1.0 if length > 0 else -1.0
        match self.stage:
            case Stage.START:
                clear = [way * 2 * TAKE_UP] if self._iron == -way else []
                self._run([*clear, -self._away - way * TAKE_UP, way * TAKE_UP], Stage.ZERO, self.safe_speed)
                self._away = self._iron = 0.0
            case Stage.ZERO:
                self._zero(instrument)
            case Stage.MOVE:
                self.moved = length
                self.counts_per_unit = float(Chain.of(self._session.in_force.axis(self._slot)).counts_per_unit)
                self._away = length
                self.speed = self.top if self.fast else self.safe_speed
                self._run([length], Stage.READ, self.speed)
        return ""

    @property
    def top(self) -> float:
        return float(self._session.in_force.axis(self._slot).number("pace.top_speed"))

    @property
    def safe_speed(self) -> float:
        """Top speed where the pace is proven and the ends hold, else that at which iron may be met: what is measured must be
        the scale, and not what a pace loses."""
        session, axis = self._session, self._session.in_force.axis(self._slot)
        claims = (pace_claim(session.machine, self._slot), ends_claim(session.machine, self._slot))
        proven = [state(session.machine, claim, session.proofs) is Proof.PROVEN for claim in claims]
        if proven[0] and (axis.rotary or (proven[1] and session.homed(self._slot))):
            return self.top
        slow = (
            axis.number("homing.approach") if axis.rotary else axis.number("homing.touch")
        )  # what turns meets no iron
        return min(self.top, float(slow) or SLOW)

    def _zero(self, instrument: Instrument) -> None:
        """On the bench the instrument is set to zero here; at a real machine the person has done it."""
        hands = self._session.bench_hands
        if hands is None:
            self._at_zero()
            return
        name = self._session.machine.names[self._slot]
        hands.ask(lambda _: self._at_zero(), do="zero", axis=name, instrument=instrument.key)

    def _at_zero(self) -> None:
        if self.stage is Stage.ZERO and self._session.connected:
            self._start = self._session.axes[self._slot].position
            self._turned = 0.0
            self._set(Stage.MOVE)

    def _run(self, distances: list[float], then: Stage, speed: float) -> None:
        self._queue, self._after, self._pace = distances, then, speed
        self._session.floor.take(self, "a pass of the scale")
        self._next()

    def _next(self) -> None:
        distance = self._queue.pop(0)
        self._rest_since = self._rest_before = self._session.loop.now()
        self._stood = self._seen = self._session.axes[self._slot].position
        self._target, self._under_way = self._stood + distance, False
        self._session.link.jog_step(self._slot, distance, self._pace)
        self._set(Stage.MOVING)

    def look(self) -> None:
        """Goes on when the axis has arrived. Called at the picture's pace."""
        axes = self._session.axes
        if self.stage is not Stage.MOVING or self._target is None or self._slot >= len(axes):
            return
        axis = axes[self._slot]
        if (
            axis.moving
            and self._pace <= self.safe_speed
            and is_iron(self._session.link.efforts(self._slot, self._rest_before))
        ):
            self._session.tell(
                "warn", "The axis met something: its motor gives all that it has. The next pass goes the other way."
            )
            self._session.stop()
            self._iron = 1.0 if self._target > self._stood else -1.0
            self.turned.publish(-int(self._iron))
            return
        self._turned += self._apart(axis.position, self._seen)
        self._seen = axis.position
        self._under_way = self._under_way or axis.moving or axis.position != self._stood
        if axis.moving:
            self._rest_since = self._session.loop.now()
            return
        if not self._under_way or abs(self._apart(axis.position, self._target)) > 2 / max(1.0, self._scale()):
            if self._session.loop.now() - self._rest_since > NEVER_ARRIVES:
                why = "it has met a soft limit" if axis.at_limit else "it was stopped"
                self._session.tell("warn", f"The axis did not arrive: {why}. This pass begins anew.")
                self.begin(self._slot)
            return
        if self._queue:
            self._next()
        else:
            self._set(self._after)

    def _scale(self) -> float:
        return float(Chain.of(self._session.in_force.axis(self._slot)).counts_per_unit)

    def words(self, length: float, reads: Measures, instrument: Instrument) -> str:
        """What is to be done now."""
        match self.stage:
            case Stage.START:
                return "First the play is taken up: the axis goes back and comes again from the side of the move."
            case Stage.MOVING:
                return "The axis moves. Esc stops it."
            case Stage.ZERO:
                return f"Hold the {instrument.words(reads)} to the axis and set it to zero."
            case Stage.MOVE:
                pace = f"{reads.speed(self.top if self.fast else self.safe_speed, 0)}"
                return f"Now the axis will go {reads.length(length, trim=True)} at {pace}."
            case Stage.READ:
                return "Read the instrument, with its sign: + is the way the axis was told to go."

    def button(self, length: float, reads: Measures) -> str:
        return {
            Stage.START: "Take up the play", Stage.MOVING: "moving…", Stage.ZERO: "It is at zero",
            Stage.MOVE: f"Move {reads.length(length, trim=True)}", Stage.READ: "Add this pass",
        }[self.stage]  # fmt: skip
