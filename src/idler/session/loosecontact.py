"""A contact of the stop, or of the guard, that opens and closes again by itself: no hand does that so often."""

from __future__ import annotations

from typing import TYPE_CHECKING

from idler.core.incident import Incident
from idler.core.profile.cia402 import GUARD_OPENED, STOP_PRESSED
from idler.core.wiring import inputs
from idler.core.words import capital

if TYPE_CHECKING:
    from .session import Session

OFTEN = 4  # openings
WITHIN = 3.0  # s: an emergency stop latches (ISO 13850), and takes a hand a second to press, turn loose and press again
QUIET = 30.0  # s between two times that it is said
_WHAT = {STOP_PRESSED: "emergency stop", GUARD_OPENED: "guard"}


def _one(incident: Incident) -> tuple[int, int | None, int | None]:
    """Several drives of a machine that is made of parts tell of one opening."""
    return incident.code, incident.input, incident.axis


class LooseContact:
    """Hears of each opening; says so once for each time that it begins."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._opened: list[float] = []  # when, s
        self._last: Incident | None = None
        self._told = -QUIET

    def opened(self, incident: Incident) -> None:
        """The controller says that the machine was stopped once more."""
        if incident.code not in _WHAT:
            return
        same = self._last is not None and _one(self._last) == _one(incident)
        known, self._last = self.words, incident
        self._opened = [*(self._opened if same else ()), self._session.loop.now()][-OFTEN:]
        if self.words and not known and self._session.loop.now() - self._told > QUIET:
            self._told = self._session.loop.now()
            self._session.tell("fault", f"{self.words} Look there before the drives are powered.")

    @property
    def words(self) -> str:
        """What is loose now, as a sentence; else an empty text."""
        if self._last is None or len(self._opened) < OFTEN or self._session.loop.now() - self._opened[0] > WITHIN:
            return ""
        what = _WHAT[self._last.code]
        found = next((item for item in inputs(self._session.in_force) if item.slot == self._last.input), None)
        where = f" at input {found.name}" if found is not None else ""
        return (
            f"{capital(what)}: it opened {OFTEN} times within {WITHIN:g} s, and no hand does that. A wire{where}, or the "
            "contact itself, is loose."
        )
