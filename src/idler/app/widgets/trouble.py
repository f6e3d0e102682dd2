"""A line that says what stands in the way, with the page of the help that tells more."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from idler.core.errors import Sentence

from .cards import label


class Trouble(QWidget):
    """explained: the key of the page that is asked for."""

    explained = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._words, self._page = label("", "warn", wrap=True), ""
        self.more = QPushButton("Help")
        self.more.setProperty("role", "quiet")
        self.more.setAutoDefault(False)
        self.more.clicked.connect(lambda: self.explained.emit(self._page))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self._words, 1)
        row.addWidget(self.more, 0, Qt.AlignmentFlag.AlignBottom)
        self.more.hide()

    def text(self) -> str:
        return self._words.text()

    def setText(self, words: str) -> None:
        self._page = words.page if isinstance(words, Sentence) else ""
        self._words.setText(words)
        self.more.setVisible(bool(self._page))
        self._make_room()

    def _make_room(self) -> None:
        """A dialog is as high as what it says: nothing of it is cut."""
        window = self.window()
        if (layout := window.layout()) is None or not window.isVisible():
            return
        layout.activate()
        high = layout.totalHeightForWidth(window.width())
        if high > window.height():
            window.resize(window.width(), high)
