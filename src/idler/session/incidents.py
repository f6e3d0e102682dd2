"""The session's side of incidents: the flight record that belongs to what stopped the machine, kept on the shelf at once."""

from __future__ import annotations

import contextlib
import time
from typing import TYPE_CHECKING

from idler.core.errors import IdlerError
from idler.core.incident import Incident
from idler.core.machine import Address
from idler.core.profile.cia402 import LAGGED, LINK_CUT, RESTARTED, UNNAMED
from idler.core.table import AXIS
from idler.shelf.incidents import IncidentFolder, KeptIncident

from .ownrecord import OwnRecord
from .topic import Topic

if TYPE_CHECKING:
    from idler.core.machine import Machine
    from idler.core.machine.finding import Finding

    from .session import Session


AFTERWARDS = 1.0  # s after a stop of which the controller has no record of its own


def _same(machine: Machine, then: Machine, found: Finding) -> bool:
    keys = [row.key for row in AXIS.values() if row.key.startswith(("chain.", "loop."))]
    return all(machine[Address(found.where.slot, key)] == then[Address(found.where.slot, key)] for key in keys)


class Incidents:
    """Each stop has its own record. `recorded` follows it a second later: the controller's, or what Idler itself has heard."""

    def __init__(self, session: Session, folder: IncidentFolder) -> None:
        self.recorded: Topic[KeptIncident, str] = Topic()  # and its name in the folder
        self._session, self._folder = session, folder
        self._waiting: Incident | None = None  # the stop whose record the controller holds
        self._own: Incident | None = None  # the stop of which Idler's own record is about to be kept
        # The stop before, and how often power had been asked for by then.
        self._last: tuple[Incident, int] | None = None
        self.own = OwnRecord(session.loop.now)
        self._suspects: dict[Address, tuple[Finding, Machine]] = {}

    def note(self) -> None:
        """What is heard of the machine now. Called again and again."""
        if self._session.connected:
            self.own.note(self._session.link.axes, self._session.link.panel)

    def stopped(self, incident: Incident) -> None:
        """The controller records the first stop until its record was taken; those that come meanwhile have Idler's own.

        A loose wire that opens again and again while the drives are off already stops nothing more.
        """
        if self._is_told(incident.code, incident.input) and self._last and self._last[0].axis == incident.axis:
            return
        parts = self._session.in_force.made_of_parts
        if parts and self._own is not None and self._own.code == incident.code and incident.axis is None:
            self._own = incident  # the same stop, of several drives
            return
        self._last = incident, self._session.power_asked
        if self._waiting is None and incident.code not in (LINK_CUT, RESTARTED) and not parts:
            self._waiting = incident
            return
        at, now = self._session.loop.now(), incident.code in (LINK_CUT, RESTARTED)
        if now:
            self._waiting = None  # whatever record was to come is gone with the link
            self._keep_own(incident, at)
        else:
            self._own = incident
            self._session.loop.timer(AFTERWARDS, lambda: self._keep_own(incident, at), once=True).start()

    @property
    def awaited(self) -> bool:
        """Whether the controller's record of a stop is still to come."""
        return self._waiting is not None

    def _is_told(self, code: int, number: int | None) -> bool:
        """Whether this is only the stop before once more: the same input, and no power was asked for since."""
        if self._last is None:
            return False
        before, asked = self._last
        return before.takes_power and (code, number, self._session.power_asked) == (before.code, before.input, asked)

    def _keep_own(self, incident: Incident, at: float) -> None:
        if self._own is not None and self._own.code == incident.code:
            incident, self._own = self._own, None
        data = self.own.record(incident.code, at, incident.input)
        if data is not None:
            self._keep(incident, data)

    def take(self, data: bytes) -> None:
        """A flight record, as it stands on the wire. One of a stop that nobody saw is told as well."""
        from idler.core.profile.flight import unpack_flight

        incident, self._waiting = self._waiting, None
        try:
            record = unpack_flight(data)
        except ValueError as why:
            self._session.tell("warn", f"The controller's record of the stop cannot be used ({why}).")
            return
        if incident is None:
            code = record.code or UNNAMED
            if self._is_told(code, record.input):
                return
            incident = Incident(code, input=record.input)
            self._session.stopped.publish(incident)
        self._keep(incident, data)

    def _keep(self, incident: Incident, data: bytes) -> None:
        kept, name = KeptIncident(time.time(), incident, self._session.in_force, data), ""
        try:
            name = self._folder.keep(kept)
        except IdlerError as why:
            self._session.refuse("The incident could not be kept.", why.sentence)
        self._suspect(kept)
        self.recorded.publish(kept, name)

    def _suspect(self, kept: KeptIncident) -> None:
        """What follows from a record is a finding until its value is another."""
        if kept.incident.code != LAGGED:
            return
        from idler.core.incident.diagnosis import account, suspected
        from idler.core.profile.flight import unpack_flight

        with contextlib.suppress(ValueError):
            found = suspected(kept.machine, account(kept.machine, unpack_flight(kept.flight), kept.incident.axis))
            if found is not None:
                self._suspects[found.where] = found, kept.machine
                self._session.noticed.publish()

    def findings(self, machine: Machine) -> list[Finding]:
        """What stops so far say of this machine, as long as the axis is told of its train and its encoder what it was then."""
        return [
            found
            for found, then in self._suspects.values()
            if machine.names == then.names and _same(machine, then, found)
        ]

    def names(self) -> list[str]:
        return self._folder.names()

    def load(self, name: str) -> KeptIncident:
        """Raises IdlerError."""
        return self._folder.load(name)
