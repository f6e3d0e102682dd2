"""The wiring diagram on the screen: the shapes of the core, painted."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent

from idler.core.wiring.diagram import WIDTH, Box, Diagram, Ring, Stroke, Words

from .. import growth, theme
from .picture import Picture


class DiagramPicture(Picture):
    """As wide as it is given room for; its height follows."""

    def __init__(self) -> None:
        super().__init__()
        self._diagram = Diagram(100, ())

    def show_diagram(self, diagram: Diagram) -> None:
        self._diagram = diagram
        self._follow()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._follow()

    def _follow(self) -> None:
        """As high as its width asks for, so that a scroll area shows the whole."""
        self.setMinimumHeight(self.heightForWidth(max(self.width(), growth.px(700))))

    def sizeHint(self) -> QSize:
        return QSize(int(WIDTH), int(self._diagram.height))

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return math.ceil(self._diagram.height * width / WIDTH)

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        scale = self.wide / WIDTH
        p.scale(scale, scale)
        for shape in self._diagram.shapes:
            match shape:
                case Stroke(points, width, dashed):
                    p.setPen(QPen(theme.color("ink"), width, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine))
                    p.setBrush(Qt.BrushStyle.NoBrush)
                    p.drawPolyline(QPolygonF([QPointF(*point) for point in points]))
                case Box(x, y, width, height, filled):
                    p.setPen(QPen(theme.color("ink"), 1.4))
                    p.setBrush(theme.color("ink") if filled else theme.color("panel"))
                    p.drawRect(QRectF(x, y, width, height))
                case Ring(x, y, radius, filled):
                    p.setPen(QPen(theme.color("ink"), 1.4))
                    p.setBrush(theme.color("ink") if filled else theme.color("panel"))
                    p.drawEllipse(QPointF(x, y), radius, radius)
                case Words():
                    self._words(p, shape)

    def _words(self, p: QPainter, words: Words) -> None:
        font = theme.text_font(11 if words.small else 14, bold=words.bold)
        p.setFont(font)
        p.setPen(theme.color("soft" if words.small else "ink"))
        wide = QFontMetricsF(font).horizontalAdvance(words.text)
        squeezed = min(1.0, words.fit / wide) if wide else 1.0
        start = {"start": 0.0, "middle": wide / 2, "end": wide}[words.anchor]
        p.save()
        p.translate(words.x, words.y)
        p.scale(squeezed, 1.0)
        p.drawText(QPointF(-start, 0), words.text)
        p.restore()
