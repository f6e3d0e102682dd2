"""Two machines side by side: by part, only what differs or everything, with values as the screen shows them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..machine import Address, Machine
from ..machine.changes import same_place
from ..proof.claims import Claim, claims
from ..values.parameter import Scope, Value

NOT_THERE = "—"


@dataclass(frozen=True)
class ComparedLine:
    """One value of both. first and second are the places where each has it, or None; texts are of the screen."""

    label: str
    first: Address | None
    second: Address | None
    first_text: str
    second_text: str
    differs: bool


@dataclass(frozen=True)
class ComparedPart:
    """One part of the machines ("machine", "X", "input 3") with its lines."""

    name: str
    lines: tuple[ComparedLine, ...]

    @property
    def only(self) -> str:
        """ "first" or "second" where only that machine has this part, else nothing."""
        if all(line.second is None for line in self.lines):
            return "first"
        return "second" if all(line.first is None for line in self.lines) else ""

    @property
    def differing(self) -> int:
        return sum(line.differs for line in self.lines)


def part_name(machine: Machine, address: Address) -> str:
    """What a value belongs to, in a word or two."""
    if address.slot is None:
        return "machine"
    scope = address.row.scope
    if scope is Scope.AXIS:
        return machine.names[address.slot]
    if scope is Scope.RANGE:
        return f"range {address.slot + 1}"
    return f"{scope.value} {machine[Address(address.slot, scope.value + '.terminal')]}"


def compared(first: Machine, second: Machine, *, everything: bool = False) -> list[ComparedPart]:
    """Parts in the order of the first machine, then those that only the second has.

    Axes are the same where their letters are, whatever their place; terminals and ranges where their places are.
    """
    found: dict[str, list[ComparedLine]] = {}
    for line, part in (*_of_first(first, second), *_of_second_only(first, second)):
        if line.differs or everything:
            found.setdefault(part, []).append(line)
    return [ComparedPart(name, tuple(lines)) for name, lines in found.items()]


def proofs_between(first: Machine, second: Machine) -> list[Claim]:
    """What rests on a value that differs: a proof of the one is none for the other."""
    return [
        claim
        for claim in claims(first)
        if any(
            (there := same_place(second, first, address)) is None or first[address] != second[there]
            for address in claim.rests
        )
    ]


def _of_first(first: Machine, second: Machine) -> Iterator[tuple[ComparedLine, str]]:
    for address in first.addresses():
        there = same_place(second, first, address)
        before = first.show(address)
        after = _shown(second, there, first.inch) if there is not None else NOT_THERE
        differs = there is None or first[address] != second[there]
        yield ComparedLine(address.row.label, address, there, before, after, differs), part_name(first, address)


def _of_second_only(first: Machine, second: Machine) -> Iterator[tuple[ComparedLine, str]]:
    for address in second.addresses():
        if same_place(first, second, address) is None:
            shown = _shown(second, address, first.inch)
            yield ComparedLine(address.row.label, None, address, NOT_THERE, shown, True), part_name(second, address)


def _shown(machine: Machine, address: Address, inch: bool) -> str:
    """In the unit of the first machine's screen, so that both columns can be read against one another."""
    return address.row.show(machine[address], rotary=machine.is_rotary(address), inch=inch)


def taken_over(
    into: Machine, source: Machine, lines: tuple[ComparedLine, ...], *, from_first: bool = False
) -> dict[Address, Value]:
    """The values of some lines as edits of `into`, which is the first machine; from_first turns it round.

    What the controller says of itself and what `into` has no place for stays out.
    """
    found: dict[Address, Value] = {}
    for line in lines:
        here, there = (line.second, line.first) if from_first else (line.first, line.second)
        if here is not None and there is not None and not here.row.given:
            found[here] = source[there]
    return found


def as_json(parts: list[ComparedPart]) -> list[dict[str, object]]:
    return [
        {"part": part.name, "values": [{"label": line.label, "first": line.first_text, "second": line.second_text}
                                       for line in part.lines]}
        for part in parts
    ]  # fmt: skip
