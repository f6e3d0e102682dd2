"""The sides of the rectangle of marks: whose scale is wrong, and whether opposite sides are alike.

Derivation. A side told l is measured as k l, with the scale k of its axis; of the two sides along one axis the mean m tells
    k = m / l,   u(k) = u / (√2 l),
with the standard uncertainty u of one reading, as for a diagonal (square.py). A lean of the axes lengthens the slanting sides
by its square only: 0.5 parts of a million for 1 mm per m. The difference of two opposite sides, u(d) = √2 u, is made by no
scale and by no angle: a mark slipped, or the ways along these two are not straight. Ways that turn what goes along them by ψ
from one end to the other carry two tools that stand w apart across by w ψ further on one side than on the other: ψ = d / w.
Ways across that turn as much move both of these sides alike, and make the other two differ. The angle by the diagonals hangs
on the product of both sides, and a scale that is wrong by a thousandth part makes it wrong by as much of itself: nothing that
matters.

Four things are looked at, so that one is said only beyond three times its standard uncertainty: by chance once in a hundred
rectangles.

Scales are in parts of a thousand. Expanded uncertainties are twice u.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..machine import Axis
from ..mechanics.scale import COVERAGE, Instrument
from .square import Rectangle, reading_standard

CERTAIN = 3.0  # standard uncertainties
ALONG = (("near", 0), ("far", 0), ("left", 1), ("right", 1))  # each side, and which of the two axes it lies along


@dataclass(frozen=True)
class Side:
    """What the two sides along one axis tell: scale in parts of a thousand, and by how many mm the second is longer. across: mm
    between the two."""

    scale: float
    scale_standard: float
    apart: float
    apart_standard: float
    across: float

    @property
    def scaled(self) -> bool:
        """Whether the scale is certainly wrong."""
        return abs(self.scale) > CERTAIN * self.scale_standard

    @property
    def unlike(self) -> bool:
        return abs(self.apart) > CERTAIN * self.apart_standard

    @property
    def yaw(self) -> float:
        """By how much the ways turn what goes along them from one end to the other, mm per m, without sign."""
        return 1000 * abs(self.apart) / self.across


def sides(place: Rectangle, read: dict[str, float], instrument: Instrument) -> tuple[Side, Side] | None:
    """Along the first and the second axis; None where one of the four was not read. read: mm, by the names in ALONG."""
    if not {name for name, _ in ALONG} <= set(read):
        return None
    one = reading_standard(instrument, 1)

    def along(axis: int, told: float, across: float) -> Side:
        first, second = (read[name] for name, of in ALONG if of == axis)
        scale = (first + second) / 2 / told
        return Side(1000 * (scale - 1), 1000 * one / math.sqrt(2) / told, second - first, math.sqrt(2) * one, across)

    return along(0, place.width, place.height), along(1, place.height, place.width)


def sentence(axes: tuple[Axis, Axis], found: tuple[Side, Side]) -> str:
    """What the sides say beside the angle."""
    said = []
    for axis, side in zip(axes, found, strict=True):
        if side.unlike:
            said.append(
                f"The two sides along {axis.name} differ by {axis.reads.length(abs(side.apart), 2)}: a mark slipped, or the "
                f"ways of {axis.name} turn what goes along them by {side.yaw:.2f} mm per m from one end to the other."
            )
        elif side.scaled:
            way = "further" if side.scale > 0 else "less far"
            said.append(
                f"{axis.name} goes {abs(side.scale):.2f} ± {COVERAGE * side.scale_standard:.2f} parts of a thousand {way} than "
                "it is told: that is its scale. Prove it first."
            )
    return " ".join(said) or "Its sides say nothing against either scale."
