"""What starts own actions from anywhere: their keys, and the drives being powered."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QWidget

from idler.core.rules.actions import actions_of
from idler.procedures.actions.action import ActionRun
from idler.session.session import Session
from idler.session.topic import Topic

from ..bridge import follow


class ActionKeys(QObject):
    """asked: the name of an action, and the key that asks for it. A key does nothing unless the keyboard is armed."""

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self.asked: Topic[str, str] = Topic()
        self._session, self._window = session, window
        self._keys: dict[str, str] = {}  # names of actions, by their keys
        self._shortcuts: list[QShortcut] = []
        self._run = ActionRun(session)
        self._was_powered = session.powered
        follow(session.changed, self.refresh)
        follow(session.held, self._look)
        self.refresh()

    def refresh(self) -> None:
        keys = {each.key: each.name for each in actions_of(self._session.machine) if each.key}
        if keys == self._keys:
            return
        for shortcut in self._shortcuts:
            shortcut.setEnabled(False)
            shortcut.deleteLater()
        self._keys, self._shortcuts = keys, []
        for key, name in keys.items():
            shortcut = QShortcut(QKeySequence(key), self._window)
            shortcut.setAutoRepeat(False)
            shortcut.activated.connect(partial(self._pressed, name, key))
            self._shortcuts.append(shortcut)

    def _pressed(self, name: str, key: str) -> None:
        if not self._session.keys_armed:
            self._session.tell("plain", f"“{name}” was not begun: {key} does it only while the keyboard is armed.")
            return
        self.asked.publish(name, key)

    def _look(self) -> None:
        """Once each time that all drives become powered."""
        powered = self._session.powered
        before, self._was_powered = self._was_powered, powered
        by_action = isinstance(self._session.floor.owner, ActionRun)  # which does itself what is to be done then
        if powered and not before and not by_action and (why := self._run.powered()):
            self._session.tell("warn", why)
