"""The firmware's homing: phases that begin moves of the trajectory and wait for edges, one tick at a time.

By switch: approach → stops → back-off → touch → stops → (squares the beam) → (to the index mark → stops) → leaves, once.
By a hard stop the same, but towards iron it never goes faster than the touch speed, and it stands still at once.
"""

from __future__ import annotations

from idler.core.profile.homing import HomingResult, Phase

from ..compiled import compiled
from ..state import AT_VELOCITY, BARRED, CONSTANT, IDLE, STOPPING, TO_POSITION, Row, Rows

_APPROACH, _HALT, _BACK, _TOUCH = Phase.APPROACH.raw, Phase.HALT.raw, Phase.BACK_OFF.raw, Phase.TOUCH.raw
_HALT_AT_TOUCH, _INDEX, _HALT_AT_INDEX = Phase.HALT_AT_TOUCH.raw, Phase.INDEX.raw, Phase.HALT_AT_INDEX.raw
_LEAVE, _SQUARE = Phase.LEAVE.raw, Phase.SQUARE.raw
_FOUND, _NOT_FOUND, _PRESSED = HomingResult.FOUND.raw, HomingResult.NOT_FOUND.raw, HomingResult.PRESSED.raw
_STILL_PRESSED, _OTHER_END, _NO_INDEX = (
    HomingResult.STILL_PRESSED.raw,
    HomingResult.OTHER_END.raw,
    HomingResult.NO_INDEX.raw,
)
_STOPPED, _CHAIN_BUSY = HomingResult.STOPPED.raw, HomingResult.CHAIN_BUSY.raw
_APART, _MARK_MOVED = HomingResult.APART.raw, HomingResult.MARK_MOVED.raw
_STILL_MADE, _UNSTEADY, _LIMIT_FIRST = (
    HomingResult.STILL_MADE.raw,
    HomingResult.UNSTEADY.raw,
    HomingResult.LIMIT_FIRST.raw,
)

_FELT = 4  # ticks of too much effort that mean iron
_SETTLED = 0.01  # share of a tick's effort in the usual one
_BOUNCES = 0.25  # of the back-off: a touch met sooner is the bounce of its own release
_CLEARS = 20.0  # mm (°) within which the switch of the other end must let go of an axis that began on it
_SEARCH = 1.1  # times the distance between the hard stops: nothing is looked for further away


@compiled
def _go(ax: Row, target: float, speed: float) -> None:
    ax.target, ax.move_speed = target, speed
    ax.mode, ax.fresh = TO_POSITION, 1


@compiled
def _brake(ax: Row) -> None:
    ax.mode, ax.target_velocity, ax.fresh = AT_VELOCITY, 0.0, 0


@compiled
def _stand(ax: Row, place: float) -> None:
    """Ends the steps within the tick, at a place: against iron there is nothing to brake."""
    ax.bare_position = ax.position = place
    ax.steps = int(round(place))
    ax.bare_velocity = ax.velocity = 0.0
    ax.mode, ax.fresh, ax.moving = IDLE, 0, 0


@compiled
def _rests(ax: Row) -> bool:
    still = ax.mode == IDLE or (ax.mode == AT_VELOCITY and ax.target_velocity == 0.0)
    return still and not ax.moving and not ax.fresh


@compiled
def end_homing(ax: Row, result: int) -> None:
    """The pace is the usual one again, both sides of a beam go together; what does not end well stands."""
    ax.homing, ax.home_result, ax.held = 0, result, 0
    ax.acceleration, ax.deceleration, ax.shape = ax.usual_acceleration, ax.usual_deceleration, ax.usual_shape
    if result != _FOUND and ax.mode != STOPPING:
        if ax.moving:
            _brake(ax)
        else:
            ax.mode, ax.fresh = IDLE, 0  # a first move that was only asked for is not begun


@compiled
def _pressed(ax: Row) -> bool:
    """Whether a switch that homing looks for is made: that of the axis, or of the other side of its beam."""
    return not ax.home_stop and (ax.switch or (ax.home_two and ax.switch_second))


@compiled
def _search(ax: Row) -> float:
    """How far it looks: no further than its travel goes, where that was told."""
    return min(ax.home_search, _SEARCH * ax.span) if ax.span > 0 else ax.home_search


@compiled
def _clears(ax: Row) -> bool:
    """Off the switch of the other end, on which it began, only slowly and not far. Whether it is still on that."""
    if not ax.other_end:
        ax.home_clearing = 0
        if not ax.home_stop:
            ax.move_speed, ax.fresh = ax.home_approach, 1
    return ax.home_clearing and abs(ax.bare_position - ax.home_begun) < _CLEARS * ax.counts_per_unit


@compiled
def begin_homing(firmware: Rows, slot: int) -> None:
    """Starts the method that the axis was told."""
    ax = firmware[slot]
    ax.homed = 0
    if ax.home_chain:
        for other in range(len(firmware)):
            if other != slot and firmware[other].homing:
                ax.home_result = _CHAIN_BUSY
                return
    if _pressed(ax):
        ax.home_result = _PRESSED
        return
    if ax.unwatched == BARRED:
        ax.home_result = _OTHER_END
        return
    ax.acceleration = ax.deceleration = ax.home_acceleration
    ax.shape = CONSTANT
    ax.home_result = ax.held = ax.felt = 0
    ax.usual_effort = ax.sides = ax.index_distance = ax.ran_on = 0.0
    ax.homing = _APPROACH
    ax.edge_seen, ax.second_seen = ax.latches, ax.second_latches
    ax.home_begun, ax.home_clearing = ax.bare_position, ax.other_end
    slowly = ax.home_stop or ax.home_clearing
    _go(ax, ax.bare_position + ax.home_way * _search(ax), ax.home_touch if slowly else ax.home_approach)


@compiled
def _take_place(ax: Row, place: float) -> None:
    """Gives the place that was found its coordinate; everything that counts from zero moves with it."""
    shift = ax.home_coordinate - place
    ax.bare_position += shift
    ax.position = ax.bare_position
    whole = int(round(ax.bare_position)) - ax.steps
    ax.steps += whole
    ax.latched += shift
    ax.marked += shift


@compiled
def _feels_iron(ax: Row) -> bool:
    """Whether the motor has given too much for some ticks; on its way the usual effort is kept."""
    ax.felt = ax.felt + 1 if ax.effort > ax.home_effort else 0
    if ax.homing == _APPROACH and ax.effort < ax.home_effort / 2 and ax.moving:
        ax.usual_effort += (ax.effort - ax.usual_effort) * _SETTLED
    return ax.felt >= _FELT


@compiled
def _switch_met(ax: Row) -> bool:
    """Whether the switch of the axis, or on the approach that of either side, has made."""
    met = ax.latches != ax.edge_seen
    if ax.home_two and ax.homing == _APPROACH and not met and ax.second_latches != ax.second_seen:
        ax.latched = ax.second_latched
        return True
    return met


@compiled
def _touch_both(ax: Row) -> None:
    """Each side of a beam stands still at its own switch; the touch is over when both have."""
    first, second = ax.latches != ax.edge_seen, ax.second_latches != ax.second_seen
    if first and not ax.held & 1:
        ax.held |= 1
        ax.home_place = ax.latched
    if second and not ax.held & 2:
        ax.held |= 2
    if ax.held == 3:
        ax.sides = ax.skew
        _stand(ax, ax.home_place)
        ax.homing, ax.held = _HALT_AT_TOUCH, 0
    elif ax.held:
        met = ax.home_place if ax.held & 1 else ax.second_latched
        if abs(ax.bare_position - met) > ax.home_apart or _rests(ax):
            end_homing(ax, _APART)


@compiled
def _seek(ax: Row) -> None:
    """Approach and touch: until the switch makes, or iron is felt."""
    touching = ax.homing == _TOUCH
    met = _feels_iron(ax) if ax.home_stop else _switch_met(ax)
    if touching and ax.home_two and not ax.home_stop:
        _touch_both(ax)
        if ax.homing != _TOUCH or ax.held:
            return
    elif met:
        place = float(ax.steps) if ax.home_stop else ax.latched
        if touching:
            begun = ax.home_first - ax.home_way * ax.home_back
            if not ax.home_stop and (place - begun) * ax.home_way < _BOUNCES * ax.home_back:
                end_homing(ax, _UNSTEADY)
                return
            ax.home_place, ax.homing = place, _HALT_AT_TOUCH
        else:
            ax.home_first, ax.homing = place, _HALT
        if ax.home_stop:
            _stand(ax, place)
        else:
            _brake(ax)
        return
    if ax.home_clearing and _clears(ax):
        return
    if ax.other_end:
        end_homing(ax, _OTHER_END)
    elif ax.own_end:
        end_homing(ax, _LIMIT_FIRST)
    elif _rests(ax):
        end_homing(ax, _NOT_FOUND)


@compiled
def _after_touch(ax: Row) -> None:
    """To the index mark, or away from the switch, which is left once."""
    if ax.home_index:
        ax.homing, ax.edge_seen = _INDEX, ax.marks
        _go(ax, ax.bare_position - ax.home_way * ax.home_index_within, ax.home_touch)
    else:
        _take_place(ax, ax.home_place)
        ax.homing = _LEAVE
        _go(ax, ax.home_coordinate - ax.home_way * ax.home_leave, ax.home_approach)


@compiled
def advance_homing(ax: Row) -> None:
    """One tick, before the trajectory's own."""
    if not ax.homing:
        return
    if not ax.powered or ax.mode == STOPPING:
        end_homing(ax, _STOPPED)
        return
    rests = _rests(ax)
    if ax.homing == _APPROACH and ax.moving and not ax.home_stop:
        ax.usual_effort += (ax.effort - ax.usual_effort) * _SETTLED
    if ax.homing == _APPROACH or ax.homing == _TOUCH:
        _seek(ax)
    elif ax.homing == _HALT and not rests:
        ax.ran_on = (ax.steps - ax.home_first) * ax.home_way
    elif ax.homing == _HALT:
        ax.homing = _BACK
        _go(ax, ax.home_first - ax.home_way * ax.home_back, ax.home_approach)
    elif ax.homing == _BACK and rests:
        if _pressed(ax):
            end_homing(ax, _STILL_PRESSED)
            return
        ax.homing, ax.felt = _TOUCH, 0
        ax.edge_seen, ax.second_seen = ax.latches, ax.second_latches
        _go(ax, ax.home_first + ax.home_way * (ax.home_back + ax.home_two * ax.home_apart), ax.home_touch)
    elif ax.homing == _HALT_AT_TOUCH and rests:
        if ax.home_two and ax.home_squaring != 0.0:
            ax.homing, ax.held = _SQUARE, 1
            _go(ax, ax.bare_position + ax.home_squaring, ax.home_touch)
        else:
            _after_touch(ax)
    elif ax.homing == _SQUARE and rests:  # the first side has not moved: its place is the axis's
        ax.held = 0
        _stand(ax, ax.home_place)
        _after_touch(ax)
    elif ax.homing == _INDEX:
        if ax.marks != ax.edge_seen:
            ax.index_distance = (ax.home_place - ax.marked) * ax.home_way
            known = ax.home_mark_distance > 0
            if known and abs(ax.index_distance - ax.home_mark_distance) > ax.home_mark_spread:
                end_homing(ax, _MARK_MOVED)
                return
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
        if _pressed(ax):
            end_homing(ax, _STILL_MADE)
            return
        end_homing(ax, _FOUND)
        ax.homed = 1
