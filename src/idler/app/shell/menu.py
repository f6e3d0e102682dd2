"""The menu of the machine, made from the table of commands; their keys follow the bindings."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QWidget

from ..tools.commands import GROUPS
from ..tools.keys import Bindings


class Menu:
    """Every command is an action of the window too, so that its keys work while the menu is closed.

    works: what each command does.
    """

    def __init__(
        self, window: QWidget, menu: QMenu, bindings: Bindings, works: Mapping[str, Callable[[], object]]
    ) -> None:
        self._bindings = bindings
        self.actions: dict[str, QAction] = {}
        for place, group in enumerate(GROUPS):
            if place == 1 or not group.title:
                menu.addSeparator()
            into = menu.addMenu(group.title) if group.title else menu
            for command in group.commands:
                action = QAction(command.words, window)
                action.triggered.connect(lambda _=False, work=works[command.name]: work())
                into.addAction(action)
                window.addAction(action)
                self.actions[command.name] = action
        bindings.changed.connect(self._give_keys)
        self._give_keys()

    def check(self, name: str, on: bool) -> None:
        """Of a command that turns something on and off."""
        self.actions[name].setCheckable(True)
        self.actions[name].setChecked(on)

    def _give_keys(self) -> None:
        for name, action in self.actions.items():
            action.setShortcuts(list(self._bindings.keys_of(name)))
