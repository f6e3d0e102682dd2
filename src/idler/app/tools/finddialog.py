"""Finding anything by its word: what is typed is looked for at once, Return goes to what is chosen."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLabel, QLineEdit, QListWidget, QVBoxLayout, QWidget

from idler.core.report.finder import Entry, find

SIZE = 620, 440
_LISTED = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)


class FindDialog(QDialog):
    """chosen: the entry that the person wants to go to."""

    chosen = Signal(object)  # Entry

    def __init__(self, parent: QWidget, entries: Sequence[Entry]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find")
        self.resize(*SIZE)
        self._entries, self.found = entries, list[Entry]()
        column = QVBoxLayout(self)
        self.line = QLineEdit()
        self.line.setPlaceholderText("a value, a proof, a command, a station, an object number …")
        self.line.setAccessibleName("What is looked for")
        self.line.setMinimumHeight(40)
        self.line.textChanged.connect(self._look)
        column.addWidget(self.line)
        self.list = QListWidget()
        self.list.setAccessibleName("What was found")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemClicked.connect(lambda _: self._go())
        column.addWidget(self.list, 1)
        self.words = QLabel("Return goes there.")
        self.words.setProperty("role", "small")
        column.addWidget(self.words)

    def _look(self, typed: str) -> None:
        self.found = find(self._entries, typed)
        self.list.clear()
        for entry in self.found:
            now = f"   {entry.now}" if entry.now else ""
            self.list.addItem(f"{entry.name}{now}   · {entry.sort.value}")
        self.list.setCurrentRow(0)
        nothing = typed.strip() and not self.found
        self.words.setText("Nothing has all these words. Take fewer, or others." if nothing else "Return goes there.")

    def _go(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.found):
            entry = self.found[row]
            self.accept()
            self.chosen.emit(entry)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move in the list while the line keeps the keyboard."""
        if event.key() in _LISTED:
            step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -8, Qt.Key.Key_PageDown: 8}[
                Qt.Key(event.key())
            ]
            self.list.setCurrentRow(min(max(0, self.list.currentRow() + step), self.list.count() - 1))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._go()
        else:
            super().keyPressEvent(event)
