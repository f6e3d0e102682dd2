"""The desk's side of incidents: the flight record that belongs to what stopped the machine, kept on the shelf at once."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from idler.core.errors import IdlerError
from idler.core.incident import Incident
from idler.shelf.incidents import IncidentFolder, KeptIncident

if TYPE_CHECKING:
    from .desk import Desk


class Incidents(QObject):
    """`recorded` follows an incident a second later, when the controller has held its record."""

    recorded = Signal(object)  # KeptIncident

    def __init__(self, desk: Desk, folder: IncidentFolder) -> None:
        super().__init__(desk)
        self._desk, self._folder = desk, folder
        self._last: Incident | None = None

    def stopped(self, incident: Incident) -> None:
        """The first one counts until its record has come; what follows from it does not."""
        self._last = self._last or incident

    def take(self, data: bytes) -> None:
        """A flight record, as it stands on the wire. One of a stop that nobody saw is kept as well."""
        from idler.core.wire.flight import unpack_flight

        incident, self._last = self._last, None
        try:
            code = unpack_flight(data).code
        except ValueError as why:
            self._desk.told.emit("warn", f"The controller's record of the stop cannot be used ({why}).")
            return
        kept = KeptIncident(time.time(), incident or Incident(code), self._desk.in_force, data)
        try:
            self._folder.keep(kept)
        except IdlerError as why:
            self._desk.told.emit("warn", f"The incident could not be kept. {why.sentence}")
        self.recorded.emit(kept)

    def names(self) -> list[str]:
        return self._folder.names()

    def load(self, name: str) -> KeptIncident:
        """Raises IdlerError."""
        return self._folder.load(name)
