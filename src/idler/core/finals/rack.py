"""A rack and its pinion."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..values.build import LEAD_STEP, U16, U32, quantity, whole
from ..values.parameter import Wire
from ..values.units import PI, Dimension
from .base import (
    MM_PER_INCH,
    TEETH,
    Drawn,
    FinalElement,
    Motion,
    Otherwise,
    Values,
    in_inches,
    other_sizes,
    other_teeth,
    shown,
)

MODULES = tuple(Fraction(text) for text in ("0.5", "0.8", "1", "1.25", "1.5", "2", "2.5", "3", "4")) + tuple(
    MM_PER_INCH / n
    for n in (8, 10, 12, 16, 20, 24, 32)  # teeth of an inch rack for each inch of diameter
)
_IN_USE = ("chain.final", "rack")


def _drawn(axis: Values) -> Drawn:
    module, teeth = axis.number("chain.module"), axis.whole("chain.pinion_teeth")
    return Drawn(PI * module * teeth, Fraction(1), f"(π × {shown(axis, module)} × {teeth})")


def _slips(axis: Values) -> Iterator[Otherwise]:
    yield from other_sizes(axis, "chain.module", MODULES, "its rack has a module of {}, not {}", 1.5)
    yield from in_inches(
        axis, "chain.module", (Fraction("0.3"), Fraction(6)), MODULES, "its rack has a module of {}, not {}"
    )
    told = axis.number("chain.module")
    words = "the pitch of its teeth was told for the module: π was forgotten"
    yield Otherwise("chain.module", told / PI, words, 1 / PI, 2.0)
    yield from other_teeth(axis, "chain.pinion_teeth", TEETH, "its pinion has {} teeth, not {}", inverse=False)


FINAL = FinalElement(
    "rack", 1, Motion.LINE,
    (
        quantity(
            "chain.module", "module of the rack", "1", Dimension.LENGTH, ("0.05", "50"), Wire(0x4001, 9, U32, LEAD_STEP),
            "Size of the teeth: their spacing along the rack is π times the module.",
            "Measure ten teeth along the rack, divide by ten and by π.", used_when=_IN_USE,
        ),
        whole(
            "chain.pinion_teeth", "teeth of the pinion", 20, (3, 1000), Wire(0x4001, 10, U16),
            "Teeth of the wheel that runs on the rack.", "Mark one tooth and count round.", used_when=_IN_USE,
        ),
    ),
    "chain.module", _drawn, _slips,
)  # fmt: skip
