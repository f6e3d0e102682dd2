"""What a driver counts for a turn of its motor, and the steps in which its switches change that."""

from __future__ import annotations

import math
from fractions import Fraction

from ..machine import Address, Axis

_FIVES = (Fraction(1, 5), Fraction(1), Fraction(5))
# From one setting of its switches to another: 2, 4, 5, 8, 10 … and what lies between two of these.
STEPS = tuple(sorted({Fraction(2) ** k * five for k in range(-5, 6) for five in _FIVES} - {Fraction(1)}))


def counts_at(axis: Axis) -> Address:
    """Where the counts for a turn are told that the switches of a driver change."""
    key = "chain.microsteps" if axis.choice("chain.motor") == "stepper" else "chain.motor_counts"
    return Address(axis.slot, key)


def other_counts(axis: Axis, goes: float) -> int | None:
    """The counts with which an axis that goes so much of what it is told would go nearly all of it, by one step of its driver;
    None where they are none."""
    where = counts_at(axis)
    nearest = min(STEPS, key=lambda step: abs(math.log(goes * step)))
    counts = axis.whole(where.key) * nearest
    fits = counts.denominator == 1 and where.row.low <= counts <= where.row.high
    return int(counts) if fits else None
