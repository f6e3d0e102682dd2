"""The signals to the drives as a trial between touches of a switch sees them: what is lost at reversals and after power."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction

from .machine import Address, Machine
from .parameter import Value
from .reliable import shift_allowed
from .units import figure

REVERSALS, POWERINGS = 200, 20
MORE_SETUP, MORE_DELAY = Fraction(10), Fraction(200)  # µs and ms that are proposed beside what is told


@dataclass(frozen=True)
class SignalsVerdict:
    """good: nothing was lost. edit: what would help, where something was."""

    good: bool
    words: str
    edit: dict[Address, Value] = field(default_factory=dict)


def judge_signals(machine: Machine, slot: int, reversed_by: float, powered_by: float) -> SignalsVerdict:
    """By how much (mm or °) the switch was found elsewhere after the reversals, and after the powerings."""
    axis, allowed = machine.axis(slot), shift_allowed(machine, slot)
    unit = axis.unit
    if abs(reversed_by) > allowed:
        where = Address(None, "signals.direction_setup")
        told = machine[where]
        assert isinstance(told, Fraction)
        words = (
            f"After {REVERSALS} reversals {axis.name} was {figure(abs(reversed_by), 3)} {unit} off: steps go the old way. The "
            "setup time of the direction is too short, or the drive counts the other edge of the pulse."
        )
        return SignalsVerdict(False, words, {where: told + MORE_SETUP})
    if abs(powered_by) > allowed:
        where = Address(None, "signals.power_delay")
        told = machine[where]
        assert isinstance(told, Fraction)
        words = (
            f"After {POWERINGS} powerings {axis.name} was {figure(abs(powered_by), 3)} {unit} off: the first steps come before "
            "the drive is awake. The delay after power is too short."
        )
        return SignalsVerdict(False, words, {where: told + MORE_DELAY})
    words = (
        f"{REVERSALS} reversals and {POWERINGS} powerings of {axis.name}: the switch was found within "
        f"{figure(max(abs(reversed_by), abs(powered_by)), 3)} {unit} of its place."
    )
    return SignalsVerdict(True, words)
