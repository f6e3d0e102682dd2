"""How far each station of the train has come. Derived; nothing here is stored."""

from __future__ import annotations

from collections.abc import Mapping

from ..machine import Machine
from ..proof.claims import Evidence, Proof, claims, state
from ..rules.findings import Finding, Severity, findings
from ..table.stations import Station

_GROUPS = {
    "signals": Station.WIRING, "input": Station.WIRING, "output": Station.WIRING, "spindle": Station.SPINDLE,
    "axis": Station.DRIVES, "chain": Station.DRIVES, "pace": Station.DRIVES, "loop": Station.DRIVES,
    "build": Station.DRIVES, "play": Station.DRIVES, "motor": Station.DRIVES, "frame": Station.DRIVES,
    "travel": Station.TRAVEL, "homing": Station.HOMING, "range": Station.SPINDLE, "oil": Station.SPINDLE,
    "actions": Station.TRIAL, "index": Station.TRIAL,
}  # fmt: skip


def station_of(item: Finding) -> Station | None:
    """Where a finding is settled."""
    return _GROUPS.get(item.where.row.group)


def groups_at(station: Station) -> frozenset[str]:
    """The groups of the table that are worked on at a station."""
    return frozenset(group for group, at in _GROUPS.items() if at is station)


def shares(machine: Machine, kept: Mapping[str, Evidence]) -> dict[Station, tuple[int, int]]:
    """Of each station that has claims: how many of them are proven, and how many there are."""
    found: dict[Station, tuple[int, int]] = {}
    for claim in claims(machine):
        proven, number = found.get(claim.station, (0, 0))
        found[claim.station] = proven + (state(machine, claim, kept) is Proof.PROVEN), number + 1
    return found


def _entered(machine: Machine) -> frozenset[Station]:
    """The stations of which something was told."""
    told = [
        address.row
        for address, value in machine.changed.items()
        if machine.shape.has(address) and value != address.row.default
    ]
    return frozenset(_GROUPS[row.group] for row in told if row.group in _GROUPS and not row.given)


def train(
    machine: Machine, *, connected: bool, found_kept: bool, kept: Mapping[str, Evidence] | None = None
) -> dict[Station, Proof]:
    """The state of every station. What holds back sending, or a failed proof, shows as failed.

    A station is proven when all its claims are, and nothing that it needs is missing.
    """
    states = dict.fromkeys(Station, Proof.NOTHING) | dict.fromkeys(machine.once(_entered), Proof.ENTERED)
    by_claim: dict[Station, set[Proof]] = {}
    for claim in claims(machine):
        by_claim.setdefault(claim.station, set()).add(state(machine, claim, kept or {}))
    for at, found in by_claim.items():
        states[at] = next(worst for worst in (Proof.FAILED, Proof.STALE, Proof.ENTERED, Proof.PROVEN) if worst in found)
    for item in findings(machine):
        station = station_of(item)
        if station is None or item.severity is not Severity.ERROR:
            continue
        if item.holds_back:
            states[station] = Proof.FAILED
        elif states[station] is Proof.PROVEN:
            states[station] = Proof.ENTERED
    if connected:
        states[Station.LINK] = Proof.PROVEN if found_kept else Proof.ENTERED
    return states
