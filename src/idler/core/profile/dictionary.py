"""The object dictionary of the canopen package, made from the entries: the same for both ends of the wire."""

from __future__ import annotations

from typing import Any

from canopen import objectdictionary as od

from ..values.parameter import WireType
from .objects import Entry


def dictionary(entries: list[Entry], node: int) -> Any:
    """A canopen.ObjectDictionary for node number `node` (1 to 15)."""
    made = od.ObjectDictionary()
    made.node_id = node
    by_index: dict[int, list[Entry]] = {}
    for entry in entries:
        by_index.setdefault(entry.index, []).append(entry)
    for index, group in by_index.items():
        if len(group) == 1 and group[0].sub == 0:
            made.add_object(_variable(group[0], node, group[0].title))
            continue
        record = od.ODRecord(group[0].title, index)
        for entry in group:
            record.add_member(_variable(entry, node, entry.name))
        made.add_object(record)
    return made


def _variable(entry: Entry, node: int, name: str) -> Any:
    variable = od.ODVariable(name, entry.index, entry.sub)
    variable.data_type = entry.type.code
    variable.access_type = entry.access
    variable.pdo_mappable = entry.mappable
    default = b"" if entry.type is WireType.DOMAIN else entry.default
    variable.default = default + node if entry.node_offset and isinstance(default, int) else default
    variable.value = variable.default
    return variable
