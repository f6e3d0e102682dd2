"""Level of the bed: how high it stands under the tool, by a dial in the spindle that is carried over a grid at one height, or
by a touch probe that is lowered onto each place of it.

Model. At the grid's places (xᵢ, yᵢ) the dial says hᵢ, + where the bed is higher. The plane h = a + b (x − x̄) + c (y − ȳ) is
fitted by least squares; on a grid the two slopes are independent of each other:
    b = Σ (xᵢ − x̄) hᵢ / Σ (xᵢ − x̄)²,   c = Σ (yᵢ − ȳ) hᵢ / Σ (yᵢ − ȳ)²,   u(b) = u / √Σ (xᵢ − x̄)².
u is one reading's: its division evenly spread, a count of the axis that holds the dial, and the hand (GUM, 4.3.7). The dial
comes down on every place from above, so that neither its play nor the axis's is in what is compared. The difference of two
places has √2 u. The first place is read again at the end: a dial that has slipped does not come back to what it said.

A probe is touched n times slowly at each place, always from above; hᵢ is the mean of where Z stood, less that of the first
place. How well a touch repeats is not known beforehand, so that it is taken from the touches themselves, pooled over all P
places: s² = Σ (zᵢⱼ − z̄ᵢ)² / (P (n − 1)), and u² = max(s²/n, r²) + c²/12, with r what the probe is good for at best, and a
count c of Z. What the touch runs on before the wire is seen is the same at every place, and drops out.

What is measured is the bed against the ways of X and Y, which is what a cutter sees; a spirit level would say something else.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import Enum

from ..errors import Refusal
from ..machine import Axis
from ..mechanics.scale import COVERAGE, Instrument
from ..values.measures import Measures
from . import not_told

FEWEST, MOST = 2, 7  # places along a side
PROBE = Instrument("probe", "touch probe, 0.005 mm", 0.005, 20.0)  # reach: how far it is lowered to find the bed
NARROWEST = 20.0  # mm between two places: nearer ones tell little of a bed
INSIDE = 4.0  # mm: how far the grid stays inside of the soft limits
FOLLOWS = 1.0  # mm by which the dial is lifted first, to see that it stands on the bed
TOLERANCES = {"mill": 0.05, "router": 0.3, "table": 0.3}  # mm over the whole grid, where nothing else is wanted


@dataclass(frozen=True)
class Grid:
    """Places in machine coordinates, mm: across of them along the first axis, along of them along the second. Raises Refusal
    where a side would have too few or too many."""

    left: float
    low: float
    width: float
    height: float
    across: int = 3
    along: int = 3

    def __post_init__(self) -> None:
        for count in (self.across, self.along):
            if not FEWEST <= count <= MOST:
                raise Refusal("grid", f"{count} places along a side", "cannot be measured", f"{FEWEST} to {MOST}")

    @property
    def places(self) -> tuple[tuple[float, float], ...]:
        """Row by row, to and fro, so that the way between two is short."""
        found: list[tuple[float, float]] = []
        for row in range(self.along):
            line = [
                (self.left + self.width * k / (self.across - 1), self.low + self.height * row / (self.along - 1))
                for k in range(self.across)
            ]
            found += line if row % 2 == 0 else line[::-1]
        return tuple(found)

    @property
    def corners(self) -> tuple[tuple[float, float], ...]:
        """Counter-clockwise from the lowest of both."""
        right, top = self.left + self.width, self.low + self.height
        return (self.left, self.low), (right, self.low), (right, top), (self.left, top)


def largest(first: Axis, second: Axis, across: int = 3, along: int = 3) -> Grid | None:
    """The largest grid inside of both travels; None where there is no room. Raises Refusal."""
    ends = [
        (float(axis.number("travel.low")) + INSIDE, float(axis.number("travel.high")) - INSIDE)
        for axis in (first, second)
    ]
    (left, right), (low, high) = ends
    found = Grid(left, low, right - left, high - low, across, along)
    return found if min(found.width / (across - 1), found.height / (along - 1)) >= NARROWEST else None


@dataclass(frozen=True)
class Bed:
    """heights: mm, by place; slopes b and c in mm per mm; standard: uncertainty of one reading, mm."""

    grid: Grid
    heights: tuple[float, ...]
    mean: float
    along_first: float
    along_second: float
    standard: float

    def plane(self, place: tuple[float, float]) -> float:
        """The height of the fitted plane, mm."""
        x, y = self.grid.left + self.grid.width / 2, self.grid.low + self.grid.height / 2
        return self.mean + self.along_first * (place[0] - x) + self.along_second * (place[1] - y)

    @property
    def left_over(self) -> tuple[float, ...]:
        """What stands above (+) or below the plane, mm, place by place."""
        return tuple(h - self.plane(at) for at, h in zip(self.grid.places, self.heights, strict=True))

    @property
    def spread(self) -> float:
        """From the lowest place to the highest, mm: how deep a skim goes at the highest to clean all as it lies."""
        return max(self.heights) - min(self.heights)

    @property
    def unevenness(self) -> float:
        """The same, when the plane has been levelled."""
        return max(self.left_over) - min(self.left_over)

    @property
    def expanded(self) -> float:
        """Of the difference of two places, mm."""
        return COVERAGE * math.sqrt(2) * self.standard

    @property
    def slopes_expanded(self) -> tuple[float, float]:
        """Of the two slopes, mm per mm."""
        places = self.grid.places
        x, y = (sum(at[k] for at in places) / len(places) for k in (0, 1))
        return (
            COVERAGE * self.standard / math.sqrt(sum((at[0] - x) ** 2 for at in places)),
            COVERAGE * self.standard / math.sqrt(sum((at[1] - y) ** 2 for at in places)),
        )

    @property
    def raises(self) -> tuple[float, ...]:
        """By how much each corner is to be raised, mm, so that the plane lies level and none is lowered."""
        planes = [self.plane(corner) for corner in self.grid.corners]
        return tuple(max(planes) - each for each in planes)


def bed(grid: Grid, heights: Sequence[float], held: Instrument, count: float, scatter: float = 0.0) -> Bed:
    """The plane through what was read, in the order of the grid's places. held: by the axis that carries the tool; count: mm of
    one count of it. scatter: standard deviation of the mean of the touches of one place, mm."""
    places = grid.places
    if len(heights) != len(places):
        raise ValueError(f"{len(heights)} heights for {len(places)} places")
    x, y = grid.left + grid.width / 2, grid.low + grid.height / 2
    slopes = [
        sum((at[k] - middle) * h for at, h in zip(places, heights, strict=True))
        / sum((at[k] - middle) ** 2 for at in places)
        for k, middle in ((0, x), (1, y))
    ]
    return Bed(grid, tuple(heights), sum(heights) / len(heights), slopes[0], slopes[1], reading(held, count, scatter))


def reading(held: Instrument, count: float, scatter: float = 0.0) -> float:
    """Standard uncertainty of one height, mm."""
    return math.hypot(max(held.reading, scatter), count / math.sqrt(12))


def scatter_of(touches: Iterable[Sequence[float]]) -> float:
    """Standard deviation of the mean of the touches of one place, mm, pooled over all; each has as many, more than one."""
    squares, free, times = 0.0, 0, 1
    for places in touches:
        mean, times = sum(places) / len(places), len(places)
        squares += sum((each - mean) ** 2 for each in places)
        free += times - 1
    return math.sqrt(squares / free / times) if free else 0.0


def slipped(first: float, again: float, held: Instrument, count: float, scatter: float = 0.0) -> bool:
    """Whether what is held does not come back to what it said at a place: nothing read with it can be used."""
    return abs(again - first) > COVERAGE * math.sqrt(2) * reading(held, count, scatter) + held.resolution


def follows(said: float) -> str:
    """Why a dial that says so much, in mm, after it was lifted by FOLLOWS does not stand on the bed; or an empty text."""
    if abs(said + FOLLOWS) <= FOLLOWS / 4:
        return ""
    if abs(said - FOLLOWS) <= FOLLOWS / 4:
        return "its sign is turned round: + is to be where the bed is higher"
    return "it does not stand against the bed: lower it further, to the middle of its reach"


class LevelVerdict(Enum):
    """key and what it means."""

    NOTHING = ("nothing", "not measured yet")
    PROVEN = ("proven", "as level as is wanted")
    TILTED = ("tilted", "lies askew; levelled it is flat enough")
    UNEVEN = ("uneven", "uneven; it has to be skimmed")
    COARSE = ("coarse", "cannot be told with this")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


def verdict(found: Bed | None, tolerance: float) -> LevelVerdict:
    """tolerance: mm from the lowest to the highest place. Proven only where the whole interval lies within it."""
    if found is None:
        return LevelVerdict.NOTHING
    if found.spread + found.expanded <= tolerance:
        return LevelVerdict.PROVEN
    if found.unevenness - found.expanded > tolerance:
        return LevelVerdict.UNEVEN
    if found.spread - found.expanded > tolerance and found.unevenness + found.expanded <= tolerance:
        return LevelVerdict.TILTED
    return LevelVerdict.COARSE


def corner_name(number: int, first: str, second: str) -> str:
    """ "X− Y+": a corner of the grid by the ends of its axes that it lies at."""
    x, y = (("−", "−"), ("+", "−"), ("+", "+"), ("−", "+"))[number]
    return f"{first}{x} {second}{y}"


def figures(found: Bed, first: Axis, second: Axis) -> str:
    """What was found, in words."""
    reads = first.reads
    slopes = ", ".join(
        f"{axis.name} {1000 * slope:+.3f} ± {1000 * sure:.3f}"
        for axis, slope, sure in zip(
            (first, second), (found.along_first, found.along_second), found.slopes_expanded, strict=True
        )
    )
    return (
        f"{reads.length(found.spread, 3)} from the lowest to the highest of {len(found.heights)} places, ± "
        f"{reads.length(found.expanded, 3)}; it rises by {slopes} mm per m; {reads.length(found.unevenness, 3)} when levelled"
    )


def sentence(found: Bed, first: Axis, second: Axis, tolerance: float) -> str:
    """What is to be done about it."""
    reads, said = first.reads, verdict(found, tolerance)
    wanted = reads.length(tolerance, 3, trim=True)
    skim = f"a skim has to go {reads.length(found.spread + found.expanded, 2)} below the highest place"
    match said:
        case LevelVerdict.PROVEN:
            return f"All places lie within {wanted}. Between them nobody has looked."
        case LevelVerdict.TILTED:
            return f"Raise {_raised(found, first, second)}, and measure again. To clean it as it lies, {skim}."
        case LevelVerdict.UNEVEN:
            flat = reads.length(found.unevenness + found.expanded, 2)
            raised = _raised(found, first, second)
            return f"To clean it as it lies, {skim}; levelled first, {flat}. To level it, raise {raised}."
    why = not_told(found.expanded, tolerance, reads.length(found.expanded, 3), wanted)
    return f"{why} Take something finer, or want less."


def _raised(found: Bed, first: Axis, second: Axis) -> str:
    least = found.expanded / 4
    parts = [
        f"{corner_name(k, first.name, second.name)} by {first.reads.length(by, 2)}"
        for k, by in enumerate(found.raises) if by > least
    ]  # fmt: skip
    return ", ".join(parts) or "nothing"


def can_prove(held: Instrument, count: float) -> float:
    """The least difference of two places, in mm, that can be told from none."""
    return COVERAGE * math.sqrt(2) * reading(held, count)


def heights_words(reads: Measures, heights: Iterable[float]) -> str:
    """For a screen reader: the heights place by place."""
    return ", ".join(reads.length(h, 3) for h in heights)
