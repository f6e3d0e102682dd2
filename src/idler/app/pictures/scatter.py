"""The scatter of a home: one dot for each touch, the band of twice the standard deviation behind them; a ring for the touch
before which the axis turned round again and again."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from idler.core.homing.repeat import Scatter
from idler.core.values.measures import Measures

from .. import theme
from .picture import Picture


class ScatterPicture(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(64)
        self._scatter: Scatter | None = None
        self._reads = Measures()

    def show_scatter(self, scatter: Scatter | None, reads: Measures) -> None:
        self._scatter, self._reads = scatter, reads
        self.setVisible(scatter is not None)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._scatter is None:
            return
        p = self.painter()
        s = self._scatter
        box = QRectF(2, 2, self.wide - 4, 42)
        touches = s.deviations if s.turned is None else (*s.deviations, s.turned)
        reach = max(max(abs(d - s.mean) for d in touches), 2 * s.standard, 1e-4) * 1.2

        def x(deviation: float) -> float:
            return box.center().x() + (deviation - s.mean) / reach * box.width() / 2

        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(theme.color("paper"))
        p.drawRect(box)
        band = QRectF(QPointF(x(s.mean - 2 * s.standard), box.top()), QPointF(x(s.mean + 2 * s.standard), box.bottom()))
        p.fillRect(band.intersected(box), theme.color("pale_petrol"))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("petrol"))
        for place, deviation in enumerate(touches):
            share = (place + 0.5) / len(touches)
            if place == len(s.deviations):
                p.setPen(QPen(theme.color("petrol"), 1.5))
                p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawEllipse(QPointF(x(deviation), box.top() + 5 + share * (box.height() - 10)), 3, 3)
        p.setPen(theme.color("soft"))
        p.setFont(theme.text_font(11))
        below = QRectF(box.left(), box.bottom() + 3, box.width(), 14)
        p.drawText(below, Qt.AlignmentFlag.AlignLeft, self._reads.length(-reach, 4).replace("-", "−"))
        p.drawText(below, Qt.AlignmentFlag.AlignRight, self._reads.length(reach, 4, sign=True))
        if s.turned is not None:
            p.drawText(below, Qt.AlignmentFlag.AlignHCenter, f"○ after {s.turns} times to and fro")
