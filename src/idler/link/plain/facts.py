"""What the parts say of themselves, and what was seen of each: nothing here is told to them."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

from idler.core.controller.parts import PartCondition, PartFacts
from idler.core.machine import Address
from idler.core.profile import cia402 as c
from idler.core.profile.codec import Place, Raw, encode, place
from idler.core.profile.eds import STORE_FORMAT, STORED
from idler.core.profile.makersheet import LONGEST
from idler.core.profile.partunits import Told
from idler.core.table import INPUT, MACHINE, OUTPUT, part_index

from ..errors import WriteRefused

if TYPE_CHECKING:
    from idler.core.values.parameter import Value

    from .client import Client
    from .part import Part

_OF_LEVELS: dict[str, Value] = {"output.kind": "voltage", "output.own_volts": Fraction(10)}


def given(client: Client) -> dict[Place, Raw]:
    """What the parts say of themselves: that they are parts, and the names of their terminals."""
    kind = MACHINE["build.controller"]
    found: dict[Place, Raw] = {Place(kind.wire.index, kind.wire.sub): kind.choice("parts").raw}
    for names, parts, screws in (
        (INPUT["input.terminal"], INPUT["input.part"], client.terminals.ins),
        (OUTPUT["output.terminal"], OUTPUT["output.part"], client.terminals.outs),
    ):
        for slot, screw in enumerate(screws):
            found[Place(part_index(names, slot), names.wire.sub)] = screw.name
            found[Place(part_index(parts, slot), parts.wire.sub)] = screw.part.identity.mark
            if screw.level:
                found |= {place(Address(slot, key)): encode(OUTPUT[key], value) for key, value in _OF_LEVELS.items()}
    for axis in client.drawn:
        found[place(Address(axis.slot, "axis.part"))] = axis.part.identity.mark
    if client.turning is not None:
        found[place(Address(None, "spindle.part"))] = client.turning.part.identity.mark
    return found


def part_facts(client: Client) -> tuple[PartFacts, ...]:
    """What was seen of each part until now."""
    axes = {axis.part.node: axis for axis in client.drawn}
    return tuple(
        PartFacts(
            part.identity, axes[node].slot if node in axes else None, axes[node].told if node in axes else Told(),
            part.sizes, part.missing, "" if node in axes else client.parts.role(node),
        )
        for node, part in client.by_node.items()
    )  # fmt: skip


def condition_of(client: Client, node: int) -> PartCondition:
    """How a part is now, as far as it says; of a drive of an axis its following error, too, in mm (°)."""
    part = client.by_node[node]
    axis = next((axis for axis in client.drawn if axis.part is part), None)
    supply, effort = part.read_if_there((c.SUPPLY, 0)), part.read_if_there((c.TORQUE, 0), signed=True)
    lag = part.read_if_there((c.FOLLOWING_ERROR, 0), signed=True) if axis is not None else None
    return PartCondition(
        supply / 1000 if supply is not None else None,
        effort / 1000 if effort is not None else None,
        lag / float(axis.units.place) if lag is not None and axis is not None else None,
        part.read_if_there((c.ERROR_CODE, 0)) or 0,
    )


def sheet_of(part: Part) -> str:
    """The data sheet that a part itself holds (1021h, CiA 301 7.5.2.21). Raises WriteRefused where it holds none."""
    if part.read_if_there((STORE_FORMAT, 0)):
        raise WriteRefused(f"{part.called} holds a data sheet that its maker packed in a way of his own.")
    data = part.bytes_of((STORED, 0), "its data sheet", LONGEST)
    return data.decode("utf-8", "replace")
