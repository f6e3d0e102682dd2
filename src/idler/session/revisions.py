"""Revisions of a session: the newest one, the line of them, keeping one, going back, controllers as they were found."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from idler.core.errors import IdlerError
from idler.core.machine import Address, Machine
from idler.core.values.parameter import Value
from idler.link.events import Identity
from idler.shelf.shelf import Shelf

if TYPE_CHECKING:
    from idler.shelf.trail import Revision

    from .session import Session


PATIENCE = 0.5  # s that the window waits for the revisions; a shelf with many that nobody has noted yet takes seconds


class _Reading(threading.Thread):
    """Reads the revisions of a machine beside the window."""

    def __init__(self, shelf: Shelf, name: str, tell: Callable[[_Reading], None]) -> None:
        super().__init__(name="revisions", daemon=True)
        self._shelf, self._name, self._tell = shelf, name, tell
        self.revisions: list[Revision] = []
        self.trouble: Exception | None = None

    def run(self) -> None:
        try:
            self.revisions = self._shelf.revisions(self._name)
        except Exception as why:  # told on the window's thread
            self.trouble = why
        with contextlib.suppress(RuntimeError):  # the window is gone
            self._tell(self)


class Revisions:
    """found: whether what the connected controller held was kept just now (True) or before (False); None where neither."""

    def __init__(self, session: Session, shelf: Shelf) -> None:
        self._reading: _Reading | None = None
        self._session, self._shelf = session, shelf
        self._kept = shelf.load(session.name)
        self._all: list[Revision] | None = None
        self.found: bool | None = None

    @property
    def base(self) -> Machine:
        """The newest revision."""
        return self._kept.machine

    @property
    def has_new_proofs(self) -> bool:
        """Whether something was proven, or seen not to hold, since the newest revision was kept."""
        return any(each.when > self._kept.when for each in self._session.proofs.values())

    def all(self) -> list[Revision]:
        """Newest first; read from the disk only after one was kept. While they are `being_read` there are none yet, and
        the session tells when they are there."""
        if self._all is None and self._reading is None:
            self._reading = _Reading(self._shelf, self._session.name, self._came)
            self._reading.start()
            self._reading.join(PATIENCE)
            if not self._reading.is_alive():
                self._end(self._reading)
        return self._all or []

    def whole(self) -> list[Revision]:
        """The same, waited for however long it takes."""
        found = self.all()
        if self._reading is not None:
            self._reading.join()
            self._end(self._reading)
            found = self.all()
        return found

    @property
    def being_read(self) -> bool:
        return self._reading is not None

    def _end(self, reading: _Reading) -> None:
        self._reading = None
        if reading.trouble is not None:
            raise reading.trouble
        self._all = reading.revisions

    def _came(self, reading: _Reading) -> None:
        """Called on the thread that read."""
        self._session.loop.call(lambda: self._take(reading))

    def _take(self, reading: _Reading) -> None:
        """They came after the window had gone on."""
        if reading is self._reading:
            self._end(reading)
            self._session.revised.publish()

    def at(self, revision: Revision) -> Machine:
        """Raises IdlerError where it cannot be read."""
        return self._shelf.at(revision)

    def others(self) -> list[str]:
        """The other machines of the shelf, by name."""
        return [name for name in self._shelf.names() if name != self._session.name]

    def other(self, name: str) -> Machine:
        """Another machine as it would be opened, with its draft. Raises IdlerError."""
        return self._shelf.draft(name, self._shelf.load(name).machine)[0]

    def give(self, name: str, values: Mapping[Address, Value]) -> None:
        """Adds values to the draft of another machine. Raises IdlerError where it is locked, or one does not fit it."""
        self._shelf.edit_draft(name, values)

    def keep(self, note: str) -> Revision:
        """Keeps the draft as a revision. Raises IdlerError where the disk refuses; the draft stays."""
        self._session.lock.require_open()
        revision = self._shelf.keep(self._session.name, self._session.machine, note, time.time())
        self._kept = self._shelf.load(self._session.name)
        self._changed()
        self._session.changed.publish()
        return revision

    def go_back(self, revision: Revision) -> None:
        """Takes the values of a revision into the draft, as one step of undo; nothing is sent."""
        old = self._shelf.at(revision)
        if why := self._session.take_obstacle(old):
            raise IdlerError(f"Revision {revision.number} cannot be taken over. {why}")
        self._session.take_machine(old, f"going back to revision {revision.number}")

    def keep_found(self, identity: Identity, held: Machine) -> None:
        """Before any change, what a controller holds at first contact becomes a revision."""
        note = f"As found in {identity.name}, serial number {identity.serial}"
        try:
            self.found = self._shelf.keep_found(self._session.name, identity.serial, held, note, time.time())
        except IdlerError as why:
            self._session.refuse("The as-found values could not be kept.", why.sentence)
            return
        self._changed()

    def _changed(self) -> None:
        self._all = self._reading = None
        self._session.revised.publish()
