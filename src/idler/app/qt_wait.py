"""Waiting for something in a running application without blocking it; for the tour and for tests."""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication

LOOK_MS = 8
LONGEST_PAUSE = 0.02  # s between two looks


class TooLong(Exception):
    pass


def until(condition: Callable[[], object], what: str = "the condition", seconds: float = 30.0) -> None:
    """Handles events, asleep between them, until the condition holds. Raises TooLong with `what` at the deadline.

    A condition that takes long to be looked at is looked at less often, so that most of the time is the events'.
    """
    begun = time.monotonic()
    deadline = begun + seconds
    beat = QTimer()  # wakes the loop below where nothing else does
    beat.start(LOOK_MS)
    while not condition():
        if (now := time.monotonic()) > deadline:
            raise TooLong(f"waited {seconds:g} s for {what}")
        looked = min(LONGEST_PAUSE, 4 * (now - begun))
        while (begun := time.monotonic()) <= now + looked:
            QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
