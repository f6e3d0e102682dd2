"""The edges of the inputs as they were read: written by the link's thread, looked at by others."""

from __future__ import annotations

import threading
from dataclasses import dataclass

import numpy as np

from idler.core.profile.edges import MOST_EDGES, Array, EdgeBlock

KEPT = 1 << 17  # edges


@dataclass(frozen=True)
class Edges:
    """Edges since some time, in order: times in µs of the controller's clock, inputs as slots, closed 0 or 1.

    now: the controller's clock when it was last read. levels: closed or not at `now`, for each input; none before the first
    block has been read, for until then nobody knows.
    """

    now: int
    times: Array
    inputs: Array
    closed: Array
    levels: Array


class Trace:
    """Empty until `begin` after each start of the controller."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._times = np.zeros(KEPT, np.int64)
        self._codes = np.zeros((2, KEPT), np.uint8)
        self._begun = False
        self._reset(0)

    def _reset(self, inputs: int) -> None:
        self._written = 0
        self._expected: int | None = None
        self.now = 0
        self.missed = 0
        self._levels = np.zeros(0, np.uint8)
        self._touched = np.zeros(inputs, bool)
        self._counts = np.zeros(inputs, np.int64)

    def forget(self) -> None:
        """The controller is another one, or has started anew."""
        with self._lock:
            self._begun = False
            self._reset(0)

    def begin(self, inputs: int) -> bool:
        """True once after each `forget`: what follows comes from the beginning."""
        with self._lock:
            if self._begun:
                return False
            self._begun = True
            self._reset(inputs)
            return True

    def take(self, block: EdgeBlock, closed: int) -> None:
        """One more block; `closed` has a bit for the level of each input, for those that have had no edge yet.

        It is what was known before the block was asked for: a level that is newer than the block would come before its edge.
        """
        with self._lock:
            if not len(self._levels):
                self._levels = np.zeros(len(self._touched), np.uint8)
            if self._expected is not None and block.first != self._expected:
                self.missed += block.first - self._expected
                self._touched[:] = False  # the last edge that was read of an input need not be its last
            self._expected = block.first + len(block)
            self.now = block.now if len(block) < MOST_EDGES else int(block.times[-1])  # a full block has more behind it
            if len(block):
                at = np.arange(self._written, self._written + len(block)) % KEPT
                self._times[at] = block.times
                self._codes[0, at], self._codes[1, at] = block.inputs, block.closed
                self._written += len(block)
                self._counts += np.bincount(block.inputs, minlength=len(self._counts))[: len(self._counts)]
                self._levels[block.inputs] = block.closed
                self._touched[block.inputs] = True
            bits = closed >> np.arange(len(self._levels)) & 1
            np.copyto(self._levels, bits, where=~self._touched, casting="unsafe")

    def counts(self) -> list[int]:
        """Edges of each input since the controller started, as far as they were read."""
        with self._lock:
            return [int(count) for count in self._counts]

    def since(self, time: int) -> Edges:
        """Edges at this time of the controller's clock or later."""
        with self._lock:
            start = max(0, self._written - KEPT)
            order = np.arange(start, self._written) % KEPT if start else slice(0, self._written)
            times = self._times[order]
            first = int(np.searchsorted(times, time))
            return Edges(
                self.now, times[first:].copy(), self._codes[0][order][first:].copy(),
                self._codes[1][order][first:].copy(), self._levels.copy(),
            )  # fmt: skip
