"""The filter study: how long false pulses are, what filter forgives them, what it costs in distance, and whether all inputs
stay quiet.

A false pulse is an excursion from the level of rest that is too short for a hand or a carriage. Filter proposed: twice the
longest one seen, rounded up to a figure that a person would write. Cost: an input that answers t later has travelled v·t.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..machine import Machine
from ..values.roles import InputRole
from ..values.units import figure, several
from ..words import capital, listed
from . import Input, inputs

LONGEST_FALSE = 20_000  # µs; a hand or a slow carriage stays longer
LEAST_FILTER = Fraction(1, 10)  # ms
MOST_FILTER = Fraction(100)
TIMES = 2


@dataclass(frozen=True)
class Study:
    """What one input did while it was recorded. widths in µs, ascending; touches are excursions too long to be false."""

    widths: tuple[int, ...]
    touches: int
    seconds: float

    @property
    def longest(self) -> int:
        """µs; 0 where there was no false pulse."""
        return self.widths[-1] if self.widths else 0

    @property
    def shortest(self) -> int:
        return self.widths[0] if self.widths else 0

    @property
    def proposal(self) -> Fraction | None:
        """The filter in ms, or None where nothing was seen that needs one, or nothing would be enough."""
        if not self.widths:
            return None
        wanted = rounded_up(Fraction(TIMES * self.longest, 1000))
        return max(LEAST_FILTER, wanted) if wanted <= MOST_FILTER else None

    def passing(self, filter_ms: Fraction) -> int:
        """How many of the pulses a filter would let through to the role."""
        return sum(width >= filter_ms * 1000 for width in self.widths)

    def histogram(self, bins: int, highest: float) -> list[int]:
        """Numbers of pulses in equal bins from 0 to `highest` µs; longer ones count in the last."""
        found = [0] * bins
        for width in self.widths:
            found[min(bins - 1, int(width / highest * bins))] += 1
        return found


def study(times: Sequence[int], closed: Sequence[int], rest: int, start: int, end: int) -> Study:
    """Edges of one input in µs with the level after each, its level at rest (0 open, 1 closed), start and end of the record."""
    widths: list[int] = []
    touches = 0
    left: int | None = None
    for time, level in zip(times, closed, strict=True):
        if not start <= time <= end:
            continue
        if level != rest and left is None:
            left = int(time)
        elif level == rest and left is not None:
            width = int(time) - left
            if width <= LONGEST_FALSE:
                widths.append(width)
            else:
                touches += 1
            left = None
    if left is not None and end - left > LONGEST_FALSE:
        touches += 1
    return Study(tuple(sorted(widths)), touches, (end - start) / 1e6)


def rounded_up(ms: Fraction) -> Fraction:
    """The next figure that a person would write: tenths below 2, halves below 10, whole ones above."""
    step = Fraction(1, 10) if ms <= 2 else Fraction(1, 2) if ms <= 10 else Fraction(1)
    return -(-ms // step) * step


def cost(speed: Fraction, filter_ms: Fraction) -> Fraction:
    """How far an axis goes (mm or °) during the filter's time at a speed in mm/min (or °/min)."""
    return speed / 60_000 * filter_ms


def studied(machine: Machine) -> list[Input]:
    """The inputs that a false pulse would mislead: those with a role that is not made of short pulses itself."""
    return [item for item in inputs(machine) if item.role is not InputRole.NONE and not item.role.pulses]


def proposals(machine: Machine, studies: Mapping[int, Study]) -> dict[int, Fraction]:
    """Filters in ms that were found longer than the ones that are set, by the slot of the input."""
    found = {item: studies[item.slot].proposal for item in studied(machine) if item.slot in studies}
    return {item.slot: ms for item, ms in found.items() if ms is not None and ms > item.filter}


def quiet(machine: Machine, studies: Mapping[int, Study]) -> tuple[bool, str]:
    """Whether the filters that are set let nothing through of what was recorded, and what is said of it."""
    found = [(item, studies[item.slot]) for item in studied(machine) if item.slot in studies]
    said = [_heard(item, seen) for item, seen in found if seen.widths]
    touched = [f"{capital(item.duty.label)}, input {item.name}" for item, seen in found if seen.touches]
    if touched:
        said.append(
            f"{listed(touched)} changed for longer than a false pulse does: record while nobody touches anything."
        )
    held = not touched and not any(seen.passing(item.filter) for item, seen in found)
    return held, " ".join(said) or "No input picked up anything."


def _heard(item: Input, found: Study) -> str:
    """Of one input that picked something up."""
    begin = f"{capital(item.duty.label)}, input {item.name}, picked up {several(len(found.widths), 'pulse')}"
    passing = found.passing(item.filter)
    if not passing:
        return f"{begin}; its filter of {milliseconds(item.filter)} lets none through."
    through = f"{begin}, the longest of {found.longest / 1000:.2f} ms; {passing} pass its filter of"
    if found.proposal is None:
        return f"{through} {milliseconds(item.filter)}, and none is long enough: look for a loose wire."
    return f"{through} {milliseconds(item.filter)}, and {milliseconds(found.proposal)} would let none through."


def milliseconds(value: Fraction) -> str:
    return f"{figure(value, 2, trim=True)} ms"
