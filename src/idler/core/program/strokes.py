"""The path of a program as short straight strokes, to be drawn; and its feeds along time."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from .compiled import compiled
from .emitting import Sheet
from .language import KIND_BITS, Kind
from .reading import Program
from .state import Array

BEND = math.radians(4)  # of an arc between two strokes
MOST_BENDS = 400  # of one arc
MANY = 40_000  # strokes that are drawn at once without a thought
FINEST, COARSEST = 8000, 400  # parts of the path's reach that levels of detail err by


@compiled
def _count(out: Sheet, moves: int) -> int:
    total = 0
    for row in range(moves):
        kind = out.moves[row].kind & KIND_BITS
        if kind == Kind.ARC:
            sweep = abs(out.arcs[out.moves[row].reference].sweep)
            total += min(MOST_BENDS, max(1, math.ceil(sweep / BEND)))
        elif kind < Kind.DWELL:
            total += 1
    return total


@compiled
def _fill(out: Sheet, moves: int, start: Array, firsts: Array, points: Array, rows: Array) -> int:
    """Places at the ends of strokes, and the move of each. A place that no word has named yet stays at its start."""
    at, count = start.copy(), 0
    for row in range(moves):
        kind = out.moves[row].kind & KIND_BITS
        if kind >= Kind.DWELL:
            continue
        end = out.ends[row]
        if kind == Kind.ARC:
            arc = out.arcs[out.moves[row].reference]
            bends = min(MOST_BENDS, max(1, math.ceil(abs(arc.sweep) / BEND)))
            for bend in range(1, bends):
                gone = bend / bends
                for slot in range(len(at)):
                    points[count, slot] = at[slot] + gone * (end[slot] - at[slot])
                angle, radius = arc.begin + gone * arc.sweep, arc.radius + gone * arc.grows
                points[count, arc.u], points[count, arc.v] = (
                    arc.cu + radius * math.cos(angle),
                    arc.cv + radius * math.sin(angle),
                )
                rows[count] = row
                count += 1
        for slot in range(len(at)):
            points[count, slot] = end[slot]
            at[slot] = end[slot]
        rows[count] = row
        count += 1
    return count


@compiled
def _thin(points: Array, rapid: Array, least: float, kept: Array) -> int:
    """Which strokes are left where those that end within `least` of where the last one ended, in every axis, are joined to the
    next. Rapid ones are never joined to others."""
    count, last = 0, 0
    for stroke in range(len(rapid)):
        away = 0.0
        for slot in range(points.shape[1]):
            away = max(away, abs(points[stroke + 1, slot] - points[last, slot]))
        follows = stroke + 1 < len(rapid) and rapid[stroke + 1] == rapid[stroke]
        if away >= least or not follows:
            kept[count] = stroke
            count += 1
            last = stroke + 1
    return count


@dataclass(frozen=True, eq=False)
class Coarse:
    """Fewer strokes, each within `error` mm (°) of those that it stands for. kept: their numbers among all."""

    error: float
    points: Array
    rapid: Array
    kept: Array


@dataclass(frozen=True, eq=False)
class Strokes:
    """points: (n + 1, axes) places, the first of them where the program begins. rows: (n,) the move of each stroke.

    rapid: (n,) whether it is one. levels: the same with less and less detail, the finest first.
    """

    points: Array
    rows: Array
    rapid: Array
    levels: tuple[Coarse, ...] = ()

    def level(self, error: float) -> Coarse | None:
        """The coarsest level that errs by no more than this; None where only all strokes do."""
        return next((level for level in reversed(self.levels) if level.error <= error), None)


def _levels(points: Array, rapid: Array) -> Iterator[Coarse]:
    """Each four times as coarse as the one before, from what a drawing as large as a screen cannot show."""
    reach = float((points.max(axis=0) - points.min(axis=0)).max()) if len(rapid) >= MANY else 0.0
    error, kept = reach / FINEST, np.empty(len(rapid), np.int32)
    while reach > 0 and error < reach / COARSEST:
        count = int(_thin(points, rapid, error, kept))
        chosen = kept[:count].copy()
        yield Coarse(error, points[np.concatenate(([0], chosen + 1))], rapid[chosen], chosen)
        if count < MANY // 4:
            return
        error *= 4


def strokes_of(program: Program) -> Strokes:
    total = int(_count(program.sheet, program.moves))
    points: Array = np.empty((total + 1, len(program.machine.names)), np.float32)
    rows: Array = np.empty(total, np.int32)
    points[0] = program.start
    if total:
        _fill(program.sheet, program.moves, program.start, program.firsts, points[1:], rows)
        points[0] = np.where(program.firsts <= rows[0], points[1], points[0])  # nobody knows where it comes from
    rapid = (program.sheet.moves["kind"][rows] & KIND_BITS) == Kind.RAPID
    return Strokes(points, rows, rapid, tuple(_levels(points, rapid)))


@dataclass(frozen=True, eq=False)
class Feeds:
    """Along equal parts of the time: the feed that is asked for and the fastest that is reached, mm/min (0 a rapid's ask), and
    the line that is done at the begin of each."""

    seconds: float
    asked: Array
    reached: Array
    lines: Array


def feeds_of(program: Program, result: Array, parts: int) -> Feeds:
    """result: of `planner.plan`."""
    ends = np.cumsum(result[:, 0], dtype=float)
    total = float(ends[-1]) if len(ends) else 0.0
    if total <= 0:
        empty: Array = np.zeros(0)
        return Feeds(0.0, empty, empty, empty)
    rows = np.searchsorted(ends, np.linspace(0, total, parts, endpoint=False), side="right").clip(0, len(ends) - 1)
    moving = program.kinds < Kind.DWELL
    asked = np.where(moving, program.rates, 0) * 60
    reached = np.where(moving, result[:, 1], 0) * 60
    return Feeds(
        total, np.maximum.reduceat(asked, rows), np.maximum.reduceat(reached, rows), program.line_numbers[rows]
    )  # fmt: skip


def warm_up(program: Program) -> None:
    """Compiles what draws a program, or takes it from the cache."""
    strokes = strokes_of(program)
    _thin(strokes.points, strokes.rapid, 1.0, np.empty(len(strokes.rapid), np.int32))
