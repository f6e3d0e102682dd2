"""A controller of our own profile (docs/controller-profile.md): one node that holds all values and does all motion."""

from __future__ import annotations

from pathlib import Path

from ..controller import Controller, Kind, Tell


def _open(tell: Tell, keep: Path | None) -> Controller:
    from .link import Link

    return Link(tell, keep=keep)


KIND = Kind("own", takes=lambda _address: True, open=_open)
