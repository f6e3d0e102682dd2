"""Repeatability of a home: how far apart the places lie at which the same switch was touched again and again."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..machine import Machine
from ..mechanics.chain import Chain
from ..mechanics.reliable import shift_allowed
from . import filter_of

FEWEST = 4
SLOW_TOUCH = Fraction(60)  # mm/min (°/min): a switch that scatters at this speed scatters by itself
WANTED = 0.01  # mm or °: standard deviation that is good enough for most work
TICK = 0.001  # s: how often a controller of this profile looks at its switches


@dataclass(frozen=True)
class Scatter:
    """deviations: of each touch from the coordinate at the switch, in mm (°)."""

    deviations: tuple[float, ...]

    @property
    def mean(self) -> float:
        return sum(self.deviations) / len(self.deviations)

    @property
    def standard(self) -> float:
        """Standard deviation with n − 1 (GUM, 4.2.2); 0 for a single touch."""
        n = len(self.deviations)
        return math.sqrt(sum((d - self.mean) ** 2 for d in self.deviations) / (n - 1)) if n > 1 else 0.0

    @property
    def range(self) -> float:
        return max(self.deviations) - min(self.deviations)

    @property
    def good(self) -> bool:
        return len(self.deviations) >= FEWEST and self.standard <= WANTED


def lost(machine: Machine, slot: int, scatter: Scatter) -> bool:
    """Whether the switch was met elsewhere each time, and not only now here, now there: steps are lost between the touches."""
    return bool(scatter.deviations) and abs(scatter.mean) > shift_allowed(machine, slot)


def expected(machine: Machine, slot: int) -> float:
    """What touch speed and controller alone would scatter, in mm (°): one tick and one count, each evenly spread."""
    axis = machine.axis(slot)
    tick = float(axis.number("homing.touch")) / 60 * TICK
    count = float(Chain.of(axis).resolution)
    return math.hypot(tick, count) / math.sqrt(12)


def advice(machine: Machine, slot: int, scatter: Scatter) -> tuple[str, Fraction | None]:
    """What the scatter says, and a touch speed that would narrow it, where speed is what spreads it."""
    axis = machine.axis(slot)
    alone = expected(machine, slot)
    if lost(machine, slot, scatter):
        off = axis.reads.length(abs(scatter.mean), 3)
        return f"The switch was met {off} from its place each time: steps are lost between the touches.", None
    if scatter.good:
        return "Good enough for most work.", None
    touch = axis.number("homing.touch")
    if touch > SLOW_TOUCH:  # before the switch is blamed
        return (
            f"It was touched at {axis.reads.speed(touch, 0)}: touch it at {axis.reads.speed(SLOW_TOUCH)} first, and look "
            "again.",
            SLOW_TOUCH,
        )
    if scatter.standard < 3 * alone:
        slower = axis.number("homing.touch") / 2
        return "The touch speed alone spreads it so far: touch more slowly.", slower
    late = filter_of(machine, slot) * 1000
    return (
        f"Touch speed and filter ({late:g} ms) explain only ± {axis.reads.length(alone, 4)}: look at the switch itself, "
        "its lever, its bracket, "
        "and the play of the axis.",
        None,
    )


def starts(times: int) -> Sequence[float]:
    """Distances in mm (°) from the switch from which it is approached: spread evenly between 6 and 20, in no order."""
    golden = (math.sqrt(5) - 1) / 2
    return [6.0 + 14.0 * ((k * golden) % 1.0) for k in range(1, times + 1)]
