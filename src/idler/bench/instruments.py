"""Instruments that a person's hand would hold to the machine: each has a resolution, a reach, and a little scatter."""

from __future__ import annotations

import random
from dataclasses import dataclass

from idler.core.errors import IdlerError


@dataclass(frozen=True)
class Instrument:
    """resolution and reach in mm (or °); rotary tells which axes it can be held to."""

    name: str
    resolution: float
    reach: float
    rotary: bool = False

    def read(self, truth: float, dice: random.Random) -> float:
        """What a person reads: the truth with a scatter of a fifth of a division, to the nearest division."""
        return round((truth + dice.gauss(0, self.resolution / 5)) / self.resolution) * self.resolution


INSTRUMENTS = {
    item.name: item
    for item in (
        Instrument("rule", 0.5, 500.0),
        Instrument("caliper", 0.02, 150.0),
        Instrument("dial", 0.01, 10.0),
        Instrument("protractor", 0.1, 360.0, rotary=True),
    )
}


def fitting(rotary: bool) -> list[Instrument]:
    """The instruments that can be held to an axis of this kind."""
    return [item for item in INSTRUMENTS.values() if item.rotary == rotary]


class Toolbox:
    """The instruments with the zeros that were set on them."""

    def __init__(self, seed: int) -> None:
        self._seed = seed
        self.deliver()

    def deliver(self) -> None:
        self._dice = random.Random(self._seed)
        self._zeros: dict[tuple[str, str], float] = {}

    def _held(self, name: str, axis: str, rotary: bool) -> Instrument:
        item = INSTRUMENTS.get(name)
        if item is None or item.rotary != rotary:
            known = ", ".join(i.name for i in fitting(rotary))
            raise IdlerError(f"Instrument {name}: does not fit {axis}. These do: {known}.")
        return item

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
        return item.read(moved, self._dice), item.resolution
