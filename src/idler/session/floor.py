"""The one thing that runs: whoever wants to move the machine asks here, and is told what runs and how to end it."""

from __future__ import annotations

from collections.abc import Callable

from idler.core.errors import About, Sentence
from idler.core.words import capital, duration

from .topic import Topic


class Floor:
    """One owner at a time. What is only a press, as a step of a jog, asks and takes nothing."""

    def __init__(self, now: Callable[[], float]) -> None:
        """now: s, of the room's clock."""
        self._now, self._begun, self._takes = now, 0.0, 0.0
        self.changed: Topic[()] = Topic()
        self._owner: object | None = None
        self._words = ""

    @property
    def owner(self) -> object | None:
        """What runs, itself."""
        return self._owner

    @property
    def words(self) -> str:
        """What runs ("the homing of X"), or an empty text."""
        return self._words

    def obstacle(self, owner: object | None = None) -> str:
        """Why nothing else may begin now, or an empty text. owner: who asks; what it runs itself is no obstacle."""
        if self._owner is None or self._owner is owner:
            return ""
        return Sentence(f"{capital(self._words)} is running. Esc or STOP ends it.", About.RUNS)

    def take(self, owner: object, words: str, seconds: float = 0.0) -> None:
        """From here on only this runs. `obstacle` must have been asked before. seconds: that it will take; 0: not known."""
        if self._owner is not owner:
            self._begun = self._now()
        self._owner, self._words, self._takes = owner, words, seconds
        self.changed.publish()

    @property
    def time_words(self) -> str:
        """How long what runs will still take, or, where nobody knows that, how long it has taken."""
        if self._owner is None:
            return ""
        gone = self._now() - self._begun
        left = self._takes - gone
        return f"{duration(left)} left" if left > 0 else f"for {duration(gone)}"

    def leave(self, owner: object) -> None:
        """It runs no more; where it did not, nothing changes."""
        if self._owner is owner:
            self._owner, self._words = None, ""
            self.changed.publish()
