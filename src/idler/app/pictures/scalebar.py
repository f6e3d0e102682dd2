"""A bar of known length beside a drawing to scale."""

from __future__ import annotations

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPen

from idler.core.values.measures import Measures

from .. import theme

PARTS = 10


def scale_bar(p: QPainter, left: float, y: float, k: float, size: float, reads: Measures) -> None:
    """k: pixels for one mm. size: about how long the bar is, in mm; it is round on the screen."""
    one = 1 / reads.scale  # mm
    count = max(1.0, round(size / one))
    long = count * one * k
    p.setPen(QPen(theme.color("soft"), 1))
    p.drawLine(QPointF(left, y), QPointF(left + long, y))
    for part in range(PARTS + 1):
        x = left + long * part / PARTS
        p.drawLine(QPointF(x, y), QPointF(x, y - (5 if part % (PARTS // 2) else 8)))
    p.setFont(theme.text_font(11))
    p.drawText(QPointF(left + long + 6, y + 3), f"{count:g} {reads.symbol}")
