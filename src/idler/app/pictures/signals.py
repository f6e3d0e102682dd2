"""The signals to a drive on one time axis: enable, direction, step, with the times that the drive needs."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from idler.core.words import word

from .. import theme
from .curves import draw_curve
from .picture import ScenePicture


@dataclass(frozen=True)
class SignalScene:
    """Times as text, for the spans are not to scale; lines that are inverted begin high."""

    delay: str
    setup: str
    width: str
    enable_inverted: bool
    step_inverted: bool


class SignalPicture(ScenePicture[SignalScene]):
    least = 106

    def paint(self, p: QPainter, scene: SignalScene) -> None:
        left, right = 70.0, self.wide - 10.0
        at = [left + share * (right - left) for share in (0.06, 0.38, 0.66, 0.78, 0.90)]
        pitch = (self.high - 16) / 3
        names = (word("enable"), word("direction"), word("step"))
        flips = ([at[0]], [at[1]], [at[2], at[3], at[4]])
        inverted = (scene.enable_inverted, False, scene.step_inverted)
        for row, (name, changes, high) in enumerate(zip(names, flips, inverted, strict=True)):
            top = 8 + row * pitch
            p.setPen(theme.color("ink"))
            p.setFont(theme.text_font(12))
            p.drawText(QRectF(0, top, 64, pitch - 8), Qt.AlignmentFlag.AlignVCenter, name)
            self._wave(p, left, right, changes, top + 4, top + pitch - 12, high)
        self._span(p, at[0], at[1], 8 + pitch - 4, scene.delay)
        self._span(p, at[1], at[2], 8 + 2 * pitch - 4, scene.setup)
        self._span(p, at[2], at[3], 8 + 3 * pitch - 4, scene.width)

    def _wave(
        self, p: QPainter, left: float, right: float, changes: list[float], high: float, low: float, begins_high: bool
    ) -> None:
        level = begins_high
        points = [QPointF(left, high if level else low)]
        for x in changes:
            points.append(QPointF(x, high if level else low))
            level = not level
            points.append(QPointF(x, high if level else low))
        points.append(QPointF(right, high if level else low))
        p.setPen(QPen(theme.color("petrol"), 2))
        draw_curve(p, points)

    def _span(self, p: QPainter, x0: float, x1: float, y: float, words: str) -> None:
        p.setPen(QPen(theme.color("brass"), 1.2))
        p.drawLine(QPointF(x0, y), QPointF(x1, y))
        for x in (x0, x1):
            p.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        p.setFont(theme.text_font(11, bold=True))
        wide = p.fontMetrics().horizontalAdvance(words) + 6
        box = QRectF((x0 + x1) / 2 - wide / 2, y - 8, wide, 15)
        if wide > x1 - x0 - 6:
            box.moveLeft(max(1.0, x0 - wide - 2 if x0 - wide > 2 else min(x1 + 2, self.wide - wide - 2)))
        p.fillRect(box, theme.color("panel"))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
