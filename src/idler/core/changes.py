"""What differs between two machines, in words."""

from __future__ import annotations

from dataclasses import dataclass

from .machine import Address, Machine


@dataclass(frozen=True)
class Difference:
    address: Address
    label: str
    before: str
    after: str

    def __str__(self) -> str:
        return f"{self.label} {self.before} → {self.after}"


def differences(before: Machine, after: Machine) -> list[Difference]:
    """Every value of `after` that is not the same in `before`, as the screen of `after` shows it."""
    found = []
    for address in after.differences(before):
        old = "—"
        if address.slot is None or address.slot < len(before.names):
            old = address.row.show(before[address], rotary=before.is_rotary(address), inch=after.inch)
        found.append(Difference(address, after.part(address), old, after.show(address)))
    return found


def address_text(machine: Machine, address: Address) -> str:
    """ "X.chain.pitch", or "names.machine" for a value of the machine itself."""
    return address.key if address.slot is None else f"{machine.names[address.slot]}.{address.key}"


def address_from(machine: Machine, text: str) -> Address | None:
    """The address that such a text means, or None where this machine has none of it."""
    name, dot, key = text.partition(".")
    found = Address(machine.names.index(name), key) if name in machine.names and dot else Address(None, text)
    try:
        found.row  # noqa: B018  raises where there is no such row
    except KeyError:
        return None
    return found
