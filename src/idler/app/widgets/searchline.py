"""A line in which something is looked for: arrows move in the list of what was found while the line keeps the keyboard."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QListWidget

_STEPS = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -8, Qt.Key.Key_PageDown: 8}


class SearchLine(QLineEdit):
    """taken: Return was pressed, or a line of the list clicked."""

    taken = Signal()

    def __init__(self, found: QListWidget, hint: str) -> None:
        super().__init__()
        self._list = found
        self.setPlaceholderText(hint)
        self.setAccessibleName("What is looked for")
        self.setMinimumHeight(40)
        found.setAccessibleName("What was found")
        found.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        found.itemClicked.connect(lambda _: self.taken.emit())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in _STEPS:
            row = self._list.currentRow() + _STEPS[Qt.Key(event.key())]
            self._list.setCurrentRow(min(max(0, row), self._list.count() - 1))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit()
        else:
            super().keyPressEvent(event)
