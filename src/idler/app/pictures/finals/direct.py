"""A bare shaft with what it turns."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter

from idler.core.machine import Axis

from ... import theme
from ..chain import SHAFT, FinalPicture, pen, shaft


def draw(p: QPainter, width: float, _axis: Axis, _picture: FinalPicture) -> None:
    shaft(p, 0, width * 0.5)
    p.setPen(pen())
    p.setBrush(theme.color("pale_brass"))
    p.drawRoundedRect(QRectF(width * 0.5, SHAFT - 34, 18, 68), 3, 3)
    p.setFont(theme.text_font(11))
    p.setPen(pen("soft"))
    p.drawText(QPointF(width * 0.5 + 28, SHAFT + 4), "on the shaft")
