"""The lock of the set-up: what is locked is not changed from the screen until its PIN was typed."""

from __future__ import annotations

import time

from idler.core.errors import About, Sentence
from idler.shelf.pin import Locked
from idler.shelf.shelf import Shelf

from .topic import Topic


class SetupLock:
    """Closed at every start where a PIN is kept. Reading, jogging, homing and stopping stay free."""

    def __init__(self, shelf: Shelf, name: str) -> None:
        self.changed: Topic[()] = Topic()
        self._shelf, self._name = shelf, name
        self._opened = False

    @property
    def has_pin(self) -> bool:
        return self._shelf.is_locked(self._name)

    @property
    def closed(self) -> bool:
        return not self._opened and self.has_pin

    @property
    def obstacle(self) -> str:
        """Why the set-up cannot be changed now, or an empty text."""
        if not self.closed:
            return ""
        return Sentence("The set-up is locked. Unlock it with its PIN at the Link station.", About.LOCKED)

    def require_open(self) -> None:
        """Every way to the controller's values or to the machine's files asks here. Raises Locked."""
        if self.closed:
            raise Locked(self.obstacle)

    def set_pin(self, pin: str) -> None:
        """Locks at once. Raises IdlerError: a PIN that may not be used, a disk that refuses, a set-up that is locked."""
        self.require_open()
        self._shelf.lock(self._name, pin, time.time())
        self._opened = False
        self.changed.publish()

    def open(self, pin: str) -> bool:
        """Until `close` or the end of the run. Raises IdlerError where the lock cannot be read."""
        self._opened = self._shelf.opens(self._name, pin, time.time())
        self.changed.publish()
        return self._opened

    def close(self) -> None:
        self._opened = False
        self.changed.publish()

    def take_away(self) -> None:
        """No PIN any more; only while it is open. Raises IdlerError."""
        self.require_open()
        self._shelf.unlock(self._name, f"Took the PIN of {self._name} away", time.time())
        self.changed.publish()
