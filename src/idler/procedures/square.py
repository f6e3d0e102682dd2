"""Whether X and Y stand at right angles: four marks on the bed, each reached from the same sides, and both diagonals."""

from __future__ import annotations

from collections.abc import Generator
from fractions import Fraction

from idler.core.errors import Refusal
from idler.core.geometry.square import ASIDE, Rectangle, Squareness, fitting, largest, refusal, squareness
from idler.core.mechanics.scale import INSTRUMENTS, Instrument
from idler.core.values.quantity import parse
from idler.core.values.units import Dimension
from idler.core.words import listed
from idler.session.session import Session

from .angle import AngleRun, usual_tolerance
from .engine import Result, Run, Wait
from .questions import Question, done, reading
from .safe import NEAR, count_of, go_to

LENGTHS = tuple(item for item in INSTRUMENTS if item.key in ("rule", "tape", "trammel", "caliper"))
FAR = 0.5  # of a diagonal: a reading that is further off was misread
TIMES = 2  # readings of each diagonal


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
    def over(self) -> Rectangle | None:
        return self.marked

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
        rests = self._now
        whole = self.corner == 4 and min(len(self.rising), len(self.falling)) >= TIMES
        if self.marked != self.rectangle or whole or rests != self._rests:  # marks of other values prove nothing
            self.marked, self.corner, self._rests = self.rectangle, 0, rests
        if self.corner < 4:
            self.rising, self.falling = [], []
        self.begin(self._measuring(tolerance), "To the first corner.")
        return ""

    def drop(self) -> None:
        """Forgets the readings, and not the marks."""
        self.rising, self.falling = [], []
        self.changed.publish()

    # -- steps ----------------------------------------------------------------------------------------------------

    def _measuring(self, tolerance: float) -> Run:
        marked, pair = self.marked, self.pair
        assert marked is not None and pair is not None
        while self.corner < 4:
            yield from self._mark(marked.corners[self.corner])
            self.corner += 1
        for turn in range(TIMES):
            for readings, question in (
                (self.rising, self._diagonal("square.rising", 1, 3, turn)),
                (self.falling, self._diagonal("square.falling", 2, 4, turn)),
            ):
                if len(readings) <= turn:
                    readings.append(float((yield from self.ask(question)) or 0))
                    self.changed.publish()
        found = self.found
        if found is None:
            return Result.of(
                False, "No machine could have made these marks: one diagonal was misread. Measure both again."
            )
        return self.judged(tolerance, scale=found.scale)

    def _mark(self, corner: tuple[float, float]) -> Generator[Wait, None, None]:
        """A corner, reached from below on both axes; again where it was left before it was marked."""
        session, pair = self._session, self.pair
        assert pair is not None
        axes = [session.machine.axis(slot) for slot in pair]
        number = self.corner + 1
        while True:
            self.say(f"To corner {number} of 4. Esc stops it.")
            for aside in (ASIDE, 0.0):
                for axis, place in zip(axes, corner, strict=True):
                    yield from go_to(self, session, axis.slot, place - aside)
            where = ", ".join(
                f"{axis.name} {axis.reads.length(at, 1, trim=True)}" for axis, at in zip(axes, corner, strict=True)
            )
            yield from self.ask(
                done(
                    "square.mark", f"Corner {number} of 4, at {where}: mark the place under the tool. You may lower the tool "
                    "for it; raise it again before you go on.",
                ),
                free=True,
            )  # fmt: skip
            moved = [
                axis.name for axis, at in zip(axes, corner, strict=True)
                if abs(session.axes[axis.slot].position - at) > NEAR * count_of(session, axis.slot)
            ]  # fmt: skip
            if not moved:
                break
            session.tell(
                "warn",
                f"{listed(moved)} {'was' if len(moved) == 1 else 'were'} moved meanwhile: corner {number} is gone to again.",
            )
        hands, answered = session.bench_hands, list[object]()
        if hands is not None:  # on the bench its hands make the mark
            hands.ask(answered.append, do="mark", name=str(number))
            yield lambda: bool(answered)

    def _diagonal(self, key: str, one: int, other: int, turn: int) -> Question[Fraction]:
        assert self.pair is not None
        reads = self._session.machine.axis(self.pair[0]).reads
        return reading(
            key, f"Measure from mark {one} to mark {other}, {turn + 1} of {TIMES}. What does the "
            f"{self.instrument.words(reads)} say?", self._length, instrument=self.instrument.key, unit=reads.name,
        )  # fmt: skip

    def _length(self, typed: str) -> Fraction:
        """The length of a diagonal. Raises Refusal."""
        assert self.marked is not None and self.pair is not None
        reads, told = self._session.machine.axis(self.pair[0]).reads, self.marked.diagonal
        part, unit = "diagonal", Dimension.TRAVEL.unit(False)
        value = parse(typed, unit, bare=reads.unit(), part=part, sample=Fraction(round(told)))
        if abs(value - Fraction(told)) > Fraction(FAR * told):
            raise Refusal(
                part, reads.length(value, trim=True), f"is far from {reads.length(told, 0)}, which was told",
                reads.range(told * (1 - FAR), told * (1 + FAR), 0),
            )  # fmt: skip
        return value
