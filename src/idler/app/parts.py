"""Small pieces that several views are built from: cards, labels, and the picker of an axis."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from . import theme


def card(margins: tuple[int, int, int, int] = (14, 8, 14, 10), spacing: int = 6) -> tuple[QFrame, QVBoxLayout]:
    """A card and the column inside it."""
    frame = QFrame()
    frame.setProperty("role", "card")
    column = QVBoxLayout(frame)
    column.setContentsMargins(*margins)
    column.setSpacing(spacing)
    return frame, column


def label(words: str, role: str = "", *, wrap: bool = False) -> QLabel:
    """A label in one of the roles of the style sheet: title, heading, soft, small, tiny, warn."""
    made = QLabel(words)
    made.setProperty("role", role)
    made.setWordWrap(wrap)
    return made


def figures(words: str = "—", pixels: int = 13) -> QLabel:
    """A label for figures, which align on the decimal point."""
    made = QLabel(words)
    made.setFont(theme.figure_font(pixels))
    return made


class AxisPicker(QWidget):
    """A row of buttons, one for each axis; exactly one is chosen."""

    chosen = Signal(int)

    def __init__(self, names: Sequence[str]) -> None:
        super().__init__()
        self._group = QButtonGroup(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        for slot, name in enumerate(names):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setFixedSize(48, 34)
            button.setAccessibleName(f"Axis {name}")
            self._group.addButton(button, slot)
            row.addWidget(button)
        self._group.idClicked.connect(self.chosen)
        self.choose(0)

    @property
    def count(self) -> int:
        return len(self._group.buttons())

    def choose(self, slot: int) -> None:
        """Shows an axis as chosen; `chosen` is not sent."""
        self._group.button(slot).setChecked(True)
