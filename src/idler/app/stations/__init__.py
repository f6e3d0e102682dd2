"""One folder for each station of the train, named by its key. Its `station.py` makes the page when it is first opened."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import TYPE_CHECKING, Protocol

from idler.core.table.stations import Station
from idler.session.session import Session

if TYPE_CHECKING:
    from idler.core.machine import Machine

    from .workbench import Workbench


class Host(Protocol):
    """What a station may ask of the window that it stands in."""

    session: Session
    start_bench: Callable[[], None]

    def page(self, station: Station) -> Workbench: ...

    def open_station(self, station: Station) -> None: ...

    def open_keep(self) -> object: ...

    def open_incident(self) -> object: ...

    def open_lock(self) -> object: ...

    def open_wire(self) -> object: ...

    def open_parts(self) -> object: ...

    def open_number(self) -> object: ...

    def open_factory(self) -> object: ...

    def open_send_of(self, machine: Machine) -> object: ...


def page_of(station: Station, host: Host) -> Workbench:
    """The page of a station."""
    page: Workbench = import_module(f"{__name__}.{station.key}.station").make(host)
    return page
