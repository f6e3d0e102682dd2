"""What is held on the terminals with a finger: confirmed while it is down, ended when it lifts or the focus goes."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QApplication

from idler.link.events import Asked

from ..desk import Desk

CONFIRM_MS = 60


class Holder(QObject):
    """One for each station that holds something."""

    changed = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.asked = Asked()
        self._timer = QTimer(self)
        self._timer.setInterval(CONFIRM_MS)
        self._timer.timeout.connect(desk.link.keep_holding)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusWindowChanged.connect(lambda _: self.let_go())
        desk.stopped.connect(lambda _: self.let_go())
        desk.halted.connect(self.let_go)
        desk.held.connect(self._look)

    def hold(self, asked: Asked) -> None:
        self.asked = asked
        self._desk.hold_terminals(asked)
        self._timer.start()
        self.changed.emit()

    def let_go(self) -> None:
        if self.asked != Asked():
            self.asked = Asked()
            self._timer.stop()
            self._desk.hold_terminals(self.asked)
            self.changed.emit()

    def _look(self) -> None:
        if not self._desk.connected:
            self.let_go()
