"""What one axis was told, by the keys of the table; what the standard has and no row is, by its place."""

from __future__ import annotations

from collections.abc import Mapping

from idler.core.profile import cia402 as c
from idler.core.table import AXIS, MACHINE
from idler.core.values.parameter import Parameter

# Worked out of the train by whoever sends: encoder resolution, gear, feed constant (CiA 402-2), and the homing method.
TURN, GEAR, FEED, POLARITY, METHOD = 0x608F, 0x6091, 0x6092, (0x607E, 0), (0x6098, 0)


def place_of(row: Parameter) -> tuple[int, int]:
    """Where a row lies; for one of an axis, on the first one."""
    assert row.wire is not None
    return row.wire.index, row.wire.sub


STEP_RATE, POWER_DELAY = (place_of(MACHINE[f"signals.{name}"]) for name in ("step_rate", "power_delay"))


class Told:
    """Raw values, as the controller holds them."""

    def __init__(self, raws: Mapping[tuple[int, int], int]) -> None:
        self._raws = raws

    def __getitem__(self, key: str | tuple[int, int]) -> int:
        return self._raws[place_of(AXIS[key]) if isinstance(key, str) else key]

    def ratio(self, index: int) -> float:
        """Of an object that is a fraction: its first value by its second."""
        return self._raws[index, 1] / self._raws[index, 2]

    def length(self, key: str) -> float:
        """mm or °."""
        return c.position_from(self[key])

    def speed(self, key: str) -> float:
        """mm/s or °/s."""
        return c.speed_from(self[key]) / 60

    def acceleration(self, key: str) -> float:
        """mm/s² or °/s², or mm/s³ of a jerk."""
        return c.acceleration_from(self[key])
