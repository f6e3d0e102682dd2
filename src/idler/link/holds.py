"""What moves or turns only while a finger is on it."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .client import Client

End = Callable[["Client"], None]


class Hold:
    """One press: confirmed again and again, let go of once. end: sends one frame and waits for nothing."""

    def __init__(self, end: End, seconds: float) -> None:
        self.end, self._seconds = end, seconds
        self._begin_by = self._until = time.monotonic() + seconds
        self._gone = False

    def keep(self) -> None:
        self._until = time.monotonic() + self._seconds

    def let_go(self) -> None:
        self._gone = True

    @property
    def kept(self) -> bool:
        return not self._gone and time.monotonic() <= self._until

    @property
    def fresh(self) -> bool:
        """Whether it may still begin: what waited behind something long was not held all the while."""
        return self.kept and time.monotonic() <= self._begin_by


class Holds:
    """One at a time: a second press lets the first one go.

    A press has two sides. The hand's may be called from any thread. The link's begins what is held, and ends it once: whatever
    was let go of before it had begun is not begun.
    """

    def __init__(self, seconds: float) -> None:
        self._seconds = seconds
        self._pressed: Hold | None = None
        self._begun: Hold | None = None

    # -- the hand's side ------------------------------------------------------------------------------------------

    def press(self, end: End) -> Hold:
        self.release()
        self._pressed = Hold(end, self._seconds)
        return self._pressed

    def keep(self) -> None:
        if (pressed := self._pressed) is not None:
            pressed.keep()

    def release(self) -> None:
        if (pressed := self._pressed) is not None:
            pressed.let_go()

    # -- the link's side ------------------------------------------------------------------------------------------

    def begin(self, hold: Hold, client: Client) -> Callable[[], bool]:
        """Takes over from whatever was held. What comes back is asked once more right before motion: is it wanted still?"""
        self.end(client)
        self._begun = hold
        return lambda: self._begun is hold and hold.kept

    def look(self, client: Client) -> None:
        """Ends what nobody holds any more."""
        if self._begun is not None and not self._begun.kept:
            self.end(client)

    def end(self, client: Client) -> None:
        if self._begun is not None:
            hold, self._begun = self._begun, None
            hold.end(client)

    def forget(self) -> None:
        """Something else has ended it."""
        self._begun = None
