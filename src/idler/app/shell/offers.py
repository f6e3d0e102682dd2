"""Something that the person should decide, over the stage until it is decided: what is so, and a button for each way."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from idler.session.offers import Offer


class OfferStrip(QFrame):
    """Shows the first of the offers that are open; where several are, the next one follows."""

    laid = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("incident")
        self.setProperty("kind", "warn")
        self._open: dict[str, Offer] = {}
        self._words = QLabel()
        self._words.setWordWrap(True)
        self._row = QHBoxLayout()
        self._row.setSpacing(8)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 8, 10, 10)
        column.setSpacing(6)
        column.addWidget(self._words)
        column.addLayout(self._row)
        self.buttons: list[QPushButton] = []
        self.hide()

    @property
    def words(self) -> str:
        return self._words.text() if self._open else ""

    def make(self, offer: Offer) -> None:
        self._open[offer.key] = offer
        self._show()

    def withdraw(self, key: str) -> None:
        if self._open.pop(key, None) is not None:
            self._show()

    def _show(self) -> None:
        for button in self.buttons:
            button.deleteLater()
        self.buttons = []
        while self._row.takeAt(0) is not None:
            pass
        self.setVisible(bool(self._open))
        if self._open:
            offer = next(iter(self._open.values()))
            self._words.setText(offer.words)
            for place, (words, work) in enumerate(offer.ways):
                button = QPushButton(words)
                if not place:
                    button.setProperty("role", "main")
                button.clicked.connect(lambda _=False, work=work: work())
                self._row.addWidget(button)
                self.buttons.append(button)
            self._row.addStretch(1)
            self.raise_()
        self.laid.emit()
