"""The record of the spindle's speed on the wire: what stands in 2008h:01 as one block of bytes.

A head of two words (U16): milliseconds between two speeds, and how many there are; then each speed in 0.1 rpm (I32).
"""

from __future__ import annotations

import struct
from collections.abc import Iterable

_HEAD = struct.Struct("<HH")


def pack_speeds(period: float, speeds: Iterable[float]) -> bytes:
    """period in s, speeds in rpm."""
    raws = [round(10 * float(rpm)) for rpm in speeds]
    return _HEAD.pack(round(1000 * period), len(raws)) + struct.pack(f"<{len(raws)}i", *raws)


def unpack_speeds(data: bytes) -> list[tuple[float, float]]:
    """Seconds since the spindle was told something else, and rpm. Raises ValueError for a block that is not whole."""
    try:
        period, count = _HEAD.unpack_from(data)
        raws = struct.unpack_from(f"<{count}i", data, _HEAD.size)
    except struct.error:
        raise ValueError("a record of speeds that is not whole") from None
    return [(k * period / 1000, raw / 10) for k, raw in enumerate(raws)]
