"""A long belt and the pulley that drives it."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..values.build import LEAD_STEP, U16, U32, quantity, whole
from ..values.parameter import Wire
from ..values.units import Dimension
from .base import TEETH, Drawn, FinalElement, Motion, Otherwise, Values, in_inches, other_sizes, other_teeth, shown

PITCHES = tuple(Fraction(text) for text in ("2", "2.032", "2.5", "3", "5", "5.08", "8", "9.525", "10", "12.7", "14"))
_IN_USE = ("chain.final", "belt")


def _drawn(axis: Values) -> Drawn:
    pitch, teeth = axis.number("chain.belt_pitch"), axis.whole("chain.pulley_teeth")
    return Drawn(pitch * teeth, Fraction(1), f"({shown(axis, pitch)} × {teeth})")


def _slips(axis: Values) -> Iterator[Otherwise]:
    yield from other_sizes(axis, "chain.belt_pitch", PITCHES, "its belt has a pitch of {}, not {}", 1.5)
    yield from in_inches(
        axis, "chain.belt_pitch", (PITCHES[0], PITCHES[-1]), PITCHES, "its belt has a pitch of {}, not {}"
    )
    yield from other_teeth(axis, "chain.pulley_teeth", TEETH, "its pulley has {} teeth, not {}", inverse=False)


FINAL = FinalElement(
    "belt", 2, Motion.LINE,
    (
        quantity(
            "chain.belt_pitch", "pitch of the belt", "5", Dimension.LENGTH, ("0.1", "100"),
            Wire(0x4001, 11, U32, LEAD_STEP), "From one tooth of the belt to the next.",
            "Printed on the back of most belts, in millimetres or as a letter code.", used_when=_IN_USE,
        ),
        whole(
            "chain.pulley_teeth", "teeth of the pulley", 20, (3, 1000), Wire(0x4001, 12, U16),
            "Teeth of the pulley that drives the long belt.", "Mark one tooth and count round.", used_when=_IN_USE,
        ),
    ),
    "chain.belt_pitch", _drawn, _slips,
)  # fmt: skip
