"""Instruments that a person's hand holds to the machine: those of the core, read with a little scatter."""

from __future__ import annotations

import random

from idler.core.errors import IdlerError
from idler.core.mechanics.scale import HAND, INSTRUMENTS, Instrument, fitting

KNOWN = {item.key: item for item in INSTRUMENTS}


def read(item: Instrument, truth: float, dice: random.Random) -> float:
    """What a person reads: the truth with the scatter of a hand, to the nearest division."""
    return round((truth + dice.gauss(0, item.resolution * HAND)) / item.resolution) * item.resolution


class Toolbox:
    """The instruments with the zeros that were set on them."""

    def __init__(self, seed: int) -> None:
        self._seed = seed
        self.deliver()

    def deliver(self) -> None:
        self._dice = random.Random(self._seed)
        self._zeros: dict[tuple[str, str], float] = {}

    def _held(self, name: str, axis: str, rotary: bool) -> Instrument:
        item = KNOWN.get(name)
        if item is None or item.rotary != rotary:
            known = ", ".join(i.key for i in fitting(rotary))
            raise IdlerError(f"Instrument {name}: does not fit {axis}. These do: {known}.")
        return item

    def tachometer(self, truth: float) -> float:
        """What a hand tachometer shows of a speed in rpm: whole turns, without sign, within 0.05 %."""
        return float(round(abs(truth) * (1 + self._dice.gauss(0, 2.5e-4))))

    def zero(self, name: str, axis: str, rotary: bool, at: float) -> None:
        self._held(name, axis, rotary)
        self._zeros[name, axis] = at

    def read(self, name: str, axis: str, rotary: bool, at: float) -> tuple[float, float]:
        """The reading from where it was set to zero, and the resolution. Raises IdlerError beyond its reach."""
        item = self._held(name, axis, rotary)
        moved = at - self._zeros.setdefault((name, axis), at)
        if abs(moved) > item.reach:
            raise IdlerError(
                f"Instrument {name}: reaches {item.reach:g}; {axis} has moved {abs(moved):.1f}. Set it to zero again."
            )
        return read(item, moved, self._dice), item.resolution
