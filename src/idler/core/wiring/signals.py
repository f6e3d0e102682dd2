"""The signals to the drives as a trial between touches of a switch sees them: what is lost at reversals and after power."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction

from ..machine import Address, Machine
from ..mechanics.reliable import shift_allowed
from ..values.parameter import Value

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
    for off, after, key, more, words in (
        (reversed_by, f"{REVERSALS} reversals", "direction_setup", MORE_SETUP,
         "steps go the old way. The setup time of the direction is too short, or the drive counts the other edge."),
        (powered_by, f"{POWERINGS} powerings", "power_delay", MORE_DELAY,
         "the first steps come before the drive is awake. The delay after power is too short."),
    ):  # fmt: skip
        if abs(off) > allowed:
            where = Address(None, f"signals.{key}")
            told = machine[where]
            assert isinstance(told, Fraction)
            said = f"After {after} {axis.name} was {axis.reads.length(abs(off), 3)} off: {words}"
            return SignalsVerdict(False, said, {where: told + more})
    words = (
        f"{REVERSALS} reversals and {POWERINGS} powerings of {axis.name}: the switch was found within "
        f"{axis.reads.length(max(abs(reversed_by), abs(powered_by)), 3)} of its place."
    )
    return SignalsVerdict(True, words)
