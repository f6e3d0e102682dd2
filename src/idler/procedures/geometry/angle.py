"""What every way of measuring the angle of two axes shares: which axes, what would mend it, and what is proven by it."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from functools import partial

from idler.core.errors import Refusal
from idler.core.geometry.spanner import Part, Turn, part_of, turn
from idler.core.geometry.square import (
    TOLERANCES,
    Rectangle,
    Squareness,
    SquareVerdict,
    beam_of,
    figures,
    sentence,
    squaring,
    verdict,
)
from idler.core.machine import Address, Axis, Machine
from idler.core.proof.claims import Witness, flat_pair, square_claim, square_pairs, value_texts
from idler.core.values.parameter import Value
from idler.core.values.quantity import parse
from idler.core.values.units import MM
from idler.session.session import Session

from ..engine import Result, Steps
from ..questions import reading
from .dial import ReadingsRun

FURTHEST = Fraction(10_000)  # mm of a side
LEAST_WANTED, MOST_WANTED = 0.005, 20.0  # mm per m


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


def _across(axis: Axis, typed: str) -> Fraction:
    """The width of a beam in mm, with its sign. Raises Refusal."""
    value = parse(typed, MM, bare=axis.reads.unit(), part="second side of the beam", sample=Fraction(800))
    if not 1 <= abs(value) <= FURTHEST:
        raise Refusal("second side of the beam", axis.reads.length(value, trim=True), "is no width of a beam",
                      axis.reads.range(1, FURTHEST, 0))  # fmt: skip
    return value


class AngleRun(ReadingsRun):
    """across: mm from the first side of a beam to the second, with its sign; it may be changed at any time. asks: whether the
    run asks for it where it would be needed."""

    asks = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.across: float | None = None
        self._pair: tuple[int, int] | None = None  # where another one than that along the bed was chosen
        self._rests: dict[str, str] = {}  # the values with which it was measured
        self._offset = Fraction(0)  # mm that the beam was squared by then

    @property
    def found(self) -> Squareness | None:
        """The angle, where all is read."""
        raise NotImplementedError

    @property
    def over(self) -> Rectangle | None:
        """The lengths that it was measured over."""
        raise NotImplementedError

    def measure(self, tolerance: float) -> str:
        """Begins it, or goes on where it was interrupted; a sentence where it cannot begin."""
        raise NotImplementedError

    @property
    def _now(self) -> dict[str, str]:
        """The values that the angle rests on."""
        assert self.pair is not None
        return value_texts(self._session.machine, square_claim(self._session.machine, *self.pair).rests)

    def _measure_with(self, rests: dict[str, str]) -> None:
        """What is read from here on is read with these values, which are told now."""
        self._rests = rests
        self._offset = (
            self._session.machine.axis(self.beam).number("homing.squaring") if self.beam is not None else Fraction(0)
        )

    @property
    def pair(self) -> tuple[int, int] | None:
        """The two axes; None where the machine has no bed that they span."""
        return self._pair if self._pair in square_pairs(self._session.machine) else flat_pair(self._session.machine)

    @property
    def beam(self) -> int | None:
        """The one of them whose beam has two motors: its offset turns it along the bed, and no other way."""
        pair = flat_pair(self._session.machine)
        return beam_of(self._session.machine, *pair) if pair is not None and pair == self.pair else None

    @property
    def _axes(self) -> tuple[Axis, Axis] | None:
        if self.pair is None:
            return None
        first, second = self.pair
        return self._session.machine.axis(first), self._session.machine.axis(second)

    def corrected(self) -> Mapping[Address, Value]:
        """The squaring offset that would mend it; nothing where no beam has two motors, or its width is not told."""
        found, beam = self.found, self.beam
        if found is None or beam is None or not self.across:
            return {}
        as_measured = self._session.machine.with_values({Address(beam, "homing.squaring"): self._offset})
        return squaring(as_measured, beam, found, self.across)

    @property
    def further(self) -> float | None:
        """By how many mm the second side of the beam is to go on to + than it did when it was measured; None where that is not
        known."""
        return next((float(value) - float(self._offset) for value in self.corrected().values()), None)  # type: ignore[arg-type]

    def _ask_across(self, tolerance: float) -> Steps:
        """Where a beam with two motors stands askew, its width tells by how much; asked once."""
        if self.beam is None or self.across or self.found is None or not self.asks:
            return
        if verdict(self.found, tolerance) is not SquareVerdict.OFF:
            return
        axis = self._session.machine.axis(self.beam)
        other = next(each for each in self._axes or () if each.slot != self.beam)
        words = (
            f"{axis.name} has two motors. How far from the first side of its beam does the second one stand, + where it lies "
            f"towards + of {other.name}?"
        )
        said = yield from self.ask(
            reading("square.across", words, partial(_across, other), axis=axis.name, unit=other.reads.name)
        )
        self.across = float(said or 0) or None

    def said(self, tolerance: float) -> str:
        """What was found, and what is to be done about it."""
        if self.over is None or self._axes is None or self.pair is None:
            return ""
        axis = self._session.machine.axis(self.beam) if self.beam is not None else None
        return sentence(*self._axes, self.found, self.over, tolerance, axis, self.further, self.part)

    @property
    def part(self) -> Part:
        """What a spanner turns, where no beam has two motors."""
        assert self.pair is not None
        return part_of(self._session.machine, *self.pair)

    @property
    def turned(self) -> Turn | None:
        """By how much its end goes; None where nothing is known, or where a beam with two motors is set by its offset."""
        if self.found is None or self.over is None or self.beam is not None:
            return None
        return turn(self.part, self.found.angle, self.over.width, self.over.height)

    def settle(self, tolerance: float) -> None:
        """Keeps what the readings prove, where they were read with the values that are told now."""
        found, pair = self.found, self.pair
        if found is not None and pair is not None and self._rests == self._now:
            held = verdict(found, tolerance) is SquareVerdict.PROVEN
            claim = square_claim(self._session.machine, *pair)
            self.keep_proof(
                claim, held, f"{figures(found)}; wanted {tolerance:g}{self.again_words()}", Witness.INSTRUMENT
            )

    def obstacle(self) -> str:
        """Why it cannot be measured now, or an empty text."""
        session = self._session
        if self.pair is None:
            return "This machine has no bed that a driven X and Y span."
        claim = square_claim(session.machine, *self.pair)
        if why := session.motion_obstacle(claim.rests) or session.proof_obstacle(claim):
            return why
        return session.homes.obstacle(self.pair)

    def judged(self, tolerance: float, **figures_too: float) -> Result:
        """Keeps the proof, and says what was found and what would mend it."""
        found, pair = self.found, self.pair
        assert found is not None and pair is not None
        self.settle(tolerance)
        said = verdict(found, tolerance)
        names = " and ".join(self._session.machine.names[slot] for slot in pair)
        proposed = self.corrected() if said is SquareVerdict.OFF else {}
        return Result.of(
            said is SquareVerdict.PROVEN, f"{names}: {said.words}. {figures(found)}. {self.said(tolerance)}", proposed,
            angle=found.angle, uncertainty=found.expanded, **figures_too,
        )  # fmt: skip
