"""One pass: the play is taken up, the instrument set to zero, the axis moves, the instrument is read."""

from __future__ import annotations

from collections.abc import Generator
from enum import Enum
from fractions import Fraction

from idler.core.homing import by_switch
from idler.core.homing import way as way_home
from idler.core.machine import Address
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.reliable import stood_still
from idler.core.mechanics.scale import Instrument, Pass, lost_steps
from idler.core.mechanics.scalewords import percent, reading_words
from idler.core.proof.claims import Witness
from idler.core.values.parameter import Value
from idler.core.values.quantity import parse
from idler.core.values.units import Dimension
from idler.session.session import Session
from idler.session.topic import Topic

from ..engine import ARRIVED, A, Ending, Result, Steps, Trouble, Wait, has_no_current, is_iron
from ..questions import Question, done, reading
from ..safe import count_of, safe_speed
from .readings import ScaleReadings

NEVER_ARRIVES = 1.5  # s at rest elsewhere than where it was sent
HALF = 180.0  # ° of a turn, for axes that begin again
CAREFUL = 4  # times slower it goes then
TAKE_UP = 2.0  # mm or °: further than any play that could be compensated


class PassStage(Enum):
    """Where a pass is: the key of its question, and what its button says."""

    START = ("start", "Take up the play")
    MOVING = ("moving", "moving…")
    ZERO = ("scale.zero", "It is at zero")
    MOVE = ("scale.move", "Move")
    READ = ("scale.reading", "Add this pass")

    def __init__(self, key: str, button: str) -> None:
        self.key, self.button = key, button


class Met(Exception):
    """What ended a move before its end. way: 1 or -1, in which it lies."""

    def __init__(self, way: float, words: str) -> None:
        super().__init__(words)
        self.way, self.words = way, words


class Stood(Exception):
    """The instrument says that the axis stood where the controller counted a move. speed: that it was told, in mm/min."""

    def __init__(self, speed: float) -> None:
        super().__init__()
        self.speed = speed


class OnePass(ScaleReadings):
    """length (mm or °, with its sign), instrument and fast are those of the next move; they may change until it begins."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.turned: Topic[int] = Topic()  # something was met: 1 or -1, the way that the next pass goes
        self.length, self.fast = 100.0, False
        self.instrument: Instrument | None = None
        self._gentler: dict[Address, Value] = {}  # for a motor that stood still in the last move
        self._start: float | None = None
        self._away = 0.0  # how far from the start mark the axis stands
        self._iron = 0.0  # the way on which something was met: the next pass first goes clear of it
        self._careful = False  # whether it goes a little and slowly: its scale may be wrong several times over
        self._turned = 0.0  # how far it has gone since its start mark

    @property
    def stage(self) -> PassStage:
        if not self.running:
            return PassStage.START
        asked = self.question.key if self.question is not None else PassStage.MOVING.key
        return next(stage for stage in PassStage if stage.key == asked)

    @property
    def travelled(self) -> float | None:
        """How far the axis has gone from its start mark by its own counting."""
        axes = self._session.axes
        if self._start is None or self._slot >= len(axes):
            return None
        return abs(self._turned if self._wraps else axes[self._slot].position - self._start)

    def _apart(self, a: float, b: float) -> float:
        """From b to a; on an endless axis the shorter way round."""
        return (a - b + HALF) % (2 * HALF) - HALF if self._wraps else a - b

    @property
    def top(self) -> float:
        return float(self._session.in_force.axis(self._slot).number("pace.top_speed"))

    @property
    def safe_speed(self) -> float:
        """Top speed where the pace is proven and the ends hold, else that at which iron may be met: what is measured must be
        the scale, and not what a pace loses."""
        return safe_speed(self._session, self._slot)

    @property
    def _count(self) -> float:
        """mm or ° of one count."""
        return count_of(self._session, self._slot)

    @property
    def _counts_per_unit(self) -> float:
        return float(Chain.of(self._session.in_force.axis(self._slot)).counts_per_unit)

    @property
    def _told(self) -> str:
        """How far it is told to go, in words."""
        return self._session.machine.axis(self._slot).reads.length(self.length, trim=True)

    @property
    def _placed(self) -> bool:
        """Whether it is known where on its way a pass is made."""
        return self._session.homes.known(self._slot) and not self._session.machine.axis(self._slot).rotary

    @property
    def _on_switch(self) -> bool:
        """Whether it stands on its home switch, while nothing else says how far it may go."""
        session, slot = self._session, self._slot
        ends = by_switch(session.machine.axis(slot)) and not session.machine.axis(slot).rotary
        return ends and not session.homes.known(slot) and session.axes[slot].home_made

    def _ends(self, way: float) -> bool:
        """Whether its travel ends so near on a way that the play could not be taken up from there."""
        axis = self._session.machine.axis(self._slot)
        if axis.rotary or not (axis.flag("travel.limits_on") and self._session.homes.known(self._slot)):
            return False
        low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
        return not low <= self._session.axes[self._slot].position + way * TAKE_UP <= high

    def _pass(self) -> Steps:
        session, name = self._session, self._session.machine.names[self._slot]
        reads = session.machine.axis(self._slot).reads
        way = 1.0 if self.length > 0 else -1.0
        if self._on_switch and way == way_home(session.machine.axis(self._slot)):
            raise self._meet(way, f"{name} stands on its switch.")
        careful = self.safe_speed / (CAREFUL if self._careful else 1)
        if self._iron == -way or (not self._away and self._ends(-way)):
            yield from self._go(way * 2 * TAKE_UP, careful)
        for distance in (-self._away - way * TAKE_UP, way * TAKE_UP):
            yield from self._go(distance, careful)
        self._away = self._iron = 0.0
        assert self.instrument is not None
        yield from self.ask(
            done(
                "scale.zero", f"Hold the {self.instrument.words(reads)} to the axis and set it to zero.", name,
                instrument=self.instrument.key,
            ),
            free=True,
        )  # fmt: skip
        yield from self._zero()
        self._start, self._turned, self._gentler = session.axes[self._slot].position, 0.0, {}
        yield from self._stay(done("scale.move", f"Now {name} will go {self._told}.", name))
        told, counts, self._away = self.length, self._counts_per_unit, self.length
        speed = careful if self._careful else self.top if self.fast else self.safe_speed
        yield from self._go(told, speed)
        read = yield from self._stay(
            reading(
                "scale.reading", reading_words(name, told), self._value,
                axis=name, instrument=self.instrument.key, unit=reads.name,
            )
        )  # fmt: skip
        if stood_still(session.machine, self._slot, told, float(read), self.instrument.resolution):
            raise Stood(speed)
        made = Pass(
            told, float(read), counts, self.instrument, speed=speed, signals=self._signals,
            start=self._start if self._placed else None,
        )  # fmt: skip
        session.keep_passes(name, [*self.passes, made])
        self._start = None
        if (lost := lost_steps(self.passes)) is not None:
            words = f"lost {percent(lost[0])} of its way at {reads.speed(lost[1], 0)}"
            session.homes.lost_steps(self._slot, words, Witness.INSTRUMENT)

    def _value(self, typed: str) -> Fraction:
        """A reading of the instrument. Raises Refusal."""
        axis = self._session.machine.axis(self._slot)
        table, part = Dimension.TRAVEL.unit(axis.rotary), f"reading of {axis.name}"
        sample = abs(Fraction(self.length).limit_denominator(1000))
        return parse(typed, table, bare=axis.reads.unit(), part=part, sample=sample)

    def _stay(self, question: Question[A]) -> Generator[Wait, None, A]:
        """Asks while the axis is to stay where it is. Raises Trouble where it was moved meanwhile."""
        stood = self._session.axes[self._slot].position
        answer = yield from self.ask(question, free=True)
        if abs(self._apart(self._session.axes[self._slot].position, stood)) > 2 * self._count:
            raise Trouble("The axis was moved meanwhile. This pass begins anew.")
        return answer  # type: ignore[return-value]

    def _zero(self) -> Steps:
        """On the bench the instrument is set to zero here; at a real machine the person has done it."""
        hands, answered = self._session.bench_hands, list[object]()
        if hands is not None and self.instrument is not None:
            name = self._session.machine.names[self._slot]
            hands.ask(answered.append, do="zero", axis=name, instrument=self.instrument.key)
            yield lambda: bool(answered)

    def _go(self, distance: float, speed: float) -> Steps:
        """A move that must end where it was sent; ends where the motor's effort says iron."""
        session, slot, begun = self._session, self._slot, self._session.loop.now()
        on_switch, name, way = self._on_switch, session.machine.names[slot], 1.0 if distance > 0 else -1.0
        rest = self.jog(slot, distance, speed)
        seen, met = rest.stood, None

        def arrived() -> bool:
            nonlocal seen, met
            axis = rest.look()
            if axis.moving and speed <= self.safe_speed:
                efforts = session.link.efforts(slot, begun)
                if met is None and is_iron(efforts):
                    met = self._meet(way, f"{name} met something: its motor gives all that it has.")
                if session.current.seen(slot) and has_no_current(efforts):
                    session.link.stop_axis(slot)
                    raise Trouble(f"{name} is told to move, and its motor takes no torque: its driver has given up, or has "
                                  "no current. Look at the driver; this pass is void.")  # fmt: skip
            if met is None and axis.moving and self._on_switch and not on_switch:
                met = self._meet(way, f"{name} met its switch.")
            self._turned += self._apart(axis.position, seen)
            seen = axis.position
            if axis.moving:
                return False
            if met is not None:
                return rest.seconds > ARRIVED
            if rest.started and abs(self._apart(axis.position, rest.stood + distance)) <= 2 * self._count:
                return True
            if rest.seconds > NEVER_ARRIVES and rest.heard_since:
                why = "it has met a soft limit" if axis.at_limit else "it was stopped"
                self._away = 0.0
                raise Trouble(f"The axis did not arrive: {why}. This pass begins anew.")
            return False

        yield arrived
        if met is not None:
            raise met

    def _meet(self, way: float, words: str) -> Met:
        """Stops the axis; the next pass goes the other way."""
        self._session.link.stop_axis(self._slot)
        self._iron, self._away, self.length = way, 0.0, -way * abs(self.length)
        self.turned.publish(-int(way))
        return Met(way, words)

    def _end(self, result: Result) -> None:
        self._start = None
        if result.end is not Ending.DONE:
            self._away = 0.0  # the pass is void
        super()._end(result)
