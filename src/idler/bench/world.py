"""Firmware and plant together, advanced in blocks of ticks."""

from __future__ import annotations

import numpy as np

from .compiled import compiled
from .inputs import TICK_US, advance_inputs, judge_inputs, set_input
from .outputs import advance_outputs, advance_spindle
from .plant import advance_plant
from .rig import Rig
from .state import CONTROLLER, EDGE, EDGE_RING, EVENT, INPUT, OUTPUT, blank_firmware
from .trajectory import advance_axis, cut, quick_stop, rings_for


@compiled
def _powered(firmware):
    powered = 0
    for axis in range(len(firmware)):
        if firmware[axis].powered:
            powered = 1
    return powered


@compiled
def _react(firmware, rings, controller):
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
def _run(firmware, plant, rings, inputs, wires, outputs, spindle, controller, edges, first, ticks, events, filled):
    for tick in range(first, first + ticks):
        noise = min(1.0, abs(spindle.speed) / spindle.top) if spindle.top > 0 else 0.0
        advance_inputs(inputs, wires, plant, controller, edges, tick * TICK_US, noise)
        judge_inputs(inputs, controller, len(firmware))
        _react(firmware, rings, controller)
        for axis in range(len(firmware)):
            ax = firmware[axis]
            filled = advance_axis(ax, rings[axis], tick, axis, events, filled)
            advance_plant(plant[axis], ax.emitted * ax.sign, ax.powered, controller)
        advance_outputs(outputs, controller, _powered(firmware))
        advance_spindle(spindle, outputs)
    return filled


@compiled
def _stop(firmware, rings, axis):
    quick_stop(firmware[axis], rings[axis])


@compiled
def _cut(firmware, rings, axis):
    cut(firmware[axis], rings[axis])


@compiled
def _set_input(inputs, number, role, axis, closed_at_rest, filter_us):
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
        axes, shape = len(self.rig.axes), self.rig.told.shape
        self.firmware = blank_firmware(axes)
        self.plant = self.rig.plant()
        self._rings = rings_for(axes)
        self.inputs = np.zeros(shape.inputs, INPUT)
        self.inputs["axis"] = -1
        self.wires = self.rig.wires_made(self._seed)
        self.outputs = np.zeros(shape.outputs, OUTPUT)
        self._spindle = self.rig.spindle_made()
        self._controller = np.zeros(1, CONTROLLER)
        self.controller["tried"] = -1
        self.edges = np.zeros(EDGE_RING, EDGE)
        for wire, item in zip(self.wires, self.inputs, strict=True):
            item["raw"] = item["level"] = wire["level"]

    @property
    def controller(self):
        return self._controller[0]

    @property
    def spindle(self):
        return self._spindle[0]

    @property
    def now_us(self) -> int:
        return self.tick * TICK_US

    def run(self, ticks: int) -> np.ndarray:
        """Advances the clock by so many milliseconds; the events of that time."""
        filled = _run(
            self.firmware, self.plant, self._rings, self.inputs, self.wires, self.outputs, self._spindle[0],
            self._controller[0], self.edges, self.tick, ticks, self._events, 0,
        )  # fmt: skip
        self.tick += ticks
        return self._events[:filled].copy()

    def stop(self, slot: int) -> None:
        """Quick stop of one axis."""
        _stop(self.firmware, self._rings, slot)

    def freeze(self, slot: int) -> None:
        """Steps end at once: power was taken away."""
        _cut(self.firmware, self._rings, slot)

    def set_input(self, number: int, role: int, axis: int, closed_at_rest: int, filter_us: int) -> None:
        """Tells the firmware what an input is for. axis -1: of none, or of all."""
        _set_input(self.inputs, number, role, axis, closed_at_rest, filter_us)

    def edges_from(self, first: int, most: int) -> tuple[int, np.ndarray]:
        """Edges from the ring in order, and the number of the first; older ones than the ring holds are gone."""
        written = int(self.controller["written"])
        first = min(max(first, written - EDGE_RING), written)
        last = min(first + most, written)
        return first, self.edges[np.arange(first, last) % EDGE_RING]

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
    world.set_input(0, 0, -1, 1, 0)
