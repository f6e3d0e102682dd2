"""A long belt over two pulleys."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath

from idler.core.machine import Axis

from ... import theme
from ..chain import SHAFT, FinalPicture, pen, shaft
from ..gears import wheel


def draw(p: QPainter, width: float, _axis: Axis, picture: FinalPicture) -> None:
    shaft(p, 0, 30)
    radius, far = 20.0, width - 40
    p.setPen(pen("ink", 2.2))
    p.setBrush(Qt.BrushStyle.NoBrush)
    path = QPainterPath()
    path.addRoundedRect(QRectF(46 - radius - 3, SHAFT - radius - 3, far - 46 + 2 * radius + 6, 2 * radius + 6), 23, 23)
    p.drawPath(path)
    p.setPen(pen("ink", 1.3))
    for x, ground in ((46.0, "pale_brass"), (far, "panel")):
        p.setBrush(theme.color(ground))
        p.drawPath(wheel(x, SHAFT, radius, 16, 3))
        p.setBrush(theme.color("metal"))
        p.drawEllipse(QPointF(x, SHAFT), 4, 4)
    picture.load(p, (46 + far) / 2, SHAFT - radius - 12, 100)
    picture.arrow(p, (46 + far) / 2, SHAFT + 6)
