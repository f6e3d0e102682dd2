"""A figure before it runs: its lines, its size, and the work zero that it is counted from."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from idler.core.errors import Refusal
from idler.core.trial.figures import Figure, outline

from .. import theme
from .picture import ScenePicture

EDGE = 46.0  # pixels round the drawing, for its figures


class FigureSketch(ScenePicture[Figure]):
    least = 160

    def paint(self, p: QPainter, scene: Figure) -> None:
        try:
            lines = outline(scene)
        except Refusal:
            return
        (x, y), (wide, high) = scene.at, scene.size
        left, low = min(x, 0.0), min(y, 0.0)
        right, top = max(x + wide, 0.0), max(y + high, 0.0)
        room = self.room.adjusted(EDGE, EDGE, -EDGE, -EDGE)
        scale = min(room.width() / max(right - left, 1e-9), room.height() / max(top - low, 1e-9))
        base = QPointF(room.center().x() - scale * (left + right) / 2, room.center().y() + scale * (low + top) / 2)

        def at(u: float, v: float) -> QPointF:
            return QPointF(base.x() + u * scale, base.y() - v * scale)

        box = QRectF(at(x, y + high), at(x + wide, y))
        p.setPen(QPen(theme.color("line"), 1, Qt.PenStyle.DashLine))
        p.drawRect(box)
        p.setPen(
            QPen(theme.color("petrol"), 2.4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
        )
        for line in lines:
            p.drawPolyline([at(u, v) for u, v in line])
        p.setBrush(theme.color("petrol"))
        p.drawEllipse(at(*lines[0][0]), 4, 4)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.color("brass"), 2.4))
        for way in (QPointF(6, 6), QPointF(6, -6)):
            p.drawLine(at(0, 0) - way, at(0, 0) + way)
        p.setFont(theme.text_font(12))
        p.setPen(theme.color("soft"))
        p.drawText(
            QRectF(box.left(), box.bottom() + 10, max(box.width(), 200.0), 18), Qt.AlignmentFlag.AlignLeft,
            f"{wide:g} mm along X, {high:g} mm along Y; × is the work zero",
        )  # fmt: skip
