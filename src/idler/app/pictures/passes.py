"""A move on a rule drawn to scale, and below it every pass with its uncertainty against the tolerance."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from idler.core.mechanics.scale import COVERAGE, Estimate, Pass
from idler.core.values.measures import Measures
from idler.core.words import word

from .. import theme
from .labels import on_plate
from .pacemap import nice_step
from .picture import ScenePicture

LEFT, RULE, ROW = 62, 44, 22
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


@dataclass(frozen=True)
class PassScene:
    """length and travelled (None before a move) in mm (°); told: counts per unit in force; tolerance relative."""

    length: float
    travelled: float | None
    reads: Measures
    passes: Sequence[Pass]
    found: Estimate | None
    told: float
    tolerance: float


class PassPicture(ScenePicture[PassScene]):
    least = 180

    def paint(self, p: QPainter, scene: PassScene) -> None:
        self._rule(p, scene)
        self._errors(p, scene)

    def _rule(self, p: QPainter, scene: PassScene) -> None:
        box = QRectF(LEFT, 26, self.wide - LEFT - 26, RULE)
        k = box.width() / (scene.length * 1.12)
        zero = box.left() + scene.length * 0.04 * k
        p.setPen(QPen(theme.color("soft"), 1))
        p.setBrush(theme.color("pale_brass"))
        p.drawRoundedRect(box, 2, 2)
        one = 1 / scene.reads.scale  # mm (°) of one of the screen's units
        step = nice_step(scene.length / one, 10)
        p.setFont(theme.figure_font(11))
        for n in range(int(scene.length / one * 1.08 / step * 5) + 1):
            x = zero + n * step / 5 * one * k
            if x > box.right():
                break
            p.setPen(QPen(theme.color("ink"), 1))
            p.drawLine(QPointF(x, box.top()), QPointF(x, box.top() + (16 if n % 5 == 0 else 8)))
            if n % 5 == 0 and x < box.right() - 16:
                label = f"{n // 5 * step:g}"
                p.drawText(QRectF(x - 30, box.top() + 18, 60, 15), Qt.AlignmentFlag.AlignHCenter, label)
        for at, name, words in (
            (0.0, "soft", word("start")),
            (scene.length, "ink", f"{scene.reads.length(scene.length, trim=True)} told"),
        ):
            self._mark(p, zero + at * k, box.top(), name, words, above=True)
        if scene.travelled is not None:
            share = max(-0.03 * scene.length, min(scene.length * 1.07, scene.travelled))
            self._mark(p, zero + share * k, box.bottom(), "petrol", word("carriage"), above=False)

    def _mark(self, p: QPainter, x: float, y: float, name: str, words: str, *, above: bool) -> None:
        way = -1 if above else 1
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color(name))
        p.drawPolygon(QPolygonF([QPointF(x, y), QPointF(x - 5, y + way * 9), QPointF(x + 5, y + way * 9)]))
        p.setPen(theme.color(name))
        p.setFont(theme.text_font(12, bold=True))
        wide = p.fontMetrics().horizontalAdvance(words)
        left = min(max(LEFT, x - wide / 2), self.wide - wide - 4)
        p.drawText(QPointF(left, y - 12 if above else y + 20), words)

    def _errors(self, p: QPainter, scene: PassScene) -> None:
        """Errors in per cent, the tolerance as a band, the estimate as a diamond."""
        box = QRectF(LEFT, 26 + RULE + 44, self.wide - LEFT - 26, self.high - RULE - 26 - 44 - 24)
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(theme.color("paper"))
        p.drawRect(box)
        errors = [q.error(scene.told) for q in scene.passes]
        bars = [COVERAGE * q.uncertainty / abs(q.measured) for q in scene.passes]
        widest = max([scene.tolerance * 2.2, *(abs(e) + b for e, b in zip(errors, bars, strict=True))]) * 1.08

        def x(error: float) -> float:
            return box.center().x() + error / widest * box.width() / 2

        band = QRectF(QPointF(x(-scene.tolerance), box.top()), QPointF(x(scene.tolerance), box.bottom()))
        p.fillRect(band, theme.color("pale_petrol"))
        p.setPen(QPen(theme.color("petrol"), 1))
        p.drawLine(QPointF(x(0), box.top()), QPointF(x(0), box.bottom()))
        p.setFont(theme.text_font(11))
        self._scale(p, box, widest, x)
        if not errors:
            p.setPen(theme.color("soft"))
            on_plate(p, box, "no pass yet", ground="pale_petrol")
            return
        rows = len(errors) + 1
        pitch = min(ROW, (box.height() - 4) / rows)
        for n, (error, bar) in enumerate(zip(errors, bars, strict=True)):
            y = box.top() + 4 + (n + 0.5) * pitch
            p.setPen(theme.color("soft"))
            p.drawText(QRectF(0, y - 8, LEFT - 8, 16), _RIGHT, f"pass {n + 1}")
            self._bar(p, x(error), x(error - bar), x(error + bar), y, "ink", diamond=False)
        if scene.found is not None:
            y = box.top() + 4 + (rows - 0.5) * pitch
            p.setPen(theme.color("brass"))
            p.drawText(QRectF(0, y - 8, LEFT - 8, 16), _RIGHT, "all")
            error, bar = scene.found.error(scene.told), scene.found.expanded
            self._bar(p, x(error), x(error - bar), x(error + bar), y, "brass", diamond=True)

    def _bar(self, p: QPainter, at: float, low: float, high: float, y: float, name: str, *, diamond: bool) -> None:
        p.setPen(QPen(theme.color(name), 2))
        p.drawLine(QPointF(low, y), QPointF(high, y))
        for end in (low, high):
            p.drawLine(QPointF(end, y - 4), QPointF(end, y + 4))
        p.setBrush(theme.color(name))
        if diamond:
            p.drawPolygon(QPolygonF([QPointF(at - 6, y), QPointF(at, y - 6), QPointF(at + 6, y), QPointF(at, y + 6)]))
        else:
            p.drawEllipse(QPointF(at, y), 3.5, 3.5)

    def _scale(self, p: QPainter, box: QRectF, widest: float, x: Callable[[float], float]) -> None:
        step = nice_step(widest * 200, 6) / 100
        n = -int(widest / step)
        p.setPen(theme.color("soft"))
        while n * step <= widest:
            words = f"{n * step * 100:+g} %" if n else "0"
            p.drawText(QRectF(x(n * step) - 40, box.bottom() + 4, 80, 14), Qt.AlignmentFlag.AlignHCenter, words)
            n += 1
