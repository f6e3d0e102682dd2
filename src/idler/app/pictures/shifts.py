"""Where each switch was found again: the shift of every axis against what would be lost steps."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from idler.core.geometry.kept import Kept
from idler.core.values.measures import Measures

from .. import theme
from .picture import ScenePicture

LEFT, RIGHT, TALLEST = 52.0, 226.0, 64.0
TWO_LINES = 38.0  # pixels of a row that has room for two
SEEN = 1.6  # times what is allowed: how far the picture reaches; what is further off stands at its edge


@dataclass(frozen=True)
class ShiftScene:
    """names: of the axes that are tried. found: what their switches said, in the same order. done, moves: how far it is."""

    names: tuple[str, ...]
    found: tuple[Kept, ...]
    reads: tuple[Measures, ...]
    done: int
    moves: int


class ShiftPicture(ScenePicture[ShiftScene]):
    nothing = "Once pace and ends of an axis are proven, its switch is touched before and after."

    def words(self, scene: ShiftScene) -> str:
        said = ", ".join(
            f"{each.name} {reads.length(each.shift, 3)}" for each, reads in zip(scene.found, scene.reads, strict=False)
        )
        return f"Where the switches were found again: {said or 'not tried yet'}"

    def paint(self, p: QPainter, scene: ShiftScene) -> None:
        high = min(TALLEST, (self.high - 46) / len(scene.names))
        top = (self.high - 30 - high * len(scene.names)) / 2
        box = QRectF(LEFT, top, self.wide - LEFT - RIGHT, high * len(scene.names))
        half = box.width() / 2
        for number, name in enumerate(scene.names):
            y = box.top() + high * (number + 0.5)
            band = QRectF(box.center().x() - half / SEEN, y - 0.3 * high, 2 * half / SEEN, 0.6 * high)
            p.fillRect(QRectF(box.left(), band.top(), box.width(), band.height()), theme.color("paper"))
            p.fillRect(band, theme.color("pale_petrol"))
            p.setPen(QPen(theme.color("line"), 1))
            p.drawLine(QLineF(box.center().x(), band.top(), box.center().x(), band.bottom()))
            p.setFont(theme.figure_font(16, bold=True))
            p.setPen(theme.color("ink"))
            p.drawText(
                QRectF(0, y - 12, LEFT - 14, 24), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, name
            )
            if number < len(scene.found):
                self._mark(p, scene.found[number], scene.reads[number], QPointF(box.center().x(), y), box, high)
        p.setFont(theme.text_font(12))
        p.setPen(theme.color("soft"))
        words = "where the switch was found again; beyond the band steps were lost"
        if scene.done and not scene.found:
            words = f"{scene.done} of {scene.moves} moves are made"
        p.drawText(QPointF(LEFT, box.bottom() + 20), words)

    def _mark(self, p: QPainter, each: Kept, reads: Measures, middle: QPointF, box: QRectF, high: float) -> None:
        share = max(-1.0, min(1.0, each.shift / (SEEN * each.allowed)))
        at = middle + QPointF(share * box.width() / 2, 0)
        color = theme.color("petrol" if each.held else "vermilion")
        p.setPen(QPen(color, 1.5))
        p.setBrush(color)
        if each.held:
            p.drawEllipse(at, 6, 6)
        else:  # another shape, and not only another colour
            p.drawPolygon(QPolygonF([at + QPointF(*d) for d in ((0, -9), (8, 6), (-8, 6))]))
        x, words = box.right() + 14, f"{'+' * (each.shift > 0)}{reads.length(each.shift, 3)}"
        two = high >= TWO_LINES
        p.setFont(theme.figure_font(15 if two else 13, bold=True))
        p.setPen(theme.color("ink"))
        p.drawText(QPointF(x, middle.y() - 2 if two else middle.y() + 5), words)
        wide = p.fontMetrics().horizontalAdvance(words)
        p.setFont(theme.figure_font(12))
        p.setPen(theme.color("soft"))
        counts = f"{round(each.counts) + 0:+d} counts"
        if two:
            p.drawText(QPointF(x, middle.y() + 14), f"{counts}, {reads.length(each.allowed, 3)} allowed")
        else:
            p.drawText(QPointF(x + wide + 10, middle.y() + 5), counts)
