"""The torque of a motor over its speed, and how much of it the pace takes."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from idler.core.mechanics.torque import Muscle

from .. import theme
from .pacemap import nice_step
from .picture import Picture


class TorquePicture(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(74)
        self._muscle: Muscle | None = None
        self._speed = self._rise = 0.0

    def show_muscle(self, muscle: Muscle | None, speed: float, rise: float) -> None:
        """speed in mm/min (°/min), rise in mm/s² (°/s²)."""
        self._muscle, self._speed, self._rise = muscle, speed, rise
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        box = QRectF(40, 8, self.wide - 50, self.high - 30)
        p.fillRect(box, theme.color("paper"))
        p.setPen(QPen(theme.color("line"), 1))
        p.drawRect(box)
        p.setFont(theme.text_font(11))
        muscle = self._muscle
        if muscle is None:
            p.setPen(theme.color("soft"))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                       "Type the torque curve and the inertia,\nand the margin is drawn here and on the pace map")  # fmt: skip
            return
        widest = max(muscle.curve[-1][0], self._speed / muscle.travel) * 1.08
        highest = max(point[1] for point in muscle.curve) * 1.15

        def at(rpm: float, torque: float) -> QPointF:
            return QPointF(
                box.left() + rpm / widest * box.width(), box.bottom() - min(torque / highest, 1.05) * box.height()
            )

        self._scales(p, box, widest, highest)
        first, last = muscle.curve[0], muscle.curve[-1]
        line = [at(0, first[1]), *(at(*point) for point in muscle.curve)]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("pale_petrol"))
        p.drawPolygon(QPolygonF([*line, at(last[0], 0), at(0, 0)]))
        p.setPen(QPen(theme.color("petrol"), 2))
        p.drawPolyline(QPolygonF(line))
        p.setBrush(theme.color("petrol"))
        for point in muscle.curve:
            p.drawEllipse(at(*point), 3, 3)
        self._taken(p, box, muscle, at(self._speed / muscle.travel, muscle.needed(self._rise)), at)

    def _taken(
        self, p: QPainter, box: QRectF, muscle: Muscle, here: QPointF, at: Callable[[float, float], QPointF]
    ) -> None:
        """What accelerating at top speed takes, against what there is."""
        p.setPen(QPen(theme.color("brass"), 1.6, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(box.left(), here.y()), here)
        p.setPen(QPen(theme.color("panel"), 2))
        p.setBrush(theme.color("brass"))
        p.drawEllipse(here, 6, 6)
        share = muscle.share(self._speed, self._rise)
        words = "more than there is" if share >= 1 else f"takes {share * 100:.0f} % of what is left"
        p.setFont(theme.text_font(12, bold=True))
        p.setPen(theme.color("brass"))
        width = p.fontMetrics().horizontalAdvance(words)
        x = min(max(box.left() + 4, here.x() - width / 2), box.right() - width - 4)
        p.drawText(QPointF(x, min(box.bottom() - 6, here.y() + 21)), words)

    def _scales(self, p: QPainter, box: QRectF, widest: float, highest: float) -> None:
        p.setPen(theme.color("soft"))
        step = nice_step(widest, 5)
        for k in range(int(widest / step) + 1):
            x = box.left() + k * step / widest * box.width()
            p.drawText(QRectF(x - 30, box.bottom() + 4, 60, 14), Qt.AlignmentFlag.AlignHCenter, f"{k * step:g}")
        p.drawText(QRectF(box.left(), box.bottom() - 16, box.width() - 4, 14), Qt.AlignmentFlag.AlignRight, "rpm")
        step = nice_step(highest, 3)
        for k in range(1, int(highest / step) + 1):
            y = box.bottom() - k * step / highest * box.height()
            p.drawText(
                QRectF(0, y - 8, 35, 16), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{k * step:g}"
            )
        p.drawText(QPointF(box.left() + 4, box.top() + 13), "N·m")
