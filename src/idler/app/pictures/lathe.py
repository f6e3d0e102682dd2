"""A lathe from above: headstock and chuck at the left, the centre line, the tool on its side of it, to scale."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from idler.core.values.measures import MILLIMETRES, Measures

from .. import theme
from .scalebar import scale_bar
from .span import Span


@dataclass(frozen=True)
class LatheScene:
    """x: slide from the centre line, + away from it; z: + to the right, away from the chuck; mm. turn: the spindle in degrees.

    behind: the tool post stands behind the work, so + of X goes up in the drawing.
    """

    x: Span
    z: Span
    behind: bool
    turn: float | None = None
    known: bool = True
    reads: Measures = MILLIMETRES

    def coarse(self) -> tuple[object, ...]:
        """To a millimetre and a degree, about a pixel of the picture."""
        spans = tuple((s.low, s.high, s.soft_low, s.soft_high, round(s.at)) for s in (self.x, self.z))
        return (*spans, self.behind, None if self.turn is None else round(self.turn), self.known, self.reads)


def draw_lathe(p: QPainter, s: LatheScene, width: float, height: float) -> None:
    way = "away from you" if s.behind else "towards you"
    p.setFont(theme.text_font(12))
    p.setPen(theme.color("soft"))
    p.drawText(QPointF(12, 16), f"from above: Z + to the right, X + {way}")
    head = 0.3 * s.z.length
    k = min((width - 40) / (s.z.length + head * 1.5), (height - 56) / (2.3 * s.x.length))
    centre = height / 2 + 6
    chuck = 20 + head * k
    side = -1.0 if s.behind else 1.0

    def at(z: float, x: float) -> QPointF:
        return QPointF(chuck + (z - s.z.low) * k, centre + side * x * k)

    _bed(p, s, k, chuck, centre, width)
    for low_z, high_z, low_x, high_x, style in (
        (s.z.low, s.z.high, s.x.low, s.x.high, Qt.PenStyle.SolidLine),
        (s.z.soft_low, s.z.soft_high, s.x.soft_low, s.x.soft_high, Qt.PenStyle.DashLine),
    ):
        p.setPen(QPen(theme.color("soft"), 1, style))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(QRectF(at(low_z, low_x), at(high_z, high_x)).normalized())
    tip = at(s.z.at, s.x.at)
    p.setPen(QPen(theme.color("petrol"), 1.8))
    p.setBrush(theme.color("pale_petrol"))
    far = side * 30
    p.drawRect(QRectF(tip + QPointF(4, far), QPointF(tip.x() + 44, tip.y() + far + side * 22)).normalized())
    p.drawPolygon(QPolygonF([tip, tip + QPointF(6, far), tip + QPointF(20, far)]))
    scale_bar(p, 20, height - 12, k, 50.0, s.reads)


def _bed(p: QPainter, s: LatheScene, k: float, chuck: float, centre: float, width: float) -> None:
    """Headstock, chuck with its jaw where the spindle stands, a piece of work, the centre line."""
    body, jaws = 0.62 * s.x.length * k, 0.42 * s.x.length * k
    p.setPen(QPen(theme.color("ink"), 1.4))
    p.setBrush(theme.color("metal"))
    p.drawRoundedRect(QRectF(20, centre - body, chuck - 46, 2 * body), 3, 3)
    p.setBrush(theme.color("panel"))
    p.drawRect(QRectF(chuck - 26, centre - jaws, 26, 2 * jaws))
    if s.turn is not None:
        y = centre + jaws * 0.8 * math.sin(math.radians(s.turn))
        p.setPen(QPen(theme.color("petrol"), 4))
        p.drawLine(QPointF(chuck - 26, y), QPointF(chuck, y))
        p.setPen(QPen(theme.color("ink"), 1.4))
    p.setBrush(theme.color("pale_brass"))
    work = 0.22 * s.x.length * k
    p.drawRect(QRectF(chuck, centre - work, 0.4 * s.z.length * k, 2 * work))
    p.setPen(QPen(theme.color("soft"), 1, Qt.PenStyle.DashDotLine))
    p.drawLine(QPointF(14, centre), QPointF(width - 14, centre))
