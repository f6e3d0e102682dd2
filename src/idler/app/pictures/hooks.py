"""The eight ways in which a sheet may show the hook, each as small as a button."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QIcon, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QGridLayout, QPushButton, QSizePolicy, QWidget

from idler.core.trial.figures import HOOK
from idler.core.trial.symmetry import WAYS, Seen

from .. import growth, theme

SIZE = 44  # pixels
ACROSS = 4


def hook_icon(seen: Seen) -> QIcon:
    """As a sheet shows it, + of the first axis to the right and + of the second one up."""
    side = growth.px(SIZE)
    made = QPixmap(side, side)
    made.fill(Qt.GlobalColor.transparent)
    p = QPainter(made)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.scale(growth.factor(), growth.factor())
    p.setPen(QPen(theme.color("ink"), 2.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    places = [seen.of((u - 0.5) * 1.3, v - 0.5) for u, v in HOOK]
    p.drawPolyline([QPointF(SIZE / 2 + 26 * u, SIZE / 2 - 26 * v) for u, v in places])
    p.setBrush(theme.color("ink"))
    u, v = places[0]
    p.drawEllipse(QPointF(SIZE / 2 + 26 * u, SIZE / 2 - 26 * v), 2.6, 2.6)
    p.end()
    return QIcon(made)


class HookChoice(QWidget):
    """buttons: by the key of each way."""

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        self.buttons: dict[str, QPushButton] = {}
        for number, seen in enumerate(WAYS):
            button = QPushButton()
            button.setFixedSize(SIZE + 16, SIZE + 12)
            self.buttons[seen.key] = button
            grid.addWidget(button, number // ACROSS, number % ACROSS)
        self.other = QPushButton("None of these")
        self.other.setProperty("tall", True)
        self.other.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        grid.setColumnStretch(ACROSS + 1, 1)
        grid.addWidget(self.other, 0, ACROSS, 2, 1)
        self.buttons["other"] = self.other

    def show_words(self, words: dict[str, str]) -> None:
        """What each of them means, for whoever points at it or cannot see it."""
        for seen in WAYS:
            button = self.buttons[seen.key]
            button.setIcon(hook_icon(seen))
            button.setIconSize(button.size() * 0.8)
            button.setToolTip(words.get(seen.key, ""))
            button.setAccessibleName(words.get(seen.key, seen.key))
