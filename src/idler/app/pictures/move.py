"""The velocity of one move over time: what is edited against what is in force."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from idler.core.mechanics.pace import Move
from idler.core.values.measures import Measures
from idler.core.values.units import Dimension

from .. import theme
from .labels import Placer, beside, on_plate
from .pacemap import nice_step
from .picture import Picture


def curve(move: Move, points: int = 160) -> list[tuple[float, float]]:
    """Time (s) and velocity (mm/s or °/s) along a move, ends included."""
    return [(t, move.velocity(t)) for t in (move.duration * k / points for k in range(points + 1))]


class MovePicture(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(72)
        self._new: Move | None = None
        self._old: Move | None = None
        self._reads = Measures()

    def show_moves(self, new: Move | None, old: Move | None, reads: Measures) -> None:
        """old is None where it is the same as new."""
        self._new, self._old, self._reads = new, old, reads
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        box = QRectF(46, 10, self.wide - 58, self.high - 34)
        p.fillRect(box, theme.color("panel"))
        p.setPen(QPen(theme.color("line"), 1))
        p.drawRect(box)
        moves = [move for move in (self._new, self._old) if move is not None]
        p.setFont(theme.text_font(11))
        if not moves:
            p.setPen(theme.color("soft"))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, "This axis would not move")
            return
        longest = max(move.duration for move in moves)
        highest = max(move.peak for move in moves) * 1.18
        self._scales(p, box, longest, highest)
        if self._old is not None:
            self._draw(p, box, self._old, longest, highest, QPen(theme.color("soft"), 1.4, Qt.PenStyle.DashLine), None)
        if self._new is not None:
            name = "indigo" if self._old is not None else "petrol"
            self._draw(p, box, self._new, longest, highest, QPen(theme.color(name), 2.2), name)
        p.setPen(theme.color("soft"))
        p.setFont(theme.text_font(11))
        unit = self._reads.unit(Dimension.SPEED).symbol
        on_plate(p, QRectF(box.left() + 4, box.top() + 2, box.width() - 8, 14), unit, Qt.AlignmentFlag.AlignLeft)
        self._names(p, box, longest, highest)

    def _scales(self, p: QPainter, box: QRectF, longest: float, highest: float) -> None:
        p.setPen(theme.color("soft"))
        step = nice_step(longest, 5)
        k = 0
        while k * step <= longest * 1.0001:
            x = box.left() + k * step / longest * box.width()
            p.drawText(QRectF(x - 30, box.bottom() + 4, 60, 14), Qt.AlignmentFlag.AlignHCenter, f"{k * step:g} s")
            k += 1
        most = highest * 60 * self._reads.scale  # a minute, in the screen's unit
        step = nice_step(most, 3)
        k = 1
        while k * step <= most:
            y = box.bottom() - k * step / most * box.height()
            p.setPen(QPen(theme.color("line"), 1))
            p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            p.setPen(theme.color("soft"))
            p.drawText(
                QRectF(0, y - 8, 41, 16), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{k * step:g}"
            )
            k += 1

    def _draw(
        self, p: QPainter, box: QRectF, move: Move, longest: float, highest: float, pen: QPen, fill: str | None
    ) -> None:
        points = QPolygonF(self._points(box, move, longest, highest))
        if fill is not None:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.color(fill, 0.12))
            p.drawPolygon(points)
        p.setPen(pen)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPolyline(points)

    def _names(self, p: QPainter, box: QRectF, longest: float, highest: float) -> None:
        if self._old is None or self._new is None:
            return
        p.setFont(theme.text_font(11, bold=True))
        rows = ((self._new, "edited", "indigo"), (self._old, "in the controller now", "soft"))
        placer = Placer(box)
        placer.keep_clear(QRectF(box.left(), box.top(), 60, 18))  # the unit
        for move, _, _ in rows:
            placer.stroke(*self._points(box, move, longest, highest))
        for move, words, name in rows:
            y = box.bottom() - move.peak / highest * box.height()
            middle = QPointF(box.left() + move.duration / 2 / longest * box.width(), y)
            p.setPen(theme.color(name))
            placer.write(p, words, beside(middle, p.fontMetrics().horizontalAdvance(words)))

    def _points(self, box: QRectF, move: Move, longest: float, highest: float) -> list[QPointF]:
        return [
            QPointF(box.left() + t / longest * box.width(), box.bottom() - v / highest * box.height())
            for t, v in curve(move)
        ]
