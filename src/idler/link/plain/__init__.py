"""A controller that is made of plain parts: drives of CiA 402, one node each, and terminals of CiA 401.

What no part keeps or does, Idler keeps and does; where each value lives stands in `idler.core.profile.homes`.
"""

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


KIND = Kind("plain", takes=lambda address: "parts=" in address, make=_make)
