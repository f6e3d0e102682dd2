"""What a person types into the field of a value, with the meanings that only the rest of the machine can give it.

Beside its own unit a speed takes motor speed ("1800 rpm", through the train), an acceleration takes the time to top
speed ("0.2 s"), and a lead takes turns per length ("8 /in").
"""

from __future__ import annotations

from fractions import Fraction

from .chain import Chain
from .errors import Refusal
from .machine import Address, Machine
from .parameter import Kind, Value
from .units import RPM, SECOND, Dimension, NotANumber, factor, split


def read_field(machine: Machine, address: Address, text: str) -> Value:
    """The value that a text means at this address. Raises Refusal; nothing is changed."""
    row, part = address.row, machine.part(address)
    rotary = machine.is_rotary(address)
    if row.kind is Kind.QUANTITY and address.axis is not None:
        through_machine = _through_machine(machine, address, text, part)
        if through_machine is not None:
            row.check(through_machine, rotary=rotary, part=part)
            return through_machine
    return row.read(text, rotary=rotary, bare=row.dimension.screen_unit(rotary, machine.inch), part=part)


def _through_machine(machine: Machine, address: Address, text: str, part: str) -> Fraction | None:
    try:
        number, unit = split(text)
    except NotANumber:
        return None
    if not unit or address.axis is None:
        return None
    row, axis = address.row, machine.axis(address.axis)
    if row.dimension is Dimension.SPEED and (per := factor(unit, RPM)) is not None and not axis.rotary:
        return Chain.of(axis).speed_at_rpm(number * per)
    if row.dimension is Dimension.SPEED and axis.rotary and unit.strip().lower() == "rpm":
        return Chain.of(axis).speed_at_rpm(number)
    if row.dimension is Dimension.ACCELERATION and (per := factor(unit, SECOND)) is not None:
        seconds = number * per
        if seconds <= 0:
            raise Refusal(
                part, text.strip(), "is no time to speed", way_out="give a time above zero, for example 0.2 s"
            )
        return axis.number("pace.top_speed") / 60 / seconds
    return None
