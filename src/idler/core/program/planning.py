"""How long a program takes on a machine, and where it does not reach its feeds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..machine import Axis, Machine
from ..mechanics.pace import Pace, VelocityShape
from ..table import MOST_AXES
from .language import Kind
from .pieces import LAW, desk_for
from .planner import plan
from .reading import Program
from .state import Array, Row
from .told import told_record

AT_ONCE = 100_000  # moves that are planned before somebody may look, or end it
FREE = 1e9  # stands for the ends of what has none, mm (°)


def law_record(machine: Machine) -> Row:
    """Paces of the axes as the planner reads them. An axis without a pace that can be used is taken to go
    1 mm/s (°/s): its finding says why at Drives."""
    law: Array = np.zeros(1, LAW).view(np.recarray)
    row = law[0]
    row.jerk, row.top, row.up, row.down, row.both = np.inf, 1.0, 1.0, 1.0, 1.0
    row.weight, row.soft_low, row.soft_high = 1.0, -FREE, FREE
    for slot, axis in enumerate(machine.axes):
        pace = Pace.of(axis)
        if pace is None:
            continue
        row.top[slot], row.up[slot], row.down[slot] = pace.speed, pace.acceleration, pace.deceleration
        row.both[slot] = min(pace.acceleration, pace.deceleration)
        steepest = max(pace.acceleration, pace.deceleration)
        row.norm += 0 if axis.rotary else steepest**2
        if pace.shape is not VelocityShape.CONSTANT:
            row.jerk[slot] = pace.jerk
            row.limited = 1
            row.window = max(row.window, 2 * steepest / pace.jerk)
        if pace.shape is VelocityShape.SMOOTHEST:
            row.smoothest[slot] = row.second = 1
        _soften(row, slot, axis)
    row.norm = np.sqrt(row.norm)
    row.soft_more = row.top * row.window * (1.5 if row.second else 1.0)
    return row


def _soften(row: Row, slot: int, axis: Axis) -> None:
    cushion = float(axis.number("travel.cushion"))
    if cushion > 0 and axis.flag("travel.limits_on") and not axis.wraps:
        row.soft_low[slot] = float(axis.number("travel.low")) + cushion
        row.soft_high[slot] = float(axis.number("travel.high")) - cushion
        row.soft_speed[slot] = float(axis.number("travel.cushion_speed")) / 60
        row.cushioned = 1


def weigh(told: Row, law: Row) -> None:
    """What lies beside a corner by an axis that turns is counted at the radius that was given."""
    for slot in range(MOST_AXES):
        if told.rotary[slot] and told.radius[slot]:
            law.weight[slot] = told.radius[slot] * np.pi / 180


@dataclass(frozen=True)
class Timing:
    """Times in s. result: rows of `planner.plan`, one for each move."""

    moving: float
    dwell: float
    spindle: float
    result: Array

    @property
    def total(self) -> float:
        return self.moving + self.dwell + self.spindle


def plan_program(
    program: Program, machine: Machine | None = None, keep_on: Callable[[float], bool] = lambda _share: True
) -> Timing | None:
    """Plans all of it. machine: another one than it was read against, to see what a faster axis would save.

    keep_on: told the share that is done, now and then; where it says no, None is returned.
    """
    told, law = told_record(program.machine, program.chosen), law_record(machine or program.machine)
    weigh(told, law)
    desk = desk_for(told, law, program.moves)
    row = 0
    while row < program.moves:
        row = plan(desk, program.sheet, program.moves, program.start, row, AT_ONCE)
        if not keep_on(row / program.moves):
            return None
    kinds = program.kinds
    seconds = desk.result[:, 0].astype(float)
    dwell, spindle = (float(seconds[kinds == kind].sum()) for kind in (Kind.DWELL, Kind.SPINDLE))
    return Timing(float(seconds[kinds < Kind.DWELL].sum()), dwell, spindle, desk.result)
