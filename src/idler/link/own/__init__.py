"""A controller of our own profile (docs/controller-profile.md): one node that holds all values and does all motion."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from ..client import Client
from ..controller import Controller, Kind, Tell

if TYPE_CHECKING:
    from ..bus.address import BusAddress
    from ..bus.wire import Frames
    from ..times import Times


def _make(
    address: BusAddress, wait: Callable[[float], None], times: Times, frames: Frames, keep: Path | None
) -> Client:
    from .client import Client

    return Client(address, wait, times, frames, keep)


def _open(tell: Tell, keep: Path | None) -> Controller:
    from ..thread import Link

    return Link(tell, keep=keep)


KIND = Kind("own", takes=lambda _address: True, open=_open, make=_make)
