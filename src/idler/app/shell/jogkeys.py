"""The keys that jog, while they are armed and the window has the keyboard."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QApplication,
    QWidget,
)

from idler.procedures.jogging.jog import Jog
from idler.session.session import Session

from ..bridge import follow
from ..tools.keys import Bindings

_APPEARS = (QEvent.Type.Show, QEvent.Type.WindowActivate)
_ASIDE = (Qt.WindowType.Popup, Qt.WindowType.Dialog, Qt.WindowType.Tool)


class JogKeys(QObject):
    """The armed keyboard: the keys that are bound, wherever the focus is, in the main window only. Shift goes fast.

    A held key is let go by its release, whatever else is pressed and whichever window gets it; and by anything that could take
    that release away: a menu, a list, a dialog.
    """

    def __init__(self, session: Session, jog: Jog, bindings: Bindings, window: QWidget) -> None:
        super().__init__(window)
        self._session, self._jog, self._bindings, self._window = session, jog, bindings, window
        self._held: int | None = None
        follow(jog.changed, self._follow)

    def _follow(self) -> None:
        self.listen(self._jog.armed)

    def listen(self, on: bool) -> None:
        """Only while the keyboard is armed does it see the events of the application: there are many."""
        app = QApplication.instance()
        assert app is not None
        app.removeEventFilter(self)
        if on:
            app.installEventFilter(self)
        else:
            self._held = None

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not self._jog.armed:
            return False
        if event.type() in _APPEARS and isinstance(watched, QWidget) and watched.isWindow():
            if watched is not self._window and watched.windowType() in _ASIDE:
                self._jog.arm(False)
            return False
        if not isinstance(event, QKeyEvent) or event.isAutoRepeat():
            return self._is_ours(watched, event) if isinstance(event, QKeyEvent) else False
        if event.type() == QEvent.Type.KeyRelease and event.key() == self._held:
            self._held = None
            self._jog.let_go()
            return True
        if not self._is_ours(watched, event):
            return False
        event.accept()
        if event.type() == QEvent.Type.KeyPress:
            bound = self._bindings.way_of(Qt.Key(event.key()))
            assert bound is not None
            fast = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._held = event.key()
            self._jog.press(self._session.machine.names.index(bound[0]), bound[1], fast=fast)
        return True

    def _is_ours(self, watched: QObject, event: QKeyEvent) -> bool:
        """Whether it is a key that jogs, in the main window, with nothing but Shift."""
        if not isinstance(watched, QWidget) or watched.window() is not self._window:
            return False
        bound = self._bindings.way_of(Qt.Key(event.key()))
        others = event.modifiers() & ~(Qt.KeyboardModifier.KeypadModifier | Qt.KeyboardModifier.ShiftModifier)
        return bound is not None and bound[0] in self._session.machine.names and not others
