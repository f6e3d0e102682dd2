"""Where every axis is at equal times while a program runs: the plan itself, held against every ceiling by tests."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..errors import Refusal
from ..machine import Machine
from .language import Kind
from .pieces import desk_for
from .planner import plan
from .planning import Timing, law_record, plan_program, weigh
from .reading import Program
from .state import Array
from .told import told_record

MOST_SAMPLES = 20_000_000


@dataclass(frozen=True)
class Stretch:
    """What lies between two stops. places: (samples, axes), mm (°); first, last: its moves, both of them."""

    places: Array
    first: int
    last: int


def runs(program: Program, step: float, machine: Machine | None = None) -> Iterator[Stretch]:
    """Each run from stop to stop, with the places of all axes every `step` s from its begin on, until it stands. Raises
    Refusal where that is too much to hold."""
    timing = plan_program(program, machine)
    assert timing is not None
    yield from runs_of(program, timing, step, machine)


def runs_of(program: Program, timing: Timing, step: float, machine: Machine | None = None) -> Iterator[Stretch]:
    """The same of one that was planned already."""
    room = int(timing.moving / step) + program.moves * 2 + 100
    if room > MOST_SAMPLES:
        raise Refusal("program", f"{timing.moving:.0f} s", f"is too long for a place every {step:g} s")
    samples: Array = np.empty((room, len(program.machine.names)))
    told, law = told_record(program.machine, program.chosen), law_record(machine or program.machine)
    weigh(told, law)
    desk = desk_for(told, law, program.moves, samples, step)
    plan(desk, program.sheet, program.moves, program.start, 0, program.moves, False)
    row = 0
    for begin, count, window, second, last in desk.averages[: int(desk.work.averages)]:
        bare, end = samples[int(begin) : int(begin + count)], int(last) + 1
        waits = np.flatnonzero(
            program.kinds[row:end] >= Kind.DWELL
        )  # moves that go nowhere may stand before the last of them
        yield Stretch(
            _averaged(_averaged(bare, window, step), second, step),
            row + (int(waits[-1]) + 1 if len(waits) else 0),
            end - 1,
        )
        row = end


def _averaged(bare: Array, window: float, step: float) -> Array:
    """Places averaged over a window of time: (∫p(t) − ∫p(t − w))/w, longer by the window. What stands before stands there."""
    if window <= 0 or not len(bare):
        return bare
    more = math.ceil(window / step) + 1
    padded = np.concatenate((bare, np.repeat(bare[-1:], more, axis=0))) - bare[0]
    times = step * np.arange(len(padded))
    sums = np.concatenate((np.zeros((1, padded.shape[1])), np.cumsum((padded[1:] + padded[:-1]) / 2 * step, axis=0)))
    earlier = np.stack([np.interp(times - window, times, column, left=0.0) for column in sums.T], axis=1)
    return bare[0] + (sums - earlier) / window
