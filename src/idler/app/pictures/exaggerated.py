"""By how much what is too small to be seen is drawn larger: a round figure, which the picture tells."""

from __future__ import annotations

import math

MOST = 1000.0  # times


def times(value: float, room: float) -> float:
    """1, 2 or 5 times a power of ten by which `value` still fits into `room`, from 1 to MOST; 1 where there is nothing."""
    if not value:
        return 1.0
    wanted = min(MOST, max(1.0, room / abs(value)))
    power = 10.0 ** math.floor(math.log10(wanted))
    return max(step * power for step in (1, 2, 5) if step * power <= wanted)
