"""The number of a plain node, given over the bus (layer setting services, CiA 305): the side of the node."""

from __future__ import annotations

import struct
from collections.abc import Callable

ASKED, ANSWERED = 0x7E5, 0x7E4  # identifiers of what a master says, and of what nodes say
UNCONFIGURED = 0xFF
_GLOBAL, _NUMBER, _STORE, _ASK_NUMBER, _SCAN = 0x04, 0x11, 0x17, 0x5E, 0x51
_FIRST_PART, _LAST_PART, _CHOSEN = 0x40, 0x43, 0x44
_SCANNED, _LAST_SUB, _CONFIRM = 0x4F, 3, 0x80


class Numbering:
    """identity: vendor, product, revision, serial. say: sends one frame. stored: a number is to be kept."""

    def __init__(self, number: int, identity: tuple[int, int, int, int], say: Callable[[bytes], None]) -> None:
        self.number = self.wanted = number
        self._identity, self._say = identity, say
        self.stored: Callable[[int], None] = lambda _number: None
        self._open = False  # whether it takes what is said, as the chosen one
        self._parts: list[int] = []
        self._scanned = 0  # sub-index that a scan has come to

    def hear(self, data: bytes) -> bool:
        """True where it has a number now that had none."""
        said = data[0]
        if said == _GLOBAL:
            was, self._open = self._open, data[1] == 1
            self._scanned, self._parts = 0, []
            if was and not self._open and self.number == UNCONFIGURED and self.wanted != UNCONFIGURED:
                self.number = self.wanted
                return True
        elif _FIRST_PART <= said <= _LAST_PART:
            self._parts = [*self._parts, struct.unpack_from("<I", data, 1)[0]] if said != _FIRST_PART else [
                struct.unpack_from("<I", data, 1)[0]
            ]  # fmt: skip
            if said == _LAST_PART and tuple(self._parts) == self._identity:
                self._open = True
                self._answer(_CHOSEN)
        elif said == _SCAN:
            self._scan(data)
        elif self._open and said == _NUMBER:
            good = 1 <= data[1] <= 127 or data[1] == UNCONFIGURED
            self.wanted = data[1] if good else self.wanted
            self._answer(_NUMBER, 0 if good else 1)
        elif self._open and said == _STORE:
            self.stored(self.wanted)
            self._answer(_STORE, 0)
        elif self._open and said == _ASK_NUMBER:
            self._answer(_ASK_NUMBER, self.number)
        return False

    def _scan(self, data: bytes) -> None:
        """Only a node without a number takes part (CiA 305, fastscan)."""
        if self.number != UNCONFIGURED or self._open:
            return
        asked, bit, sub, following = struct.unpack("<IBBB", data[1:8])
        if bit == _CONFIRM:
            self._scanned = 0
            self._answer(_SCANNED)
        elif sub == self._scanned and not (self._identity[sub] ^ asked) >> bit:
            self._answer(_SCANNED)
            if bit == 0:
                self._scanned = following
                self._open = sub == _LAST_SUB and following < sub

    def _answer(self, said: int, more: int = 0) -> None:
        self._say(bytes((said, more, 0, 0, 0, 0, 0, 0)))
