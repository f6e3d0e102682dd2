"""The CAN bus of the bench: every client of the serial-line adapter and the controller hear every frame.

Each client speaks the ASCII protocol of serial CAN adapters ("slcan"): Sn sets the bit rate, O opens, C closes, and
t/T/r/R lines carry frames. A client at another bit rate than the bus hears and reaches nobody, as on a real bus.
"""

from __future__ import annotations

import os
import socket
from collections.abc import Callable
from typing import Any

BIT_RATE_CODE = "6"  # 500 kbit/s
_MOST_WAITING = 1 << 20
_OK, _BELL = b"\r", b"\a"


class Line:
    """One serial line: a socket or a pseudo terminal."""

    def __init__(self, descriptor: int, close: Callable[[], None]) -> None:
        self.descriptor = descriptor
        self._close = close
        self._in = bytearray()
        self._out = bytearray()
        self.open = False
        self.right_rate = True
        self.silent = False  # it only listens
        os.set_blocking(descriptor, False)

    def read_lines(self) -> list[bytes] | None:
        """Whole lines that have come in; None when the other side is gone."""
        try:
            data = os.read(self.descriptor, 65536)
        except BlockingIOError:
            return []
        except OSError:
            return None
        if not data:
            return None
        self._in += data
        *lines, rest = self._in.split(b"\r")
        self._in = bytearray(rest[-64:])
        return [bytes(line) for line in lines]

    def write(self, data: bytes) -> bool:
        """Queues data until the next flush: what is said in one round goes out as one; False when the client has stopped
        reading."""
        self._out += data
        return len(self._out) < _MOST_WAITING

    def flush(self) -> None:
        try:
            while self._out:
                sent = os.write(self.descriptor, self._out)
                del self._out[:sent]
        except BlockingIOError:
            return
        except OSError:
            self._out.clear()

    def close(self) -> None:
        self._close()


class Hub:
    """to_controller is called with (id, data) for every data frame that a client sends; asked with the id of a remote frame."""

    def __init__(self, to_controller: Callable[[int, bytes], None]) -> None:
        self._to_controller = to_controller
        self.lines: dict[int, Line] = {}
        self.dropped: Callable[[int], object] = lambda _: (
            None
        )  # called with the descriptor of a line before it is closed
        self.cut = False
        self.asked: Callable[[int], None] = lambda _: None

    def add_socket(self, connection: socket.socket) -> Line:
        connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        return self._add(Line(connection.fileno(), connection.close))

    def add_descriptor(self, descriptor: int) -> Line:
        return self._add(Line(descriptor, lambda: os.close(descriptor)))

    def _add(self, line: Line) -> Line:
        self.lines[line.descriptor] = line
        return line

    def drop(self, line: Line) -> None:
        if self.lines.pop(line.descriptor, None) is not None:
            self.dropped(line.descriptor)
            line.close()

    def take(self, line: Line) -> bool:
        """Handles what a client has sent; False when it is gone."""
        lines = line.read_lines()
        if lines is None:
            return False
        for text in lines:
            line.write(self._answer(line, text))
        return True

    def flush(self) -> None:
        """Sends what was said since the last time: at the end of each round."""
        for line in self.lines.values():
            line.flush()

    def _answer(self, line: Line, text: bytes) -> bytes:
        kind = text[:1]
        if kind in (b"", b"\n"):
            return b""
        if kind in (b"t", b"T", b"r", b"R"):
            return self._frame(line, text)
        if kind in (b"O", b"L"):
            line.open, line.silent = True, kind == b"L"
        elif kind == b"C":
            line.open = False
        elif kind == b"S":
            line.right_rate = text[1:2].decode("ascii", "replace") == BIT_RATE_CODE
        elif kind == b"V":
            return b"V1013\r"
        elif kind == b"N":
            return b"NBNCH\r"
        elif kind == b"F":
            return b"F00\r"
        elif kind not in (b"Z", b"s"):
            return _BELL
        return _OK

    def _frame(self, line: Line, text: bytes) -> bytes:
        extended = text[:1] in (b"T", b"R")
        width = 8 if extended else 3
        try:
            identifier = int(text[1 : 1 + width], 16)
            size = int(text[1 + width : 2 + width], 16)
            data = bytes.fromhex(text[2 + width : 2 + width + 2 * size].decode("ascii"))
        except ValueError:
            return _BELL
        remote = text[:1] in (b"r", b"R")
        if size > 8 or (not remote and len(data) != size):
            return _BELL
        if not line.open or line.silent or not line.right_rate or self.cut:
            return _BELL
        self._spread(text + b"\r", line)
        if not extended and remote:
            self.asked(identifier)
        elif not extended:
            self._to_controller(identifier, data)
        return b"Z\r" if extended else b"z\r"

    def _spread(self, text: bytes, sender: Line | None) -> None:
        if self.cut:
            return
        for line in list(self.lines.values()):
            if line is not sender and line.open and line.right_rate and not line.write(text):
                self.drop(line)

    def broadcast(self, identifier: int, data: bytes) -> None:
        """A frame from the controller to all clients."""
        self._spread(b"t%03X%d%s\r" % (identifier, len(data), data.hex().upper().encode()), None)


class Sender:
    """What the canopen package takes for a bus: it only ever sends."""

    channel_info = "bench"

    def __init__(self, hub: Hub) -> None:
        self._hub = hub

    def send(self, message: Any) -> None:
        self._hub.broadcast(message.arbitration_id, bytes(message.data))
