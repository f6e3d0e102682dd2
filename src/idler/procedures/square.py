"""Whether X and Y stand at right angles: four marks on the bed, each reached from the same sides, and both diagonals."""

from __future__ import annotations

from collections.abc import Generator, Mapping
from fractions import Fraction

from idler.core.errors import Refusal
from idler.core.geometry.square import (
    ASIDE,
    TOLERANCES,
    Rectangle,
    Squareness,
    SquareVerdict,
    beam_of,
    figures,
    fitting,
    largest,
    refusal,
    sentence,
    squareness,
    squaring,
    verdict,
)
from idler.core.machine import Address, Axis, Machine
from idler.core.mechanics.scale import INSTRUMENTS, Instrument
from idler.core.proof.claims import Witness, flat_pair, square_claim, value_texts
from idler.core.values.parameter import Value
from idler.core.values.quantity import parse
from idler.core.values.units import Dimension
from idler.core.words import listed
from idler.session.session import Session

from .engine import Procedure, Result, Run, Wait
from .questions import Question, done, reading
from .safe import NEAR, count_of, go_to

LENGTHS = tuple(item for item in INSTRUMENTS if item.key in ("rule", "tape", "trammel", "caliper"))
FAR = 0.5  # of a diagonal: a reading that is further off was misread
LEAST_WANTED, MOST_WANTED = 0.005, 20.0  # mm per m
TIMES = 2  # readings of each diagonal


def usual_tolerance(machine: Machine) -> float:
    """What is wanted of the right angle of such a machine, in mm per m."""
    return TOLERANCES[str(machine[Address(None, "build.kind")])]


def read_per_metre(text: str) -> float:
    """A tolerance in mm per m, out of "0.3" or "0.3 mm per m". Raises Refusal."""
    bare = text.replace("mm per m", "").replace("mm/m", "").replace(",", ".").strip()
    try:
        value = float(bare)
        if not LEAST_WANTED <= value <= MOST_WANTED:
            raise ValueError
    except ValueError:
        bounds = f"{LEAST_WANTED:g} to {MOST_WANTED:g} mm per m"
        raise Refusal("tolerance wanted", f"“{text[:20]}”", "cannot be used", bounds) from None
    return value


class SquareRun(Procedure):
    """instrument, rectangle, across (mm from the first side of a beam to the second, with its sign) may be changed while it
    does not run; the readings stay until marks are made anew."""

    what = "a rectangle of marks"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.instrument: Instrument = LENGTHS[0]
        if (axes := self._axes) is not None:
            self.instrument = fitting(*axes, LENGTHS, usual_tolerance(session.machine))
        self.rectangle: Rectangle | None = None
        self.across: float | None = None
        self.marked: Rectangle | None = None  # what lies on the bed
        self.corner = 0  # how many of its marks are made
        self.rising: list[float] = []
        self.falling: list[float] = []
        self._rests: dict[str, str] = {}  # the values with which the marks were made

    @property
    def pair(self) -> tuple[int, int] | None:
        """The two axes; None where the machine has no bed that they span."""
        return flat_pair(self._session.machine)

    @property
    def _axes(self) -> tuple[Axis, Axis] | None:
        if self.pair is None:
            return None
        first, second = self.pair
        return self._session.machine.axis(first), self._session.machine.axis(second)

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

    def obstacle(self) -> str:
        """Why it cannot be measured now, or an empty text."""
        session = self._session
        if self.pair is None:
            return "This machine has no bed with an X and a Y along it."
        first, second = (session.machine.axis(slot) for slot in self.pair)
        claim = square_claim(session.machine, *self.pair)
        if why := session.motion_obstacle(claim.rests) or session.proof_obstacle(claim):
            return why
        unhomed = [axis.name for axis in (first, second) if not session.homed(axis.slot)]
        if unhomed:
            return f"{listed(unhomed)}: not homed yet, so that its places are not known. Home it first."
        if self.rectangle is None:
            return "There is no rectangle that both travels have room for. Set the ends at Travel first."
        return refusal(self.rectangle, first, second, self.instrument)

    def measure(self, tolerance: float) -> str:
        """Marks and readings; goes on where it was interrupted. A sentence where it cannot begin."""
        if why := self.obstacle():
            return why
        assert self.pair is not None
        rests = value_texts(self._session.machine, square_claim(self._session.machine, *self.pair).rests)
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

    def corrected(self) -> Mapping[Address, Value]:
        """The squaring offset that would mend it; nothing where no beam has two motors, or its width is not told."""
        machine, found, pair = self._session.machine, self.found, self.pair
        if found is None or pair is None or not self.across:
            return {}
        beam = beam_of(machine, *pair)
        return squaring(machine, beam, found, self.across) if beam is not None else {}

    @property
    def further(self) -> float | None:
        """By how many mm the second side of the beam is to go on to + than it does now; None where that is not known."""
        edit = self.corrected()
        return next((float(value) - float(self._session.machine[where]) for where, value in edit.items()), None)  # type: ignore[arg-type]

    def said(self, tolerance: float) -> str:
        """What was found, and what is to be done about it."""
        if self.marked is None or self._axes is None or self.pair is None:
            return ""
        beam = beam_of(self._session.machine, *self.pair)
        axis = self._session.machine.axis(beam) if beam is not None else None
        return sentence(*self._axes, self.found, self.marked, tolerance, axis, self.further)

    def settle(self, tolerance: float) -> None:
        """Keeps what the readings prove."""
        found, pair = self.found, self.pair
        if found is not None and pair is not None:
            held = verdict(found, tolerance) is SquareVerdict.PROVEN
            claim = square_claim(self._session.machine, *pair)
            self.keep_proof(claim, held, f"{figures(found)}; wanted {tolerance:g}", Witness.INSTRUMENT)

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
        self.settle(tolerance)
        said = verdict(found, tolerance)
        first, second = (self._session.machine.axis(slot) for slot in pair)
        told = self.said(tolerance)
        proposed = self.corrected() if said is SquareVerdict.OFF else {}
        return Result.of(
            said is SquareVerdict.PROVEN, f"{first.name} and {second.name}: {said.words}. {figures(found)}. {told}", proposed,
            angle=found.angle, uncertainty=found.expanded, scale=found.scale,
        )  # fmt: skip

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
