"""A sheet under a pen in the tool holder: what the machine truly draws on it."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QTimer
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from .. import theme
from ..pictures.curves import draw_curve
from ..pictures.picture import ScenePicture
from ..widgets.cards import label, tall
from .hands import BenchHands

LOOKS_MS = 400
HIGH = 170  # pixels of the sheet
EDGE = 14.0  # pixels round what is drawn
LEAST = 10.0  # mm that the sheet shows at least

Lines = tuple[tuple[tuple[float, float], ...], ...]


class SheetPicture(ScenePicture[Lines]):
    """Lines over the bed, mm; + of X to the right, + of Y up, as it lies before a person."""

    least = HIGH
    nothing = "an empty sheet"

    def words(self, scene: Lines) -> str:
        return f"A sheet with {len(scene)} lines on it"

    def paint(self, p: QPainter, scene: Lines) -> None:
        p.fillRect(self.room, theme.color("panel"))
        p.setPen(QPen(theme.color("line"), 1))
        p.drawRect(self.room.adjusted(0.5, 0.5, -0.5, -0.5))
        ends = [place for line in scene for place in line]
        if not ends:
            return
        low = [min(place[axis] for place in ends) for axis in (0, 1)]
        high = [max(place[axis] for place in ends) for axis in (0, 1)]
        room = self.room.adjusted(EDGE, EDGE, -EDGE, -EDGE)
        scale = min(room.width() / max(high[0] - low[0], LEAST), room.height() / max(high[1] - low[1], LEAST))
        middle = (low[0] + high[0]) / 2, (low[1] + high[1]) / 2
        p.setPen(QPen(theme.color("ink"), 1.6))
        for line in scene:
            places = [
                QPointF(room.center().x() + (x - middle[0]) * scale, room.center().y() - (y - middle[1]) * scale)
                for x, y in line
            ]
            draw_curve(p, places)


class PaperRow(QWidget):
    """lay: puts a clean sheet under the pen; it touches where the tool stands then."""

    def __init__(self, hands: BenchHands) -> None:
        super().__init__()
        self._hands, self._laid = hands, False
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.addWidget(label("Pen and sheet", "heading"))
        row.addStretch(1)
        self.lay = QPushButton("Lay a sheet")
        self.lay.setToolTip("A pen in the tool holder: it touches the sheet where the tool stands now.")
        self.lay.clicked.connect(self._lay)
        tall(self.lay)
        row.addWidget(self.lay)
        column.addLayout(row)
        self.picture = SheetPicture()
        self.picture.hide()
        column.addWidget(self.picture)
        self._timer = QTimer(self)
        self._timer.setInterval(LOOKS_MS)
        self._timer.timeout.connect(self._look)

    def _lay(self) -> None:
        self._hands.ask(self._was_laid, do="paper")

    def _was_laid(self, reply: dict[str, Any]) -> None:
        self._laid = bool(reply["ok"])
        self.picture.setVisible(self._laid)
        self.lay.setText("Lay a clean sheet" if self._laid else "Lay a sheet")
        self.picture.show_scene(())
        if self._laid:
            self._timer.start()

    def _look(self) -> None:
        if self.isVisible() and self._hands.waiting < 2:
            self._hands.ask(self._seen, do="drawn")

    def _seen(self, reply: dict[str, Any]) -> None:
        if reply["ok"]:
            self.picture.show_scene(tuple(tuple((x, y) for x, y in line) for line in reply["lines"]))
