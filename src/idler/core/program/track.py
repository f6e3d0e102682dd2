"""What a machine is to do while a program runs: places of its axes at equal times, and what is done in between.

A leg is what runs without a person and with one speed of the spindle. A wait for time or for the spindle is part of it: it
stands there so long.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..errors import Refusal
from ..machine import Machine
from .language import OTHERWISE, Kind
from .planning import Timing
from .reading import Program
from .sampling import MOST_SAMPLES, runs_of
from .state import Array

SAME = 1e-7  # mm (°)
RESTS, RAPIDS, FEEDS = 0, 1, 2  # what a place belongs to: a wait, a rapid, a move with a feed


@dataclass(frozen=True, eq=False)
class Leg:
    """
    places   (samples, axes) machine coordinates, mm (°), at equal times; the first one is where it begins
    rows     (samples,) the move that each of them belongs to
    ways     (samples,) RESTS, RAPIDS or FEEDS
    asks     the line of a stop (M0, M1, M6) that a person goes on from before it; 0 where there is none
    tool     the number of the tool that the stop is to change (M6); None where it changes none
    spindle  rpm that the spindle is told at its begin, to the left below 0; None where nothing is
    coolant  7 mist, 8 coolant, 9 neither from its begin on; None where nothing is said
    """

    places: Array
    rows: Array
    ways: Array
    asks: int = 0
    tool: int | None = None
    spindle: int | None = None
    coolant: int | None = None

    @property
    def switches(self) -> bool:
        return self.spindle is not None or self.coolant is not None


@dataclass(frozen=True, eq=False)
class Track:
    """period: s between two places. lines: of the program's text, by moves."""

    machine: Machine
    period: float
    legs: tuple[Leg, ...]
    lines: Array
    begins: Array  # places of the axes, mm (°)

    @property
    def seconds(self) -> float:
        return self.seconds_from(0, 0)

    def seconds_from(self, leg: int, at: int) -> float:
        """From a sample of a leg to its end."""
        return (sum(max(0, len(each.rows) - 1) for each in self.legs[leg:]) - at) * self.period

    def slots(self) -> tuple[int, ...]:
        """Axes that go anywhere."""
        moved = np.zeros(len(self.begins), bool)
        for leg in self.legs:
            moved |= (np.abs(leg.places - self.begins) > SAME).any(axis=0)
        return tuple(int(slot) for slot in np.flatnonzero(moved))


def track_of(
    program: Program, timing: Timing, period: float, keep_on: Callable[[float], bool] = lambda _share: True
) -> Track | None:
    """All of a program, a place every `period` s. None where keep_on ended it.

    Raises Refusal where it is too long, or where it wants what no machine of Idler's does.
    """
    if timing.total / period > MOST_SAMPLES:
        raise Refusal("program", f"{timing.total:.0f} s", "is longer than can be run in one piece",
                      f"{MOST_SAMPLES * period / 3600:.0f} h", "cut it into parts")  # fmt: skip
    made = _Maker(program, period)
    row = 0
    for number, stretch in enumerate(runs_of(program, timing, period)):
        if number % 256 == 0 and not keep_on(stretch.first / max(1, program.moves)):
            return None
        made.wait(row, stretch.first)
        made.go(stretch.places, stretch.first, _rows(timing, stretch.first, stretch.last, len(stretch.places), period))
        row = stretch.last + 1
    made.wait(row, program.moves)
    made.close()
    return Track(program.machine, period, tuple(made.legs), program.line_numbers, program.start)


def _rows(timing: Timing, first: int, last: int, count: int, period: float) -> Array:
    """The move that each sample of a run belongs to."""
    ends = np.cumsum(timing.result[first : last + 1, 0], dtype=float)
    return np.minimum(first + np.searchsorted(ends, np.arange(count) * period, side="right"), last)


class _Maker:
    """Puts legs together, piece by piece."""

    def __init__(self, program: Program, period: float) -> None:
        self._program, self._period = program, period
        self.legs: list[Leg] = []
        self._places: list[Array] = [program.start[None, :]]
        self._rows: list[Array] = [np.zeros(1, np.int64)]
        self._asks = 0
        self._tool: int | None = None
        self._spindle: int | None = None
        self._coolant: int | None = None

    @property
    def _at(self) -> Array:
        return self._places[-1][-1:]

    def go(self, places: Array, first: int, rows: Array) -> None:
        """A run; its first place is where the one before it ended."""
        end = self._program.sheet.ends[int(rows[-1])][None, :]
        if np.abs(places[-1] - end[0]).max() > SAME:
            places, rows = np.concatenate((places, end)), np.append(rows, rows[-1])
        self._places.append(places[1:])
        self._rows.append(rows[1:])

    def wait(self, first: int, last: int) -> None:
        """Moves from first to before last, none of which goes anywhere."""
        sheet, kinds = self._program.sheet, self._program.kinds
        for row in range(first, last):
            kind, told = int(kinds[row]), sheet.moves[row]
            if kind == Kind.STOP:
                self._begin(row, again=self._asks > 0 or self._spindle is not None or self._coolant is not None)
                self._asks = int(told["line"])
                self._tool = int(told["reference"]) if told["reference"] >= 0 else None
            elif kind == Kind.SPINDLE:
                if int(told["reference"]) == OTHERWISE:
                    raise Refusal(
                        "program", f"line {int(told['line'])}", "turns the spindle back in a thread, or by its diameter (G96)",
                        way_out="that is checked and timed, and not run",
                    )  # fmt: skip
                self._begin(row)
                self._spindle = int(told["reference"])
            elif kind == Kind.COOLANT:
                self._begin(row)
                self._coolant = int(told["reference"])
            if kind >= Kind.DWELL and told["rate"] > 0:
                self._stand(row, float(told["rate"]))

    def _stand(self, row: int, seconds: float) -> None:
        count = int(np.ceil(seconds / self._period))
        self._places.append(np.repeat(self._at, count, axis=0))
        self._rows.append(np.full(count, row))

    def _begin(self, row: int, *, again: bool = False) -> None:
        """Another leg begins with this move, where anything was done since the last one began."""
        if again or sum(map(len, self._rows)) > 1:
            at = self._at
            self.close()
            self._places, self._rows = [at], [np.full(1, row)]

    def close(self) -> None:
        places, rows = np.concatenate(self._places), np.concatenate(self._rows)
        kinds = self._program.kinds[rows] if self._program.moves else np.zeros(len(rows))
        ways = np.where(kinds >= Kind.DWELL, RESTS, np.where(kinds == Kind.RAPID, RAPIDS, FEEDS)).astype(np.uint8)
        self.legs.append(Leg(places, rows, ways, self._asks, self._tool, self._spindle, self._coolant))
        self._asks, self._tool, self._spindle, self._coolant = 0, None, None, None


def ends_of_lines(leg: Leg) -> Array:
    """The last sample of each move of a leg, ascending, for single block."""
    return np.append(np.flatnonzero(np.diff(leg.rows)), len(leg.rows) - 1)
