"""The line to a bus: frames out and in, and SDO to any of its nodes. One thread owns it."""

from __future__ import annotations

import contextlib
from typing import Any

import can
import canopen

from ..errors import LinkLost
from .adapter import open_bus
from .address import BusAddress
from .wire import Frames, Tap

MOST_FRAMES = 64  # that are heard in one go, so that STOP and the heartbeat never wait behind what others say


class Line:
    """Opening raises a LinkError that says why it cannot be opened."""

    def __init__(self, address: BusAddress, frames: Frames | None = None) -> None:
        self.address = address
        self._bus: Any = Tap(open_bus(address), frames or Frames())
        self.network = canopen.Network(bus=self._bus)

    def fileno(self) -> int:
        return int(self._bus.fileno())

    def close(self) -> None:
        """Lets go of the port without a word."""
        with contextlib.suppress(can.CanError, OSError):
            self._bus.shutdown()

    def take(self) -> list[tuple[int, bytes]]:
        """Frames that have come in, a bounded number of them: identifier and data. Raises LinkLost where the line is gone."""
        try:
            return list(self._bus.take(MOST_FRAMES))
        except (can.CanError, OSError) as why:
            raise LinkLost(f"{self.address}: the line is gone ({why}).") from None

    @property
    def spoilt(self) -> int:
        """How many lines of the adapter made no sense."""
        return int(getattr(self._bus, "spoilt", 0))

    @property
    def has_more(self) -> bool:
        """Whether frames are left that need not be waited for."""
        return bool(getattr(self._bus, "waiting", False))

    def send(self, identifier: int, data: bytes) -> None:
        """Raises LinkLost."""
        try:
            self.network.send_message(identifier, data)
        except (can.CanError, OSError) as why:
            raise LinkLost(f"{self.address}: nothing can be sent ({why}).") from None

    def ask(self, identifier: int) -> None:
        """A remote frame: whoever has what this identifier names says it. Raises LinkLost."""
        try:
            self.network.send_message(identifier, b"", remote=True)
        except (can.CanError, OSError) as why:
            raise LinkLost(f"{self.address}: nothing can be sent ({why}).") from None

    def answer(self, identifier: int, data: bytes) -> None:
        """Hands an answer of SDO to whoever waits for it."""
        self.network.notify(identifier, bytearray(data), 0.0)
