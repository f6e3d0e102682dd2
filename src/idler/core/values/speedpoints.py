"""Measured points of a spindle as text: levels in % with the speed in rpm that each gives.

Between two points lies a straight line. Below the first and beyond the last nothing is known, so nothing is asked there.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Sequence
from itertools import pairwise

from .points import NOTHING, Pairs, Point, problem_of

MOST_POINTS = 16
_PAIRS = Pairs(
    re.compile(r"\s*(\d{1,3}(?:\.\d{1,2})?)\s*%?\s+(\d{1,6}(?:\.\d)?)\s*(?:rpm)?\s*"),
    MOST_POINTS, "a level in % and a speed in rpm, as in “50 3010”",
)  # fmt: skip


def points(text: str) -> tuple[Point, ...]:
    """(%, rpm) in their order; empty for "none". Raises ValueError with what is wrong."""
    found = _PAIRS.read(text)
    if found and found[-1][0] > 100:
        raise ValueError("goes beyond a level of 100 %")
    if any(a[0] >= b[0] or a[1] >= b[1] for a, b in pairwise(found)):
        raise ValueError("does not go up in level and in speed from point to point")
    return found


def points_text(found: Sequence[Point]) -> str:
    """The text of points, to 0.01 % and 0.1 rpm, without needless zeros."""
    return ", ".join(f"{_short(level, 2)} {_short(rpm, 1)}" for level, rpm in found) or NOTHING


def _short(number: float, decimals: int) -> str:
    text = f"{number:.{decimals}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def problem_of_points(text: str) -> str:
    """What is wrong with such a text, or an empty one."""
    return problem_of(points, text)


def level_for(found: Sequence[Point], rpm: float) -> float:
    """The level in % for a speed, held within the points."""
    speeds = [speed for _, speed in found]
    k = min(max(bisect_left(speeds, rpm), 1), len(found) - 1)
    (low, slow), (high, fast) = found[k - 1], found[k]
    return low + (high - low) * min(max((rpm - slow) / (fast - slow), 0.0), 1.0)


def speed_at(found: Sequence[Point], level: float) -> float:
    """The speed in rpm at a level in %; before the first point none, beyond the last that of the last."""
    if level < found[0][0]:
        return 0.0
    for (low, slow), (high, fast) in pairwise(found):
        if level <= high:
            return slow + (fast - slow) * (level - low) / (high - low)
    return found[-1][1]
