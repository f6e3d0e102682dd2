"""A beam on its two switches, seen from above: which side lies further to +, and by how much; exaggerated."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from idler.core.values.measures import Measures

from .. import theme
from .picture import Picture

HEIGHT, SKEW, MARGIN = 84, 12.0, 46.0


class BeamPicture(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(HEIGHT)
        self._sides: float | None = None
        self._reads = Measures()
        self.hide()

    def show_sides(self, sides: float | None, reads: Measures) -> None:
        """sides: how far the second motor's switch lies further to + than the first's, in mm; None hides the picture."""
        self._sides, self._reads = sides, reads
        self.setVisible(sides is not None)
        if sides is not None:
            further = "+" if sides > 0 else "−"
            self.setAccessibleName(f"The second side's switch lies {reads.length(abs(sides))} further to {further}")
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._sides is None:
            return
        p = self.painter()
        middle, left, right = HEIGHT / 2, MARGIN, self.wide - MARGIN
        skew = SKEW if self._sides > 0 else -SKEW if self._sides < 0 else 0.0
        first, second = QPointF(left, middle + skew / 2), QPointF(right, middle - skew / 2)
        p.setPen(QPen(theme.color("line"), 1, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(left, first.y()), QPointF(right, first.y()))
        p.setPen(QPen(theme.color("ink"), 5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        p.drawLine(first, second)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("petrol"))
        for at in (first, second):
            p.drawRect(QRectF(at.x() - 4, at.y() - 12, 8, 24))
        p.setPen(theme.color("soft"))
        p.setFont(theme.text_font(11))
        centre = Qt.AlignmentFlag.AlignCenter
        p.drawText(QRectF(0, HEIGHT - 16, 2 * MARGIN, 14), centre, "first motor")
        p.drawText(QRectF(self.wide - 2 * MARGIN, HEIGHT - 16, 2 * MARGIN, 14), centre, "second motor")
        p.drawText(QRectF(2, 0, 30, 14), Qt.AlignmentFlag.AlignLeft, "+ ↑")
        p.setPen(theme.color("ink"))
        p.setFont(theme.figure_font(13))
        sign = "+" if self._sides > 0 else "−"
        p.drawText(QRectF(0, 0, self.wide, 16), centre, f"{sign}{self._reads.length(abs(self._sides))}, drawn larger")
