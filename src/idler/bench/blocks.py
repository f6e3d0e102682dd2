"""The server's side of SDO block upload (CiA 301, 7.2.4.3.9 to 15), which the canopen package has only for clients.

Up to 127 segments of seven bytes go out without an answer in between, so that a block of edges costs four exchanges.
"""

from __future__ import annotations

import binascii
import struct
from collections.abc import Callable

from idler.core.profile.codec import Place

_LONGEST = 127
_INITIATE, _END, _RESPONSE, _START = 0xA0, 0xA1, 0xA2, 0xA3  # of the client; bit 2 of the first asks for a checksum
_SERVER, _SIZE_GIVEN, _CHECKSUM, _FINISHED = 0xC0, 0x02, 0x04, 0x01
_ABORT, _WRONG_SEQUENCE = 0x80, 0x05040003


class BlockUpload:
    """send: puts eight bytes on the bus. read: gives the bytes of an object, or None where it has none to give."""

    def __init__(self, send: Callable[[bytes], None], read: Callable[[Place], bytes | None]) -> None:
        self._send, self._read = send, read
        self._data = b""
        self._at = 0  # bytes that the client has confirmed
        self._size = _LONGEST
        self._place = Place(0, 0)
        self._runs = False  # between its begin and the acknowledgement of its last segment

    def take(self, data: bytes) -> bool:
        """Handles a message of the client; False where it belongs to another service."""
        if len(data) != 8 or data[0] & 0xE0 != _INITIATE:
            return False
        command = data[0] & 0xA3
        if command == _INITIATE:
            return self._initiate(data)
        if command == _END:
            self._runs = False
        elif not self._runs:
            self._abort()
        elif command == _START:
            self._segments()
        elif command == _RESPONSE:
            self._confirmed(data[1], data[2])
        return True

    def _abort(self) -> None:
        """Whoever says what does not belong to a block that is under way."""
        self._runs = False
        self._send(struct.pack("<BHBI", _ABORT, self._place.index, self._place.sub, _WRONG_SEQUENCE))

    def _initiate(self, data: bytes) -> bool:
        index, sub, size = struct.unpack("<HBB", data[1:5])
        self._place = Place(index, sub)
        found = self._read(self._place)
        if found is None:
            return False
        self._data, self._at, self._size, self._runs = found, 0, min(max(size, 1), _LONGEST), True
        self._send(struct.pack("<BHBI", _SERVER | _CHECKSUM | _SIZE_GIVEN, index, sub, len(found)))
        return True

    def _segments(self) -> None:
        """One block of segments from what was confirmed last."""
        for number in range(1, self._size + 1):
            start = self._at + (number - 1) * 7
            part = self._data[start : start + 7]
            last = start + 7 >= len(self._data)
            self._send(bytes([number | (0x80 if last else 0)]) + part.ljust(7, b"\0"))
            if last:
                return

    def _confirmed(self, number: int, size: int) -> None:
        """The client has taken so many segments of the block; the rest comes again in the next one."""
        if number > self._size:
            self._abort()
            return
        self._at += number * 7
        self._size = min(max(size, 1), _LONGEST)
        if self._at < len(self._data):
            self._segments()
            return
        self._runs = False
        unused = (7 - len(self._data) % 7) % 7 if self._data else 7
        checksum = binascii.crc_hqx(self._data, 0)
        self._send(struct.pack("<BH5x", _SERVER | _FINISHED | unused << 2, checksum))
