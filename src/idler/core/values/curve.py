"""A torque curve as text: points of motor speed in rpm and torque in N·m.

Between its points torque falls along straight lines; beyond the last point it is taken as gone, because nobody promised it.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise

Point = tuple[float, float]
NOTHING = "none"
MOST_POINTS = 8
_POINT = re.compile(r"\s*(\d{1,5}(?:\.\d{1,3})?)\s*(?:rpm)?\s+(\d{1,4}(?:\.\d{1,4})?)\s*(?:N·?m)?\s*")


def points(text: str) -> tuple[Point, ...]:
    """(rpm, N·m) in their order; empty for "none". Raises ValueError with what is wrong."""
    if text.strip() == NOTHING:
        return ()
    found: list[Point] = []
    for piece in text.split(","):
        match = _POINT.fullmatch(piece)
        if match is None:
            raise ValueError(
                f"holds “{piece.strip()[:20]}”, which is not a speed in rpm and a torque in N·m, as in “300 1.7”"
            )
        found.append((float(match[1]), float(match[2])))
    if not 2 <= len(found) <= MOST_POINTS:
        raise ValueError(f"has {len(found)} points; 2 to {MOST_POINTS} are wanted, with commas between them")
    if any(first[0] >= second[0] for first, second in pairwise(found)):
        raise ValueError("does not go up in speed from point to point")
    return tuple(found)


def problem_of_curve(text: str) -> str:
    """What is wrong with such a curve, or an empty text."""
    try:
        points(text)
    except ValueError as why:
        return str(why)
    return ""


def torque_at(curve: Sequence[Point], rpm: float) -> float:
    """Torque in N·m at a motor speed; before the first point that of the first, beyond the last none."""
    if rpm <= curve[0][0]:
        return curve[0][1]
    for (low, first), (high, second) in pairwise(curve):
        if rpm <= high:
            return first + (second - first) * (rpm - low) / (high - low)
    return 0.0
