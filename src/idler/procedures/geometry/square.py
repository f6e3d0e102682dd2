"""Whether X and Y stand at right angles: four marks on the bed, each reached from the same sides, and both diagonals."""

from __future__ import annotations

import math
from collections.abc import Generator
from fractions import Fraction

from idler.core.errors import Refusal
from idler.core.geometry.sides import ALONG, Side, sentence, sides
from idler.core.geometry.square import ASIDE, Rectangle, Squareness, fitting, largest, refusal, squareness
from idler.core.mechanics.scale import INSTRUMENTS, Instrument
from idler.core.proof.claims import has_height
from idler.core.values.quantity import parse
from idler.core.values.units import Dimension
from idler.core.words import listed
from idler.session.session import Session

from ..engine import Result, Run, Wait
from ..questions import Question, done, reading
from ..safe import NEAR, count_of, go_to
from .angle import AngleRun, usual_tolerance
from .dial import KeptReading

LENGTHS = tuple(item for item in INSTRUMENTS if item.key in ("rule", "tape", "trammel", "caliper"))
FAR = 0.5  # of a diagonal: a reading that is further off was misread
TIMES = 2  # readings of each diagonal
MARKS = {  # between which two each length is asked for
    "square.rising": (1, 3), "square.falling": (2, 4),
    "square.near": (1, 2), "square.far": (4, 3), "square.left": (1, 4), "square.right": (2, 3),
}  # fmt: skip
LEAST_DOWN = 0.5  # mm: a tool that stands so much lower than it came stands on its mark


class SquareRun(AngleRun):
    """instrument and rectangle may be changed while it does not run; the readings stay until marks are made anew."""

    what = "a rectangle of marks"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.instrument: Instrument = LENGTHS[0]
        if (axes := self._axes) is not None:
            self.instrument = fitting(*axes, LENGTHS, usual_tolerance(session.machine))
        self.rectangle: Rectangle | None = None
        self.marked: Rectangle | None = None  # what lies on the bed
        self.corner = 0  # how many of its marks are made
        self.lowered = 0.0  # mm by which the tool goes down to make a mark; 0 where each is made by hand
        self._clear = -math.inf  # mm: how high the tool stood when it came to the last corner
        self.with_sides = False  # whether they are read too
        self.sides: dict[str, float] = {}  # mm, by the names in ALONG
        self.rising: list[float] = []
        self.falling: list[float] = []

    def take(self, instrument: Instrument) -> None:
        """Measures with another one; what was read with the one before is not judged by this one."""
        if instrument != self.instrument:
            self.instrument = instrument
            self.drop()
        self.propose()

    def propose(self) -> None:
        """The largest rectangle that the travel and the instrument allow."""
        if self._axes is not None:
            self.rectangle = largest(*self._axes, self.instrument)

    @property
    def found(self) -> Squareness | None:
        if self.marked is None:
            return None
        return squareness(self.marked, self.rising, self.falling, self.instrument)

    @property
    def by_sides(self) -> tuple[Side, Side] | None:
        """What the sides tell, where they were read."""
        return sides(self.marked, self.sides, self.instrument) if self.marked is not None else None

    def said(self, tolerance: float) -> str:
        words, by_sides = super().said(tolerance), self.by_sides
        return f"{words} {sentence(self._axes, by_sides)}" if by_sides is not None and self._axes is not None else words

    @property
    def over(self) -> Rectangle | None:
        return self.marked

    def settle(self, tolerance: float) -> None:
        if not self.goes_on:  # a reading that was dropped is missing until it was taken again
            super().settle(tolerance)

    def obstacle(self) -> str:
        if why := super().obstacle():
            return why
        assert self._axes is not None
        if self.rectangle is None:
            return "There is no rectangle that both travels have room for. Set the ends at Travel first."
        return refusal(self.rectangle, *self._axes, self.instrument)

    def measure(self, tolerance: float) -> str:
        """Marks and readings; goes on where it was interrupted. A sentence where it cannot begin."""
        if why := self.obstacle():
            return why
        if not self.goes_on:
            self.anew()
            self.marked, self.corner, self.lowered = self.rectangle, 0, 0.0
            self._measure_with(self._now)
        if self.corner < 4:
            self.rising, self.falling, self.sides = [], [], {}
        self.begin(self._measuring(tolerance), "To the first corner.")
        return ""

    @property
    def goes_on(self) -> bool:
        """Whether only what is missing is done next. Marks that were made with other values prove nothing of these."""
        whole = self.corner == 4 and min(len(self.rising), len(self.falling)) >= TIMES
        whole = whole and (not self.with_sides or len(self.sides) == len(ALONG))
        return self.corner > 0 and not whole and self.marked == self.rectangle and self._rests == self._now

    def drop(self) -> None:
        """Forgets the readings, and not the marks."""
        self.rising, self.falling, self.sides = [], [], {}
        self.changed.publish()

    @property
    def readings(self) -> list[KeptReading]:
        """What was read between the marks, each of which can be read again."""
        reads = self._axes[0].reads if self._axes is not None else self._session.machine.reads

        def words(key: str, value: float) -> str:
            one, other = MARKS[key]
            return f"{one} to {other}: {reads.length(value, 2)}"

        found = [
            KeptReading(words(key, value), self.dropping(kept, number))
            for key, kept in (("square.rising", self.rising), ("square.falling", self.falling))
            for number, value in enumerate(kept)
        ]
        return found + [
            KeptReading(words(f"square.{name}", value), self.dropping(self.sides, name))
            for name, value in self.sides.items()
        ]

    # -- steps ----------------------------------------------------------------------------------------------------

    def _measuring(self, tolerance: float) -> Run:
        marked, pair = self.marked, self.pair
        assert marked is not None and pair is not None
        while self.corner < 4:
            yield from self._mark(marked.corners[self.corner])
            self.corner += 1
        self._clear = -math.inf
        for turn in range(TIMES):
            for readings, question in (
                (self.rising, self._diagonal("square.rising", turn)),
                (self.falling, self._diagonal("square.falling", turn)),
            ):
                if len(readings) <= turn:
                    readings.append(float((yield from self.ask(question)) or 0))
                    self.changed.publish()
        for name, along in ALONG if self.with_sides else ():
            if name not in self.sides:
                self.sides[name] = float((yield from self.ask(self._side(f"square.{name}", along))) or 0)
                self.changed.publish()
        found = self.found
        if found is None:
            return Result.of(
                False, "No machine could have made these marks: one diagonal was misread. Measure both again."
            )
        yield from self._ask_across(tolerance)
        by_sides = self.by_sides or ()
        return self.judged(
            tolerance, scale=found.scale, **{f"scale_{k}": side.scale for k, side in enumerate(by_sides, start=1)}
        )

    def _mark(self, corner: tuple[float, float]) -> Generator[Wait, None, None]:
        """A corner, reached from below on both axes; again where it was left before it was marked."""
        session, pair = self._session, self.pair
        assert pair is not None
        axes = [session.machine.axis(slot) for slot in pair]
        number = self.corner + 1
        while True:
            self.say(f"To corner {number} of 4. Esc stops it.")
            yield from self._raise()  # a run that was stopped may have left the tool down
            for aside in (ASIDE, 0.0):
                for axis, place in zip(axes, corner, strict=True):
                    yield from go_to(self, session, axis.slot, place - aside)
            self._clear = self._high
            if self.lowered:
                yield from self._lift(self._clear - self.lowered)
                yield from self._raise()
                break
            where = ", ".join(
                f"{axis.name} {axis.reads.length(at, 1, trim=True)}" for axis, at in zip(axes, corner, strict=True)
            )
            taught = yield from self._by_hand(f"Corner {number} of 4, at {where}: mark the place under the tool.")
            moved = [
                axis.name for axis, at in zip(axes, corner, strict=True)
                if abs(session.axes[axis.slot].position - at) > NEAR * count_of(session, axis.slot)
            ]  # fmt: skip
            if not moved:
                self.lowered = taught
                break
            session.tell(
                "warn",
                f"{listed(moved)} {'was' if len(moved) == 1 else 'were'} moved meanwhile: corner {number} is gone to again.",
            )
        hands, answered = session.bench_hands, list[object]()
        if hands is not None:  # on the bench its hands make the mark
            hands.ask(answered.append, do="mark", name=str(number))
            yield lambda: bool(answered)

    def _by_hand(self, words: str) -> Generator[Wait, None, float]:
        """The person makes the mark. Returns by how many mm the tool was left lowered for it; it is raised then, or 0."""
        if self._height is not None:
            words += (
                " Lower the tool onto it for that. Leave it down, and Idler takes this height, raises the tool, and makes the "
                "other marks by itself; or raise it again, and make each by hand."
            )
        yield from self.ask(done("square.mark", words), free=True)
        taught = self._clear - self._high
        yield from self._raise()
        return taught if taught > LEAST_DOWN else 0.0

    def _raise(self) -> Generator[Wait, None, None]:
        """To where the tool was clear of the bed, where it stands lower than that."""
        if self._clear - self._high > LEAST_DOWN:
            yield from self._lift(self._clear)

    @property
    def _high(self) -> float:
        """How high the tool stands, in mm; 0 where nothing carries it up and down."""
        return self._session.axes[self._height].position if self._height is not None else 0.0

    @property
    def _height(self) -> int | None:
        """The axis that lowers the tool."""
        machine = self._session.machine
        return machine.names.index("Z") if has_height(machine) else None

    def _lift(self, place: float) -> Generator[Wait, None, None]:
        """The tool up or down, as slowly as iron may be met."""
        assert self._height is not None
        yield from go_to(self, self._session, self._height, place, self.touch_speed(self._height))

    def _diagonal(self, key: str, turn: int) -> Question[Fraction]:
        one, other = MARKS[key]
        assert self.pair is not None and self.marked is not None
        reads, marked = self._session.machine.axis(self.pair[0]).reads, self.marked
        return reading(
            key, f"Measure from mark {one} to mark {other}, {turn + 1} of {TIMES}. What does the "
            f"{self.instrument.words(reads)} say?", lambda typed: self._length(typed, "diagonal", marked.diagonal),
            instrument=self.instrument.key, unit=reads.name,
        )  # fmt: skip

    def _side(self, key: str, along: int) -> Question[Fraction]:
        """One side of the rectangle, read once."""
        assert self.pair is not None and self.marked is not None
        axis, told = self._session.machine.axis(self.pair[along]), (self.marked.width, self.marked.height)[along]
        one, other = MARKS[key]
        return reading(
            key, f"Measure the side along {axis.name} from mark {one} to mark {other}. What does the "
            f"{self.instrument.words(axis.reads)} say?", lambda typed: self._length(typed, "side", told),
            instrument=self.instrument.key, unit=axis.reads.name,
        )  # fmt: skip

    def _length(self, typed: str, part: str, told: float) -> Fraction:
        """A length between two marks. Raises Refusal."""
        assert self.pair is not None
        reads, unit = self._session.machine.axis(self.pair[0]).reads, Dimension.TRAVEL.unit(False)
        value = parse(typed, unit, bare=reads.unit(), part=part, sample=Fraction(round(told)))
        if abs(value - Fraction(told)) > Fraction(FAR * told):
            raise Refusal(
                part, reads.length(value, trim=True), f"is far from {reads.length(told, 0)}, which was told",
                reads.range(told * (1 - FAR), told * (1 + FAR), 0),
            )  # fmt: skip
        return value
