"""A rack and its pinion."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter

from idler.core.machine import Axis

from ... import theme
from ..chain import SHAFT, FinalPicture, pen, shaft
from ..gears import rack, wheel


def draw(p: QPainter, width: float, _axis: Axis, picture: FinalPicture) -> None:
    shaft(p, 0, 60)
    p.setPen(pen("ink", 1.3))
    p.setBrush(theme.color("pale_brass"))
    radius = 24
    p.drawPath(wheel(72, SHAFT, radius, 16, 4))
    p.setBrush(theme.color("metal"))
    p.drawEllipse(QPointF(72, SHAFT), 4, 4)
    p.setBrush(Qt.BrushStyle.NoBrush)
    for piece in rack(10, width - 10, SHAFT + radius - 1, 9.4, 4):
        p.drawPath(piece)
    p.drawLine(QPointF(10, SHAFT + radius + 14), QPointF(width - 10, SHAFT + radius + 14))
    picture.load(p, width * 0.66, SHAFT + radius - 20, 100)
    picture.arrow(p, width * 0.66, SHAFT - 10)
