"""A controller of our own profile (docs/controller-profile.md): one node that holds all values and does all motion."""

from __future__ import annotations

from ..controller import Controller, Kind, Tell


def _open(tell: Tell) -> Controller:
    from .link import Link

    return Link(tell)


KIND = Kind("own", takes=lambda _address: True, open=_open)
