"""A button that moves the machine or gives it power: no key presses it unless the keyboard is armed."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QPushButton

from idler.session.session import Session

_PRESSES = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Select)


class MachineButton(QPushButton):
    """always: whether a key may press it all the same, for what only takes power away or ends something."""

    def __init__(self, session: Session, words: str = "", always: Callable[[], bool] = lambda: False) -> None:
        super().__init__(words)
        self._keys_of, self._always = session, always

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in _PRESSES and not (self._keys_of.keys_armed or self._always()):
            if not event.isAutoRepeat():
                self._keys_of.tell(
                    "plain", "Nothing was moved: Space and Return move the machine only while the keyboard is armed."
                )
            return
        super().keyPressEvent(event)


class HoldButton(MachineButton):
    """One that does its work for as long as it is held, by the mouse or by Space; it lets go where it loses the keyboard.
    Return, which cannot be held, does nothing."""

    def __init__(self, session: Session, words: str, held: Callable[[], object], let_go: Callable[[], object]) -> None:
        super().__init__(session, words)
        self.setProperty("role", "hold")
        self.pressed.connect(held)
        self.released.connect(let_go)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.ignore()
            return
        super().keyPressEvent(event)
