"""What stands in the printed report of a machine: every value with its unit, derivations, wiring, proofs, what is left.

Plain data; a template makes a page of it.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..machine import Address, Axis, Machine
from ..machine.finding import Finding
from ..mechanics.chain import Chain
from ..proof.claims import Evidence, Proof, claims, state
from ..proof.workzero import COUNT, WorkSet, stale
from ..rules.findings import findings
from ..travel import ends_of
from ..values.parameter import Kind
from ..values.units import figure
from ..wiring import inputs, outputs
from ..wiring.diagram import Diagram, diagram
from ..wiring.tool import station_label
from .compare import ComparedPart, compared


@dataclass(frozen=True)
class Mark:
    """Something on the drawing of an axis. at and to: shares of its length (to: of a stretch). kind names its sign."""

    kind: str
    label: str
    at: float
    to: float | None = None


@dataclass(frozen=True)
class AxisSheet:
    name: str
    kind: str
    limits_off: bool
    marks: tuple[Mark, ...]
    derivation: str
    counts: str
    one_count: str
    step_rate: str


@dataclass(frozen=True)
class WireRow:
    """A line of the wiring list."""

    terminal: str
    electrical: str
    role: str
    details: str


@dataclass(frozen=True)
class ProofLine:
    """when: seconds since 1970, or None where it was never tried. number: by which values name it."""

    number: int
    station: str
    label: str
    state: Proof
    when: float | None
    result: str


@dataclass(frozen=True)
class ZeroLine:
    """A work zero; places in machine coordinates. shown: whether it is the one that is chosen."""

    title: str
    places: str
    shown: bool


@dataclass(frozen=True)
class Report:
    title: str
    workshop: str
    kind: str
    axes: tuple[AxisSheet, ...]
    values: tuple[ComparedPart, ...]
    inputs: tuple[WireRow, ...]
    outputs: tuple[WireRow, ...]
    proofs: tuple[ProofLine, ...]
    findings: tuple[Finding, ...]
    diagram: Diagram
    proven_by: Mapping[Address, str]  # numbers of the proofs that hold and rest on a value
    zeros: tuple[ZeroLine, ...] = ()
    left_out: tuple[tuple[str, str], ...] = ()  # what is not proven on purpose, and why

    @property
    def limits_off(self) -> list[str]:
        """Axes whose soft limits are off: said at the very top."""
        return [axis.name for axis in self.axes if axis.limits_off]


def report(
    machine: Machine, kept: Mapping[str, Evidence], zeros: WorkSet | None = None, skips: Mapping[str, str] | None = None
) -> Report:
    """kept: the newest proof of each claim. zeros: of the jobs on the table, which are no part of the machine. skips: reasons
    of what is left out, by the keys of the steps."""
    own = {address.key: machine.show(address) for address in machine.addresses() if address.slot is None}
    return Report(
        machine.title, own["names.workshop"], own["build.kind"], tuple(_sheet(machine, axis) for axis in machine.axes),
        tuple(_values(machine)), _inputs(machine), _outputs(machine),
        tuple(_proofs(machine, kept)), tuple(findings(machine)), diagram(machine),
        _proven_by(machine, kept), tuple(_zeros(machine, zeros or WorkSet())),
        tuple(_left_out(machine, kept, skips or {})),
    )  # fmt: skip


def _left_out(machine: Machine, kept: Mapping[str, Evidence], skips: Mapping[str, str]) -> Iterator[tuple[str, str]]:
    for claim in claims(machine):
        if claim.key in skips and state(machine, claim, kept) is not Proof.PROVEN:
            yield claim.label, skips[claim.key]


def _zeros(machine: Machine, kept: WorkSet) -> Iterator[ZeroLine]:
    """Those that have a place of one of the machine's axes."""
    for number in range(COUNT):
        places = [
            f"{axis.name} {axis.reads.length(zero.at)}{' (stale)' if stale(machine, axis.slot, zero) else ''}"
            for axis in machine.axes
            if (zero := kept.of(axis.name, number)) is not None
        ]
        if places:
            yield ZeroLine(kept.title(number), ", ".join(places), number == kept.shown)


def _values(machine: Machine) -> list[ComparedPart]:
    """Every value that counts; those that belong to choices that were not made, and names that nobody told, stay out."""

    def counts(address: Address | None) -> bool:
        if address is not None and address.row.given and address.row.kind is Kind.TEXT:
            return machine[address] != address.row.default
        if address is None or address.row.used_when is None:
            return True
        key, *choices = address.row.used_when
        return str(machine[Address(address.slot, key)]) in choices

    parts = compared(machine, machine, everything=True)
    return [ComparedPart(part.name, tuple(line for line in part.lines if counts(line.first))) for part in parts]


def _sheet(machine: Machine, axis: Axis) -> AxisSheet:
    chain = Chain.of(axis)
    return AxisSheet(
        axis.name, axis.choice("axis.kind"), not axis.rotary and not axis.flag("travel.limits_on"),
        _marks(machine, axis) if not axis.rotary else (), chain.derivation,
        chain.counts_text, chain.resolution_text,
        f"{figure(float(chain.step_rate(axis.number('pace.top_speed'))) / 1000, 2)} kHz at top speed",
    )  # fmt: skip


def _marks(machine: Machine, axis: Axis) -> tuple[Mark, ...]:
    """Stops, limits, switch, home and parking place to scale."""
    ends = ends_of(machine, axis.slot)
    places: list[tuple[str, str, float, float | None]] = []
    if ends.stops is not None:
        places += [("stop", "hard stop", ends.stops[0], None), ("stop", "hard stop", ends.stops[1], None)]
    if ends.limits_on and ends.high > ends.low:
        places.append(("travel", "travel", ends.low, ends.high))
    for kind, label, place in (
        ("switch", "switch", ends.switch),
        ("home", "home", ends.home),
        ("park", "parks", ends.park),
    ):
        if place is not None:
            places.append((kind, label, place, None))
    every = [end for _, _, at, to in places for end in (at, to) if end is not None]
    if not every or max(every) == min(every):
        return ()
    low, span = min(every), max(every) - min(every)

    def words(label: str, at: float, to: float | None) -> str:
        return f"{label} {axis.reads.length(at, trim=True) if to is None else axis.reads.range(at, to)}"

    return tuple(
        Mark(kind, words(label, at, to), (at - low) / span, (to - low) / span if to is not None else None)
        for kind, label, at, to in places
    )


def _inputs(machine: Machine) -> tuple[WireRow, ...]:
    found = []
    for item in inputs(machine):
        kind = machine.show(Address(item.slot, "input.kind"))
        rest = "closed at rest" if item.closed_at_rest else "open at rest"
        details = f"{rest}, filter {figure(item.filter, 3, trim=True)} ms" if item.role.key != "none" else ""
        found.append(WireRow(item.name, kind, item.duty.label, details))
    return tuple(found)


def _outputs(machine: Machine) -> tuple[WireRow, ...]:
    found = []
    for out in outputs(machine):
        load = machine.show(Address(out.slot, "output.load"))
        power = f", {float(out.volts):g} V, {float(out.amps):g} A" if out.volts else ""
        inverted = ", on when released" if machine[Address(out.slot, "output.inverted")] else ""
        details = f"load {load}{power}{inverted}" if out.role.key != "none" else ""
        found.append(WireRow(out.name, out.kind.label, out.label, details))
    return tuple(found)


def _proofs(machine: Machine, kept: Mapping[str, Evidence]) -> list[ProofLine]:
    found = []
    for number, claim in enumerate(claims(machine), start=1):
        evidence = kept.get(claim.key)
        found.append(
            ProofLine(number, station_label(machine, claim.station), claim.label, state(machine, claim, kept),
                      evidence.when if evidence else None, f"{evidence.witness.words}: {evidence.result}" if evidence else "")
        )  # fmt: skip
    return found


def _proven_by(machine: Machine, kept: Mapping[str, Evidence]) -> dict[Address, str]:
    found: dict[Address, list[str]] = {}
    for number, claim in enumerate(claims(machine), start=1):
        if state(machine, claim, kept) is Proof.PROVEN:
            for address in claim.rests:
                found.setdefault(address, []).append(str(number))
    return {address: ", ".join(numbers) for address, numbers in found.items()}
