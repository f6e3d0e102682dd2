"""One linear axis as the drawings of machines need it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Span:
    """One linear axis: hard stops low and high, soft limits inside them, and where the tool is over the work."""

    low: float
    high: float
    soft_low: float
    soft_high: float
    at: float
    tool_moves: bool = False

    @property
    def length(self) -> float:
        return self.high - self.low
