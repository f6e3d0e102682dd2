"""A torque curve as text: points of motor speed in rpm and torque in N·m.

Between its points torque falls along straight lines; beyond the last point it is taken as gone, because nobody promised it.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise

from .points import Pairs, Point, problem_of

_PAIRS = Pairs(
    re.compile(r"\s*(\d{1,5}(?:\.\d{1,3})?)\s*(?:rpm)?\s+(\d{1,4}(?:\.\d{1,4})?)\s*(?:N·?m)?\s*"),
    8, "a speed in rpm and a torque in N·m, as in “300 1.7”",
)  # fmt: skip


def points(text: str) -> tuple[Point, ...]:
    """(rpm, N·m) in their order; empty for "none". Raises ValueError with what is wrong."""
    found = _PAIRS.read(text)
    if any(first[0] >= second[0] for first, second in pairwise(found)):
        raise ValueError("does not go up in speed from point to point")
    return found


def problem_of_curve(text: str) -> str:
    """What is wrong with such a curve, or an empty text."""
    return problem_of(points, text)


def torque_at(curve: Sequence[Point], rpm: float) -> float:
    """Torque in N·m at a motor speed; before the first point that of the first, beyond the last none."""
    if rpm <= curve[0][0]:
        return curve[0][1]
    for (low, first), (high, second) in pairwise(curve):
        if rpm <= high:
            return first + (second - first) * (rpm - low) / (high - low)
    return 0.0
