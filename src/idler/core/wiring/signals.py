"""The signals to the drives: what a trial between touches of a switch sees of them, lost at reversals and after power; and what
a hand tells of a motor that does not go."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import Enum
from fractions import Fraction

from ..machine import Address, Machine
from ..mechanics.pulses import longer_pulses, surer_reversals
from ..mechanics.reliable import shift_allowed
from ..values.parameter import Value
from ..values.units import figure

REVERSALS, POWERINGS = 200, 20
MORE_DELAY = Fraction(200)  # ms that are proposed beside what is told


@dataclass(frozen=True)
class SignalsVerdict:
    """good: nothing was lost. edit: what would help, where something was."""

    good: bool
    words: str
    edit: dict[Address, Value] = field(default_factory=dict)


def judge_signals(machine: Machine, slot: int, reversed_by: float, powered_by: float) -> SignalsVerdict:
    """By how much (mm or °) the switch was found elsewhere after the reversals, and after the powerings."""
    axis, allowed = machine.axis(slot), shift_allowed(machine, slot)
    for off, after, edit, words in (
        (reversed_by, f"{REVERSALS} reversals", surer_reversals(machine),
         "steps go the old way. The setup time of the direction is too short, or the drive counts the other edge."),
        (powered_by, f"{POWERINGS} powerings", _longer_delay(machine),
         "the first steps come before the drive is awake. The delay after power is too short."),
    ):  # fmt: skip
        if abs(off) > allowed:
            said = f"After {after} {axis.name} was {axis.reads.length(abs(off), 3)} off: {words}"
            return SignalsVerdict(False, said, edit)
    words = (
        f"{REVERSALS} reversals and {POWERINGS} powerings of {axis.name}: the switch was found within "
        f"{axis.reads.length(max(abs(reversed_by), abs(powered_by)), 3)} of its place."
    )
    return SignalsVerdict(True, words)


def _longer_delay(machine: Machine) -> dict[Address, Value]:
    where = Address(None, "signals.power_delay")
    told = machine[where]
    assert isinstance(told, Fraction)
    return {where: told + MORE_DELAY}


class Hand(Enum):
    """What a hand feels that pushes at an axis while its drive should have power: key and words."""

    HOLDS = ("holds", "it holds")
    LOOSE = ("loose", "it gives way")
    STIFF = ("stiff", "no hand can move it")

    def __init__(self, key: str, words: str) -> None:
        self.key, self.words = key, words


def stood_still(machine: Machine, slot: int, hand: Hand, *, stop_proven: bool, others_go: bool) -> SignalsVerdict:
    """Of an axis of which nothing was seen to move: what a hand at it tells. stop_proven: drives were felt to lose their power
    by the enable line. others_go: other axes were seen to move by the same signals."""
    name, output = machine.names[slot], machine.axis(slot).whole("axis.output")
    enable = Address(None, "signals.enable_inverted")
    if hand is Hand.LOOSE:
        words = (
            f"The motor of {name} has no current: look whether it is plugged in at drive output {output}, and whether its "
            "drive has power"
        )
        if stop_proven:
            return SignalsVerdict(False, f"{words}.")
        return SignalsVerdict(False, f"{words}; or the enable line must be inverted.", {enable: not machine[enable]})
    if hand is Hand.HOLDS:
        held = f"The motor of {name} holds, so its drive has power and is enabled: it does not see the steps."
        edit: dict[Address, Value] = {} if others_go else longer_pulses(machine)
        width = edit.get(Address(None, "signals.pulse_width"))
        if not isinstance(width, Fraction):
            words = f"Look at the step wire of drive output {output}, and at how long a pulse its drive wants."
            return SignalsVerdict(False, f"{held} {words}")
        rate = edit.get(Address(None, "signals.step_rate"))
        slower = f", and {figure(rate, 1, trim=True)} kHz of steps at most" if isinstance(rate, Fraction) else ""
        slower += " with the top speeds that this allows" if any(where.slot is not None for where in edit) else ""
        return SignalsVerdict(False, f"{held} Pulses of {figure(width, 1, trim=True)} µs are proposed{slower}.", edit)
    words = (
        f"{name} has drive output {output}: look whether its motor is plugged in there, whether its drive has power, whether "
        "its step pulses are long enough, and whether the enable line must be inverted (Wiring, Signals)."
    )
    return SignalsVerdict(False, words)
