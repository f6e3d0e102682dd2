"""What a flight record shows in words: every change of an input, of an axis's power and motion, of the spindle, with its time.

Times are seconds, 0 at the sample in which the controller saw the stop. The order within one sample (5 ms) is not known
from the record; there, an input comes before what the controller made of it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ..machine import Machine
from ..profile.flight import Flag, FlightRecord
from ..profile.terminals import Condition
from ..values.roles import InputRole
from ..wiring import inputs


@dataclass(frozen=True)
class Happening:
    """at: seconds from the stop. input or axis: the slot that it happened to. rank: its place within one sample."""

    at: float
    words: str
    input: int | None = None
    axis: int | None = None
    rank: int = 0


def happenings(machine: Machine, record: FlightRecord) -> list[Happening]:
    """Every change of an input, of an axis's power and motion, of the spindle, in the order of time."""
    found = [*_of_inputs(machine, record), *_of_spindle(record)]
    for slot in range(min(record.axes, len(machine.names))):
        found += _of_axis(machine, record, slot)
    return sorted(found, key=lambda item: (item.at, item.rank))


def _edges(levels: np.ndarray) -> Iterator[tuple[int, bool]]:
    """Samples at which a level is another one than before, with the new level."""
    flat = levels.astype(bool)
    for k in np.flatnonzero(flat[1:] != flat[:-1]) + 1:
        yield int(k), bool(flat[k])


def _of_inputs(machine: Machine, record: FlightRecord) -> Iterator[Happening]:
    for item in inputs(machine):
        if item.role in (InputRole.PULSE, InputRole.INDEX):
            continue  # they pass with every turn
        for k, closed in _edges(record.samples["closed"] >> np.uint32(item.slot) & 1):
            yield Happening(
                at_sample(record, k), f"input {item.name}, {item.duty.label}: {item.says(closed)}", input=item.slot
            )


def _of_spindle(record: FlightRecord) -> Iterator[Happening]:
    for k, on in _edges(record.samples["conditions"] & int(Condition.SPINDLE)):
        yield Happening(at_sample(record, k), f"spindle: told to {'turn' if on else 'stop'}", rank=2)


def _of_axis(machine: Machine, record: FlightRecord, slot: int) -> Iterator[Happening]:
    name, flags = machine.names[slot], record.samples["flags"][:, slot]
    for flag, on_words, off_words, rank in (
        (Flag.POWERED, "power on", "power lost", 2), (Flag.MOVING, "motion begins", "at rest", 4),
        (Flag.STOPPING, "stop begins", "", 3), (Flag.HOMED, "home found", "home lost", 3),
    ):  # fmt: skip
        for k, on in _edges(flags & int(flag)):
            words = on_words if on else off_words
            if words:
                yield Happening(at_sample(record, k), f"{name}: {words}", axis=slot, rank=rank)
    window = machine.axis(slot).number("loop.window")
    if window > 0:
        for k, over in _edges(np.abs(record.samples["lag"][:, slot]) / 1000 > float(window)):
            if over:
                shown = machine.axis(slot).reads.length(window, trim=True)
                yield Happening(at_sample(record, k), f"{name}: more than {shown} behind", axis=slot, rank=1)


def at_sample(record: FlightRecord, sample: int) -> float:
    return round((sample - record.moment) * record.period, 6)


def together(listed: list[Happening]) -> list[Happening]:
    """Axes to which the same happened in one sample become one happening, of the first of them."""
    found: dict[tuple[float, int, str], Happening] = {}
    for item in listed:
        name, _, what = item.words.partition(": ")
        key = (item.at, item.rank, what if item.axis is not None else item.words)
        before = found.get(key)
        names = f"{before.words.partition(': ')[0]} {name}" if before is not None else name
        found[key] = replace(before, words=f"{names}: {what}") if before is not None else item
    return list(found.values())
