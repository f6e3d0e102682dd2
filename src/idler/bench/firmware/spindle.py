"""The firmware's side of the spindle: which way it is told to turn and at which level, its waits; and the way oil.

A spindle that was ended by a stop, the guard, a fault, a drive that is not ready or a lost range stays off until it is asked
for anew. It turns the other way only after the time to standstill of its range.
"""

from __future__ import annotations

from idler.core.table.rows.spindle import MOST_RANGES
from idler.core.values.roles import RANGE_ROLES, InputRole

from ..compiled import compiled
from ..state import RECORD, RECORD_TICKS, TICK, Row, Rows

_READY = InputRole.READY.raw
_FIRST_RANGE = RANGE_ROLES[0].raw
AT_REST, UP, TURNING, DOWN = 0, 1, 2, 3
STEPS = 4096.0  # of a level output
_SETTLES = 0.02  # share of a tick's rate in the mean of the measured speed: 50 ms
_MOTION, _SPINDLE, _EITHER, _POWER = 1, 2, 3, 4


@compiled
def judge_spindle(items: Rows, controller: Row) -> None:
    """What the inputs say of the spindle: whether its drive is ready, and which range is engaged (0: none or several)."""
    ready, wired, found, named = 0, 0, 0, 0
    for number in range(len(items)):
        item = items[number]
        if item.role == _READY:
            wired = 1
            ready = item.made
        elif _FIRST_RANGE <= item.role < _FIRST_RANGE + MOST_RANGES:
            named = 1
            if item.made:
                found = item.role - _FIRST_RANGE + 1 if found == 0 else -1
    controller.not_ready = 1 if wired and not ready else 0
    controller.engaged = max(found, 0) if named else controller.engaged_told
    controller.no_range = 1 if controller.engaged == 0 else 0


@compiled
def level_of(told: Row, speed: float) -> float:
    """The level in ‰ for a speed in rpm, by the range's points or else by its highest speed, in steps of the output."""
    speed = min(max(speed, told.low), told.high)
    if told.count < 2:
        level = 1000.0 * speed / told.high
    else:
        k = 1
        while k < told.count - 1 and told.speeds[k] < speed:
            k += 1
        share = (speed - told.speeds[k - 1]) / (told.speeds[k] - told.speeds[k - 1])
        level = told.levels[k - 1] + min(max(share, 0.0), 1.0) * (told.levels[k] - told.levels[k - 1])
    return round(level / 1000.0 * STEPS) / STEPS * 1000.0


@compiled
def advance_run(controller: Row, ranges: Rows, firmware: Rows, now: int) -> None:
    """One tick: from what is asked to what the outputs are told, by way of the times to speed and to standstill."""
    powered = 0
    for axis in range(len(firmware)):
        powered |= firmware[axis].powered
    if (
        controller.stop or controller.guard or controller.trouble_hit or controller.faulted
        or controller.not_ready or controller.no_range or (controller.needs_drives and not powered)
    ):  # fmt: skip
        controller.wanted = 0  # and it stays so until it is asked for anew
    told, before = ranges[max(controller.engaged - 1, 0)], controller.phase
    speed = controller.asked_speed
    if speed <= 0.0 and controller.asked_level <= 0.0:
        speed = controller.start_speed
    level = level_of(told, speed) if speed > 0.0 else controller.asked_level
    if controller.phase_ticks > 0:
        controller.phase_ticks -= 1
    elif controller.phase == UP:
        controller.phase = TURNING
    elif controller.phase == DOWN:
        controller.phase = AT_REST
    if controller.run != 0 and (controller.wanted != controller.run or controller.engaged != controller.run_range):
        if controller.engaged != controller.run_range:
            controller.wanted = 0
        controller.run = 0
        controller.phase, controller.phase_ticks = DOWN, ranges[max(controller.run_range - 1, 0)].run_down
    if controller.run == 0 and controller.wanted != 0 and controller.phase == AT_REST:
        controller.run, controller.run_range = controller.wanted, controller.engaged
        controller.phase, controller.phase_ticks = UP, told.run_up
    elif controller.run != 0 and abs(level - controller.run_level) > 1.0:
        before, controller.phase, controller.phase_ticks = AT_REST, UP, told.run_up
    if controller.phase != before and (controller.phase == UP or controller.phase == DOWN):
        controller.changed, controller.recorded = now, 0
    controller.run_level = level if controller.run != 0 else controller.rest
    if controller.phase == UP and controller.waits:
        for axis in range(len(firmware)):
            ax = firmware[axis]
            if ax.powered and not ax.moving and ax.homing == 0:
                ax.wait_ticks = max(ax.wait_ticks, controller.phase_ticks)


@compiled
def measure_spindle(controller: Row, spindle: Row, record: Rows, now: int) -> None:
    """The encoder as the controller counts it, and the speed in rpm that follows from the counts per turn it was told."""
    new = spindle.counts - controller.counts_seen
    controller.counts_seen = spindle.counts
    if controller.counts_reversed:
        new = -new
    controller.counts += new
    rate = new * 60.0 / TICK / controller.counts_per_turn if controller.counts_per_turn > 0 else 0.0
    controller.measured += (rate - controller.measured) * _SETTLES
    if abs(controller.measured) < 0.05:
        controller.measured = 0.0
    if (now - controller.changed) % RECORD_TICKS == 0 and controller.recorded < RECORD:
        record[controller.recorded] = controller.measured
        controller.recorded += 1


@compiled
def advance_oil(controller: Row, firmware: Rows) -> None:
    """One tick of the way oil: a stroke whenever enough time of its kind has been counted."""
    if controller.oil_left > 0:
        controller.oil_left -= 1
    if controller.oil_on <= 0:
        controller.oil_left = 0
        return
    moving = powered = 0
    for axis in range(len(firmware)):
        moving |= firmware[axis].moving
        powered |= firmware[axis].powered
    turns = 1 if controller.run != 0 else 0
    kind = controller.oil_of
    counts = (
        (kind == _MOTION and moving) or (kind == _SPINDLE and turns) or (kind == _EITHER and (moving or turns))
        or (kind == _POWER and powered)
    )  # fmt: skip
    if counts:
        controller.oil_done += 1
        if controller.oil_done >= controller.oil_every:
            controller.oil_done = 0
            controller.oil_left = controller.oil_on
            controller.strokes += 1
