"""Drilling cycles (G81 to G89) as the moves that they are made of."""

from __future__ import annotations

import math

from .compiled import compiled
from .emitting import Sheet, put, put_spindle, put_straight
from .language import OTHERWISE, Kind
from .state import Array, Row

CLEAR = 0.5  # mm above what was drilled, to which a pecking drill returns by rapid


@compiled
def pecks_of(state: Row) -> float:
    """Steps of one hole."""
    if state.motion != 83 or state.peck <= 0:
        return 1.0
    return math.ceil((state.level - state.depth) / state.peck)


@compiled
def drill(out: Sheet, state: Row, told: Row, across: Array, rate: float) -> None:
    """One hole at `across`, whose Z is where the tool stands: over it by rapid, down to the level, then what the cycle does.

    Back to the level where it began (G98) or to R (G99).
    """
    z, target = told.z, across.copy()
    if target[z] < state.level:
        target[z] = state.level
        up = state.at.copy()
        up[z] = state.level
        put_straight(out, state, told, up, True, 0.0, False)
    put_straight(out, state, told, target, True, 0.0, False)
    target[z] = state.level
    put_straight(out, state, told, target, True, 0.0, False)
    steps = pecks_of(state)
    if state.motion == 83 and state.peck > 0:
        reached = state.level
        while reached > state.depth and steps > 0:
            if reached < state.level:
                target[z] = min(state.level, reached + CLEAR)
                put_straight(out, state, told, target, True, 0.0, False)
            reached = max(state.depth, reached - state.peck) if steps > 1 else state.depth
            target[z] = reached
            put_straight(out, state, told, target, False, rate, False)
            target[z] = state.level
            put_straight(out, state, told, target, True, 0.0, False)
            steps -= 1
    else:
        target[z] = state.depth
        put_straight(out, state, told, target, False, rate, False)
        if state.motion in (82, 89) and state.dwell > 0:
            put(out, state, Kind.DWELL, state.dwell)
        if state.motion in (84, 86):  # the spindle turns back, or stands, before the tool comes out
            tapping = state.motion == 84
            put_spindle(out, state, told.run_down + (told.run_up if tapping else 0.0), OTHERWISE if tapping else 0)
        target[z] = state.level
        fed_out = state.motion in (84, 85, 89)
        put_straight(out, state, told, target, not fed_out, rate, False)
        if state.motion == 84:
            put_spindle(out, state, told.run_down + told.run_up, OTHERWISE)
        elif state.motion == 86:
            put_spindle(out, state, told.run_up, state.speed if state.spindle == 3 else -state.speed)
    if state.returns == 98 and state.initial > state.level:
        target[z] = state.initial
        put_straight(out, state, told, target, True, 0.0, False)
