"""How long a program takes on a machine, and where it does not reach its feeds."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from ..machine import Axis, Machine
from ..mechanics.pace import Pace, VelocityShape
from ..table import MOST_AXES
from .choices import Chosen
from .emitting import Sheet
from .language import KIND_BITS, Kind
from .pieces import LAW, desk_for
from .planner import plan, seconds_by_kind
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
    row.per_top, row.per_up, row.per_down, row.per_both = 1 / row.top, 1 / row.up, 1 / row.down, 1 / row.both
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


class Planning:
    """A plan that is made behind the reading of its program, in a thread of its own: compiled code lets go of the interpreter.

    What has been read is not written any more, and a sheet with more room is another one, so that nothing is waited for.
    """

    def __init__(self, machine: Machine, chosen: Chosen, paces: Machine | None = None) -> None:
        """paces: another machine than it is read against, to see what a faster axis would save."""
        told, law = told_record(machine, chosen), law_record(paces or machine)
        weigh(told, law)
        self._desk, self._row = desk_for(told, law, 0), 0
        self._beside = ThreadPoolExecutor(1, "plan")
        self._step: Future[None] | None = None
        self._told: tuple[Sheet, int, Array] | None = None  # what it was told last
        self._taken = 0  # moves that it has taken up

    def __enter__(self) -> Planning:
        return self

    def __exit__(self, *_: object) -> None:
        self._beside.shutdown()

    def read(self, sheet: Sheet, moves: int, start: Array) -> None:
        """So many moves have been read, and others will follow. Where it is still at work on those before, it takes them up
        when it is done with these."""
        self._told = (sheet, moves, start)
        self._step = self._beside.submit(self._follow)

    def _follow(self) -> None:
        """Takes up all that it has been told by now; what comes behind it in the queue finds nothing left then."""
        if self._told is not None and self._told[1] > self._taken:
            sheet, self._taken, start = self._told
            self._plan(sheet, self._taken, start)

    def _plan(self, sheet: Sheet, moves: int, start: Array, most: int | None = None) -> None:
        """most: rows that are planned before somebody may look; none follow then."""
        if moves > len(self._desk.result):
            more: Array = np.zeros((max(moves, len(sheet.moves)), 4), np.float32)
            more[: self._row] = self._desk.result[: self._row]
            self._desk = self._desk._replace(result=more)
        self._row = plan(self._desk, sheet, moves, start, self._row, moves if most is None else most, most is None)

    def rest(self) -> None:
        """Waits until it has planned what it was told of."""
        if self._step is not None:
            self._step.result()

    def end(self, program: Program, keep_on: Callable[[float], bool]) -> Timing | None:
        """All has been read. None where keep_on says no."""
        self.rest()
        while self._row < program.moves:
            self._plan(program.sheet, program.moves, program.start, AT_ONCE)
            if not keep_on(self._row / program.moves):
                return None
        result, sums = self._desk.result[: program.moves], np.zeros(KIND_BITS + 1)
        seconds_by_kind(result, program.sheet, sums)
        return Timing(float(sums[: Kind.DWELL].sum()), float(sums[Kind.DWELL]), float(sums[Kind.SPINDLE]), result)


def plan_program(
    program: Program, machine: Machine | None = None, keep_on: Callable[[float], bool] = lambda _share: True
) -> Timing | None:
    """Plans all of it. machine: another one than it was read against, to see what a faster axis would save.

    keep_on: told the share that is done, now and then; where it says no, None is returned.
    """
    with Planning(program.machine, program.chosen, machine) as planning:
        return planning.end(program, keep_on)
