"""What the margin says: of the value that has the focus, or of the station; then what is to settle. Pure, in lines."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import Enum
from typing import TypeAlias

from ..controller.standing import Change, Standing, consequences
from ..machine import Address, Machine
from ..proof.claims import Claim, Evidence, Proof, claims, staled, state
from ..rules.findings import Finding, Severity
from ..table.stations import Station
from ..values.parameter import Value
from ..wiring.tool import station_label, station_proves
from ..words import capital
from .progress import station_of

FINDINGS, CLAIMS = 6, 9  # at most so many are listed; the others are counted
_MARKS = {Severity.ERROR: "■", Severity.WARNING: "▲", Severity.NOTE: "·"}
_LEFT_FIRST = (Proof.FAILED, Proof.STALE, Proof.ENTERED, Proof.PROVEN)


class Tone(Enum):
    """How a line is said."""

    TITLE = "title"
    HEADING = "heading"
    SOFT = "soft"
    SMALL = "small"
    WARN = "warn"


@dataclass(frozen=True)
class Text:
    words: str
    tone: Tone


@dataclass(frozen=True)
class Rule:
    """A hairline between two parts."""


@dataclass(frozen=True)
class OnAxis:
    """The value on one axis."""

    axis: str
    value: str
    edited: bool


@dataclass(frozen=True)
class Claimed:
    """A claim with where it stands."""

    words: str
    state: Proof


@dataclass(frozen=True)
class Found:
    """A finding, which has a page of the help."""

    finding: Finding

    @property
    def words(self) -> str:
        return f"{_MARKS[self.finding.severity]} {self.finding.text}"

    @property
    def tone(self) -> Tone:
        return Tone.SOFT if self.finding.severity is Severity.NOTE else Tone.WARN


@dataclass(frozen=True)
class Settled:
    """A finding that Idler can settle itself."""

    finding: Finding


Line: TypeAlias = Text | Rule | Change | OnAxis | Claimed | Found | Settled


@dataclass(frozen=True)
class Facts:
    """in_controller: what it holds, or the newest revision where none is connected. in_force: without what waits."""

    machine: Machine
    in_controller: Machine
    in_force: Machine
    connected: bool
    standings: Mapping[Address, Standing]  # of the value that has the focus, on every axis
    kept: Mapping[str, Evidence]
    findings: Sequence[Finding]
    offered: Mapping[Address, Value] = field(default_factory=dict)  # what a measurement came to, and could be taken


def aside(facts: Facts, station: Station, focus: Address | None) -> tuple[Line, ...]:
    """focus: the value that has it, or None."""
    to_settle = _to_settle(facts, station)
    if focus is not None and facts.machine.shape.has(focus):
        return (*_about_value(facts, focus), *to_settle)
    machine = facts.machine
    head = Text(station_label(machine, station), Tone.TITLE), Text(station_proves(machine, station), Tone.SOFT)
    return (*head, *_if_taken(facts), *to_settle, *_about_station(facts, station))


def _if_taken(facts: Facts) -> list[Line]:
    """What would change, derived values included, and what is to be proven again."""
    machine = facts.machine
    offered = {at: value for at, value in facts.offered.items() if machine.shape.has(at) and machine[at] != value}
    if not offered:
        return []
    after = machine.with_values(offered)
    lines: list[Line] = [Rule(), Text("If you take what was found", Tone.HEADING)]
    for address in offered:
        lines.append(Change(capital(machine.part(address)), machine.show(address), after.show(address)))
        if address.axis is not None:
            lines += consequences(machine, after, address.axis)
    again = [claim.label for claim in staled(machine, after, facts.kept)]
    if again:
        lines.append(Text(f"Prove again after sending, for it rests on this: {', '.join(again)}.", Tone.WARN))
    return lines


def _about_station(facts: Facts, station: Station) -> list[Line]:
    lines: list[Line] = []
    listed = [(claim, state(facts.machine, claim, facts.kept)) for claim in claims(facts.machine)]
    here = [(claim, found) for claim, found in listed if claim.station is station]
    if here:
        lines += _proven(here)
    lines.append(
        Text("Click a value to read what it is, how to find it, and what would change if it is sent.", Tone.SMALL)
    )
    return lines


def _proven(here: Sequence[tuple[Claim, Proof]]) -> list[Line]:
    """What is left to prove at a station, and what is proven."""
    number = sum(found is Proof.PROVEN for _, found in here)
    ordered = sorted(here, key=lambda item: _LEFT_FIRST.index(item[1]))
    lines: list[Line] = [Rule(), Text(f"{number} of {len(here)} proven here", Tone.HEADING)]
    lines += [Claimed(capital(claim.label), found) for claim, found in ordered[:CLAIMS]]
    if len(ordered) > CLAIMS:
        lines.append(Text(f"and {len(ordered) - CLAIMS} more, at Sign-off", Tone.SMALL))
    return [*lines, Rule()]


def _about_value(facts: Facts, address: Address) -> list[Line]:
    row, machine = address.row, facts.machine
    said = machine.reads.said
    lines: list[Line] = [
        Text(capital(machine.part(address)), Tone.TITLE), Text(said(row.what), Tone.SOFT),
        Text(f"How to find it: {said(row.find)}", Tone.SMALL), Rule(),
    ]  # fmt: skip
    lines += _if_sent(facts, address)
    if address.axis is not None:
        lines += [Rule(), Text("The same on every axis", Tone.HEADING)]
        lines += [
            OnAxis(name, _used(machine, slot, address), facts.standings[Address(slot, address.key)] is Standing.EDITED)
            for slot, name in enumerate(machine.names)
        ]
    restart = (
        "Takes effect after a restart of the controller." if row.restart else "Takes effect when sent. No restart."
    )
    return [*lines, Rule(), Text(restart, Tone.SMALL)]


def _if_sent(facts: Facts, address: Address) -> list[Line]:
    """What would change, derived values and speeds included, and what is to be proven again."""
    machine, held, standing = facts.machine, facts.in_controller, facts.standings[address]
    edited = standing is Standing.EDITED or (not facts.connected and machine[address] != held[address])
    if not edited:
        lines: list[Line] = [Text(capital(standing.words) + ".", Tone.SOFT)]
        if standing is Standing.WAITING:
            lines.append(Text(f"In force until then: {facts.in_force.show(address)}.", Tone.SOFT))
        return lines
    same_axes = held.shape == machine.shape
    lines = [Text("If you send this" if facts.connected else "Since the last revision", Tone.HEADING)]
    lines.append(Change(address.row.label, held.show(address) if same_axes else "—", machine.show(address)))
    if address.axis is not None and same_axes:
        lines += consequences(held, machine, address.axis)
    touched = [claim for claim in claims(machine) if address in claim.rests]
    proven = [claim.label for claim in touched if claim.key in facts.kept]
    rests = proven or list(dict.fromkeys(station_label(machine, claim.station) for claim in touched))
    if rests:
        lines.append(Text(f"Prove again after sending, for it rests on this: {', '.join(rests)}.", Tone.WARN))
    return lines


def _used(machine: Machine, slot: int, address: Address) -> str:
    """The value on another axis, or what that axis has instead of it."""
    when = address.row.used_when
    if when is not None and not machine.axis(slot).uses(address.row):
        return machine.show(Address(slot, when[0]))
    return machine.show(Address(slot, address.key))


def _to_settle(facts: Facts, station: Station) -> list[Line]:
    """What is wrong at this station in full, at the others as a count."""
    by_station = Counter(station_of(item) for item in facts.findings)
    if not by_station:
        return []
    found = [item for item in facts.findings if station_of(item) is station]
    lines: list[Line] = [
        Rule(), Text(f"To settle here, {len(found)}" if found else "Nothing to settle here", Tone.HEADING)
    ]  # fmt: skip
    for item in found[:FINDINGS]:
        lines.append(Found(item))
        if item.edit:
            lines.append(Settled(item))
    if len(found) > FINDINGS:
        lines.append(Text(f"and {len(found) - FINDINGS} more", Tone.SMALL))
    others = [f"{at.label} {number}" for at, number in by_station.items() if at is not None and at is not station]
    if others:
        lines.append(Text(f"At other stations: {', '.join(others)}.", Tone.SMALL))
    return lines
