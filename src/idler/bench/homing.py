"""The firmware's homing: phases that begin moves of the trajectory and wait for edges, one tick at a time.

approach → stops → back-off → touch → stops → (to the index mark → stops) → leaves the switch, once.
"""

from __future__ import annotations

from idler.core.wire.homing import Phase, Result

from .compiled import compiled
from .state import AT_VELOCITY, CONSTANT, IDLE, STOPPING, TO_POSITION

_APPROACH, _HALT, _BACK, _TOUCH = Phase.APPROACH.raw, Phase.HALT.raw, Phase.BACK_OFF.raw, Phase.TOUCH.raw
_HALT_AT_TOUCH, _INDEX, _HALT_AT_INDEX = Phase.HALT_AT_TOUCH.raw, Phase.INDEX.raw, Phase.HALT_AT_INDEX.raw
_LEAVE = Phase.LEAVE.raw
_FOUND, _NOT_FOUND, _PRESSED = Result.FOUND.raw, Result.NOT_FOUND.raw, Result.PRESSED.raw
_STILL_PRESSED, _OTHER_END, _NO_INDEX = Result.STILL_PRESSED.raw, Result.OTHER_END.raw, Result.NO_INDEX.raw
_STOPPED, _CHAIN_BUSY = Result.STOPPED.raw, Result.CHAIN_BUSY.raw


@compiled
def _go(ax, target, speed):
    ax.target, ax.move_speed = target, speed
    ax.mode, ax.fresh = TO_POSITION, 1


@compiled
def _brake(ax):
    ax.mode, ax.target_velocity, ax.fresh = AT_VELOCITY, 0.0, 0


@compiled
def _rests(ax):
    still = ax.mode == IDLE or (ax.mode == AT_VELOCITY and ax.target_velocity == 0.0)
    return still and not ax.moving and not ax.fresh


@compiled
def end_homing(ax, result):
    """The pace is the usual one again; what does not end well brakes."""
    ax.homing, ax.home_result = 0, result
    ax.acceleration, ax.deceleration, ax.shape = ax.usual_acceleration, ax.usual_deceleration, ax.usual_shape
    if result != _FOUND and result != _STOPPED and ax.moving:
        _brake(ax)


@compiled
def begin_homing(firmware, slot):
    """Starts the method that the axis was told."""
    ax = firmware[slot]
    ax.homed = 0
    if ax.home_chain:
        for other in range(len(firmware)):
            if other != slot and firmware[other].homing:
                ax.home_result = _CHAIN_BUSY
                return
    if ax.switch:
        ax.home_result = _PRESSED
        return
    ax.acceleration = ax.deceleration = ax.home_acceleration
    ax.shape = CONSTANT
    ax.home_result = 0
    ax.homing = _APPROACH
    ax.edge_seen = ax.latches
    _go(ax, ax.bare_position + ax.home_way * ax.home_search, ax.home_approach)


@compiled
def _take_place(ax, place):
    """Gives the place that was found its coordinate; everything that counts from zero moves with it."""
    shift = ax.home_coordinate - place
    ax.bare_position += shift
    ax.position = ax.bare_position
    whole = int(round(ax.bare_position)) - ax.steps
    ax.steps += whole
    ax.latched += shift
    ax.marked += shift


@compiled
def advance_homing(ax):
    """One tick, before the trajectory's own."""
    if not ax.homing:
        return
    if not ax.powered or ax.mode == STOPPING:
        end_homing(ax, _STOPPED)
        return
    edge = ax.latches != ax.edge_seen
    rests = _rests(ax)
    if ax.homing == _APPROACH or ax.homing == _TOUCH:
        if edge:
            if ax.homing == _APPROACH:
                ax.home_first, ax.homing = ax.latched, _HALT
            else:
                ax.home_place, ax.homing = ax.latched, _HALT_AT_TOUCH
            _brake(ax)
        elif ax.other_end:
            end_homing(ax, _OTHER_END)
        elif rests:
            end_homing(ax, _NOT_FOUND)
    elif ax.homing == _HALT and rests:
        ax.homing = _BACK
        _go(ax, ax.home_first - ax.home_way * ax.home_back, ax.home_approach)
    elif ax.homing == _BACK and rests:
        if ax.switch:
            end_homing(ax, _STILL_PRESSED)
            return
        ax.homing, ax.edge_seen = _TOUCH, ax.latches
        _go(ax, ax.home_first + ax.home_way * ax.home_back, ax.home_touch)
    elif ax.homing == _HALT_AT_TOUCH and rests:
        if ax.home_index:
            ax.homing, ax.edge_seen = _INDEX, ax.marks
            _go(ax, ax.bare_position - ax.home_way * ax.home_index_within, ax.home_touch)
        else:
            _take_place(ax, ax.home_place)
            ax.homing = _LEAVE
            _go(ax, ax.home_coordinate - ax.home_way * ax.home_leave, ax.home_approach)
    elif ax.homing == _INDEX:
        if ax.marks != ax.edge_seen:
            ax.index_distance = (ax.home_place - ax.marked) * ax.home_way
            ax.homing = _HALT_AT_INDEX
            _brake(ax)
        elif rests:
            end_homing(ax, _NO_INDEX)
    elif ax.homing == _HALT_AT_INDEX and rests:
        switch = ax.home_place - ax.marked
        _take_place(ax, ax.marked)
        ax.homing = _LEAVE
        _go(ax, ax.home_coordinate + switch - ax.home_way * ax.home_leave, ax.home_approach)
    elif ax.homing == _LEAVE and rests:
        end_homing(ax, _FOUND)
        ax.homed = 1
