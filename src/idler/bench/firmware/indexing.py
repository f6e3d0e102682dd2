"""The firmware's index stops: a number on lines, counted pulses or an order on the wire, and the moves that follow from it.

Nothing is obeyed at the first state after a start, nor what was told while the axis could not go: a number must be told anew.
"""

from __future__ import annotations

import numpy as np

from idler.core.profile.indexing import IndexState
from idler.core.values.roles import InputRole

from ..compiled import compiled
from ..state import IDLE, INDEXER, STOPPING, TO_POSITION, Row, Rows

SCREEN, BINARY, GRAY, PULSES = range(4)  # as index.pick has them on the wire
SHORTER, UP, DOWN = range(3)  # index.way
_LINE = InputRole.STOP_LINE_1.raw
_STROBE, _COUNT, _START = InputRole.STOP_STROBE.raw, InputRole.STOP_COUNT.raw, InputRole.STOP_START.raw
_NOWHERE, _REACHED, _UNDER_WAY = IndexState.NOWHERE.raw, IndexState.REACHED.raw, IndexState.UNDER_WAY.raw
_WRONG, _NOT_READY, _MISSED = IndexState.WRONG.raw, IndexState.NOT_READY.raw, IndexState.MISSED.raw
_LINES = 6
_BEYOND, _TO_IT = 1, 2  # legs
_MOST = 63


def blank_indexers(count: int) -> np.ndarray:
    made = np.zeros(count, INDEXER)
    made["lines_as"] = made["settled"] = -1
    return made


@compiled
def forget_lines(ix: Row) -> None:
    """What the lines say is looked at anew, and not obeyed at first."""
    ix.settled = -1
    ix.stood = ix.strobed = ix.pulses = ix.asked = ix.goal = ix.leg = ix.at = ix.word = 0
    ix.counting = ix.starting = 1
    ix.count_stood = ix.start_stood = 0


@compiled
def _number(ix: Row) -> int:
    """What the state of the lines tells."""
    number = rest = ix.state
    if ix.pick == GRAY:
        while rest:
            rest >>= 1
            number ^= rest
    return number


@compiled
def _by_lines(ix: Row, state: int, strobe: int) -> int:
    """The number that is picked by them now; -1 where none is. strobe: -1 where there is none. A state counts once it stood
    still for the settling time; with a strobe, once that is made, too."""
    if state != ix.state:
        ix.state, ix.stood = state, 0
    elif ix.stood < ix.settle:
        ix.stood += 1
    if ix.stood < ix.settle:
        return -1
    number = _number(ix)
    first, new = ix.settled < 0, number != ix.settled
    ix.settled = number
    if strobe < 0:
        return number if new and not first else -1
    rises = strobe and not ix.strobed
    ix.strobed = strobe
    return number if rises and not first else -1


@compiled
def _by_pulses(ix: Row, counts: int, starts: int) -> int:
    """The number of pulses where the start is made, once each stood still for the settling time; -1 where it is not."""
    ix.count_stood = ix.count_stood + 1 if counts != ix.counting else 0
    ix.start_stood = ix.start_stood + 1 if starts != ix.starting else 0
    picked = -1
    if ix.count_stood >= ix.settle:
        ix.counting, ix.count_stood = counts, 0
        ix.pulses = min(_MOST, ix.pulses + counts)
    if ix.start_stood >= ix.settle:
        ix.starting, ix.start_stood = starts, 0
        if starts:
            picked, ix.pulses = ix.pulses, 0
    return picked


@compiled
def _picked(ix: Row, axis: int, items: Rows) -> int:
    state, strobe, counts, starts = 0, -1, 0, 0
    for number in range(len(items)):
        item = items[number]
        if item.axis != axis:
            continue
        made = 1 if item.made else 0
        if _LINE <= item.role < _LINE + _LINES:
            state |= made << (item.role - _LINE)
        elif item.role == _STROBE:
            strobe = made
        elif item.role == _COUNT:
            counts = made
        elif item.role == _START:
            starts = made
    if ix.lines_as >= 0:
        state, strobe = ix.lines_as, -1
    if ix.pick == BINARY or ix.pick == GRAY or ix.lines_as >= 0:
        return _by_lines(ix, state, strobe)
    return _by_pulses(ix, counts, starts) if ix.pick == PULSES else -1


@compiled
def _off(ix: Row, ax: Row, place: float) -> float:
    """Counts from where it stands to a place; of an endless axis the shorter way."""
    off = place - ax.bare_position
    return (off + ix.turn / 2) % ix.turn - ix.turn / 2 if ix.turn > 0 else off


@compiled
def _way(ix: Row, ax: Row) -> float:
    """Counts to the stop that is its goal, by the way that it was told."""
    off = _off(ix, ax, ix.places[ix.goal - 1])
    if ix.turn > 0 and abs(off) > ix.near:
        if ix.way == UP and off < 0:
            off += ix.turn
        elif ix.way == DOWN and off > 0:
            off -= ix.turn
    return off


@compiled
def _go(ix: Row, ax: Row, target: float, leg: int) -> None:
    ix.leg, ix.word = leg, _UNDER_WAY
    if ax.limits_on:
        target = min(max(target, ax.low), ax.high)
    speed = min(ax.speed_limit, ix.speed) if ix.speed > 0 else ax.speed_limit
    ax.target, ax.move_speed, ax.mode, ax.fresh = target, speed, TO_POSITION, 1


@compiled
def _begin(ix: Row, ax: Row) -> None:
    """Beyond the stop and back where it was told to; it comes back from above, where it goes to − always from below. Where it
    stands at its stop already it stays."""
    ix.at = 0
    off = _way(ix, ax)
    if abs(off) <= ix.near:
        ix.leg, ix.word, ix.at = 0, _REACHED, ix.goal
    elif ix.over > 0 and ix.way == DOWN:
        _go(ix, ax, ax.bare_position + off - ix.over, _BEYOND)
    elif ix.over > 0 and off > 0:
        _go(ix, ax, ax.bare_position + off + ix.over, _BEYOND)
    else:
        _go(ix, ax, ax.bare_position + off, _TO_IT)


@compiled
def _ready(ax: Row) -> bool:
    return (
        ax.enabled and ax.powered and ax.wait_ticks == 0 and ax.homed and not ax.homing and not ax.unwatched
        and ax.mode != STOPPING
    )  # fmt: skip


@compiled
def _advance(ix: Row, ax: Row, axis: int, items: Rows, stopped: bool) -> None:
    picked = _picked(ix, axis, items)
    if ix.asked:
        picked, ix.asked = ix.asked, 0
    elif picked > 0 and ix.lines_as < 0:
        ix.speed = 0.0
    ready = _ready(ax) and not stopped
    if not ready:
        ix.word = _NOT_READY if ix.leg else ix.word
        ix.goal = ix.leg = 0
        ix.at = ix.at if ax.homed else 0
    rests = ax.mode == IDLE and not ax.moving and not ax.fresh
    if picked > 0:
        if picked > ix.count:
            ix.word = _WRONG
        elif not ready or (not rests and not ix.leg):
            ix.word = _NOT_READY
        elif picked != ix.goal or not ix.leg:
            ix.goal = picked
            if rests:
                _begin(ix, ax)
                return
            else:  # it comes to rest where it was going first
                ix.leg = -1
    if not rests or ix.goal == 0:
        if rests and ix.at and abs(_off(ix, ax, ix.places[ix.at - 1])) > ix.near:
            ix.at = 0
            ix.word = _NOWHERE if ix.word == _REACHED else ix.word
        return
    if ix.leg == -1:
        _begin(ix, ax)
    elif ix.leg == _BEYOND:
        _go(ix, ax, ax.bare_position + _off(ix, ax, ix.places[ix.goal - 1]), _TO_IT)
    elif ix.leg == _TO_IT:
        off = _off(ix, ax, ix.places[ix.goal - 1]) + (ax.lag if ax.measured else 0.0)
        ix.leg = 0
        ix.at, ix.word = (ix.goal, _REACHED) if abs(off) <= ix.near else (0, _MISSED)
    elif ix.at and abs(_off(ix, ax, ix.places[ix.at - 1])) > ix.near:
        ix.at = ix.goal = 0
        ix.word = _NOWHERE


@compiled
def advance_indexing(indexers: Rows, firmware: Rows, items: Rows, controller: Row) -> None:
    """One tick of all axes that have index stops."""
    there = found = wrong = 0
    stopped = controller.stop_hit or controller.trouble_hit  # and the node has not spoken of it yet
    for axis in range(len(firmware)):
        stopped = stopped or firmware[axis].limit_hit or firmware[axis].lag_hit
    for axis in range(len(firmware)):
        if indexers[axis].count:
            _advance(indexers[axis], firmware[axis], axis, items, stopped != 0)
            found += 1
            word = indexers[axis].word
            there += 1 if indexers[axis].at and word == _REACHED else 0
            wrong += 1 if word in (_WRONG, _NOT_READY, _MISSED) else 0
    controller.in_place = 1 if found and there == found else 0
    controller.not_in_place = 1 if wrong else 0
