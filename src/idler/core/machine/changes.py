"""What differs between two machines, in words."""

from __future__ import annotations

from dataclasses import dataclass

from . import Address, Machine


@dataclass(frozen=True)
class Difference:
    address: Address
    label: str
    before: str
    after: str

    def __str__(self) -> str:
        return f"{self.label} {self.before} → {self.after}"


def differences(before: Machine, after: Machine) -> list[Difference]:
    """Every value of `after` that is not the same in `before`, as the screen of `after` shows it.

    Axes are the same where their letters are, whatever their place. A new axis tells only what is not usual.
    """
    found = []
    for address in after.addresses():
        was = same_place(before, after, address)
        if (after[address] == before[was]) if was is not None else (after[address] == address.row.default):
            continue
        old = "—"
        if was is not None:
            old = address.row.show(before[was], rotary=before.is_rotary(was), inch=after.inch)
        found.append(Difference(address, after.part(address), old, after.show(address)))
    return found


def same_place(before: Machine, after: Machine, address: Address) -> Address | None:
    """Where a value of `after` stands in `before`, or None where that has no such part."""
    if address.axis is None:
        return address if before.shape.has(address) else None
    name = after.names[address.axis]
    return Address(before.names.index(name), address.key) if name in before.names else None


def axes_changed(before: Machine, after: Machine) -> str:
    """A sentence where the axes themselves differ, or an empty text."""
    if before.names == after.names:
        return ""
    return f"Axes {' '.join(before.names)} → {' '.join(after.names)}."


def address_text(machine: Machine, address: Address) -> str:
    """ "X.chain.pitch", "3.input.role", or "names.machine" for a value of the machine itself."""
    if address.slot is None:
        return address.key
    return f"{address.slot + 1 if address.axis is None else machine.names[address.slot]}.{address.key}"


def address_from(machine: Machine, text: str) -> Address | None:
    """The address that such a text means, or None where this machine has none of it."""
    name, dot, key = text.partition(".")
    found = Address(None, text)
    if dot and name in machine.names:
        found = Address(machine.names.index(name), key)
    elif dot and name.isdecimal() and len(name) < 4:
        found = Address(int(name) - 1, key)
    try:
        fits = (
            found.row is not None and machine.shape.has(found) and (found.axis is None) == (name not in machine.names)
        )
    except KeyError:
        return None
    return found if fits and (found.slot is None or found.slot >= 0) else None
