"""Blocks of the records of a path, packed and unpacked (see `path`, 200Ch:01)."""

from __future__ import annotations

import struct
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..table import MOST_AXES
from .path import FINAL, MOST_RECORDS, WIDE

_HEAD = struct.Struct("<IHBBH")
_STRETCH = np.dtype([("count", "<u2"), ("line", "<u4")])
_NARROW = 2**15 - 1


@dataclass(frozen=True)
class Block:
    """Records as they are sent. places: (records, axes) in position units; lines: with RAPID and REST."""

    first: int
    slots: tuple[int, ...]
    places: Any
    lines: Any
    final: bool


def pack_records(first: int, slots: Sequence[int], places: Any, lines: Any, *, final: bool) -> bytes:
    """places: (records, axes) in position units."""
    places = np.asarray(places, np.int64).reshape(len(lines), len(slots))
    further = np.diff(places, axis=0)
    wide = bool(further.size) and int(np.abs(further).max()) > _NARROW
    edges = np.flatnonzero(np.diff(np.asarray(lines, np.int64))) + 1
    begins = np.concatenate(([0], edges))
    stretches = np.zeros(len(begins), _STRETCH)
    stretches["count"], stretches["line"] = np.diff(begins, append=len(lines)), np.asarray(lines)[begins]
    flags = (FINAL if final else 0) | (WIDE if wide else 0)
    head = _HEAD.pack(first, len(places), flags, sum(1 << slot for slot in slots), len(stretches))
    steps = further.astype("<i4" if wide else "<i2")
    return b"".join((head, places[0].astype("<i4").tobytes(), steps.tobytes(), stretches.tobytes()))


def unpack_records(data: bytes) -> Block:
    """Raises ValueError where it is none."""
    try:
        first, count, flags, mask, runs = _HEAD.unpack_from(data)
    except struct.error as why:
        raise ValueError(str(why)) from None
    slots = tuple(slot for slot in range(MOST_AXES) if mask >> slot & 1)
    if not slots or not 0 < count <= MOST_RECORDS:
        raise ValueError(f"{count} records of {len(slots)} axes")
    kind = np.dtype("<i4" if flags & WIDE else "<i2")
    begin = _HEAD.size + 4 * len(slots)
    end = begin + (count - 1) * len(slots) * kind.itemsize
    if len(data) != end + runs * _STRETCH.itemsize:
        raise ValueError(f"{len(data)} bytes for {count} records")
    base = np.frombuffer(data, "<i4", len(slots), _HEAD.size).astype(np.int64)
    steps = np.frombuffer(data, kind, (count - 1) * len(slots), begin).reshape(count - 1, len(slots))
    places = base + np.concatenate((np.zeros((1, len(slots)), np.int64), np.cumsum(steps, axis=0, dtype=np.int64)))
    stretches = np.frombuffer(data, _STRETCH, runs, end)
    lines = np.repeat(stretches["line"], stretches["count"])
    if len(lines) != count:
        raise ValueError(f"{len(lines)} lines for {count} records")
    return Block(first, slots, places, lines, bool(flags & FINAL))
