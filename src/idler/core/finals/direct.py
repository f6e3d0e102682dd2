"""Whatever else: the travel for one turn of the last shaft is told."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..values.build import LEAD_STEP, U32, quantity
from ..values.parameter import Wire
from ..values.units import PI, Dimension
from .base import MM_PER_INCH, Drawn, FinalElement, Motion, Otherwise, Values, shown


def _drawn(axis: Values) -> Drawn:
    travel = axis.number("chain.turn_travel")
    return Drawn(travel, Fraction(1), shown(axis, travel))


def _slips(axis: Values) -> Iterator[Otherwise]:
    told = axis.number("chain.turn_travel")
    for factor, words in (
        (PI, "the diameter was told for the way round: π was forgotten"), (1 / PI, "π was taken twice"),
        *(((MM_PER_INCH, "inches were told as millimetres"), (1 / MM_PER_INCH, "millimetres were told as inches"))
          if not axis.rotary else ()),
    ):  # fmt: skip
        yield Otherwise("chain.turn_travel", told * factor, words, factor, 1.0)


FINAL = FinalElement(
    "direct", 4, Motion.EITHER,
    (
        quantity(
            "chain.turn_travel", "travel per turn", "360", Dimension.TRAVEL, ("0.001", "4000"),
            Wire(0x4001, 15, U32, LEAD_STEP), "Travel of the axis for one turn of the last shaft.",
            "360° for a table on the shaft; else measure one turn.", inverse=True, used_when=("chain.final", "direct"),
        ),
    ),
    "chain.turn_travel", _drawn, _slips,
)  # fmt: skip
