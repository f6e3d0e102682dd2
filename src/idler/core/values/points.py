"""Points of a curve as text: pairs of figures with commas between them. What each curve makes of it stands beside it."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

Point = tuple[float, float]
NOTHING = "none"


@dataclass(frozen=True)
class Pairs:
    """pattern: of one pair, with a group for each figure. meant: a pair in words, with an example."""

    pattern: re.Pattern[str]
    most: int
    meant: str

    def read(self, text: str) -> tuple[Point, ...]:
        """In their order; empty for "none". Raises ValueError with what is wrong."""
        if text.strip() == NOTHING:
            return ()
        found: list[Point] = []
        for piece in text.split(","):
            match = self.pattern.fullmatch(piece)
            if match is None:
                raise ValueError(f"holds “{piece.strip()[:20]}”, which is not {self.meant}")
            found.append((float(match[1]), float(match[2])))
        if not 2 <= len(found) <= self.most:
            raise ValueError(f"has {len(found)} points; 2 to {self.most} are wanted, with commas between them")
        return tuple(found)


def problem_of(read: Callable[[str], object], text: str) -> str:
    """What is wrong with such a text, or an empty one."""
    try:
        read(text)
    except ValueError as why:
        return str(why)
    return ""
