"""The server's side of SDO block transfer (CiA 301, 7.2.4.3.5 to 15), which the canopen package has only for clients.

Up to 127 segments of seven bytes go without an answer in between, so that a block of edges costs four exchanges.
"""

from __future__ import annotations

import binascii
import math
import struct
from collections.abc import Callable

from idler.core.profile.codec import Place

_LONGEST = 127
_INITIATE, _END, _RESPONSE, _START = 0xA0, 0xA1, 0xA2, 0xA3  # of the client; bit 2 of the first asks for a checksum
_SERVER, _SIZE_GIVEN, _CHECKSUM, _FINISHED = 0xC0, 0x02, 0x04, 0x01
_ABORT, _TIMED_OUT, _WRONG_SEQUENCE, _WRONG_CHECKSUM = 0x80, 0x05040000, 0x05040003, 0x05040004
_PATIENCE = 3.0  # s of the wall clock without a segment
_ASKS = 0x40  # command of a request to read, whose last four bytes are nothing (7.2.4.3.6)
# Downloads: commands of the client, and of the server
_DOWNLOAD, _DOWNLOAD_END, _HAS_CHECKSUM = 0xC0, 0xC1, 0x04
_TAKES, _TAKEN, _OVER, _LAST = 0xA4, 0xA2, 0xA1, 0x80


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


class BlockDownload:
    """send: puts eight bytes on the bus. write: takes the bytes of an object; returns an abort code, 0 where it took them.
    takes: whether an object is written in blocks."""

    def __init__(
        self, send: Callable[[bytes], None], takes: Callable[[Place], bool], write: Callable[[Place, bytes], int]
    ) -> None:
        self._send, self._takes, self._write = send, takes, write
        self._place = Place(0, 0)
        self._data = bytearray()
        self._number = 0  # of the last segment that came in its order
        self._receives = self._ends = self._checked = False
        self._since = math.inf  # s of the wall clock when something of it came last; looked at by `tick`
        self._news = False

    def tick(self, now: float) -> None:
        """Gives up a transfer whose client is gone: whoever comes next would else not be heard."""
        if self._news or not (self._receives or self._ends):
            self._since, self._news = now, False
        elif now - self._since > _PATIENCE:
            self._receives = self._ends = False
            self._send(struct.pack("<BHBI", _ABORT, self._place.index, self._place.sub, _TIMED_OUT))

    def take(self, data: bytes) -> bool:
        """Handles a message of the client; False where it belongs to another service."""
        if self._receives and data[0] == _ASKS != self._number + 1 and not any(data[4:]):
            self._receives = False  # whoever asks for something else has given it up
        if self._receives and data[0] != _ABORT:
            self._segment(data)
            return True
        if data[0] == _ABORT:
            self._receives = self._ends = False
            return False
        if data[0] & 0xE1 == _DOWNLOAD:
            return self._begin(data)
        if data[0] & 0xE1 == _DOWNLOAD_END and self._ends:
            self._end(data)
            return True
        return False

    def _begin(self, data: bytes) -> bool:
        place = Place(*struct.unpack("<HB", data[1:4]))
        if not self._takes(place):
            return False
        self._place, self._data, self._number = place, bytearray(), 0
        self._receives, self._ends, self._checked = True, False, bool(data[0] & _HAS_CHECKSUM)
        self._news = True
        self._send(struct.pack("<BHBB3x", _TAKES, place.index, place.sub, _LONGEST))
        return True

    def _segment(self, data: bytes) -> None:
        """One after the other; what comes after a gap is sent once more, for the answer says what came last."""
        number = data[0] & 0x7F
        if number == self._number + 1:
            self._number = number
            self._data += data[1:]
            self._news = True
        last = bool(data[0] & _LAST)
        if number == _LONGEST or last:
            whole = number == self._number
            self._send(struct.pack("<BBB5x", _TAKEN, self._number, _LONGEST))
            self._number = 0
            if last and whole:
                self._receives, self._ends = False, True

    def _end(self, data: bytes) -> None:
        self._ends = False
        unused = data[0] >> 2 & 7
        taken = bytes(self._data[: len(self._data) - unused])
        code = 0
        if self._checked and struct.unpack("<H", data[1:3])[0] != binascii.crc_hqx(taken, 0):
            code = _WRONG_CHECKSUM
        code = code or self._write(self._place, taken)
        if code:
            self._send(struct.pack("<BHBI", _ABORT, self._place.index, self._place.sub, code))
        else:
            self._send(struct.pack("<B7x", _OVER))
