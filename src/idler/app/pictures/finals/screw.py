"""A screw and its nut."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter

from idler.core.machine import Axis

from ... import theme
from ..chain import SHAFT, FinalPicture, pen, shaft


def draw(p: QPainter, width: float, axis: Axis, picture: FinalPicture) -> None:
    end = width - 10
    shaft(p, 0, 22)
    p.setPen(pen())
    p.setBrush(theme.color("panel"))
    p.drawRect(QRectF(22, SHAFT - 9, end - 22, 18))
    pitch = min(26.0, max(5.0, float(axis.number("chain.pitch")) * 2.4))
    lead = pitch * axis.whole("chain.starts")
    p.save()
    p.setClipRect(QRectF(22, SHAFT - 9, end - 22, 18))
    x = 22 - lead
    while x < end:
        p.drawLine(QPointF(x + lead / 2, SHAFT - 9), QPointF(x, SHAFT + 9))
        x += pitch
    p.restore()
    nut = 22 + (end - 22) * 0.55
    p.setBrush(theme.color("pale_brass"))
    p.drawRoundedRect(QRectF(nut - 24, SHAFT - 18, 48, 36), 3, 3)
    picture.load(p, nut, SHAFT - 36, 116)
    picture.arrow(p, nut, SHAFT + 32)
