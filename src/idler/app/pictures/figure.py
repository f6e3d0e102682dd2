"""A figure that changes with every picture of a moving axis: painted, for a label would lay its surroundings out anew."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont, QPaintEvent

from .. import theme
from .picture import Picture

_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class FigureView(Picture):
    """One line of text in the pixels of the usual size, at the right edge. token: its colour."""

    under = "rails"

    def __init__(self, token: str = "ink") -> None:
        super().__init__()
        self._words, self._token, self._font = "", token, theme.figure_font()

    def text(self) -> str:
        return self._words

    def show_text(self, words: str) -> None:
        if words != self._words:
            self._words = words
            self.setAccessibleName(words)
            self.update()

    def show_font(self, font: QFont) -> None:
        self._font = font
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        p.fillRect(self.room, theme.color(self.under))
        p.setFont(self._font)
        p.setPen(theme.color(self._token))
        p.drawText(self.room, _RIGHT, self._words)
