"""An encoder that is a node of its own (CiA 406), on what turns the tool: its counts, and how fast they come."""

from __future__ import annotations

import time
from collections import deque
from typing import NamedTuple

from ..errors import LinkError
from .part import Object, Part

POSITION: Object = (0x6004, 0)
_PER_TURN: tuple[Object, ...] = ((0x6001, 0), (0x6501, 0))  # measuring units per revolution; single-turn resolution
_RANGE: Object = (0x6002, 0)  # total measuring range in measuring units
_TURNS: Object = (0x6502, 0)  # distinguishable revolutions
FEWEST_TURNS = 1000  # before it begins anew: between two looks it must not go half of them
LONGEST_GAP = 0.5  # s without a look, and how far it went meanwhile is not known any more
SPAN = 0.3  # s over which a rate is taken: when a place was looked at is known within half a millisecond
LATE, LATEST, LOOSER = 2.0, 0.001, 1.02  # times the quickest answer of late, and s, that one may take to be of use
MOST_POINTS = 3000


class _Seen(NamedTuple):
    at: float  # the middle between asked and answered, time.monotonic
    counts: int


class Encoder:
    """counts: since it was found. per_turn: as it says itself, 0 where it does not."""

    def __init__(self, part: Part) -> None:
        self.part = part
        self.counts = self.per_turn = 0
        self._range = 1 << 32
        self._raw: int | None = None
        self._track: deque[_Seen] = deque()
        self._record: list[tuple[float, float]] = []
        self._since = time.monotonic()
        self._quickest = 1.0  # s that an answer takes of late

    def find(self) -> None:
        """Raises LinkError where it cannot tell how fast something turns."""
        part = self.part
        if not part.has(POSITION):
            raise LinkError(
                f"{part.called} has no position (6004h): it is no encoder to count turns with. Leave it out."
            )
        self.per_turn = next(filter(None, (part.read_if_there(where) for where in _PER_TURN)), 0)
        size = 1 << 8 * part.size_of(POSITION)
        turns = part.read_if_there(_TURNS)
        told = part.read_if_there(_RANGE) or (self.per_turn * turns if turns else 0)
        self._range = min(told or size, size)
        if self.per_turn and self._range < FEWEST_TURNS * self.per_turn:
            raise LinkError(
                f"{part.called} begins anew after {self._range / self.per_turn:g} turns, and nobody looks often enough to "
                f"count a spindle by it; {FEWEST_TURNS} are needed. Leave it out."
            )
        part.watch((POSITION,), (POSITION,), (POSITION,))
        part.seen = self._seen

    def _seen(self, where: Object, data: bytes, asked: float, now: float) -> None:
        raw = int.from_bytes(data, "little") % self._range
        if self._raw is not None:
            way = (raw - self._raw) % self._range
            self.counts += way - (self._range if 2 * way > self._range else 0)
        self._raw = raw
        at, took = (asked + now) / 2, now - asked
        self._quickest = min(took, LOOSER * self._quickest)
        sure = took <= LATE * self._quickest + LATEST or (self._track and at - self._track[-1].at > LONGEST_GAP / 2)
        if self._track and not sure:  # when it was there is not known well enough
            return
        if self._track and at - self._track[-1].at > LONGEST_GAP:
            self._track.clear()
        self._track.append(_Seen(at, self.counts))
        while len(self._track) > 2 and at - self._track[1].at >= SPAN:
            self._track.popleft()
        if len(self._record) < MOST_POINTS and len(self._track) > 1:
            before = self._track[-2]
            middle = (before.at + at) / 2 - self._since
            if middle >= 0 and at > before.at:
                self._record.append((middle, (self.counts - before.counts) / (at - before.at)))

    @property
    def rate(self) -> float:
        """Counts per second, of the last looks. One that falls silent is not taken to stand: that ends the spindle, and then
        the link."""
        if len(self._track) < 2:
            return 0.0
        first, last = self._track[0], self._track[-1]
        return (last.counts - first.counts) / (last.at - first.at)

    def record_from(self, now: float) -> None:
        """Something else was told to what turns: its record begins anew."""
        self._since, self._record = now, []

    @property
    def record(self) -> list[tuple[float, float]]:
        """Seconds since then, and counts per second."""
        return list(self._record)
