"""Esc stops from anywhere: any window or dialog of the application, whatever has the focus."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent, QWindow


class StopKey(QObject):
    """A filter on whichever window of the desktop has the keyboard: a key comes to it before it comes to any widget.

    The key goes on, so a dialog closes as well. It acts on both events of a press, for either may be swallowed; a second STOP
    changes nothing. A filter on the application would see every event of every widget, hundreds for one picture.
    """

    def __init__(self, stop: Callable[[], None], app: QGuiApplication) -> None:
        super().__init__()
        self._stop = stop
        app.focusWindowChanged.connect(self._watch)
        self._watch(app.focusWindow())

    def _watch(self, window: QWindow | None) -> None:
        if window is not None:
            window.installEventFilter(self)  # one that is there already is moved to the front

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() != QEvent.Type.KeyRelease and event.key() == Qt.Key.Key_Escape:
            self._stop()
        return False
