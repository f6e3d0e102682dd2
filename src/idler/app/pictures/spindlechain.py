"""From a commanded speed to the spindle, as one chain: each link with its figure, the belt drawn as its two wheels."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from idler.core.spindle import ChainLink

from .. import theme
from .chain import wheel_radii
from .picture import Picture

HEIGHT = 78


class SpindleChain(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._links: tuple[ChainLink, ...] = ()
        self._ratio, self._measured, self._turns = 1.0, "", False

    def show_links(self, links: Sequence[ChainLink], ratio: float, measured: str, turns: bool) -> None:
        """ratio: spindle turns per motor turn. measured: what the meter says at the end of the chain."""
        state = (tuple(links), ratio, measured, turns)
        if state != (self._links, self._ratio, self._measured, self._turns):
            self._links, self._ratio, self._measured, self._turns = state
            self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if not self._links:
            return
        p = self.painter()
        count = len(self._links)
        step = self.wide / count
        for place, link in enumerate(self._links):
            box = QRectF(place * step + 2, 2, step - 20 if place < count - 1 else step - 4, HEIGHT - 4)
            last = place == count - 1
            if link.title.startswith("range"):
                self._belt(p, box)
                box.setLeft(box.left() + min(66.0, box.width() * 0.42))
            else:
                p.setPen(QPen(theme.color("petrol") if last and self._turns else theme.color("line"), 1.4))
                p.setBrush(theme.color("pale_petrol") if last and self._turns else theme.color("panel"))
                p.drawRoundedRect(box, 4, 4)
            self._words(p, box, link, self._measured if last else link.how)
            if not last:
                p.setPen(QPen(theme.color("soft"), 1.6))
                x, y = box.right() + 3, box.center().y()
                p.drawLine(QPointF(x, y), QPointF(x + 11, y))
                p.drawLine(QPointF(x + 11, y), QPointF(x + 6, y - 4))
                p.drawLine(QPointF(x + 11, y), QPointF(x + 6, y + 4))

    def _words(self, p: QPainter, box: QRectF, link: ChainLink, below: str) -> None:
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
        p.setPen(theme.color("soft"))
        p.setFont(theme.text_font(11))
        p.drawText(box.adjusted(0, 6, 0, 0), flags, link.title)
        p.drawText(box.adjusted(2, 52, -2, 0), flags, below)
        p.setPen(theme.color("ink"))
        p.setFont(theme.figure_font(17, bold=True))
        p.drawText(box.adjusted(0, 25, 0, 0), flags, link.figure)

    def _belt(self, p: QPainter, box: QRectF) -> None:
        """The two wheels, one over the other: the motor's below, the spindle's above."""
        first, second = (radius * 0.5 for radius in wheel_radii(self._ratio, 1.0))
        x = box.left() + min(34.0, box.width() * 0.22)
        left, right = QPointF(x, box.bottom() - first - 5), QPointF(x, box.top() + second + 5)
        p.setPen(QPen(theme.color("soft"), 1.4))
        p.setBrush(theme.color("metal"))
        for at, radius in ((left, first), (right, second)):
            p.drawEllipse(at, radius, radius)
        for side in (-1, 1):
            p.drawLine(left + QPointF(side * first, 0), right + QPointF(side * second, 0))
