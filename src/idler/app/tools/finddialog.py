"""Finding anything by its word: what is typed is looked for at once, Return goes to what is chosen."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QDialog, QLabel, QListWidget, QVBoxLayout, QWidget

from idler.core.report.finder import Entry, find

from ..widgets.searchline import SearchLine

SIZE = 620, 440


class FindDialog(QDialog):
    """chosen: the entry that the person wants to go to."""

    chosen = Signal(object)  # Entry

    def __init__(self, parent: QWidget, entries: Sequence[Entry]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find")
        self.resize(*SIZE)
        self._entries, self.found = entries, list[Entry]()
        column = QVBoxLayout(self)
        self.list = QListWidget()
        self.line = SearchLine(self.list, "a value, a proof, a command, a station, an object number …")
        self.line.textChanged.connect(self._look)
        self.line.taken.connect(self._go)
        column.addWidget(self.line)
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
