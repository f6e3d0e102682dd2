"""Telling whoever wants to know: publish and subscribe, in the thread of the session."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Generic, TypeVarTuple

News = TypeVarTuple("News")


class Topic(Generic[*News]):
    """Subscribers are called in their order, at once. One that fails is told to sys.excepthook, and the others are called
    all the same: a STOP must reach them all."""

    def __init__(self) -> None:
        self._subscribers: list[Callable[[*News], object]] = []
        self._ended = False

    def subscribe(self, subscriber: Callable[[*News], object]) -> None:
        self._subscribers.append(subscriber)

    def unsubscribe(self, subscriber: Callable[[*News], object]) -> None:
        """Where it does not subscribe, nothing changes."""
        if subscriber in self._subscribers:
            self._subscribers.remove(subscriber)

    def publish(self, *news: *News) -> None:
        for subscriber in () if self._ended else tuple(self._subscribers):
            try:
                subscriber(*news)
            except Exception:
                sys.excepthook(*sys.exc_info())

    def end(self) -> None:
        """Nobody is told any more."""
        self._ended = True
        self._subscribers.clear()
