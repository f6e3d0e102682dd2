"""Instruments that a person's hand holds to the machine: those of the core, read with a little scatter."""

from __future__ import annotations

import math
import random

from idler.core.errors import IdlerError
from idler.core.geometry.tailstock import MICROMETER
from idler.core.mechanics.scale import HAND, INSTRUMENTS, Instrument, fitting

KNOWN = {item.key: item for item in INSTRUMENTS}


def read(item: Instrument, truth: float, dice: random.Random) -> float:
    """What a person reads: the truth with the scatter of a hand, to the nearest division."""
    return round((truth + dice.gauss(0, item.resolution * HAND)) / item.resolution) * item.resolution


BAR = 24.0  # mm: thickness of a bar that is turned between centres
LEGS = ("stock", "blade")
SQUARE_OFF = 1e-3  # the most by which the square is off a right angle
LAID = 1e-3  # how straight a hand lays it, one standard deviation
MARK = 0.03  # mm: how far a mark lies beside the tool that made it, one standard deviation along each axis


class Toolbox:
    """The instruments with the zeros that were set on them."""

    def __init__(self, seed: int) -> None:
        self._seed = seed
        self.deliver()

    def deliver(self) -> None:
        self._dice = random.Random(self._seed)
        self._zeros: dict[tuple[str, str], float] = {}
        self._marks: dict[str, tuple[float, float]] = {}
        self.wide = random.Random(self._seed + 1).uniform(-1, 1) * SQUARE_OFF
        self._laid: tuple[float, float, float, float] | None = None

    def _held(self, name: str, axis: str, rotary: bool) -> Instrument:
        item = KNOWN.get(name)
        if item is None or item.rotary != rotary:
            known = ", ".join(i.key for i in fitting(rotary))
            raise IdlerError(f"Instrument {name}: does not fit {axis}. These do: {known}.")
        return item

    def tachometer(self, truth: float) -> float:
        """What a hand tachometer shows of a speed in rpm: whole turns, without sign, within 0.05 %."""
        return float(round(abs(truth) * (1 + self._dice.gauss(0, 2.5e-4))))

    def mark(self, name: str, place: tuple[float, float]) -> None:
        """A mark on the bed under the tool; one of the same name is gone then."""
        x, y = (each + self._dice.gauss(0, MARK) for each in place)
        self._marks[name] = x, y

    @property
    def marked(self) -> list[str]:
        """The names of the marks on the bed."""
        return sorted(self._marks)

    @property
    def laid(self) -> bool:
        """Whether a square lies on the bed."""
        return self._laid is not None

    def between(self, name: str, first: str, second: str) -> float:
        """What an instrument says of the distance of two marks, mm: one end is held, the other read."""
        item = self._held(name, "a bed", False)
        gone = [mark for mark in (first, second) if mark not in self._marks]
        if gone:
            raise IdlerError(
                f"Hands: there is no mark “{gone[0]}” on the bed. There are: {', '.join(self._marks) or 'none'}."
            )
        apart = math.dist(self._marks[first], self._marks[second])
        if apart > item.reach:
            raise IdlerError(f"Instrument {name}: reaches {item.reach:g}; the marks are {apart:.1f} apart.")
        held = self._dice.uniform(0, item.resolution)
        return read(item, held + apart, self._dice) - read(item, held, self._dice)

    def across(self, name: str, width: float) -> float:
        """What an instrument says of something that lies on the bed, mm."""
        return read(self._held(name, "a sheet", False), width, self._dice)

    def diameter(self, more: float) -> float:
        """What a micrometer says of a bar that is so much thicker than where it was turned first, mm."""
        return read(MICROMETER, BAR + more, self._dice)

    def lay(self, turned: bool, place: tuple[float, float]) -> None:
        """The square on the bed with its corner near a place, as straight as a hand lays it."""
        own = -self.wide if turned else self.wide
        self._laid = (*place, self._dice.gauss(0, LAID), own)

    def leg(self, name: str, tool: tuple[float, float]) -> float:
        """By how much further on to + a leg of the square lies than the tool, mm: along Y at the stock, along X at the blade.
        Raises IdlerError."""
        if self._laid is None:
            raise IdlerError("Hands: no square lies on the bed.")
        x, y, turned, own = self._laid
        if name == "stock":
            return y + turned * (tool[0] - x) - tool[1]
        return x - (turned + own) * (tool[1] - y) - tool[0]

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
