"""The right angle of two axes by a square and a dial, with the square's own error taken out by turning it over.

Model. The square lies on the bed, its stock along the first axis, its blade along the second, so that between them there are
90° + ε. The stock lies turned by α, + from the first axis towards the second; + of the second axis leans by γ towards + of the
first. A dial that the tool carries says by how much further on to + the square lies than the tool:
  along the stock, read along the second axis, dr/dx = α;
  along the blade, read along the first axis, the blade goes by −(α + ε) and the tool by γ for each mm: dr/dy = −(α + ε) − γ.
Turned over about its blade, the stock points the other way, and the same error counts the other way round. With a and b the
slopes along stock and blade, and a', b' those of the square turned over (so small that their sines are they themselves):
  γ = −(a + b + a' + b') / 2,   ε = (a' + b' − a − b) / 2.
How the square lies drops out of both. A slope is what the dial says over the length it was carried, after it was set to zero:
two readings, a count of the axis at each end, and the dial's lag, evenly spread (GUM, 4.3.7):
  u(a) = √(2 u² + 2 c²/12 + h²/12) / L,   u(γ) = u(ε) = √(2 u(a)² + 2 u(b)²) / 2.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..mechanics.scale import COVERAGE, Instrument
from .square import Squareness

FOLLOWS = 1.0  # mm that the tool goes to − of what the dial reads along, to see that it stands on the leg
LEAST, MOST = 20.0, 1000.0  # mm along a leg


@dataclass(frozen=True)
class Laying:
    """The square as it lies once. stock, blade: what the dial says in mm at the end of the way along each leg."""

    stock: float
    blade: float
    along_stock: float  # mm, signed: how far the dial was carried
    along_blade: float

    @property
    def slopes(self) -> float:
        """a + b."""
        return self.stock / self.along_stock + self.blade / self.along_blade


@dataclass(frozen=True)
class ByBlade:
    """What both layings tell. own: of the square, mm per m, + where it is wider than a right angle."""

    square: Squareness
    own: float

    @property
    def own_expanded(self) -> float:
        return self.square.expanded


def slope_standard(length: float, dial: Instrument, count: float) -> float:
    """Of one slope, mm per mm."""
    return math.sqrt(2 * dial.reading**2 + (2 * count**2 + dial.lag**2) / 12) / abs(length)


def by_blade(layings: Sequence[Laying], dial: Instrument, count: float) -> ByBlade | None:
    """The angle of the axes as the square says it; None before it was turned over. count: mm of the coarser axis."""
    if len(layings) < 2:
        return None
    one, other = layings[:2]
    standard = math.sqrt(
        sum(slope_standard(length, dial, count) ** 2 for lay in (one, other) for length in (lay.along_stock, lay.along_blade))
    ) / 2  # fmt: skip
    angle, own = -(one.slopes + other.slopes) / 2, (other.slopes - one.slopes) / 2
    return ByBlade(Squareness(1000 * angle, 1000 * standard, 0.0, 0.0), 1000 * own)


def can_prove(length: float, dial: Instrument, count: float) -> float:
    """The least angle, in mm per m, that legs of this length can tell from a right one."""
    return 1000 * COVERAGE * slope_standard(length, dial, count)


def follows(said: float) -> str:
    """Why a dial that says so much, in mm, after the tool went FOLLOWS to − does not stand on the leg; or an empty text."""
    if abs(said - FOLLOWS) <= FOLLOWS / 4:
        return ""
    if abs(said + FOLLOWS) <= FOLLOWS / 4:
        return "its sign is turned round: + is to be where the leg lies further to +"
    return "it does not stand against the leg: bring it closer, to the middle of its reach"
