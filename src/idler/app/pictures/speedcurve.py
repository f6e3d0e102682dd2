"""Level against speed: the line that was told, what was measured up and down, the correction, and below it the error left."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from idler.core.spindle import Range, allowed_error
from idler.core.spindle.speedcurve import Curve, Miss, Sample

from .. import theme
from .labels import Placer, beside, plate
from .picture import ScenePicture
from .plot import Plot

LEFT, RIGHT, FOOT, ERRORS = 64.0, 12.0, 22.0, 112.0


@dataclass(frozen=True)
class CurveScene:
    """found: the range as told. before: misses that its present points would leave; after: those that new points would.

    tried: misses that were measured, where speeds were tried. now: level in % and rpm, while it turns. level: whether one
    tells the speed; without it there are only errors to be drawn.
    """

    found: Range
    samples: Sequence[Sample]
    curve: Curve | None
    before: Sequence[Miss]
    after: Sequence[Miss]
    tried: Sequence[Miss]
    now: tuple[float, float] | None = None
    level: bool = True


class SpeedCurvePicture(ScenePicture[CurveScene]):
    least = 190

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Level against speed, and the error left")

    def paint(self, p: QPainter, scene: CurveScene) -> None:
        s = scene
        if not s.level:
            self._errors(p, QRectF(LEFT, 8, self.wide - LEFT - RIGHT, self.high - 8 - FOOT), s)
            return
        top = max([s.found.high, *(sample.rpm for sample in s.samples), *(rpm for _, rpm in s.found.points)]) * 1.06
        width = self.wide - LEFT - RIGHT
        plot = Plot(QRectF(LEFT, 8, width, self.high - ERRORS - FOOT - 34), (0, 100), (0, top))
        plot.ground(p)
        if s.curve is not None:
            plot.band(p, 0, s.curve.dead, "pale_brass")
            plot.band(p, s.curve.full, 100, "pale_brass")
        self._curves(p, plot, s)
        plot.scales(p, "level in %", "rpm at the spindle", (10, 5))
        self._words(p, plot, s)
        self._errors(p, QRectF(LEFT, self.high - ERRORS, width, ERRORS - FOOT), s)

    def _curves(self, p: QPainter, plot: Plot, s: CurveScene) -> None:
        nominal = [(0.0, 0.0), (100.0, s.found.high)]
        plot.line(p, nominal, QPen(theme.color("soft"), 1.4, Qt.PenStyle.DashLine))
        if s.found.points:
            plot.line(p, s.found.points, QPen(theme.color("indigo"), 2))
        if s.curve is not None:
            levels = [k / 2 for k in range(201)]
            dense = list(zip(levels, s.curve.along(levels), strict=True))
            plot.line(p, dense, QPen(theme.color("petrol"), 2))
        p.setPen(QPen(theme.color("indigo"), 1.5))
        p.setBrush(theme.color("panel"))
        for level, rpm in s.found.points or (s.curve.points if s.curve is not None else ()):
            p.drawRect(QRectF(plot.at(level, rpm) - QPointF(3.5, 3.5), plot.at(level, rpm) + QPointF(3.5, 3.5)))
        p.setPen(QPen(theme.color("petrol"), 1.4))
        for sample in s.samples:
            here, up = plot.at(sample.level, sample.rpm), -1 if sample.rising else 1
            p.setBrush(theme.color("petrol") if sample.rising else theme.color("panel"))
            p.drawPolygon(
                QPolygonF([here + QPointF(0, 5 * up), here + QPointF(-4, -3 * up), here + QPointF(4, -3 * up)])
            )
        if s.now is not None:
            p.setPen(QPen(theme.color("panel"), 2))
            p.setBrush(theme.color("petrol"))
            p.drawEllipse(plot.at(min(s.now[0], 100), min(s.now[1], plot.y[1])), 7, 7)

    def _words(self, p: QPainter, plot: Plot, s: CurveScene) -> None:
        """What the lines are, in free places."""
        placer = Placer(plot.box)
        corners = (
            QRectF(plot.box.topLeft(), QSizeF(160, 18)),
            QRectF(plot.box.bottomRight() - QPointF(90, 18), QSizeF(90, 18)),
        )
        placer.keep_clear(*corners)  # the names of the axes
        placer.stroke(plot.at(0, 0), plot.at(100, s.found.high))
        if s.curve is not None:
            placer.stroke(
                *(plot.at(level, rpm) for level, rpm in zip(range(101), s.curve.along(range(101)), strict=True))
            )
        self._key(p, plot, s, placer)
        p.setFont(theme.text_font(11))
        p.setPen(theme.color("soft"))
        words = "as told, unmeasured"
        placer.write(
            p, words, beside(plot.at(70, s.found.high * 0.7), p.fontMetrics().horizontalAdvance(words), 10), "paper"
        )
        if s.curve is not None:
            self._ends(p, plot, s.curve, placer)

    def _ends(self, p: QPainter, plot: Plot, curve: Curve, placer: Placer) -> None:
        """What the shaded ends are."""
        p.setFont(theme.text_font(11))
        p.setPen(theme.color("brass"))
        if curve.dead >= 0.5:
            place = plot.at(curve.dead, plot.y[1] * 0.5)
            placer.write(
                p, f"turns from {curve.dead:.1f} % on", [place + QPointF(5, 14 * k) for k in range(6)], "paper"
            )
        if curve.full <= 99.5:
            words = f"no faster from {curve.full:.1f} % on"
            place = plot.at(curve.full, plot.y[1] * 0.13)
            left = p.fontMetrics().horizontalAdvance(words) + 6
            placer.write(p, words, [place - QPointF(left, 14 * k) for k in range(6)], "paper")

    def _key(self, p: QPainter, plot: Plot, s: CurveScene, placer: Placer) -> None:
        """What the signs mean, where the plot is empty: below the curve at the right."""
        lines = []
        if s.samples:
            lines.append(("▲ ▽", "petrol", "measured: upwards, downwards"))
        if s.curve is not None or s.found.points:
            lines.append(("□", "indigo", "points in use" if s.found.points else "points to take"))
        p.setFont(theme.text_font(11))
        for k, (sign, name, words) in enumerate(reversed(lines)):
            y = plot.box.bottom() - 40 - 16 * k
            place = QRectF(plot.box.right() - 220, y - 12, 216, 15)
            plate(p, place, "paper")
            placer.keep_clear(place)
            p.setPen(theme.color(name))
            p.drawText(QPointF(plot.box.right() - 218, y), sign)
            p.setPen(theme.color("ink"))
            p.drawText(QPointF(plot.box.right() - 186, y), words)

    def _errors(self, p: QPainter, box: QRectF, s: CurveScene) -> None:
        """Error in rpm against the commanded speed, with what is allowed as a band."""
        low, high = min(s.found.low, s.found.high * 0.98), s.found.high
        worst = max([allowed_error(high), *(abs(m.error) for m in (*s.after, *s.tried, *s.before))]) * 1.2
        plot = Plot(box, (low, high), (-worst, worst))
        plot.ground(p)
        edge = [low + (high - low) * k / 40 for k in range(41)]
        band = [plot.at(x, allowed_error(x)) for x in edge] + [plot.at(x, -allowed_error(x)) for x in reversed(edge)]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("pale_petrol"))
        p.drawPolygon(QPolygonF(band))
        for misses, name, style in (
            (s.before, "soft", Qt.PenStyle.DashLine), (s.after, "indigo", Qt.PenStyle.SolidLine),
        ):  # fmt: skip
            if misses:
                plot.line(p, [(m.asked, m.error) for m in misses], QPen(theme.color(name), 1.6, style))
        p.setPen(QPen(theme.color("panel"), 1))
        p.setBrush(theme.color("petrol"))
        for m in s.tried:
            p.drawEllipse(plot.at(m.asked, m.error), 4.5, 4.5)
        plot.scales(p, "commanded rpm", "error in rpm; band: 1 % or 5 rpm", (6, 3))
