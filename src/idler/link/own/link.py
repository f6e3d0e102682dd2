"""The link to a controller of our own profile."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from ..bus.address import BusAddress
from ..bus.wire import Frames
from ..client import Client
from ..controller import Tell
from ..thread import LinkThread
from ..times import Times


def _make(
    address: BusAddress, wait: Callable[[float], None], times: Times, frames: Frames, keep: Path | None
) -> Client:
    from .client import (
        Client,
    )  # the CANopen packages load here, on the link's thread, and not before the window is there

    return Client(address, wait, times, frames, keep)


class Link(LinkThread):
    def __init__(self, tell: Tell, waits: Times | None = None, keep: Path | None = None) -> None:
        super().__init__(tell, _make, waits, keep)
