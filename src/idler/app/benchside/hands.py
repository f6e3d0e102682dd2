"""The hands: asks the bench's physical side and gives back its answers. JSON lines over TCP; see the bench's hands port."""

from __future__ import annotations

import json
from collections import deque
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtNetwork import QTcpSocket

Answer = Callable[[dict[str, Any]], None]


class BenchHands(QObject):
    """Requests are answered in order. A refusal comes as {"ok": False, "error": sentence}."""

    lost = Signal()

    def __init__(self, address: str) -> None:
        super().__init__()
        host, _, port = address.removeprefix("tcp://").rpartition(":")
        self._socket = QTcpSocket(self)
        self._socket.readyRead.connect(self._read)
        self._socket.disconnected.connect(self.lost)
        self._waiting: deque[Answer] = deque()
        self._buffer = b""
        self._socket.connectToHost(host, int(port))

    @property
    def waiting(self) -> int:
        return len(self._waiting)

    def ask(self, answer: Answer, **request: Any) -> None:
        self._waiting.append(answer)
        self._socket.write(json.dumps(request).encode() + b"\n")

    def _read(self) -> None:
        self._buffer += bytes(self._socket.readAll().data())
        *lines, self._buffer = self._buffer.split(b"\n")
        for line in lines:
            self._waiting.popleft()(json.loads(line))

    def close(self) -> None:
        self._socket.abort()
