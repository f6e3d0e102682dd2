"""How far each station of the train has come. Derived; nothing here is stored."""

from __future__ import annotations

from enum import Enum

from .findings import Severity, findings
from .machine import Machine
from .stations import Station


class Proof(Enum):
    """key and words. Shown by shape and mark, not by colour alone."""

    NOTHING = ("nothing", "nothing yet")
    ENTERED = ("entered", "entered, not proven")
    PROVEN = ("proven", "proven")
    STALE = ("stale", "proven once; a value changed since")
    FAILED = ("failed", "something must be settled")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


_GROUPS = {
    "signals": Station.WIRING, "axis": Station.DRIVES, "chain": Station.DRIVES, "pace": Station.DRIVES,
    "loop": Station.DRIVES, "travel": Station.TRAVEL, "homing": Station.HOMING,
}  # fmt: skip


def groups_at(station: Station) -> frozenset[str]:
    """The groups of the table that are worked on at a station."""
    return frozenset(group for group, at in _GROUPS.items() if at is station)


def train(machine: Machine, *, connected: bool, found_kept: bool) -> dict[Station, Proof]:
    """The state of every station. A finding of severity error at a station's value shows as failed."""
    states = dict.fromkeys(Station, Proof.NOTHING)
    for address in machine.addresses():
        station = _GROUPS.get(address.row.group)
        if station is not None and machine[address] != address.row.default:
            states[station] = Proof.ENTERED
    for item in findings(machine):
        station = _GROUPS.get(item.where.row.group)
        if station is not None and item.severity is Severity.ERROR:
            states[station] = Proof.FAILED
    if connected:
        states[Station.LINK] = Proof.PROVEN if found_kept else Proof.ENTERED
    return states
