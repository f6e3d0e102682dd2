"""Process data that a plain part of the bench says by itself (CiA 301, 7.5.2.37, 7.5.2.38): at a SYNC, or at a change."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, MutableMapping

from idler.core.profile import cia301 as a

from ..rigs.parttruth import Says
from .object import Kept, Object

FIRST, MAPPING = 0x1800, 0x1A00
AT_EACH, AT_CHANGE = range(1, 241), (254, 255)
MOST_ENTRIES, MOST_BITS = 4, 64
INHIBITED = 0.05  # s between two of the same that say what changed


def of(node: int, in_use: int = 0) -> dict[Object, Kept]:
    """Two of them. in_use: what the maker has mapped in the first, which says it when it changes; 0: nothing."""
    objects: dict[Object, Kept] = {}
    for number in (0, 1):
        taken = in_use if number == 0 else 0
        cob = a.PDO_SENT + a.PDO_BETWEEN * number + node
        objects[FIRST + number, 0] = Kept(1, 2, writable=False)
        objects[FIRST + number, 1] = Kept(4, cob if taken else a.PDO_NOT_VALID | cob)
        objects[FIRST + number, 2] = Kept(1, AT_CHANGE[1])
        objects[MAPPING + number, 0] = Kept(1, int(taken != 0))
        objects |= {(MAPPING + number, sub): Kept(4, taken if sub == 1 else 0) for sub in range(1, 1 + MOST_ENTRIES)}
    return objects


class Reports:
    """values: of the part's objects. now: an object as it is at this moment. say: one frame."""

    def __init__(
        self,
        objects: Mapping[Object, Kept],
        values: MutableMapping[Object, int],
        now: Callable[[Object], int],
        say: Callable[[int, bytes], None],
        says: Says,
    ) -> None:
        self._objects, self._values, self._now, self._say, self._says = objects, values, now, say, says
        self._last: dict[int, tuple[float, bytes]] = {}
        self._syncs = 0

    def abort(self, where: Object, raw: int) -> int:
        """Why this may not be written now; 0 where it may."""
        index, sub = where
        if not MAPPING <= index < MAPPING + 0x200:
            return 0
        if not self._values[index - MAPPING + FIRST, 1] & a.PDO_NOT_VALID:
            return a.NOT_IN_THIS_STATE
        if sub and raw and (self._says is Says.REFUSES or (raw >> 16, raw >> 8 & 0xFF) not in self._objects):
            return a.NOT_MAPPABLE
        if not sub and sum(self._values[index, each] & 0xFF for each in range(1, 1 + raw)) > MOST_BITS:
            return a.MAPPED_TOO_LONG
        return 0

    def sync(self) -> None:
        self._syncs += 1
        for number, kind in self._valid():
            if kind in AT_EACH and self._syncs % kind == 0:
                self._send(number, self._data(number))

    def tick(self, now: float) -> None:
        for number, kind in self._valid():
            if kind in AT_CHANGE:
                at, before = self._last.get(number, (0.0, b""))
                data = self._data(number)
                if data != before and now - at > INHIBITED:
                    self._last[number] = now, data
                    self._send(number, data)

    def _valid(self) -> Iterator[tuple[int, int]]:
        for number in (0, 1):
            if not self._values.get((FIRST + number, 1), a.PDO_NOT_VALID) & a.PDO_NOT_VALID:
                yield number, self._values[FIRST + number, 2]

    def _data(self, number: int) -> bytes:
        data = b""
        for sub in range(1, 1 + self._values[MAPPING + number, 0]):
            raw = self._values[MAPPING + number, sub]
            size = (raw & 0xFF) // 8
            data += (self._now((raw >> 16, raw >> 8 & 0xFF)) & (1 << 8 * size) - 1).to_bytes(size, "little")
        return data

    def _send(self, number: int, data: bytes) -> None:
        if self._says is Says.NOTHING:
            return
        if self._says is Says.SOMETHING_ELSE:
            data = bytes(each ^ 0x55 for each in data)
        self._say(self._values[FIRST + number, 1] & 0x7FF, data)
