"""Blocks of edges.

The controller writes every change of level of every input into a ring, with the time of its own clock, before any filter.
A client reads the ring in blocks, so that a pulse is seen however short it is and however rarely the client looks.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, TypeAlias

import numpy as np

Array: TypeAlias = np.ndarray[Any, np.dtype[Any]]

_HEAD = np.dtype([("first", "<u4"), ("base", "<u8"), ("now", "<u8")])
_LONGEST_GAP = (1 << 24) - 1  # µs, in one record
_PAUSE = 127  # a record that only lets time pass
MOST_EDGES = 217  # in one block: 127 segments of seven bytes
_WAITS = 1 << 31  # in a word that says whether a block is worth reading
_NUMBER, _NUMBERS = 27, 16


@dataclass(frozen=True)
class EdgeBlock:
    """first: number of the first edge since power-on. now: the controller's clock in µs.

    times (µs), inputs (slots) and closed (0 open, 1 closed) are arrays of one length, in order of time.
    """

    first: int
    now: int
    times: Array
    inputs: Array
    closed: Array

    def __len__(self) -> int:
        return len(self.times)


def glance(number: int, now: int, *, waits: bool) -> int:
    """One word of an edge that would be read next: the lowest bits of its number, whether it waits already, and the
    controller's clock, given in µs, in ms."""
    return (_WAITS if waits else 0) | number % _NUMBERS << _NUMBER | now // 1000 % (1 << _NUMBER)


def unless_any(last: EdgeBlock, word: int) -> EdgeBlock | None:
    """The empty block that follows the last one that was read, by such a word; None where edges wait, where somebody else has
    read some, or where the clock went back, or on by more than 18 hours."""
    follows, before, round_ = last.first + len(last), last.now // 1000, 1 << _NUMBER
    gone = (word - before) % round_
    if word & _WAITS or (word >> _NUMBER) % _NUMBERS != follows % _NUMBERS or gone > round_ // 2:
        return None
    now = max(last.now, (before + gone) * 1000)
    return EdgeBlock(follows, now, last.times[:0], last.inputs[:0], last.closed[:0])


def pack_edges(first: int, now: int, times: Array, inputs: Array, closed: Array) -> bytes:
    """A block as bytes: a head, then four bytes for each edge: input, level, and µs since the edge before it."""
    base = int(times[0]) if len(times) else now
    head: bytes = np.array([(first, base, now)], _HEAD).tobytes()
    if not len(times):
        return head
    gaps = np.diff(times, prepend=times[0]).astype(np.int64)
    if gaps.max() > _LONGEST_GAP:
        return head + b"".join(
            _records(gap, code) for gap, code in zip(gaps.tolist(), _codes(inputs, closed).tolist(), strict=True)
        )
    records: bytes = (gaps.astype("<u4") << 8 | _codes(inputs, closed)).astype("<u4").tobytes()
    return head + records


def _codes(inputs: Array, closed: Array) -> Array:
    codes: Array = (inputs.astype("<u4") << 1 | closed.astype("<u4")) & 0xFF
    return codes


def _records(gap: int, code: int) -> bytes:
    pauses, rest = divmod(gap, _LONGEST_GAP)
    words = [_LONGEST_GAP << 8 | _PAUSE << 1] * pauses + [rest << 8 | code]
    return b"".join(word.to_bytes(4, "little") for word in words)


def unpack_edges(data: bytes) -> EdgeBlock:
    """The block that such bytes mean. Raises ValueError where they are cut off."""
    if len(data) < _HEAD.itemsize or (len(data) - _HEAD.itemsize) % 4:
        raise ValueError(f"a block of edges has {len(data)} bytes")
    head = np.frombuffer(data, _HEAD, 1)[0]
    words = np.frombuffer(data, "<u4", offset=_HEAD.itemsize)
    times = int(head["base"]) + np.cumsum(words >> 8, dtype=np.int64)
    codes = words & 0xFF
    edges = codes >> 1 != _PAUSE
    return EdgeBlock(
        int(head["first"]), int(head["now"]), times[edges], (codes >> 1)[edges].astype(np.uint8),
        (codes & 1)[edges].astype(np.uint8),
    )  # fmt: skip
