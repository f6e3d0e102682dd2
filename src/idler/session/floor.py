"""The one thing that runs: whoever wants to move the machine asks here, and is told what runs and how to end it."""

from __future__ import annotations

from idler.core.words import capital

from .topic import Topic


class Floor:
    """One owner at a time. What is only a press, as a step of a jog, asks and takes nothing."""

    def __init__(self) -> None:
        self.changed: Topic[()] = Topic()
        self._owner: object | None = None
        self._words = ""

    @property
    def words(self) -> str:
        """What runs ("the homing of X"), or an empty text."""
        return self._words

    def obstacle(self, owner: object | None = None) -> str:
        """Why nothing else may begin now, or an empty text. owner: who asks; what it runs itself is no obstacle."""
        if self._owner is None or self._owner is owner:
            return ""
        return f"{capital(self._words)} is running. Esc or STOP ends it."

    def take(self, owner: object, words: str) -> None:
        """From here on only this runs. `obstacle` must have been asked before."""
        self._owner, self._words = owner, words
        self.changed.publish()

    def leave(self, owner: object) -> None:
        """It runs no more; where it did not, nothing changes."""
        if self._owner is owner:
            self._owner, self._words = None, ""
            self.changed.publish()
