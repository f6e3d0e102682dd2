"""The maker's data sheet of a part beside the part itself and beside the draft.

What the live part says wins: nothing is refused for what a file says.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from fractions import Fraction

from ..errors import Refusal
from ..machine import Address, Machine
from ..machine.finding import Finding, Severity, at_value
from ..profile.codec import encode
from ..profile.homes import Where, keys_in_parts
from ..profile.makersheet import MakersSheet, Object
from ..profile.partunits import Measure, PartUnits, row_value
from ..values.parameter import Value
from .parts import PartFacts, PartIdentity

_PER_MINUTE = 60


def require_same(sheet: MakersSheet, identity: PartIdentity) -> None:
    """Raises Refusal where a sheet says that it is of another part. A number that the sheet or the part does not say is no
    difference."""
    for what, said, held in (
        ("vendor", sheet.vendor, identity.vendor),
        ("product", sheet.product, identity.product),
    ):
        if said and held and said != held:
            raise Refusal(
                "maker's file", "", f"it is of {what} {said:#x}, and node {identity.node} says that it is of {held:#x}",
                way_out="take the file of this very part",
            )  # fmt: skip


def differences(facts: PartFacts, sheet: MakersSheet) -> list[str]:
    """Where the live part is not as its maker's file has it, of what Idler asks such a part for."""
    found = []
    for where in sorted(facts.sizes):
        described = sheet.objects.get(where)
        if described is None:
            found.append(f"{_named(where)} is in the part, and not in the file.")
        elif described.kind is not None and described.kind.bytes != facts.sizes[where]:
            found.append(
                f"{_named(where)} has {facts.sizes[where]} bytes in the part; the file says {described.kind.bytes}."
            )
    found += [
        f"{_named(where)} ({sheet.objects[where].name}) is in the file, and not in the part."
        for where in sorted(facts.missing)
        if where in sheet.objects
    ]
    return found


def beyond_sheets(machine: Machine, parts: Mapping[int, PartFacts], sheets: Mapping[int, MakersSheet]) -> list[Finding]:
    """Values of the draft that a maker's file has no room for. parts, sheets: by the slot of the axis."""
    found: list[Finding] = []
    for slot, sheet in sheets.items():
        if slot < len(machine.axes):
            for key, lives in keys_in_parts().items():
                found += _beyond(machine, Address(slot, key), lives, parts[slot], sheet)
    return found


def _beyond(
    machine: Machine, address: Address, lives: Where, facts: PartFacts, sheet: MakersSheet
) -> Iterator[Finding]:
    described = sheet.objects.get(lives.object or (0, 0))
    if described is None or lives.object is None or lives.object in facts.missing:
        return
    units = PartUnits.of(machine.axis(address.slot or 0), facts.told)
    raw = encode(address.row, machine[address])
    told = units.to_part(lives.measure, row_value(address.key, lives.measure, raw))
    bound = described.beyond(told)
    if bound is None:
        return
    row, rotary = address.row, machine.is_rotary(address)
    value = _value_of(address, lives.measure, units, bound, up=bound == described.low)
    shown = row.show(machine[address], rotary=rotary, inch=machine.inch)
    text = (
        f"{shown} would be {told} in its drive's object {lives.object[0]:04X}h, and its maker's file says "
        f"{'at least' if bound == described.low else 'at most'} {bound}"
    )
    with_edit = None
    if value is not None:
        text += f", which is {row.show(value, rotary=rotary, inch=machine.inch)}"
        with_edit = value
    yield at_value(
        machine, address, "beyond_maker", Severity.WARNING, f"{text}. The drive may refuse it, or take less.", with_edit
    )


def _value_of(address: Address, measure: Measure, units: PartUnits, bound: int, *, up: bool) -> Value | None:
    """The nearest value of the row that a part's number allows; None where the row has no such value."""
    row = address.row
    if measure is Measure.PLAIN:
        return None
    value = abs(units.from_part(measure, bound)) * (_PER_MINUTE if measure is Measure.SPEED else 1)
    steps = value / row.wire.resolution
    whole = Fraction(math.ceil(steps) if up else math.floor(steps)) * row.wire.resolution
    try:
        row.check(whole)
    except Refusal:
        return None
    return whole


def _named(where: Object) -> str:
    return f"{where[0]:04X}h" + (f":{where[1]:02X}" if where[1] else "")
