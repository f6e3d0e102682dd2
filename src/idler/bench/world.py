"""Firmware and plant of all axes together, advanced in blocks of ticks."""

from __future__ import annotations

import numpy as np

from .compiled import compiled
from .plant import advance_plant
from .rig import Rig
from .state import EVENT, blank_firmware
from .trajectory import advance_axis, quick_stop, rings_for


@compiled
def _run(firmware, plant, rings, first, ticks, events, filled):
    for tick in range(first, first + ticks):
        for axis in range(len(firmware)):
            ax = firmware[axis]
            filled = advance_axis(ax, rings[axis], tick, axis, events, filled)
            advance_plant(plant[axis], ax.emitted * ax.sign, ax.powered)
    return filled


@compiled
def _stop(firmware, rings, axis):
    quick_stop(firmware[axis], rings[axis])


@compiled
def _forget_windows(rings, axis):
    rings[axis, :, :] = 0.0


class World:
    """The arrays of one rig and the tick count of its clock."""

    def __init__(self, rig: Rig) -> None:
        self.rig = rig
        self.tick = 0
        self._events = np.zeros(256, EVENT)
        self.deliver()

    def deliver(self) -> None:
        """The rig as it came."""
        self.firmware = blank_firmware(len(self.rig.axes))
        self.plant = self.rig.plant()
        self._rings = rings_for(len(self.rig.axes))
        self.pressed: set[int] = set()

    def run(self, ticks: int) -> np.ndarray:
        """Advances the clock by so many milliseconds; the events of that time."""
        filled = _run(self.firmware, self.plant, self._rings, self.tick, ticks, self._events, 0)
        self.tick += ticks
        return self._events[:filled].copy()

    def stop(self, slot: int) -> None:
        """Quick stop of one axis."""
        _stop(self.firmware, self._rings, slot)

    def freeze(self, slot: int) -> None:
        """Steps end at once: power was taken away."""
        ax = self.firmware[slot]
        ax["position"] = ax["bare_position"] = ax["steps"]
        ax["bare_velocity"] = ax["velocity"] = 0.0
        ax["mode"] = ax["moving"] = ax["powered"] = 0
        _forget_windows(self._rings, slot)

    def home_made(self, slot: int) -> bool:
        """Whether the home switch of an axis is made, by its carriage or by a finger."""
        return slot in self.pressed or bool(self.plant[slot]["home_made"])

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
