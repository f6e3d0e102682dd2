"""A worm and its wheel: one turn of the wheel is a turn of the axis."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..values.build import U8, U16, whole
from ..values.parameter import Wire
from .base import Drawn, FinalElement, Motion, Otherwise, Values, other_teeth

WHEELS = (30, 36, 40, 50, 60, 72, 80, 90, 100, 120, 144, 180, 360)
_IN_USE = ("chain.final", "worm")


def _drawn(axis: Values) -> Drawn:
    return Drawn(Fraction(360), Fraction(axis.whole("chain.wheel_teeth"), axis.whole("chain.worm_starts")), "360")


def _slips(axis: Values) -> Iterator[Otherwise]:
    yield from other_teeth(axis, "chain.wheel_teeth", WHEELS, "its worm wheel has {} teeth, not {}", inverse=True)
    yield from other_teeth(axis, "chain.worm_starts", (1, 2, 3, 4), "its worm has {} starts, not {}", inverse=False)


FINAL = FinalElement(
    "worm", 3, Motion.TURN,
    (
        whole(
            "chain.worm_starts", "starts of the worm", 1, (1, 20), Wire(0x4001, 13, U8),
            "Teeth that the wheel advances for one turn of the worm.",
            "Count where threads begin at the end of the worm.", used_when=_IN_USE,
        ),
        whole(
            "chain.wheel_teeth", "teeth of the worm wheel", 90, (3, 10_000), Wire(0x4001, 14, U16),
            "Teeth of the wheel that the worm turns.",
            "Turn the worm until the table comes round, and count the turns.", used_when=_IN_USE,
        ),
    ),
    "chain.turn_travel", _drawn, _slips, "worm wheel",
)  # fmt: skip
