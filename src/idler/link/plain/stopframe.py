"""STOP in one frame for all drives: each takes its controlword from a process data object that all of them listen to.

STOP goes to each drive alone as well, in any case.
"""

from __future__ import annotations

from idler.core.profile import cia402 as c
from idler.core.profile.cia301 import PDO_HEARD

from .mapped import HEARD, Taken, entry, take
from .part import Part

_AT_ONCE = 0xFF  # transmission type: taken as it comes
RECEIVED = PDO_HEARD  # with the number of Idler's own heartbeat, which nobody else has: an identifier of nobody's


def listen(part: Part, identifier: int) -> Taken | None:
    """Has a drive take its controlword from frames of this identifier too; None where it cannot."""
    return take(part, HEARD, lambda _number: identifier, [entry((c.CONTROL, 0), 2)], _AT_ONCE)
