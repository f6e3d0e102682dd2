"""Step pulses that a drive may not see: how long they last, what longer ones cost, and how long before them the direction is
set."""

from __future__ import annotations

from collections.abc import Collection
from fractions import Fraction

from ..machine import Address, Machine
from ..values.parameter import Value
from .chain import Chain

SETUPS = (Fraction(15), Fraction(100))  # µs that most drives want between direction and step, and that any does
PULSES = (Fraction(5), Fraction(10), Fraction(20))  # µs that ever more drives see


def longer_pulses(machine: Machine) -> dict[Address, Value]:
    """The longest step pulse that the top speeds leave room for, and the highest step rate that it leaves where more is told: a
    pulse fills half of a period. A drive that sees only some of shorter ones moves its axis, and is the harder to find out.
    Where the top speeds leave no room, the next longer one, and the top speeds that it leaves. Empty where none is longer than
    what is told, and where no steps are made."""
    width, rate = (Address(None, f"signals.{name}") for name in ("pulse_width", "step_rate"))
    told = machine[width]
    assert isinstance(told, Fraction)
    longer = [pulse for pulse in PULSES if pulse > told]
    if not longer or machine.made_of_parts:
        return {}
    driven = [axis for axis in machine.axes if axis.whole("axis.output")]
    needed = max((Chain.of(axis).step_rate(axis.number("pace.top_speed")) for axis in driven), default=Fraction(0))
    pulse = max((each for each in longer if _most_steps(each) >= needed), default=longer[0])
    most = _most_steps(pulse)
    found: dict[Address, Value] = {width: pulse}
    if most < machine.step_rate:
        found[rate] = most / 1000
    for axis in driven:
        if Chain.of(axis).step_rate(axis.number("pace.top_speed")) > most:
            found[Address(axis.slot, "pace.top_speed")] = Fraction(int(Chain.of(axis).speed_at_step_rate(most)))
    return found


def _most_steps(pulse: Fraction) -> Fraction:
    """Steps in a second of which each may be so long, µs."""
    return Fraction(500_000) / pulse


EDGE = Address(None, "signals.step_inverted")


def surer_reversals(machine: Machine, lost: Collection[bool] | None = None) -> dict[Address, Value]:
    """What a drive may want that loses steps where its direction changes: more time between the change and the first step, and
    then as much as any drive wants; then the other edge of the steps. Empty where all that was tried, and where no steps are
    made.

    lost: with which edges (step line inverted or not) steps are known to be lost there; None where that is not known so well:
    told wrong, an edge loses steps at every reversal of all axes. Where they are lost with both it is put back.
    """
    where = Address(None, "signals.direction_setup")
    told = machine[where]
    assert isinstance(told, Fraction)
    if machine.made_of_parts:
        return {}
    if longer := [each for each in SETUPS if each > told]:
        return {where: longer[0]}
    inverted = machine[EDGE] is True
    if lost is None or (not inverted and True in lost):
        return {}
    return {EDGE: not inverted}
