"""The firmware's own motion: a trapezoid advanced tick by tick, averaged over up to two windows, and counted in steps.

Nothing here is a closed form of time. Braking looks one tick ahead; the peak of a short move with limited jerk is found
by halving intervals. The core's predictions are tested against what comes out.
"""

from __future__ import annotations

import math

import numpy as np

from ..compiled import compiled
from ..state import (
    AT_VELOCITY,
    CONSTANT,
    FOLLOWING,
    IDLE,
    LONGEST_WINDOW,
    RING,
    SLOWED,
    SMOOTHEST,
    STARTED,
    STOPPING,
    TICK,
    TO_POSITION,
    Row,
    Rows,
)

TAKEN_UP = 0.25  # of an axis's acceleration, at which its play is taken up beside its move


@compiled
def allowed(distance: float, velocity: float, rate: float, floor: float) -> float:
    """Highest speed after this tick from which `floor` can still be reached within the distance at `rate`."""
    half = rate * TICK / 2
    room = distance - velocity * TICK / 2
    under = half * half + floor * floor + 2 * rate * room
    return max(0.0, math.sqrt(under) - half) if under > 0 else 0.0


@compiled
def _plan(ax: Row, distance: float, speed: float) -> None:
    """Windows, scale and peak for a motion from rest. distance below 0: no end is known (a jog)."""
    ax.scale, ax.window, ax.second_window, ax.peak = 1.0, 0, 0, speed
    if ax.shape == CONSTANT or ax.jerk <= 0:
        return
    steepest = max(ax.acceleration, ax.deceleration)
    slowness = 1 / ax.acceleration + 1 / ax.deceleration
    low, high = 0.0, 1.0
    for _ in range(50):  # the largest scale whose plateau of acceleration is reached before speed or way run out
        k = (low + high) / 2
        w = k * steepest / ax.jerk
        v = k * steepest * w
        fits = v <= speed and (distance < 0 or v * v * slowness / (2 * k) + v * w <= distance)
        if fits:
            low = k
        else:
            high = k
    k = high
    w = k * steepest / ax.jerk
    if distance >= 0:
        low, high = 0.0, speed
        for _ in range(50):
            v = (low + high) / 2
            if v * v * slowness / (2 * k) + v * w <= distance:
                low = v
            else:
                high = v
        ax.peak = high
    ax.scale = k
    ax.window = min(LONGEST_WINDOW, max(1, int(round(w / TICK))))
    if ax.shape == SMOOTHEST:
        ax.second_window = min(LONGEST_WINDOW, max(1, int(round(w / TICK / 2))))


@compiled
def _clear(ax: Row, rings: Rows) -> None:
    rings[:, :] = 0.0
    ax.sum_1 = ax.sum_2 = 0.0
    ax.cursor = 0
    ax.quiet = 0


@compiled
def quick_stop(ax: Row, rings: Rows) -> None:
    """Drops the windows and brakes from the speed that the steps have now."""
    if ax.mode == STOPPING:
        return
    ax.bare_position, ax.bare_velocity = ax.position, ax.velocity
    ax.window = ax.second_window = 0
    _clear(ax, rings)
    ax.mode = STOPPING
    ax.until = 0  # a search that was ended ends nothing that comes after it


@compiled
def cut(ax: Row, rings: Rows) -> None:
    """Steps end at once: power is taken away. What moved coasts on uncounted, so its home is lost."""
    if ax.moving:
        ax.homed = 0
    ax.skew = 0.0
    ax.position = ax.bare_position = float(ax.steps)
    ax.bare_velocity = ax.velocity = 0.0
    ax.mode = IDLE
    ax.moving = ax.powered = ax.until = 0
    rings[:, :] = 0.0


@compiled
def _bare(ax: Row) -> float:
    """Advances the trapezoid by one tick; the distance that it covered."""
    v = ax.bare_velocity
    a = ax.acceleration * ax.scale
    d = ax.deceleration * ax.scale
    wanted = 0.0
    ax.at_limit = 0
    if ax.mode == STOPPING:
        d = ax.stop_deceleration
    elif ax.mode == TO_POSITION:
        left = ax.target - ax.bare_position
        way = 1.0 if left > 0 else -1.0
        wanted = way * min(ax.peak, allowed(abs(left), max(0.0, v * way), d, 0.0))
    elif ax.mode == AT_VELOCITY:
        wanted = ax.target_velocity
    if ax.limits_on and ax.homed and wanted != 0.0 and ax.mode != STOPPING:
        way = 1.0 if wanted > 0 else -1.0
        room = (ax.high - ax.bare_position) if way > 0 else (ax.bare_position - ax.low)
        most = allowed(max(0.0, room), max(0.0, v * way), d, 0.0)
        if ax.cushion > 0:
            held = ax.cushion_speed
            if room > ax.cushion:
                held = max(held, allowed(room - ax.cushion, max(0.0, v * way), d, held))
            most = min(most, held)
        if abs(wanted) > most:
            wanted = way * most
            if ax.mode == AT_VELOCITY:
                ax.at_limit = 1
    wanted_now = 0.0 if v * wanted < 0 else wanted
    if abs(wanted_now) > abs(v):
        reach = abs(v) + a * TICK
        new = min(abs(wanted_now), reach) * (1.0 if wanted_now > 0 else -1.0)
    else:
        reach = max(0.0, abs(v) - d * TICK)
        new = max(abs(wanted_now), reach) * (1.0 if v > 0 else -1.0)
    moved = (v + new) / 2 * TICK
    ax.bare_position += moved
    ax.bare_velocity = new
    if ax.mode == TO_POSITION and new == 0.0 and abs(ax.target - ax.bare_position) < 1.0:
        moved += ax.target - ax.bare_position
        ax.bare_position = ax.target
    if ax.mode == AT_VELOCITY and ax.at_limit and abs(new) <= d * TICK:
        edge = ax.high if ax.target_velocity > 0 else ax.low
        if abs(edge - ax.bare_position) < 0.5:
            moved += edge - ax.bare_position
            ax.bare_position = edge
            ax.bare_velocity = 0.0
    return moved


@compiled
def _averaged(ax: Row, rings: Rows, moved: float) -> float:
    """The distance of this tick after the windows. Each keeps a running sum; what goes in comes out."""
    at = ax.cursor % RING
    out = moved
    if ax.window > 1:
        ax.sum_1 += out - rings[0, (ax.cursor - ax.window) % RING]
        rings[0, at] = out
        out = ax.sum_1 / ax.window
    if ax.second_window > 1:
        ax.sum_2 += out - rings[1, (ax.cursor - ax.second_window) % RING]
        rings[1, at] = out
        out = ax.sum_2 / ax.second_window
    ax.cursor += 1
    return out


@compiled
def _take_up(ax: Row, due: int) -> int:
    """Steps that take up the play after a reversal: they gather speed and lose it as gently as the motor bears beside its move,
    and are never more than the ceiling lets through."""
    if due != 0:
        wanted = int(round(ax.backlash)) if due > 0 else 0
        if ax.slack < 0:  # the side of the play is known only after the first motion
            ax.slack = wanted
        if wanted != ax.slack_wanted:
            ax.slack_wanted, ax.slack_speed, ax.slack_part = wanted, 0.0, 0.0
    left = ax.slack_wanted - ax.slack
    if ax.slack < 0 or left == 0:
        return 0
    rise = TAKEN_UP * ax.usual_acceleration
    ax.slack_speed = min(ax.slack_speed + rise * TICK, math.sqrt(2 * rise * abs(left)))
    ax.slack_part += ax.slack_speed * TICK
    extra = max(0, min(int(ax.slack_part), int(ax.budget), abs(left)))
    ax.slack_part -= extra
    ax.budget -= extra
    if left < 0:
        extra = -extra
    ax.slack += extra
    return extra


@compiled
def advance_axis(ax: Row, rings: Rows, tick: int, axis: int, events: Rows, filled: int) -> int:
    """One tick of one axis; returns how many events are written down now."""
    ax.emitted = 0
    if ax.wait_ticks > 0:
        ax.wait_ticks -= 1
        return filled
    if not ax.powered:
        return filled
    if ax.fresh and not ax.moving:
        ax.fresh = 0
        if ax.mode == TO_POSITION:
            _plan(ax, abs(ax.target - ax.bare_position), min(ax.move_speed, ax.speed_limit))
        elif ax.mode == AT_VELOCITY:
            _plan(ax, -1.0, min(abs(ax.target_velocity), ax.speed_limit))
        _clear(ax, rings)
    elif ax.fresh:
        ax.fresh = 0
        ax.peak = min(ax.move_speed, ax.speed_limit)
    if ax.mode == IDLE and not ax.moving:
        ax.budget = min(ax.budget + ax.step_ceiling * TICK, ax.step_ceiling * TICK + 1.0)
        ax.emitted = _take_up(ax, 0)
        return filled
    before = abs(ax.velocity)
    if ax.mode == FOLLOWING:  # the path says where it is now
        ax.velocity = ax.bare_velocity = (ax.target - ax.position) / TICK
        ax.position = ax.bare_position = ax.target
    else:
        moved = _bare(ax)
        stepped = _averaged(ax, rings, moved)
        ax.position += stepped
        ax.velocity = stepped / TICK
        ax.quiet = ax.quiet + 1 if moved == 0.0 and ax.bare_velocity == 0.0 else 0
        if ax.quiet > ax.window + ax.second_window:
            ax.position, ax.velocity, ax.moving = ax.bare_position, 0.0, 0
            if ax.mode == TO_POSITION or ax.mode == STOPPING:
                ax.mode = IDLE
        elif moved != 0.0:
            ax.moving = 1
    # steps: never more in a tick than the ceiling lets through; what is over waits
    ax.budget = min(ax.budget + ax.step_ceiling * TICK, ax.step_ceiling * TICK + 1.0)
    due = int(math.floor(ax.position + 0.5)) - ax.steps
    most = int(ax.budget)
    if abs(due) > most:
        due = most if due > 0 else -most
    ax.budget -= abs(due)
    ax.steps += due
    ax.emitted = due + _take_up(ax, due)
    kind = 0
    if not ax.moving:
        ax.phase = 0
    elif ax.phase == 0 and due != 0:
        kind, ax.phase = STARTED, STARTED
    elif ax.phase == STARTED and abs(ax.velocity) < before - 1e-9:
        kind, ax.phase = SLOWED, SLOWED
    elif ax.phase == SLOWED and abs(ax.velocity) > before + 1e-9:
        ax.phase = STARTED
    if kind and filled < len(events):
        events[filled].tick, events[filled].axis, events[filled].kind = tick, axis, kind
        filled += 1
    return filled


def rings_for(axes: int) -> np.ndarray:
    return np.zeros((axes, 2, RING))
