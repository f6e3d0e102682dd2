"""What a person types into the field of a value, with the meanings that only the rest of the machine can give it.

Beside its own unit a speed takes motor speed ("1800 rpm", through the train), an acceleration takes the time to top
speed ("0.2 s"), and a lead takes turns per length ("8 /in"). On a rotary axis turns may be the motor's or the table's,
so they are told apart: "10 rpm motor", "10 rpm table".
"""

from __future__ import annotations

from fractions import Fraction

from ..errors import Refusal
from ..machine import Address, Axis, Machine
from ..values.parameter import Kind, Value
from ..values.quantity import NotANumber, factor, split
from ..values.units import DEG_MIN, RPM, SECOND, Dimension
from .chain import Chain

MOTOR, TABLE = "motor", "table"


def read_field(machine: Machine, address: Address, text: str) -> Value:
    """The value that a text means at this address. Raises Refusal; nothing is changed."""
    row, part = address.row, machine.part(address)
    rotary = machine.is_rotary(address)
    if row.kind is Kind.QUANTITY and address.axis is not None:
        through_machine = _through_machine(machine, address, text, part)
        if through_machine is not None:
            row.check(through_machine, rotary=rotary, part=part, inch=machine.inch)
            return through_machine
    return row.read(
        text, rotary=rotary, bare=row.dimension.screen_unit(rotary, machine.inch), part=part, inch=machine.inch
    )


def became(machine: Machine, address: Address, text: str) -> str:
    """What to say of a text that this machine's value was taken from: "" where it reads as the value is shown."""
    row, part, value = address.row, machine.part(address), machine[address]
    if row.kind is Kind.STAGES:
        assert isinstance(value, tuple)
        return f"{part}: {'; '.join(stage.words for stage in value) or 'none'}."
    shown = machine.show(address)
    if row.kind not in (Kind.QUANTITY, Kind.WHOLE):
        return ""
    number, unit = split(text) if _reads(text) else (None, "")
    figure, symbol = split(shown)
    if number == figure and unit.replace(" ", "") in ("", symbol):
        return ""
    return f"{part}: {text.strip()} became {shown}."


def _reads(text: str) -> bool:
    try:
        split(text)
    except NotANumber:
        return False
    return True


def _through_machine(machine: Machine, address: Address, text: str, part: str) -> Fraction | None:
    try:
        number, unit = split(text)
    except NotANumber:
        return None
    if not unit or address.axis is None:
        return None
    row, axis = address.row, machine.axis(address.axis)
    if row.dimension is Dimension.SPEED:
        return _turning(axis, number, unit, text, part)
    if row.dimension is Dimension.ACCELERATION and (per := factor(unit, SECOND)) is not None:
        seconds = number * per
        if seconds <= 0:
            raise Refusal(
                part, text.strip(), "is no time to speed", way_out="give a time above zero, for example 0.2 s"
            )
        return axis.number("pace.top_speed") / 60 / seconds
    return None


def _turning(axis: Axis, number: Fraction, unit: str, text: str, part: str) -> Fraction | None:
    """The speed of an axis of which turns are told; None where no turns are. Raises Refusal where they may be either's."""
    turns, _, whose = unit.rpartition(" ")
    if whose.lower() not in (MOTOR, TABLE):
        turns, whose = unit, ""
    per = factor(turns, RPM)
    if per is None or not any(word in turns.lower() for word in ("rpm", "turn", "rev")):
        return None
    rpm, chain = number * per, Chain.of(axis)
    if not axis.rotary:
        if whose.lower() == TABLE:
            raise Refusal(part, text.strip(), "is no speed of a table that does not turn", way_out="write it in mm/min")
        return chain.speed_at_rpm(rpm)
    ways = {MOTOR: chain.speed_at_rpm(rpm), TABLE: rpm * 360}
    if not whose:
        written = [f"“{text.strip()} {way}” ({float(speed):.6g} {DEG_MIN})" for way, speed in ways.items()]
        raise Refusal(
            part, text.strip(), "can be turns of the motor or of the table", way_out="write " + " or ".join(written)
        )
    return ways[whose.lower()]
