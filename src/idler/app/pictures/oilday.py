"""The way oil over a shift: when drives are on, axes move and the spindle turns, and a drop for every stroke."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen

from idler.core.spindle.oil import SHIFT, Day, Spell

from .. import theme
from .labels import on_plate
from .picture import Picture

LEFT, RIGHT = 124.0, 14.0


class OilDayPicture(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(190)
        self.setAccessibleName("The way oil over a shift of eight hours")
        self._day: Day | None = None
        self._counted: tuple[Spell, ...] = ()
        self._strokes: tuple[float, ...] = ()
        self._kind, self._total = "", ""

    def show_day(self, day: Day, counted: Sequence[Spell], strokes: Sequence[float], kind: str, total: str) -> None:
        """kind: the label of the line that is counted. total: oil of the shift in words."""
        self._day, self._counted, self._strokes = day, tuple(counted), tuple(strokes)
        self._kind, self._total = kind, total
        self.setAccessibleDescription(total)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._day is None:
            return
        p = self.painter()
        width = self.wide - LEFT - RIGHT
        lines = (
            ("drives powered", self._day.power), ("axes move", self._day.motion), ("spindle turns", self._day.spindle),
            ("time counted", self._counted),
        )  # fmt: skip
        bottom = self.high - 26.0
        oil = max(74.0, (bottom - 10) * 0.36)
        step = (bottom - 10 - oil) / len(lines)

        def x(minute: float) -> float:
            return LEFT + minute / SHIFT * width

        for hour in range(9):
            p.setPen(QPen(theme.color("line"), 1))
            p.drawLine(QPointF(x(60 * hour), 8), QPointF(x(60 * hour), bottom))
            p.setPen(theme.color("soft"))
            p.setFont(theme.text_font(11))
            words = f"{hour} h" if hour < 8 else "8 h"
            p.drawText(QRectF(x(60 * hour) - 24, bottom + 4, 48, 14), Qt.AlignmentFlag.AlignHCenter, words)
        for place, (words, spells) in enumerate(lines):
            top = 10 + place * step
            last = place == len(lines) - 1
            p.setPen(theme.color("ink"))
            p.setFont(theme.text_font(13, bold=last))
            p.drawText(
                QRectF(4, top, LEFT - 14, step - 6), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words
            )
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.color("petrol") if last else theme.color("metal"))
            for spell in spells:
                p.drawRect(QRectF(QPointF(x(spell.begin), top + step * 0.2), QPointF(x(spell.end), top + step * 0.72)))
        self._drops(p, x, bottom - oil, bottom)

    def _drops(self, p: QPainter, x: Callable[[float], float], top: float, bottom: float) -> None:
        p.setPen(theme.color("ink"))
        p.setFont(theme.text_font(13, bold=True))
        p.drawText(QRectF(4, top, LEFT - 14, bottom - top - 6), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                   "strokes")  # fmt: skip
        middle = (top + bottom) / 2 + 4
        p.setPen(QPen(theme.color("brass"), 1.2))
        p.setBrush(theme.color("pale_brass"))
        for minute in self._strokes[:400]:
            at = QPointF(x(minute), middle)
            drop = QPainterPath(at - QPointF(0, 16))
            drop.cubicTo(at + QPointF(9, -2), at + QPointF(8, 9), at + QPointF(0, 9))
            drop.cubicTo(at + QPointF(-8, 9), at + QPointF(-9, -2), at - QPointF(0, 16))
            p.drawPath(drop)
        if not self._strokes:
            p.setPen(theme.color("brass"))
            p.setFont(theme.text_font(15, bold=True))
            on_plate(p, QRectF(LEFT, top, self.wide - LEFT - RIGHT, bottom - top), "not once in this shift")
