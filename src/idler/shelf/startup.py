"""Values that a machine's controller is given at each connect and does not store: by address, as text with units.

DIR/startup/NAME.toml
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from idler.core.machine import Address, Machine, filedata
from idler.core.machine.changes import address_from, address_text
from idler.core.values.parameter import Value

from .files import read_text, understood, write_text


def read(path: Path, machine: Machine) -> dict[Address, Value]:
    """Those that this machine has. Raises IdlerError where the file, or a value in it, cannot be understood."""
    if not path.exists():
        return {}
    found: dict[Address, Value] = {}
    with understood("values for each connect", path, "None was set."):
        for key, text in filedata.toml(read_text(path)).get("connect", {}).items():
            address = address_from(machine, key)
            if address is not None:
                found[address] = address.row.read(
                    str(text), rotary=machine.is_rotary(address), part=machine.part(address)
                )
    return found


def write(path: Path, machine: Machine, values: Mapping[Address, Value]) -> None:
    """On the disk when this returns."""
    import tomlkit

    document = tomlkit.document()
    document.add(tomlkit.comment("Set at each connect, and not stored by the controller."))
    shown = {
        address_text(machine, address): address.row.write(value, rotary=machine.is_rotary(address))
        for address, value in values.items()
    }
    document.add("connect", shown)
    write_text(path, tomlkit.dumps(document))
