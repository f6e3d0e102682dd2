"""Several axes along one path: a clock of its own, whose rate is changed so smoothly that no axis leaves what it may do.

With the place p(s) after s seconds of the path and the rate r = ds/dt, an axis goes v = p'·r and is accelerated by
a = p''·r² + p'·dr/dt. The rate is changed in each tick by as much as the tightest axis allows: |a| ≤ A. Where a rate would
have to fall while the path itself already brakes with all that there is, it falls as soon as that is over. Before its end
(a record to wait at, or the last one that was given) the rate is held to what can be braked from there.

Of an axis whose jerk is limited the jerk has a share p'·d²r/dt² that comes of the rate alone: that stays within its limit J, so
that the rate begins and ends to change in a ramp. A stop goes before it.
"""

from __future__ import annotations

import math

import numpy as np

from idler.core.profile.path import PERIOD_MS, RAPID, REST, PathState

from ..compiled import compiled
from ..state import CONSTANT, FOLLOWING, IDLE, PATH, PATH_RING, TICK, Row, Rows
from .trajectory import allowed, quick_stop

GIVEN, RUNS, WAITS, ENDED, STOPPED, LEFT = (
    int(state)
    for state in (PathState.GIVEN, PathState.RUNS, PathState.WAITS, PathState.ENDED, PathState.STOPPED, PathState.LEFT)
)
_TINY = 1e-9
_AT_ONCE = 1e12  # 1/s²: no axis asks for a ramp
_AT_LEAST = 0.5  # of its deceleration an axis is stopped with, whatever the path does meanwhile
_NEAR = 0.02  # records: so near to where it waits it stands there
_RAPID, _REST = int(RAPID), int(REST)


def blank_path() -> np.ndarray:
    path = np.zeros(1, PATH)
    path["feed"] = path["rapid"] = 1.0
    path["wait_at"] = -1.0
    path["period"] = PERIOD_MS * 0.001
    return path


@compiled
def _slopes(path: Row, places: Rows, firmware: Rows, at: int) -> tuple[float, float, float, float]:
    """By how much the rate may rise and fall in a second, by how much it can be made to fall anywhere, and by how much in a
    second these may change."""
    up, down, surely, ramp = 1e9, -1e9, 1e9, _AT_ONCE
    h = path.period
    last = path.given - 1
    for slot in range(len(firmware)):
        if not path.axes >> slot & 1:
            continue
        ax = firmware[slot]
        before = places[max(at - 1, 0) % PATH_RING, slot]
        here, there = places[at % PATH_RING, slot], places[min(at + 1, last) % PATH_RING, slot]
        after = places[min(at + 2, last) % PATH_RING, slot]
        speed = (there - here) / h
        bends = (there - 2 * here + before) / (h * h), (after - 2 * there + here) / (h * h)
        most = min(ax.acceleration, ax.deceleration)
        surely = min(surely, most / max(ax.speed_limit, 1.0))
        if abs(speed) < _TINY:
            continue
        if ax.shape != CONSTANT and ax.jerk > 0:
            ramp = min(ramp, ax.jerk / abs(speed))
        way = 1.0 if speed > 0 else -1.0
        high, low = max(way * bends[0], way * bends[1]), min(way * bends[0], way * bends[1])
        square = path.rate * path.rate
        up = min(up, max(0.0, (most - high * square) / abs(speed)))
        if path.stopping:
            hard = ax.stop_deceleration
            down = max(down, min((-hard - low * square) / abs(speed), -_AT_LEAST * hard / abs(speed)))
        else:
            down = max(down, min(0.0, (-most - low * square) / abs(speed)))
    return up, down, surely, ramp


@compiled
def _left(path: Row, firmware: Rows) -> bool:
    """Whether an axis of it does something else now."""
    left = False
    for slot in range(len(firmware)):
        if path.axes >> slot & 1 and firmware[slot].mode != FOLLOWING:
            left = True
    return left


@compiled
def _wakes(path: Row, firmware: Rows) -> bool:
    """Whether an axis of it has been powered just now, and takes no steps yet."""
    wakes = False
    for slot in range(len(firmware)):
        if path.axes >> slot & 1 and firmware[slot].wait_ticks > 0:
            wakes = True
    return wakes


@compiled
def _stand(path: Row, firmware: Rows, state: int, free: bool) -> None:
    """It goes no further. free: the axes may be moved otherwise."""
    path.state, path.rate, path.slope = state, 0.0, 0.0
    for slot in range(len(firmware)):
        if path.axes >> slot & 1 and firmware[slot].mode == FOLLOWING:
            firmware[slot].moving = 0
            firmware[slot].velocity = firmware[slot].bare_velocity = 0.0
            if free:
                firmware[slot].mode = IDLE


@compiled
def _ramped(path: Row, wanted: float, up: float, down: float, ramp: float) -> float:
    """The next rate where its change itself changes by no more than `ramp` in a second, and ends as the rate that is wanted is
    reached."""
    gap = wanted - path.rate
    soon = math.sqrt(2 * ramp * abs(gap)) * (1.0 if gap > 0 else -1.0)
    slope = min(path.slope + ramp * TICK, max(path.slope - ramp * TICK, soon))
    rate: float = path.rate + min(up, max(down, slope)) * TICK
    if gap * (wanted - rate) <= 0 and abs(slope) <= 2 * ramp * TICK:
        return wanted
    return min(1.0, max(0.0, rate))


@compiled
def _next_rate(path: Row, lines: Rows, places: Rows, firmware: Rows, at: int, left: float, endless: bool) -> float:
    up, down, surely, ramp = _slopes(path, places, firmware, at)
    line = int(lines[at % PATH_RING])
    wanted = path.rapid if line & _RAPID else path.feed
    if line & _REST and wanted > 0:
        wanted = 1.0
    if path.stopping:
        wanted = 0.0
    bounded = wanted
    if not endless:
        room = left * path.period - path.rate * surely / (4 * ramp)  # less the way on which its fall only begins
        bounded = min(wanted, allowed(max(0.0, room), path.rate, surely / 2, 0.0))
    if ramp < _AT_ONCE and not path.stopping:
        rate: float = _ramped(path, bounded, up, down, ramp)
    elif bounded >= path.rate:
        rate = min(bounded, path.rate + up * TICK)
        return rate
    else:
        rate = max(bounded, path.rate + down * TICK)
    if not endless and left > 0:  # whatever the axes may do: the path is not left
        rate = min(rate, max(bounded, math.sqrt(2 * surely * left * path.period)))
    return rate


@compiled
def advance_path(path: Row, places: Rows, lines: Rows, firmware: Rows, rings: Rows) -> None:
    """One tick: the clock goes on, and each axis is told where it is now."""
    if path.state != RUNS and path.state != WAITS:
        return
    if _left(path, firmware):
        for slot in range(len(firmware)):
            if path.axes >> slot & 1 and firmware[slot].mode == FOLLOWING:
                quick_stop(firmware[slot], rings[slot])
        path.state, path.rate = LEFT, 0.0
        return
    if _wakes(path, firmware):
        return
    end = float(path.given - 1)
    endless = path.final == 1
    if 0 <= path.wait_at < end:
        end, endless = path.wait_at, False
    if endless and path.at >= end:  # the axes have taken their last steps in the tick before
        _stand(path, firmware, ENDED, True)
        return
    path.ran += path.state == RUNS
    at = int(path.at)
    left = end - path.at
    before = path.rate
    path.rate = _next_rate(path, lines, places, firmware, at, max(0.0, left), endless) if left > 0 else 0.0
    path.slope = (path.rate - before) / TICK
    gone = (before + path.rate) / 2 * TICK / path.period
    path.at = min(end, path.at + gone)
    if not endless and left > 0 and end - path.at < _NEAR:
        path.at = end
    if path.at >= end:
        path.rate = 0.0
    at = min(int(path.at), path.given - 1)
    part = path.at - at
    for slot in range(len(firmware)):
        if path.axes >> slot & 1:
            here = places[at % PATH_RING, slot]
            there = places[min(at + 1, path.given - 1) % PATH_RING, slot]
            firmware[slot].target = here + (there - here) * part
            firmware[slot].moving = 1
    if path.rate == 0.0 and before == 0.0 and not (endless and path.at >= end):
        _stand(path, firmware, STOPPED if path.stopping else WAITS, path.stopping == 1)
    else:
        path.state = RUNS


@compiled
def stop_on_path(path: Row) -> None:
    path.stopping = 1
