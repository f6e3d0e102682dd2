"""Whether an axis keeps its steps: a long to-and-fro of all axes at once, with the home switches touched before and after.

By how far a switch is found from where it was is what the axis has lost, known to the scatter with which the switch is found:
it is touched twice before and twice after, and the means are compared. Where nothing was lost they differ by no more than the
larger of the two ranges and two counts. Half a pole of the motor, the least that a stalled stepper loses, bounds what a switch
that is worse may hide.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..machine import Axis, Machine
from ..mechanics.chain import Chain
from ..mechanics.reliable import shift_allowed
from ..words import listed

COUNTS = 2  # that a place of a switch may differ by, although nothing was lost
INSIDE = 4.0  # mm: how far the moves stay inside of the soft limits
_BASES = (2, 3, 5, 7, 11, 13, 17, 19)


def shares(number: int, axes: int) -> tuple[float, ...]:
    """Where each of so many axes goes in the move of this number, 1 and up, in shares of its way (0 to 1): radical inverses to
    prime bases (van der Corput), so that every way is gone over evenly and no two axes go alike."""
    return tuple(_inverse(number, _BASES[k % len(_BASES)]) for k in range(axes))


def _inverse(number: int, base: int) -> float:
    found, unit = 0.0, 1.0 / base
    while number:
        number, digit = divmod(number, base)
        found += digit * unit
        unit /= base
    return found


def way_of(axis: Axis) -> tuple[float, float]:
    """Between which places it goes, mm; a turn for what turns, °."""
    if axis.rotary:
        return 0.0, 360.0
    return float(axis.number("travel.low")) + INSIDE, float(axis.number("travel.high")) - INSIDE


@dataclass(frozen=True)
class Kept:
    """shift: mm (°) by which the switch was found further on; allowed: how much it may be before steps were lost."""

    name: str
    shift: float
    allowed: float
    counts: float

    @property
    def held(self) -> bool:
        return abs(self.shift) <= self.allowed


def kept(machine: Machine, slot: int, shift: float, scatter: float) -> Kept:
    """What the switch says of one axis. scatter: the larger range of what it said before and after, mm (°)."""
    axis = machine.axis(slot)
    counts = float(Chain.of(axis).counts_per_unit)
    allowed = min(shift_allowed(machine, slot), scatter + COUNTS / counts)
    return Kept(axis.name, shift, allowed, shift * counts)


def figures(machine: Machine, found: tuple[Kept, ...]) -> str:
    """What was found, in words."""
    parts = []
    for each in found:
        reads = machine.axis(machine.names.index(each.name)).reads
        parts.append(
            f"{each.name} {'+' * (each.shift > 0)}{reads.length(each.shift, 3)} ({round(each.counts):+d} counts)"
        )
    return ", ".join(parts)


def sentence(found: tuple[Kept, ...]) -> str:
    """What is to be done about it."""
    if not found:
        return ""
    lost = [each.name for each in found if not each.held]
    if not lost:
        return "Every switch was found where it was: no steps were lost."
    has = "has" if len(lost) == 1 else "have"
    return (
        f"{listed(lost)} {has} lost steps. Find the pace anew at Drives, try the signals at Wiring, and look whether something "
        "binds on the way."
    )
