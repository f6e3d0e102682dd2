"""Esc stops from anywhere: any window or dialog of the application, whatever has the focus."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent


class StopKey(QObject):
    """An event filter for the application. The key goes on to its window, so a dialog closes as well.

    It acts on both events of a press, for either may be swallowed; a second STOP changes nothing.
    """

    def __init__(self, stop: Callable[[], None]) -> None:
        super().__init__()
        self._stop = stop

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() != QEvent.Type.KeyRelease and event.key() == Qt.Key.Key_Escape:
            self._stop()
        return False
