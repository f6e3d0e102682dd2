"""Waiting for something in a running application without blocking it; for the tour and for tests."""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import QEventLoop
from PySide6.QtWidgets import QApplication


class TooLong(Exception):
    pass


def until(condition: Callable[[], object], what: str = "the condition", seconds: float = 30.0) -> None:
    """Handles events until the condition holds. Raises TooLong with `what` at the deadline."""
    deadline = time.monotonic() + seconds
    while not condition():
        if time.monotonic() > deadline:
            raise TooLong(f"waited {seconds:g} s for {what}")
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 10)
