"""The notice: a sentence at the foot of the margin about what was just done, refused or stopped, with its way out."""

from __future__ import annotations

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QVBoxLayout

from idler.core.errors import Sentence

from ..widgets.fields import restyle

PLAIN_STAYS_MS = 6000


class Notice(QFrame):
    """A plain notice goes by itself; a warning or fault stays until the next or until it is closed. asked: for the page of the
    help that tells more, by its key; an empty one where that is the page of what is on the stage."""

    asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        self._page = ""
        self._words = QLabel()
        self._words.setWordWrap(True)
        self._words.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        close = QPushButton("Close")
        close.setProperty("role", "quiet")
        close.clicked.connect(self.hide)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 7, 6, 3)
        column.setSpacing(0)
        column.addWidget(self._words)
        more = QPushButton("Help")
        more.setProperty("role", "quiet")
        more.clicked.connect(lambda: self.asked.emit(self._page))
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(more)
        row.addWidget(close)
        column.addLayout(row)
        self._buttons = more, close
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    @property
    def words(self) -> str:
        return self._words.text() if self.isVisible() else ""

    def tell(self, kind: str, words: str) -> None:
        """kind: "plain", "found", "warn" or "fault". A plain notice does not push a fault away; "found" ends it."""
        if kind == "plain" and self.isVisible() and self.property("kind") == "fault":
            return
        kind = "plain" if kind == "found" else kind
        self._page = words.page if isinstance(words, Sentence) else ""
        self._words.setText(words)
        self.setAccessibleName(words)
        self.setProperty("kind", kind)
        for widget in (self, self._words, *self._buttons):
            restyle(widget)
        self.show()
        if kind == "plain":
            self._timer.start(PLAIN_STAYS_MS)
        else:
            self._timer.stop()
