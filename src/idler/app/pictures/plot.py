"""A plain plot: a box with scales, and the mapping from values to pixels."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil, floor

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from .. import theme
from .labels import on_plate
from .pacemap import nice_step


class Plot:
    """x from low to high across, y upwards; units are the caller's."""

    def __init__(self, box: QRectF, x: tuple[float, float], y: tuple[float, float]) -> None:
        self.box, self.x, self.y = box, x, y

    def at(self, x: float, y: float) -> QPointF:
        left, right = self.x
        low, high = self.y
        return QPointF(
            self.box.left() + (x - left) / (right - left) * self.box.width(),
            self.box.bottom() - (y - low) / (high - low) * self.box.height(),
        )

    def ground(self, p: QPainter) -> None:
        p.fillRect(self.box, theme.color("paper"))
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(self.box)

    def scales(self, p: QPainter, across: str, up: str, parts: tuple[int, int] = (5, 4)) -> None:
        """Figures along both sides, with the unit at the end of each; hairlines across."""
        p.setFont(theme.text_font(11))
        box = self.box
        left, right = self.x
        step = nice_step(right - left, parts[0])
        for k in range(ceil(left / step - 1e-6), floor(right / step + 1e-6) + 1):
            words = _short(k * step)
            furthest = (
                p.device().width() / p.transform().m11() - p.fontMetrics().horizontalAdvance(words) / 2 - 1
            )  # seen to its end
            middle = min(self.at(k * step, self.y[0]).x(), furthest)
            p.setPen(theme.color("soft"))
            p.drawText(QRectF(middle - 34, box.bottom() + 3, 68, 14), Qt.AlignmentFlag.AlignHCenter, words)
        low, high = self.y
        step = nice_step(high - low, parts[1])
        for k in range(ceil(low / step - 1e-6), floor(high / step + 1e-6) + 1):
            y = self.at(left, k * step).y()
            p.setPen(QPen(theme.color("line"), 1))
            p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            p.setPen(theme.color("soft"))
            p.drawText(
                QRectF(box.left() - 58, y - 8, 53, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, _short(k * step),
            )  # fmt: skip
        ends = ((QRectF(box.left(), box.bottom() - 16, box.width() - 5, 14), Qt.AlignmentFlag.AlignRight, across),
                (QRectF(box.left() + 5, box.top() + 2, 320, 14), Qt.AlignmentFlag.AlignLeft, up))  # fmt: skip
        for place, side, words in ends:
            on_plate(p, place, words, side, "paper")

    def line(self, p: QPainter, points: Sequence[tuple[float, float]], pen: QPen) -> None:
        p.setPen(pen)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPolyline(QPolygonF([self.at(*point) for point in points]))

    def band(self, p: QPainter, low: float, high: float, name: str) -> None:
        """A stretch of x, over the whole height."""
        p.fillRect(QRectF(self.at(low, self.y[1]), self.at(high, self.y[0])), theme.color(name))


def _short(value: float) -> str:
    return f"{value:,.6g}".replace(",", "\u202f").replace("-", "−")
