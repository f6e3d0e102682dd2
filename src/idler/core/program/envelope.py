"""How far a program reaches, and what of it lies beyond an axis's limits."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..homing import stops_of
from .arcs import reach
from .compiled import compiled
from .emitting import Sheet
from .language import KIND_BITS, MACHINE_PLACE, ZERO_BITS, ZERO_SHIFT, Kind
from .reading import Program
from .state import Array

ROUNDING = 1e-9  # mm (°)


@compiled
def _span(out: Sheet, row: int, slot: int, begin: float) -> tuple[float, float]:
    """Lowest and highest coordinate of an axis on one move that begins at `begin`: exactly, arcs included.

    An arc reaches its radius in each direction of the plane within its sweep. One whose end lies beside it, by `grows`,
    is taken with the larger of its two radii.
    """
    end = out.ends[row, slot]
    low, high = min(begin, end), max(begin, end)
    if out.moves[row].kind & KIND_BITS == Kind.ARC:
        arc = out.arcs[out.moves[row].reference]
        if slot == arc.u or slot == arc.v:
            across = 0 if slot == arc.u else 1
            centre = arc.cu if slot == arc.u else arc.cv
            radius = max(arc.radius, arc.radius + arc.grows)
            if reach(arc.begin, arc.sweep, across):
                high = max(high, centre + radius)
            if reach(arc.begin, arc.sweep, across + 2):
                low = min(low, centre - radius)
    return low, high


@compiled
def _extents(
    out: Sheet,
    moves: int,
    start: Array,
    firsts_at: Array,
    low: Array,
    high: Array,
    zero: int,
    found: Array,
    shown: Array,
    counts: Array,
    firsts: Array,
) -> None:
    """Fills found (axes, 2) with the extents, shown with those of moves that go with the work zero `zero`, and for each axis
    and side how many lines lie beyond low or high and which is the first. An axis counts from the move that names it first."""
    axes = out.ends.shape[1]
    last = np.full((axes, 2), -1, np.int64)
    at = start.copy()
    for row in range(moves):
        kind = out.moves[row].kind
        arc = kind & KIND_BITS == Kind.ARC
        for slot in range(axes):
            end = out.ends[row, slot]
            begin = at[slot]
            if row <= firsts_at[slot]:
                if row < firsts_at[slot]:
                    continue
                if not arc:
                    begin = end
            elif end == begin and not arc:
                continue
            bottom, top = min(begin, end), max(begin, end)
            if arc:
                bottom, top = _span(out, row, slot, begin)
            at[slot] = end
            if bottom < found[slot, 0]:
                found[slot, 0] = bottom
            if top > found[slot, 1]:
                found[slot, 1] = top
            if not kind & MACHINE_PLACE and kind >> ZERO_SHIFT & ZERO_BITS == zero:
                if bottom < shown[slot, 0]:
                    shown[slot, 0] = bottom
                if top > shown[slot, 1]:
                    shown[slot, 1] = top
            if bottom < low[slot]:
                _count(out.moves[row].line, slot, 0, last, counts, firsts)
            if top > high[slot]:
                _count(out.moves[row].line, slot, 1, last, counts, firsts)


@compiled
def _count(line: int, slot: int, side: int, last: Array, counts: Array, firsts: Array) -> None:
    """One more line that lies beyond; each line once."""
    if last[slot, side] != line:
        if counts[slot, side] == 0:
            firsts[slot, side] = line
        counts[slot, side] += 1
        last[slot, side] = line


@dataclass(frozen=True)
class Beyond:
    """Of one axis and side ("low", "high"): by how much, in mm (°), from which line on, in how many lines."""

    axis: str
    side: str
    by: float
    first_line: int
    lines: int


@dataclass(frozen=True)
class Envelope:
    """extents: lowest and highest machine coordinate by axis letter, of axes that move. shown: of the moves that go with the
    work zero that was chosen. limits: what they were held against."""

    extents: dict[str, tuple[float, float]]
    shown: dict[str, tuple[float, float]]
    limits: dict[str, tuple[float, float]]
    beyond: tuple[Beyond, ...]

    @property
    def inside(self) -> bool:
        return not self.beyond

    @property
    def shift(self) -> dict[str, float] | None:
        """By how much to move the work zero so that all fits, as little as can be; None where no shift helps.

        Moves to places of the machine do not go along, so that one of them beyond a limit is not helped.
        """
        asked: dict[str, float] = {}
        for item in self.beyond:
            if item.axis not in self.shown:
                return None
            low, high = self.limits[item.axis]
            bottom, top = self.shown[item.axis]
            if top - bottom > high - low + ROUNDING:
                return None
            shift = max(0.0, low - bottom) or min(0.0, high - top)
            others = self.extents[item.axis]
            if not shift or (others[0] < min(low, bottom) - ROUNDING) or (others[1] > max(high, top) + ROUNDING):
                return None
            asked[item.axis] = shift
        return asked


def envelope_of(program: Program) -> Envelope:
    """Against soft limits where they hold, else against the hard stops."""
    machine = program.machine
    axes = len(machine.names)
    limits = np.array([limits_of(program, slot) for slot in range(axes)])
    found, shown = (np.tile((np.inf, -np.inf), (axes, 1)) for _ in range(2))
    counts, firsts = np.zeros((axes, 2), np.int64), np.zeros((axes, 2), np.int64)
    _extents(
        program.sheet, program.moves, program.start, program.firsts, limits[:, 0] - ROUNDING, limits[:, 1] + ROUNDING,
        program.chosen.zero, found, shown, counts, firsts,
    )  # fmt: skip
    beyond = tuple(
        Beyond(name, side, float(abs(found[slot, at] - limits[slot, at])), int(firsts[slot, at]), int(counts[slot, at]))
        for slot, name in enumerate(machine.names)
        for at, side in enumerate(("low", "high"))
        if counts[slot, at]
    )
    return Envelope(_named(machine.names, found), _named(machine.names, shown), _named(machine.names, limits), beyond)


def _named(names: tuple[str, ...], spans: Array) -> dict[str, tuple[float, float]]:
    return {name: (float(low), float(high)) for name, (low, high) in zip(names, spans, strict=True) if low <= high}


def limits_of(program: Program, slot: int) -> tuple[float, float]:
    """What an axis must stay within; an endless one has no ends, and of some nobody has told any."""
    axis = program.machine.axis(slot)
    if axis.wraps:
        return -np.inf, np.inf
    if axis.flag("travel.limits_on"):
        return float(axis.number("travel.low")), float(axis.number("travel.high"))
    stops = stops_of(axis)
    return (-np.inf, np.inf) if stops is None else (float(stops[0]), float(stops[1]))
