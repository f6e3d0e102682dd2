"""A column of things that are wished, each with its name before it, of which only some are shown at a time."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QLineEdit, QWidget

from idler.core.words import capital

from ...widgets.cards import label

WIDE = 104  # pixels of a field


class WishGrid(QWidget):
    """edits: by key. taken: the key of a field and what was typed into it."""

    taken = Signal(str, str)

    def __init__(self, names: Mapping[str, str]) -> None:
        """names: what each is called, by key, in their order."""
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(1)
        grid.setColumnStretch(0, 1)
        self.edits: dict[str, QLineEdit] = {}
        self._names: dict[str, QWidget] = {}
        for row, (key, words) in enumerate(names.items()):
            edit, name = QLineEdit(), label(words)
            edit.setFixedWidth(WIDE)
            edit.setAccessibleName(capital(words))
            edit.editingFinished.connect(partial(self._take, key))
            self.edits[key], self._names[key] = edit, name
            grid.addWidget(name, row, 0)
            grid.addWidget(edit, row, 1)

    def show_texts(self, texts: Mapping[str, str], wanted: Collection[str]) -> None:
        """What is being typed is left alone. wanted: the keys that are shown."""
        for key, edit in self.edits.items():
            self._names[key].setVisible(key in wanted)
            edit.setVisible(key in wanted)
            if not edit.isModified():
                edit.setText(texts[key])

    def _take(self, key: str) -> None:
        edit = self.edits[key]
        if edit.isModified():
            edit.setModified(False)
            self.taken.emit(key, edit.text())
