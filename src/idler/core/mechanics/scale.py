"""Scale: how many counts one unit really is, from moves that were measured, with an honest uncertainty.

Model: a move of n counts measures m = n · g + e, where g is the true travel of one count and e scatters with the pass's own
standard uncertainty u. Weighted least squares through the origin (weights 1/u²) gives
    g = Σ w n m / Σ w n²,    u(g) = 1 / √(Σ w n²),
and counts per unit C = 1/g with the same relative uncertainty. Counts, not commanded lengths, so that passes before and after
a correction are used together. Expanded uncertainties are twice the standard ones (GUM, 6.2.2: about 95 %).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from fractions import Fraction

from ..values.measures import Measures

COVERAGE = 2.0
HAND = 1 / 5  # of a division: how well a person repeats a reading


@dataclass(frozen=True)
class Instrument:
    """What a length or angle is measured with. resolution and reach in mm (or °). steps: it tells only multiples of this.
    lag: how far its pointer may stay behind when its motion turns round, in mm."""

    key: str
    label: str
    resolution: float
    reach: float
    rotary: bool = False
    steps: float = 0.0
    lag: float = 0.0

    def fits(self, length: float) -> bool:
        """Whether a move of this length can be measured with it."""
        return abs(length) <= self.reach and (not self.steps or (length != 0 and length % self.steps == 0))

    def words(self, reads: Measures) -> str:
        """Its label, with the division in the unit of the screen."""
        if self.rotary or not reads.inch or not self.resolution:
            return self.label
        return f"{self.label.rpartition(', ')[0]}, {reads.length(self.resolution, 4, trim=True)}"

    @property
    def reading(self) -> float:
        """Standard uncertainty of one reading: half a division evenly spread (GUM, 4.3.7), and the hand."""
        return self.resolution * math.sqrt(1 / 12 + HAND**2)


INSTRUMENTS = (
    Instrument("rule", "steel rule, 0.5 mm", 0.5, 500.0),
    Instrument("caliper", "caliper, 0.02 mm", 0.02, 150.0),
    Instrument("height", "height gauge, 0.02 mm", 0.02, 300.0),
    Instrument("dial", "dial indicator, 0.01 mm", 0.01, 10.0, lag=0.003),
    Instrument("blocks", "gauge blocks and indicator, 0.002 mm", 0.002, 200.0),
    Instrument("tape", "steel tape, 0.5 mm", 0.5, 3000.0),
    Instrument("trammel", "beam trammel, 0.02 mm", 0.02, 1500.0),
    Instrument("protractor", "protractor, 0.1°", 0.1, 360.0, rotary=True),
    Instrument("mark", "whole turns against a mark, 0.05°", 0.05, 36_000.0, rotary=True, steps=360.0),
)


def fitting(rotary: bool) -> tuple[Instrument, ...]:
    """The instruments that suit an axis."""
    return tuple(item for item in INSTRUMENTS if item.rotary == rotary)


@dataclass(frozen=True)
class Pass:
    """One measured move. commanded and measured in mm (or °), signed; counts_per_unit as it was in force for the move.

    play: the backlash that the move may have lost, 0 where it was taken up before the start mark. speed: of the move, in
    mm/min (°/min); 0 where it was not kept. signals: what the drives were told of their pulses, as a text; empty where it was
    not kept. start: the machine coordinate of its start mark, in mm; None where the axis had no home, or turns.
    """

    commanded: float
    measured: float
    counts_per_unit: float
    instrument: Instrument
    play: float = 0.0
    speed: float = 0.0
    signals: str = ""
    start: float | None = None

    @property
    def counts(self) -> float:
        return self.commanded * self.counts_per_unit

    def error(self, told: float) -> float:
        """How much further than told the axis goes by this pass alone, relative, when it is told so many counts per unit."""
        return told * self.measured / self.counts - 1

    @property
    def uncertainty(self) -> float:
        """Standard uncertainty of the measured length: two readings, one count at each end, and the play."""
        count = 1 / self.counts_per_unit
        return math.sqrt(2 * self.instrument.reading**2 + 2 * count**2 / 12 + self.play**2 / 12)


@dataclass(frozen=True)
class Estimate:
    """counts_per_unit with its relative standard uncertainty."""

    counts_per_unit: float
    relative: float

    def error(self, told: float) -> float:
        """How much further than told the axis goes, relative, when it is told so many counts per unit."""
        return told / self.counts_per_unit - 1

    @property
    def expanded(self) -> float:
        return COVERAGE * self.relative


def estimate(passes: Sequence[Pass]) -> Estimate | None:
    """The counts per unit that fit the passes best, or None where nothing has moved.

    Passes that scatter more than their instruments explain widen the uncertainty by the ratio of the two (Birge, 1932).
    """
    top = sum(p.counts * p.measured / p.uncertainty**2 for p in passes)
    bottom = sum(p.counts**2 / p.uncertainty**2 for p in passes)
    if not bottom or top <= 0:
        return None
    travel = top / bottom
    left = sum(((p.measured - p.counts * travel) / p.uncertainty) ** 2 for p in passes)
    wider = max(1.0, math.sqrt(left / (len(passes) - 1))) if len(passes) > 1 else 1.0
    return Estimate(1 / travel, wider / math.sqrt(bottom) / travel)


def contradiction(passes: Sequence[Pass]) -> float:
    """How far passes scatter beyond what their instruments explain: 1 and less is as it should be.

    The sum of squared residuals in units of their own uncertainties against its 99.9 % bound with n − 1 degrees of freedom
    (the bound after Wilson and Hilferty).
    """
    found, free = estimate(passes), len(passes) - 1
    if found is None or free < 1:
        return 0.0
    total = sum(((p.measured - p.counts / found.counts_per_unit) / p.uncertainty) ** 2 for p in passes)
    part = 2 / (9 * free)
    return total / (free * (1 - part + 3.09 * math.sqrt(part)) ** 3)


REPEATED = 2  # passes on each way, where the two differ
FLANKS = 0.2  # mm or °: by more than that the play of no train differs along its way


def by_way(passes: Sequence[Pass]) -> tuple[list[Pass], list[Pass]]:
    """Those towards +, and those towards −."""
    return [p for p in passes if p.commanded > 0], [p for p in passes if p.commanded < 0]


def ways(passes: Sequence[Pass]) -> tuple[list[Pass], list[Pass]] | None:
    """The passes of each way, where all together contradict each other, by no more than play may differ, and those of either
    way do not; else None.

    On each way the nut lies at another flank of its screw: where the play is not the same along the way, going there and going
    back are not equally long (ISO 230-2 tells unidirectional from bidirectional deviations for that).
    """
    each = by_way(passes)
    if contradiction(passes) <= 1 or any(contradiction(one) > 1 for one in each):
        return None
    return each if _apart(*each) <= FLANKS else None


def placed(passes: Sequence[Pass]) -> list[Pass] | None:
    """Those of which it is known where they were made, where there are others that differ from them by no more than play may;
    else None: what differs by more was no matter of the place."""
    known, others = [p for p in passes if p.start is not None], [p for p in passes if p.start is None]
    return known if _apart(known, others) <= FLANKS else None


def _apart(some: Sequence[Pass], others: Sequence[Pass]) -> float:
    """By how many mm (°) they differ over the longest of them; without end where one of them tells nothing."""
    one, other = estimate(some), estimate(others)
    if one is None or other is None:
        return math.inf
    return abs(1 / one.counts_per_unit - 1 / other.counts_per_unit) * max(abs(p.counts) for p in (*some, *others))


def lacking(passes: Sequence[Pass]) -> int:
    """The way (1 or -1) that is to be gone once more before what differs is known of both; 0: none."""
    there, back = by_way(passes)
    if min(len(there), len(back)) >= REPEATED:
        return 0
    return 1 if len(there) <= len(back) else -1


def alone(passes: Sequence[Pass]) -> int | None:
    """The place of the one pass without which the others agree, where they do not with it; None where it is not clear which."""
    if len(passes) < 3 or contradiction(passes) <= 1:
        return None
    rest = [contradiction([*passes[:k], *passes[k + 1 :]]) for k in range(len(passes))]
    good = [k for k, left in enumerate(rest) if left <= 1]
    return good[0] if len(good) == 1 else None


def correction(drawn: float, found: Estimate) -> Fraction:
    """The factor on the travel of the train as drawn with which it counts as was measured; drawn: its counts per unit.

    In the steps of the table's row: 8 decimals.
    """
    return Fraction(round(drawn / found.counts_per_unit * 10**8), 10**8)


FASTER = 1.5  # times the slowest: a pass that is compared with it


def lost_steps(passes: Sequence[Pass]) -> tuple[float, float] | None:
    """Of passes at different speeds: by what share the fast ones went less far than the slow ones, and the lowest speed of
    those; None where they agree."""
    told = [p for p in passes if p.speed > 0]
    if not told:
        return None
    slowest = min(p.speed for p in told)
    slow, fast = [p for p in told if p.speed < FASTER * slowest], [p for p in told if p.speed >= FASTER * slowest]
    one, other = estimate(slow), estimate(fast)
    if not fast or one is None or other is None:
        return None
    less = 1 - one.counts_per_unit / other.counts_per_unit
    sure = COVERAGE * math.hypot(one.relative, other.relative)
    return (less, min(p.speed for p in fast)) if less > sure else None


def least_far(passes: Sequence[Pass]) -> Pass | None:
    """Of passes that contradict each other, the one that went least of what it was told: on its way iron was met, where any
    was. None without passes."""
    return min(passes, key=lambda each: each.measured / each.counts, default=None)


def of_now(passes: Sequence[Pass], told: float) -> list[Pass]:
    """Passes that were made with the counts per unit that are in force: only they prove anything about them."""
    return [p for p in passes if math.isclose(p.counts_per_unit, told, rel_tol=1e-9)]


class Verdict(Enum):
    """key and what it means."""

    NOTHING = ("nothing", "not measured yet")
    PROVEN = ("proven", "proven")
    OFF = ("off", "off, and certainly so")
    ONE_WAY = ("one_way", "off on one way, and not measured on the other")
    COARSE = ("coarse", "cannot be told with this")
    REVERSED = ("reversed", "the axis went the other way")
    APART = ("apart", "the passes contradict each other")
    WAYS = ("ways", "it goes otherwise there than back")
    AGAIN = ("again", "corrected, and not measured again since")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


def verdict(passes: Sequence[Pass], told: float, tolerance: float) -> Verdict:
    """told: counts per unit in force. tolerance: relative, as 0.0002 for 0.02 %.

    Proven only when the whole interval of the error lies within the tolerance, by passes that were made with these counts
    and do not contradict each other; where going there differs from going back, that of each way, gone more than once.
    """
    if not passes:
        return Verdict.NOTHING
    found = estimate(passes)
    if found is None:
        return Verdict.REVERSED
    now = of_now(passes, told)
    if lost_steps(passes) is not None:
        return Verdict.APART
    if contradiction(passes) > 1 or contradiction(now) > 1:
        if ways(passes) is None:
            return Verdict.APART
        return Verdict.WAYS if lacking(now) or worst_way(now, told) > tolerance else Verdict.PROVEN
    found = estimate(now) or found
    error = abs(found.error(told))
    if error + found.expanded <= tolerance:
        return Verdict.PROVEN if now else Verdict.AGAIN
    if error > found.expanded:
        return Verdict.OFF
    return Verdict.COARSE


def worst_way(passes: Sequence[Pass], told: float) -> float:
    """The bound of the error of the worse of both ways, relative."""
    found = [one for one in map(estimate, by_way(passes)) if one is not None]
    return max((abs(one.error(told)) + one.expanded for one in found), default=math.inf)


def move_needed(instrument: Instrument, counts_per_unit: float, tolerance: float, passes: int = 1) -> float:
    """The length of move in mm (or °) with which so many passes could prove the tolerance.

    Half of the tolerance is left for what may really be off.
    """
    one = Pass(1.0, 1.0, counts_per_unit, instrument)
    needed = COVERAGE * one.uncertainty / math.sqrt(passes) / (tolerance / 2)
    return math.ceil(needed / instrument.steps) * instrument.steps if instrument.steps else needed


def instrument_needed(
    length: float, counts_per_unit: float, tolerance: float, passes: int = 1, *, rotary: bool = False
) -> Instrument | None:
    """The coarsest instrument that reaches so far and could prove the tolerance with such a move."""
    able = [
        item
        for item in fitting(rotary)
        if item.fits(length) and move_needed(item, counts_per_unit, tolerance, passes) <= abs(length)
    ]
    return max(able, key=lambda item: item.resolution, default=None)
