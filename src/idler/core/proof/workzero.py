"""Work zeros: where jobs on the table begin, and on which values those places rest. Stale is worked out, never stored.

There are six (ISO 6983-1: G54 to G59); of each of them every axis may have a place, or none.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from ..errors import Refusal
from ..machine import Machine
from .claims import value_texts, work_rests

COUNT = 6
CODES = tuple(f"G{54 + number}" for number in range(COUNT))
LONGEST_NAME = 24


@dataclass(frozen=True)
class WorkZero:
    """The place of one axis. at: a machine coordinate in mm (°). rests: texts of values by the texts of their addresses, as
    they were when it was taken."""

    at: float
    rests: Mapping[str, str] = field(default_factory=dict)


def taken(machine: Machine, slot: int, at: float) -> WorkZero:
    """A work zero of an axis at a machine coordinate. machine: what is in force."""
    return WorkZero(at, value_texts(machine, work_rests(machine, slot)))


def stale(machine: Machine, slot: int, zero: WorkZero) -> bool:
    """Whether the coordinate means another place now: home, train or direction are others than when it was taken.

    One that was kept before its rests were is believed until it is taken anew.
    """
    return bool(zero.rests) and dict(zero.rests) != value_texts(machine, work_rests(machine, slot))


def tidy_name(part: str, name: str) -> str:
    """On one line, without room around it. Raises Refusal where it is too long, or not to be printed."""
    text = " ".join(name.split())
    if len(text) > LONGEST_NAME or not text.isprintable():
        raise Refusal(part, f"“{text[:40]}”", "is too long", f"{LONGEST_NAME} signs at most")
    return text


Places = Mapping[str, Mapping[int, WorkZero]]  # by axis letter, then by number from 0


@dataclass(frozen=True)
class WorkSet:
    """All six. names: what the person calls them, by number. shown: which of them is chosen, 0 to 5."""

    places: Places = field(default_factory=dict)
    names: Mapping[int, str] = field(default_factory=dict)
    shown: int = 0

    def of(self, axis: str, number: int | None = None) -> WorkZero | None:
        """The place of an axis; number None: of the one that is shown."""
        return self.places.get(axis, {}).get(self.shown if number is None else number)

    def at(self, number: int) -> dict[str, WorkZero]:
        """The places of one of them by axis letter."""
        return {axis: kept[number] for axis, kept in self.places.items() if number in kept}

    def title(self, number: int) -> str:
        name = self.names.get(number, "")
        return f"{CODES[number]} {name}".rstrip()

    def put(self, number: int, zeros: Mapping[str, WorkZero | None]) -> WorkSet:
        """With other places of one of them; None: no place any more."""
        places = {axis: dict(kept) for axis, kept in self.places.items()}
        for axis, zero in zeros.items():
            kept = places.setdefault(axis, {})
            if zero is None:
                kept.pop(number, None)
            else:
                kept[number] = zero
        return replace(self, places={axis: kept for axis, kept in places.items() if kept})

    def copied(self, source: int, target: int) -> WorkSet:
        """The target with all places of the source, and no others."""
        none: dict[str, WorkZero | None] = dict.fromkeys(self.at(target))
        return self.put(target, {**none, **self.at(source)})

    def named(self, number: int, name: str) -> WorkSet:
        """Raises Refusal where the name is too long or not of one line."""
        text = tidy_name("name of a work zero", name)
        names = {key: kept for key, kept in self.names.items() if key != number}
        return replace(self, names={**names, number: text} if text else names)

    def valid(self, machine: Machine) -> dict[int, dict[str, float]]:
        """Machine coordinates by number and axis letter, of places that are not stale on what is in force."""
        found: dict[int, dict[str, float]] = {}
        for axis, kept in self.places.items():
            if axis in machine.names:
                slot = machine.names.index(axis)
                for number, zero in kept.items():
                    if not stale(machine, slot, zero):
                        found.setdefault(number, {})[axis] = zero.at
        return found
