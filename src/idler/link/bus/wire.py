"""The frames on the wire as they pass: a tap on the bus that keeps the last of them, and capture files."""

from __future__ import annotations

import time
from bisect import bisect_right
from collections import deque
from collections.abc import Iterable
from pathlib import Path
from typing import Any, NamedTuple

from idler.core.profile.busload import NOBODY, Health, health

KEPT = 20_000


class Frame(NamedTuple):
    """when: seconds since 1970. sent: by Idler; else heard."""

    number: int
    when: float
    identifier: int
    data: bytes
    sent: bool


class Frames:
    """The last frames, written on the link's thread and read from any other."""

    def __init__(self) -> None:
        self._kept: deque[Frame] = deque(maxlen=KEPT)
        self.faulty = 0  # frames that the adapter said were faulty, since the link was opened
        self._number = 0

    def add(self, identifier: int, data: bytes, *, sent: bool) -> None:
        self._number += 1
        self._kept.append(Frame(self._number, time.time(), identifier, data, sent))

    def since(self, number: int) -> list[Frame]:
        """Frames after the one of this number that are still there, oldest first."""
        kept = list(self._kept)  # a copy in one step, so that nothing comes in between
        return kept[bisect_right(kept, number, key=lambda frame: frame.number) :]


def health_of(frames: Iterable[Frame], seconds: float, rate: int, faulty: int, own: int = NOBODY) -> Health:
    """How the bus is that these went over in so many seconds. rate: bit/s. faulty: frames that are none of them. own: number of
    Idler."""
    return health(((frame.when, frame.identifier, len(frame.data)) for frame in frames), seconds, rate, faulty, own)


class Tap:
    """A python-can bus that lets nothing pass unseen."""

    def __init__(self, bus: Any, frames: Frames) -> None:
        self._bus, self._frames = bus, frames

    def send(self, message: Any, timeout: float | None = None) -> None:
        self._bus.send(message, timeout)
        if message.is_remote_frame:  # it carries nothing; the answer to it is seen
            return
        self._frames.add(message.arbitration_id, bytes(message.data), sent=True)

    def recv(self, timeout: float | None = None) -> Any:
        message = self._bus.recv(timeout)
        if message is not None and message.is_error_frame:
            self._frames.faulty += 1
        elif message is not None and not message.is_remote_frame and not message.is_extended_id:  # other people's
            self._frames.add(message.arbitration_id, bytes(message.data), sent=False)
        return message

    def take(self, most: int) -> list[tuple[int, bytes]]:
        """Frames that have arrived, at most so many: identifier and data."""
        if not hasattr(self._bus, "take"):
            return self._taken(most)
        found: list[tuple[int, bytes]] = self._bus.take(most)
        for identifier, data in found:
            self._frames.add(identifier, data, sent=False)
        return found

    def _taken(self, most: int) -> list[tuple[int, bytes]]:
        """The same of a bus that gives message by message."""
        found: list[tuple[int, bytes]] = []
        while len(found) < most and (message := self.recv(0)) is not None:
            if not (message.is_error_frame or message.is_remote_frame or message.is_extended_id):
                found.append((message.arbitration_id, bytes(message.data)))
        return found

    def __getattr__(self, name: str) -> Any:
        return getattr(self._bus, name)


class Capture:
    """A capture file that grows, as the can-utils of Linux write and read them. Everything here raises OSError."""

    def __init__(self, path: Path, after: int = 0) -> None:
        """after: the number of the last frame that is not to be in it."""
        import can

        self.path, self.count, self.last = path, 0, after
        self._writer = can.CanutilsLogWriter(str(path), channel="can0")

    def add(self, frames: Iterable[Frame]) -> None:
        """Frames that are in it already are left out; what is added is on its way to the disk when this returns."""
        import can

        for frame in frames:
            if frame.number > self.last:
                self.last = frame.number
                self.count += 1
                self._writer.on_message_received(
                    can.Message(timestamp=frame.when, arbitration_id=frame.identifier, data=frame.data,
                                is_extended_id=False, is_rx=not frame.sent)
                )  # fmt: skip
        self._writer.file.flush()

    def close(self) -> None:
        self._writer.stop()


def write_capture(path: Path, frames: Iterable[Frame]) -> None:
    """A capture file of these frames. Raises OSError."""
    made = Capture(path)
    try:
        made.add(frames)
    finally:
        made.close()
