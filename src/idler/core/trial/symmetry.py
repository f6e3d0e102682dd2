"""What a drawn hook says of two axes: which of the eight ways a square falls upon itself lies between asked and drawn.

With the first axis to the right and the second one up, a way takes what was asked at (u, v) to (a·u, b·v), or, where the
axes are swapped, to (a·v, b·u), with a and b of +1 or −1.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..machine import Address, Machine
from ..values.parameter import Value
from .figures import HOOK

_MOTORS = ("axis.output", "axis.second_output", "axis.second_reversed")
SAMPLES = 200  # places along a line, to compare two of them
UNLIKE = 0.15  # of its sides: a line that lies further from every way than this is no such hook


@dataclass(frozen=True)
class Seen:
    """right, up: the signs a and b. swapped: whether what was asked of the first axis was drawn along the second."""

    right: int
    up: int
    swapped: bool

    @property
    def key(self) -> str:
        signs = {(1, 1): "as_asked", (-1, 1): "left_right", (1, -1): "upside_down", (-1, -1): "turned"}
        return f"{'swapped_' if self.swapped else ''}{signs[self.right, self.up]}"

    def of(self, u: float, v: float) -> tuple[float, float]:
        """Where a place that was asked is drawn; both about the middle."""
        return (self.right * v, self.up * u) if self.swapped else (self.right * u, self.up * v)


WAYS = tuple(Seen(right, up, swapped) for swapped in (False, True) for right in (1, -1) for up in (1, -1))
BY_KEY = {seen.key: seen for seen in WAYS}


def words(seen: Seen, names: tuple[str, str]) -> str:
    """The cause by name."""
    first, second = names
    if seen.key == "as_asked":
        return f"{first} and {second} go where they should."
    if seen.swapped:
        return f"{first} and {second} are swapped: what is asked of {first} is done by the motor of {second}."
    mirrored = [name for name, way in zip(names, (seen.right, seen.up), strict=True) if way < 0]
    return f"{' and '.join(mirrored)} {'is' if len(mirrored) == 1 else 'are'} mirrored: + goes the other way."


def edit(machine: Machine, slots: tuple[int, int], seen: Seen) -> dict[Address, Value]:
    """What mends it: directions turned round, and the motors of two axes exchanged."""
    found: dict[Address, Value] = {}
    first, second = slots
    turned = [machine.axis(slot).flag("axis.reversed") for slot in slots]
    # How a motor goes hangs on the axis that it had: what is drawn upwards is done by what the first axis was told.
    ways = (seen.right, seen.up)
    if seen.swapped:
        for key in _MOTORS:
            found[Address(first, key)] = machine[Address(second, key)]
            found[Address(second, key)] = machine[Address(first, key)]
    for slot, own, other, way in ((first, turned[0], turned[1], ways[0]), (second, turned[1], turned[0], ways[1])):
        now = other if seen.swapped else own  # the sense in which that motor was seen to go
        found[Address(slot, "axis.reversed")] = now if way > 0 else not now
    return {address: value for address, value in found.items() if machine[address] != value}


def _along(points: np.ndarray) -> np.ndarray:
    """Places at equal shares of the length of a line, in a box from −1/2 to 1/2 whatever its sides: an axis that is not to
    scale is no reason not to know a hook again."""
    low, high = points.min(axis=0), points.max(axis=0)
    boxed = (points - (low + high) / 2) / np.maximum(high - low, 1e-9)
    steps = np.hypot(*np.diff(boxed, axis=0).T)
    gone = np.concatenate(([0.0], np.cumsum(steps)))
    at = np.linspace(0.0, gone[-1], SAMPLES)
    return np.stack([np.interp(at, gone, column) for column in boxed.T], axis=1)


def recognised(drawn: np.ndarray) -> Seen | None:
    """Which way a drawn hook was seen, from its line (places, 2); None where it is like none of them."""
    if len(drawn) < 2:
        return None
    line, asked = _along(drawn), _along(np.array(HOOK, float))
    best, least = None, np.inf
    for seen in WAYS:
        way = np.array([seen.of(u, v) for u, v in asked])
        off = float(np.abs(line - way).max())
        if off < least:
            best, least = seen, off
    return best if least < UNLIKE else None
