"""What a proposed edit is called on the button that takes it."""

from __future__ import annotations

from idler.core.machine import Address, Machine
from idler.core.values.parameter import Scope, Value
from idler.core.wiring import inputs


def edit_words(machine: Machine, edit: dict[Address, Value]) -> str:
    """ "Set back-off: 2.5 mm, leave the switch by: 2.5 mm": an edit as a button says it."""
    slots = sorted({address.slot for address in edit if address.slot is not None})
    if len(slots) == 2 and {address.key for address in edit} == {"input.role", "input.axis"}:
        return f"Exchange terminals {' and '.join(inputs(machine)[slot].name for slot in slots)}"
    said = []
    for address, value in edit.items():
        row = address.row
        shown = row.show(value, rotary=machine.is_rotary(address), inch=machine.inch)
        part = f"{inputs(machine)[address.slot].name} " if row.scope is Scope.INPUT and address.slot is not None else ""
        said.append(f"{part}{row.label}: {shown}")
    return f"Set {', '.join(said)}"
