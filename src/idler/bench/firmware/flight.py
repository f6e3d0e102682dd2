"""The flight record of the firmware: a ring of the last seconds, held when something stops the machine."""

from __future__ import annotations

import numpy as np

from idler.core.profile.flight import AFTERWARDS, PERIOD_MS, SAMPLES, Flag, FlightState
from idler.core.profile.terminals import Condition

from ..compiled import compiled
from ..state import STOPPING, Row, Rows

RECORDING, ENDING, HELD = (state.value for state in FlightState)
_STOP, _GUARD, _TROUBLE, _SPINDLE = (
    int(c) for c in (Condition.STOP, Condition.GUARD, Condition.TROUBLE, Condition.SPINDLE)
)
_EVERY = PERIOD_MS  # ticks
_POWERED, _MOVING, _HOMED, _STOPPING, _LOW, _HIGH, _HOMING, _AT_LIMIT = (int(flag) for flag in Flag)


@compiled
def flight_hit(firmware: Rows, inputs: Rows, controller: Row) -> None:
    """Whether something has stopped the machine since it was last asked, and which input it was: nobody has spoken of it
    yet."""
    _let_go(inputs, controller)
    if controller.flight_state != RECORDING:
        return
    hit, number = 0, -1
    for axis in range(len(firmware)):
        if firmware[axis].lag_hit:
            hit = 1
        if firmware[axis].limit_hit:
            hit, number = 1, firmware[axis].limit_input
    if controller.guard_hit:
        hit, number = 1, controller.guard_input
    if controller.stop_hit or controller.trouble_hit:
        hit, number = 1, controller.hit_input
    if hit:
        hold_flight(controller)
        controller.flight_input = number


@compiled
def _let_go(inputs: Rows, controller: Row) -> None:
    """For how long the input that stopped the machine was away from its rest, to the µs."""
    if controller.flight_state != RECORDING and controller.flight_input >= 0 and controller.flight_held < 0:
        item = inputs[controller.flight_input]
        if item.let_go_at > item.made_at:
            controller.flight_held = item.let_go_at - item.made_at


@compiled
def hold_flight(controller: Row) -> None:
    """From here on a second more is recorded."""
    if controller.flight_state == RECORDING:
        controller.flight_state, controller.flight_left = ENDING, AFTERWARDS
        controller.flight_moment = controller.flight_written
        controller.flight_input = controller.flight_held = -1


@compiled
def record_flight(
    firmware: Rows, inputs: Rows, outputs: Rows, spindle_speed: float, controller: Row, flight: Rows, tick: int
) -> None:
    if tick % _EVERY or controller.flight_state == HELD:
        return
    sample = flight[controller.flight_written % SAMPLES]
    controller.flight_written += 1
    closed, energised = 0, 0
    for number in range(len(inputs)):
        closed |= (1 if inputs[number].level else 0) << number
    for number in range(len(outputs)):
        energised |= (1 if outputs[number].energised else 0) << number
    sample.closed, sample.energised, sample.spindle = closed, energised, spindle_speed
    sample.conditions = (
        (_STOP if controller.stop else 0) | (_GUARD if controller.guard else 0)
        | (_TROUBLE if controller.trouble else 0) | (_SPINDLE if controller.run else 0)
    )  # fmt: skip
    for axis in range(len(firmware)):
        ax = firmware[axis]
        sample.position[axis], sample.velocity[axis] = ax.steps / ax.counts_per_unit, ax.velocity / ax.counts_per_unit
        sample.lag[axis] = ax.lag / ax.counts_per_unit
        sample.flags[axis] = (
            (_POWERED if ax.powered else 0) | (_MOVING if ax.moving else 0) | (_HOMED if ax.homed else 0)
            | (_STOPPING if ax.moving and ax.mode == STOPPING else 0) | (_LOW if ax.limit_low else 0)
            | (_HIGH if ax.limit_high else 0) | (_HOMING if ax.homing else 0) | (_AT_LIMIT if ax.at_limit else 0)
        )  # fmt: skip
    if controller.flight_state == ENDING:
        controller.flight_left -= 1
        if controller.flight_left <= 0:
            controller.flight_state = HELD


def in_order(flight: np.ndarray, written: int) -> np.ndarray:
    """The samples of the ring, oldest first."""
    return flight[:written] if written < SAMPLES else np.roll(flight, -(written % SAMPLES), axis=0)
