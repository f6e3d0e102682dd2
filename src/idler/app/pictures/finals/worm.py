"""A worm and its wheel."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter

from idler.core.machine import Axis

from ... import theme
from ..chain import HEIGHT, SHAFT, FinalPicture, pen, shaft
from ..gears import wheel


def draw(p: QPainter, width: float, axis: Axis, _picture: FinalPicture) -> None:
    shaft(p, 0, 40)
    p.setPen(pen())
    p.setBrush(theme.color("panel"))
    p.drawRect(QRectF(40, SHAFT - 9, 70, 18))
    for x in range(44, 108, 9):
        p.drawLine(QPointF(x + 5, SHAFT - 9), QPointF(x, SHAFT + 9))
    shaft(p, 110, 128)
    p.setPen(pen("ink", 1.3))
    p.setBrush(theme.color("pale_brass"))
    p.setClipRect(QRectF(0, SHAFT + 8, width, HEIGHT))
    p.drawPath(wheel(75, SHAFT + 68, 59, 44, 4))
    p.setClipping(False)
    p.setPen(pen("petrol", 1.5))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawArc(QRectF(40, SHAFT + 26, 70, 70), 45 * 16, 90 * 16)
    p.drawLine(QPointF(99, SHAFT + 37), QPointF(93, SHAFT + 35))
    p.drawLine(QPointF(99, SHAFT + 37), QPointF(98, SHAFT + 30))
    p.setPen(pen("soft"))
    p.setFont(theme.text_font(11))
    words = ("one turn of the wheel", "is 360° of the axis")
    if 146 + max(map(p.fontMetrics().horizontalAdvance, words)) <= width:  # else the drawing says it alone
        for line, text in enumerate(words):
            p.drawText(QPointF(146, SHAFT + 4 + 16 * line), text)
