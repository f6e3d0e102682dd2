"""The following error of one axis over the last seconds, with the window that it must stay in."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from idler.core.values.measures import Measures

from .. import theme
from .curves import draw_curve
from .picture import Picture

SPAN = 6.0  # s


class LagPicture(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(46)
        self._points: Sequence[tuple[float, float]] = ()
        self._window, self._now, self._reads, self._words = 1.0, 0.0, Measures(), ""

    def show_lag(
        self, points: Sequence[tuple[float, float]], window: float, now: float, reads: Measures, words: str
    ) -> None:
        """points: seconds and following error. window: allowed, either way. words: shown where there is nothing to draw."""
        self._points = [point for point in points if point[0] > now - SPAN]
        self._window, self._now, self._reads, self._words = window, now, reads, words
        self.update()

    @property
    def largest(self) -> float:
        return max((abs(lag) for _, lag in self._points), default=0.0)

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        box = QRectF(2, 2, self.wide - 4, self.high - 4)
        p.fillRect(box, theme.color("paper"))
        p.setPen(QPen(theme.color("line"), 1))
        p.drawRect(box)
        p.setFont(theme.text_font(11))
        if self._words:
            p.setPen(theme.color("soft"))
            p.drawText(box.adjusted(8, 0, -8, 0), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._words)
            return
        reach = max(self._window * 1.25, self.largest * 1.1, 1e-6)
        middle = box.center().y()

        def y(lag: float) -> float:
            return middle - lag / reach * box.height() / 2

        p.setPen(QPen(theme.color("brass"), 1.4, Qt.PenStyle.DashLine))
        for side in (-1, 1):
            p.drawLine(QPointF(box.left(), y(side * self._window)), QPointF(box.right(), y(side * self._window)))
        p.drawText(
            QPointF(box.left() + 6, y(self._window) + 13),
            f"stops beyond ± {self._reads.length(self._window, trim=True)}",
        )
        p.setPen(QPen(theme.color("line"), 1))
        p.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
        line = [QPointF(box.right() - (self._now - t) / SPAN * box.width(), y(lag)) for t, lag in self._points]
        p.setPen(QPen(theme.color("petrol"), 2))
        draw_curve(p, line)
        p.setPen(theme.color("ink"))
        p.setFont(theme.figure_font(12, bold=True))
        said = f"largest {self._reads.length(self.largest)}"
        p.drawText(box.adjusted(0, 0, -6, -4), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, said)
