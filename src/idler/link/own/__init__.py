"""A controller of our own profile (docs/controller-profile.md): one node that holds all values and does all motion."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from ..client import Client
from ..controller import Kind

if TYPE_CHECKING:
    from ..bus.address import BusAddress
    from ..bus.wire import Frames
    from ..times import Times


def _make(
    address: BusAddress, wait: Callable[[float], None], times: Times, frames: Frames, keep: Path | None
) -> Client:
    from .client import Client

    return Client(address, wait, times, frames, keep)


KIND = Kind("own", takes=lambda _address: True, make=_make)
