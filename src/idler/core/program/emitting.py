"""Writes moves down, as they are met: where each ends, what it is, in which line it stands, how fast it is asked for."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from .compiled import compiled, inlined
from .language import INCREMENTAL, MACHINE_PLACE, ZERO_SHIFT, Kind
from .state import ARC, MOVE, Array, Row


class Sheet(NamedTuple):
    """Moves by rows, more of them than are made.

    ends   (moves, axes) machine coordinates, mm (°)
    moves  records of MOVE
    arcs   records of ARC, by `reference`
    """

    ends: Array
    moves: Array
    arcs: Array


def blank_sheet(moves: int, axes: int, arcs: int) -> Sheet:
    return Sheet(np.empty((moves, axes)), np.empty(moves, MOVE), np.empty(arcs, ARC))


def widened(sheet: Sheet, moves: int, arcs: int) -> Sheet:
    """A sheet with more room that begins with what is in this one."""
    wide = blank_sheet(moves, sheet.ends.shape[1], arcs)
    for old, new in zip(sheet, wide, strict=True):
        new[: len(old)] = old
    return wide


@compiled
def straight_length(told: Row, begin: Array, end: Array) -> float:
    """Length by which a straight move is timed: of its linear axes in mm; of those that turn where no other moves, in mm at
    the radius that was given, else in degrees."""
    square, turned = 0.0, 0.0
    for slot in range(told.axes):
        way = end[slot] - begin[slot]
        if told.rotary[slot]:
            if told.radius[slot]:
                way *= told.radius[slot] * math.pi / 180
            turned += way * way
        else:
            square += way * way
    return math.sqrt(square if square else turned)


@inlined
def put(out: Sheet, state: Row, kind: int, rate: float) -> None:
    """One more move, to where `state.at` is now."""
    for slot in range(out.ends.shape[1]):
        out.ends[state.moves, slot] = state.at[slot]
    _note(out, state, kind, rate)


@inlined
def put_at(out: Sheet, state: Row, target: Array, kind: int, rate: float) -> None:
    """One more move, to `target`, where `state.at` is then."""
    row = state.moves
    for slot in range(out.ends.shape[1]):
        place = target[slot]
        state.at[slot] = out.ends[row, slot] = place
    state.fresh = 0
    _note(out, state, kind, rate)


@inlined
def _note(out: Sheet, state: Row, kind: int, rate: float) -> None:
    """What the next move is beside its end."""
    row = state.moves
    move = out.moves[row]
    move.kind = kind | state.zero << ZERO_SHIFT | (INCREMENTAL if state.incremental else 0)
    move.line, move.rate, move.reference = state.line, rate, -1
    move.tolerance = 0.0 if state.exact else state.tolerance
    state.moves = row + 1


@inlined
def put_spindle(out: Sheet, state: Row, seconds: float, speed: float) -> None:
    """The spindle is told a speed in rpm, to the left below 0, or OTHERWISE, and is waited for."""
    put(out, state, Kind.SPINDLE, seconds)
    out.moves[state.moves - 1].reference = round(speed)


@compiled
def put_straight(out: Sheet, state: Row, told: Row, target: Array, rapid: bool, rate: float, machine: bool) -> None:
    """A straight move to `target`; nothing where it is there already and was known to be."""
    same = True
    for slot in range(told.axes):
        same = same and target[slot] == state.at[slot]
    if not same or not rapid or state.fresh:
        kind = (Kind.RAPID if rapid else Kind.LINE) | (MACHINE_PLACE if machine else 0)
        put_at(out, state, target, kind, 0.0 if rapid else rate)


@compiled
def put_arc(
    out: Sheet,
    state: Row,
    target: Array,
    u: int,
    v: int,
    centre_u: float,
    centre_v: float,
    radius: float,
    begin: float,
    sweep: float,
    grows: float,
    rate: float,
) -> None:
    """An arc about (centre_u, centre_v) in the plane of the axes u and v; the other axes go along evenly."""
    for slot in range(out.ends.shape[1]):
        state.at[slot] = target[slot]
    put(out, state, Kind.ARC, rate)
    out.moves[state.moves - 1].reference = state.arcs
    arc = out.arcs[state.arcs]
    arc.u, arc.v, arc.cu, arc.cv = u, v, centre_u, centre_v
    arc.radius, arc.begin, arc.sweep, arc.grows = radius, begin, sweep, grows
    state.arcs += 1
