"""A block upload in words (CiA 301, 7.2.4.3.9 to 15). What a segment is, only the frames before it tell."""

from __future__ import annotations

from collections.abc import Mapping

from ..values.units import several
from .codec import Place

_INITIATE, _END, _RESPONSE, _START = 0xA0, 0xA1, 0xA2, 0xA3  # of the client
_ANSWERED, _ENDED = 0xC0, 0xC1  # of the server
_ABORT, _LAST = 0x80, 0x80


class Blocks:
    """Follows the SDO frames of one controller in their order."""

    def __init__(self, labels: Mapping[Place, str]) -> None:
        self._labels = labels
        self._name = ""  # of the object under way
        self._longest = 127  # segments to an acknowledgement
        self._coming = False  # segments are
        self._last = 0  # number of the last one that came; _whole: it was marked as the last of all
        self._whole = False
        self._parts = 0

    def words(self, data: bytes, *, answer: bool) -> str | None:
        """None for a frame that belongs to no block. Raises IndexError for one that is too short."""
        if answer and self._coming:
            return self._segment(data)
        if data[0] == _ABORT:
            self._name = ""
            return None
        return self._of_server(data) if answer else self._of_client(data)

    def _segment(self, data: bytes) -> str:
        self._last, self._whole = data[0] & 0x7F, bool(data[0] & _LAST)
        self._coming = not self._whole and self._last < self._longest
        return f"part {self._parts + self._last} of {self._name}" + (", the last" if self._whole else "")

    def _of_client(self, data: bytes) -> str | None:
        kind = data[0] & 0xE3
        if kind == _INITIATE:
            place = Place(data[1] | data[2] << 8, data[3])
            self._name = f"{place} {self._labels.get(place, '')}".strip()
            self._longest, self._parts, self._whole = data[4] or 127, 0, False
            return f"read {self._name} as a block"
        if not self._name:
            return None
        if kind == _START:
            self._coming = True
            return f"{self._name} may come"
        if kind == _RESPONSE:
            self._parts += data[1]
            self._longest = data[2] or 127
            self._coming = not (self._whole and data[1] == self._last)
            return f"{several(self._parts, 'part')} of {self._name} acknowledged"
        if kind == _END:
            name, self._name = self._name, ""
            return f"{name} is whole"
        return None

    def _of_server(self, data: bytes) -> str | None:
        if not self._name:
            return None
        if data[0] & 0xE1 == _ANSWERED:
            size = f", {int.from_bytes(data[4:8], 'little')} bytes" if data[0] & 0x02 else ""
            return f"{self._name} is there as a block{size}"
        if data[0] & 0xE3 == _ENDED:
            return f"{self._name} ends, checksum {int.from_bytes(data[1:3], 'little'):04X}h"
        return None
