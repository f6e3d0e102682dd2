"""Firmware and plant together, advanced in blocks of ticks."""

from __future__ import annotations

import math

import numpy as np

from idler.core.profile.flight import SAMPLES
from idler.core.table import MOST_AXES
from idler.core.values.parameter import Scope

from .compiled import compiled
from .flight import flight_hit, hold_flight, in_order, record_flight
from .homing import advance_homing, begin_homing
from .inputs import TICK_US, advance_inputs, judge_inputs, latch_positions, set_input
from .outputs import advance_outputs
from .plant import advance_plant
from .rig import Rig
from .spindle import advance_oil, advance_run, judge_spindle, measure_spindle
from .state import (
    BARRED,
    CONTROLLER,
    EDGE,
    EDGE_RING,
    EVENT,
    FLIGHT,
    INPUT,
    OUTPUT,
    RANGE,
    RECORD,
    STOPPING,
    Row,
    Rows,
    blank_firmware,
)
from .trajectory import advance_axis, cut, quick_stop, rings_for
from .turning import advance_turning

_OVER = 1.05  # times the touch speed, beyond which an axis whose ends nobody watches is stopped


@compiled
def _powered(firmware: Rows) -> int:
    powered = 0
    for axis in range(len(firmware)):
        if firmware[axis].powered:
            powered = 1
    return powered


@compiled
def _react(firmware: Rows, rings: Rows, controller: Row) -> None:
    """Stop and drive trouble act within the tick; the node speaks of them afterwards."""
    if not controller.stop and not controller.trouble:
        return
    for axis in range(len(firmware)):
        ax = firmware[axis]
        if controller.stop or controller.trouble & (1 << axis):
            if ax.powered:
                if ax.moving:
                    ax.homed = 0
                cut(ax, rings[axis])
        elif ax.powered:
            quick_stop(ax, rings[axis])


@compiled
def _limit(firmware: Rows, rings: Rows) -> None:
    """A limit switch that is met, on whatever way, stops every axis at once. Homing may meet its own switch."""
    for axis in range(len(firmware)):
        ax = firmware[axis]
        if ax.homing or not ax.moving or ax.mode == STOPPING:
            continue
        low = ax.low_new or (ax.limit_low and ax.velocity * ax.low_way > 0)
        high = ax.high_new or (ax.limit_high and ax.velocity * ax.high_way > 0)
        hit = -1 if low else 1 if high else 0
        if ax.unwatched == BARRED or (ax.unwatched and abs(ax.velocity) > _OVER * ax.home_touch):
            hit = 1 if ax.velocity > 0 else -1
        if hit:
            ax.limit_hit = hit
            for other in range(len(firmware)):
                if firmware[other].powered and firmware[other].moving:
                    quick_stop(firmware[other], rings[other])


@compiled
def _nut(plant: Rows, motor: int) -> float:
    p = plant[motor]
    return p.start + p.angle * p.lead / (2 * math.pi)


@compiled
def _advance_motors(firmware: Rows, plant: Rows, controller: Row) -> None:
    """Each motor takes the steps of the axis that it hangs on; a motor of no axis has no current."""
    for motor in range(len(plant)):
        emitted, powered = 0.0, 0
        for axis in range(len(firmware)):
            ax = firmware[axis]
            if ax.output == motor:
                emitted, powered = ax.emitted * ax.sign * (0.0 if ax.held & 1 else 1.0), ax.powered
                ax.skew += ax.emitted if ax.held == 1 else -ax.emitted if ax.held == 2 else 0
            elif ax.second == motor:
                emitted, powered = ax.emitted * ax.sign * ax.second_sign * (0.0 if ax.held & 2 else 1.0), ax.powered
        beam = plant[motor].beam
        beside = _nut(plant, beam) if beam >= 0 else 0.0
        advance_plant(plant[motor], emitted, powered, controller, beside)


@compiled
def _measure(firmware: Rows, plant: Rows, rings: Rows) -> None:
    """Following error of the axes whose motors have an encoder, and what the firmware does when it is too large."""
    for axis in range(len(firmware)):
        ax = firmware[axis]
        if not ax.measured or ax.output < 0 or ax.output >= len(plant):
            ax.lag = 0.0
            continue
        p = plant[ax.output]
        ax.sent += ax.emitted * ax.sign * (0.0 if ax.held & 1 else 1.0)
        behind = ax.sent - p.angle * p.direction / (2 * math.pi) * ax.turn_counts
        if not ax.powered or ax.wait_ticks > 0:
            ax.lag_zero = behind
        ax.lag = (behind - ax.lag_zero) * ax.sign
        ax.lagging = ax.lagging + 1 if abs(ax.lag) > ax.lag_window else 0
        if ax.lagging > ax.lag_ticks and ax.powered:
            ax.lag_hit, ax.homed = 1, 0
            for other in range(len(firmware)):
                if other == axis:
                    cut(ax, rings[axis])
                elif firmware[other].powered:
                    quick_stop(firmware[other], rings[other])


@compiled
def _feel(firmware: Rows, plant: Rows) -> None:
    """The effort of each axis: that of its motor, or of the one of two that gives more."""
    for axis in range(len(firmware)):
        ax = firmware[axis]
        ax.effort = 0.0
        for motor in (ax.output, ax.second):
            if 0 <= motor < len(plant):
                ax.effort = max(ax.effort, plant[motor].effort)


@compiled
def _run(
    firmware: Rows,
    plant: Rows,
    rings: Rows,
    inputs: Rows,
    wires: Rows,
    outputs: Rows,
    spindle: Row,
    ranges: Rows,
    record: Rows,
    controller: Row,
    edges: Rows,
    flight: Rows,
    first: int,
    ticks: int,
    events: Rows,
    filled: int,
) -> int:
    for tick in range(first, first + ticks):
        noise = min(1.0, abs(spindle.motor) / spindle.top) if spindle.top > 0 else 0.0
        advance_inputs(inputs, wires, plant, spindle, controller, edges, tick * TICK_US, noise)
        judge_inputs(inputs, controller, len(firmware))
        judge_spindle(inputs, controller)
        latch_positions(inputs, firmware)
        _limit(firmware, rings)
        for axis in range(len(firmware)):
            if firmware[axis].until == 2:
                firmware[axis].until = 0
                if firmware[axis].moving:
                    quick_stop(firmware[axis], rings[axis])
        _react(firmware, rings, controller)
        advance_run(controller, ranges, firmware, tick)
        for axis in range(len(firmware)):
            ax = firmware[axis]
            advance_homing(ax)
            filled = advance_axis(ax, rings[axis], tick, axis, events, filled)
        _advance_motors(firmware, plant, controller)
        _measure(firmware, plant, rings)
        _feel(firmware, plant)
        advance_oil(controller, firmware)
        advance_outputs(outputs, controller, _powered(firmware))
        advance_turning(spindle, outputs, controller)
        measure_spindle(controller, spindle, record, tick)
        flight_hit(firmware, inputs, controller)
        record_flight(firmware, inputs, outputs, controller.measured, controller, flight, tick)
    return filled


@compiled
def _home(firmware: Rows, slot: int) -> None:
    begin_homing(firmware, slot)


@compiled
def _stop(firmware: Rows, rings: Rows, axis: int) -> None:
    quick_stop(firmware[axis], rings[axis])


@compiled
def _hold(controller: Row) -> None:
    hold_flight(controller)


@compiled
def _cut(firmware: Rows, rings: Rows, axis: int) -> None:
    cut(firmware[axis], rings[axis])


@compiled
def _set_input(inputs: Rows, number: int, role: int, axis: int, closed_at_rest: int, filter_us: int) -> None:
    set_input(inputs[number], role, axis, closed_at_rest, filter_us)


class World:
    """The arrays of one rig and the tick count of its clock."""

    def __init__(self, rig: Rig, seed: int = 1) -> None:
        self.rig = rig
        self._seed = seed
        self.tick = 0
        self._events = np.zeros(256, EVENT)
        self.deliver()

    def deliver(self) -> None:
        """The rig as it came."""
        shape = self.rig.told.shape
        self.firmware = blank_firmware(MOST_AXES)
        self.axes = len(shape.names)  # that the firmware has in use; the others need no time
        self.plant = self.rig.plant()
        self._rings = rings_for(MOST_AXES)
        self.inputs = np.zeros(shape.inputs, INPUT)
        self.inputs["axis"] = -1
        self.wires = self.rig.wires_made(self._seed)
        self.outputs = np.zeros(shape.outputs, OUTPUT)
        self._spindle = self.rig.spindle_made()
        self.ranges = np.zeros(shape.count(Scope.RANGE), RANGE)
        self.ranges["high"] = 1.0
        self.record = np.zeros(RECORD)
        self._controller = np.zeros(1, CONTROLLER)
        self.controller["tried"] = self.controller["flight_input"] = -1
        self.edges = np.zeros(EDGE_RING, EDGE)
        self._flight = np.zeros(SAMPLES, FLIGHT)
        for wire, item in zip(self.wires[: len(self.inputs)], self.inputs, strict=True):
            item["raw"] = item["level"] = wire["level"]

    @property
    def controller(self) -> Row:
        return self._controller[0]

    @property
    def spindle(self) -> Row:
        return self._spindle[0]

    @property
    def now_us(self) -> int:
        return self.tick * TICK_US

    def run(self, ticks: int) -> np.ndarray:
        """Advances the clock by so many milliseconds; the events of that time."""
        filled = _run(
            self.firmware[: self.axes], self.plant, self._rings, self.inputs, self.wires, self.outputs, self._spindle[0],
            self.ranges, self.record,
            self._controller[0], self.edges, self._flight, self.tick, ticks, self._events, 0,
        )  # fmt: skip
        self.tick += ticks
        return self._events[:filled].copy()

    def stop(self, slot: int) -> None:
        """Quick stop of one axis."""
        _stop(self.firmware, self._rings, slot)

    def freeze(self, slot: int) -> None:
        """Steps end at once: power was taken away."""
        _cut(self.firmware, self._rings, slot)

    def home(self, slot: int) -> None:
        """Begins the homing of one axis."""
        _home(self.firmware, slot)

    def set_input(self, number: int, role: int, axis: int, closed_at_rest: int, filter_us: int) -> None:
        """Tells the firmware what an input is for. axis -1: of none, or of all."""
        _set_input(self.inputs, number, role, axis, closed_at_rest, filter_us)

    def hold_flight(self) -> None:
        """Something that the stepping code does not know of has stopped the machine."""
        _hold(self._controller[0])

    def flight(self) -> tuple[np.ndarray, int]:
        """The samples of the flight record, oldest first, and which of them is the one at the stop."""
        samples = in_order(self._flight, int(self.controller["flight_written"]))
        first = int(self.controller["flight_written"]) - len(samples)
        return samples, max(0, min(int(self.controller["flight_moment"]) - first, len(samples) - 1))

    def edges_from(self, first: int, most: int) -> tuple[int, np.ndarray]:
        """Edges from the ring in order, and the number of the first; older ones than the ring holds are gone."""
        written = int(self.controller["written"])
        first = min(max(first, written - EDGE_RING), written)
        last = min(first + most, written)
        return first, self.edges[np.arange(first, last) % EDGE_RING]

    def tool_over_bed(self) -> tuple[float, float]:
        """Where the tool truly stands over the bed, mm: X along a beam that may stand askew, Y along rails that may lean."""
        names = [motor.name for motor in self.rig.motors]
        x, y = (float(self.plant[names.index(name)]["carriage"]) for name in "XY")
        turned = 0.0
        for motor, p in zip(self.rig.motors, self.plant, strict=True):
            if motor.across:
                turned = (float(p["carriage"]) - float(self.plant[motor.beam]["carriage"])) / motor.across
        lean = self.rig.lean / 1000
        return x * math.cos(turned) + y * math.sin(lean), x * math.sin(turned) + y * math.cos(lean)

    def bed_against_tool(self) -> float:
        """What a dial in the spindle says, mm: by how much the bed reaches further up to it than at the foot of Z."""
        names = [motor.name for motor in self.rig.motors]
        return self.rig.bed.height(*self.tool_over_bed()) - float(self.plant[names.index("Z")]["carriage"])

    def driver_of(self, motor: int) -> int | None:
        """The slot of the axis whose steps a motor takes, or None."""
        for slot, ax in enumerate(self.firmware):
            if motor in (ax["output"], ax["second"]):
                return slot
        return None

    @property
    def powered(self) -> bool:
        return bool(self.firmware["powered"].any())

    @property
    def moving(self) -> bool:
        return bool(self.firmware["moving"].any())


def warm_up() -> None:
    """Compiles the stepping code into its cache, so that the first bench starts quickly."""
    from .rig import load

    world = World(load("verge"))
    world.run(1)
    world.stop(0)
    world.freeze(0)
    world.home(0)
    world.hold_flight()
    world.set_input(0, 0, -1, 1, 0)
