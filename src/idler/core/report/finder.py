"""Finding anything by its word: values, proofs, findings, what is next, index stops, own actions, and whatever else is given.

An entry is found by every word that is typed: at the begin of its name first, then within it, then in its other words (its key,
its object on the wire, its help). No index is kept: some thousand short texts are looked through in a few milliseconds.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from enum import Enum
from functools import cached_property

from ..machine import Address, Machine
from ..profile.codec import place
from ..proof.claims import Evidence, claims, state
from ..rules.actions import actions_of
from ..rules.findings import Finding
from ..table.stations import Station, Tab
from ..wiring.indexing import indexed, stops_of_axis
from ..words import capital
from .agenda import WAYS, Step, way_of
from .progress import groups_at, station_of

MOST = 40  # that are shown


class Sort(Enum):
    """What an entry is: its word."""

    VALUE = "value"
    PROOF = "proof"
    FINDING = "to settle"
    STEP = "to do"
    STATION = "station"
    PAGE = "page"
    COMMAND = "command"
    STOP = "index stop"
    ACTION = "own action"
    HELP = "help"


@dataclass(frozen=True)
class Entry:
    """now: what it is at present. more: other words by which it is found. address, step, command, help (the key of a
    page): what it leads to."""

    sort: Sort
    name: str
    now: str = ""
    more: str = ""
    station: Station | None = None
    page: str = ""
    address: Address | None = field(default=None, compare=False)
    step: Step | None = field(default=None, compare=False)
    command: str = ""
    help: str = ""

    @cached_property
    def _name(self) -> str:
        return self.name.lower()

    @cached_property
    def _all(self) -> str:
        return f"{self.name} {self.sort.value} {self.more} {self.now}".lower()

    def rank(self, words: Sequence[str]) -> int | None:
        """The better the smaller; None where a word is not there."""
        worst = 0
        for word in words:
            if self._name.startswith(word):
                found = 0
            elif f" {word}" in self._name:
                found = 1
            elif word in self._name:
                found = 2
            elif word in self._all:
                found = 3
            else:
                return None
            worst += found
        return worst


def find(entries: Iterable[Entry], typed: str, most: int = MOST) -> list[Entry]:
    """Those that have all words that are typed, the best first; nothing typed finds nothing."""
    words = typed.lower().split()
    if not words:
        return []
    ranked = [(rank, place, entry) for place, entry in enumerate(entries) if (rank := entry.rank(words)) is not None]
    return [entry for _, _, entry in sorted(ranked, key=lambda item: item[:2])[:most]]


def values(machine: Machine) -> Iterator[Entry]:
    """Every value that can be edited and is in use, with the object that it lies in."""
    stations = {group: station for station in Station for group in groups_at(station)}
    for address in machine.addresses():
        row = address.row
        if row.given or (address.axis is not None and not machine.axis(address.axis).uses(row)):
            continue
        more = f"{row.key} {place(address)} {row.what} {row.find}"
        yield Entry(
            Sort.VALUE, capital(machine.part(address)), machine.show(address), more, stations.get(row.group), address=address
        )  # fmt: skip


def proofs(machine: Machine, kept: Mapping[str, Evidence]) -> Iterator[Entry]:
    for claim in claims(machine):
        way = WAYS[way_of(claim)]
        yield Entry(
            Sort.PROOF, capital(claim.label), state(machine, claim, kept).words, f"{claim.key} {way.procedure}",
            way.at or claim.station,
            way.page,
        )  # fmt: skip


def others(machine: Machine, found: Sequence[Finding], steps: Sequence[Step]) -> Iterator[Entry]:
    """Findings, steps that are left, index stops and own actions."""
    for item in found:
        yield Entry(Sort.FINDING, item.text, item.severity.value, item.place, station_of(item), address=item.where)
    for step in steps:
        yield Entry(
            Sort.STEP,
            step.text,
            step.skipped,
            f"{step.key} {step.procedure} {step.why}",
            step.station,
            step.page,
            step=step,
        )
    for axis in indexed(machine):
        for number, stop in enumerate(stops_of_axis(axis), start=1):
            at = axis.reads.length(stop.at, trim=True)
            yield Entry(
                Sort.STOP, f"{axis.name} stop {stop.title(number)}", at, "turret", Station.TRIAL, Tab.INDEX_STOPS
            )
    for action in actions_of(machine):
        yield Entry(Sort.ACTION, action.name, action.event.words, "sequence", Station.TRIAL, Tab.ACTIONS)
