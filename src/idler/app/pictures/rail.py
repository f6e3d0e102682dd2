"""One axis as a rail to scale: hard stops, switch, home, soft limits, cushions, the carriage and its ghost."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from idler.core.homing import met_at, stands_at, stops_of
from idler.core.machine import Axis

from .. import theme
from .picture import Picture

ENDS = 16.0  # pixels beside the hard stops


@dataclass(frozen=True)
class RailScale:
    """Coordinates (mm or °) to pixels. low and high are those of the hard stops, or of what is known instead."""

    low: float
    high: float
    width: float

    def x(self, value: float) -> float:
        return ENDS + (value - self.low) / (self.high - self.low) * (self.width - 2 * ENDS)

    def inside(self, x: float) -> float:
        """A pixel kept on the rail."""
        return min(max(x, 5.0), self.width - 5.0)


SHOWN = 1e-6  # mm (°) past an end that are past it


@dataclass(frozen=True)
class RailMarks:
    """All marks of an axis in pixels. limits and cushions None where there are none; limits_on tells whether they hold."""

    scale: RailScale
    stops: tuple[float, float] | None
    limits: tuple[float, float] | None
    limits_on: bool
    cushions: tuple[tuple[float, float], tuple[float, float]] | None
    home: float
    switch: float
    ticks: tuple[tuple[float, str], ...]
    work: float | None = None
    program: tuple[float, float] | None = None
    beyond: tuple[bool, bool] = (False, False)  # whether the program goes past an end, low and high


def rail_marks(
    axis: Axis, width: float, work_zero: float | None = None, program: tuple[float, float] | None = None
) -> RailMarks:
    """Where everything of an axis lies on a rail of this width. work_zero: a machine coordinate. program: how far the one
    in hand goes."""
    low, high = float(axis.number("travel.low")), float(axis.number("travel.high"))
    stops = stops_of(axis)
    iron = (float(stops[0]), float(stops[1])) if stops is not None else None
    has_limits = low < high and not axis.wraps
    if axis.wraps or (axis.rotary and not has_limits):
        scale = RailScale(0.0, 360.0, width)
    elif iron is not None:
        ends = (low, high) if has_limits else iron
        scale = RailScale(min(iron[0], ends[0]), max(iron[1], ends[1]), width)
    elif has_limits:
        scale = RailScale(low, high, width)
    else:
        scale = RailScale(-100.0, 100.0, width)
    limited = has_limits and axis.flag("travel.limits_on")
    allowed = (low, high) if limited else iron or (scale.low, scale.high)
    cushion = float(axis.number("travel.cushion"))
    cushions = None
    if has_limits and cushion > 0:
        reach = min(cushion, (high - low) / 2)
        cushions = ((scale.x(low), scale.x(low + reach)), (scale.x(high - reach), scale.x(high)))
    ticks = (
        tuple((scale.x(value), f"{value}°") for value in range(0, 361, 90))
        if axis.rotary and scale.high - scale.low == 360
        else ()
    )
    return RailMarks(
        scale,
        (scale.x(iron[0]), scale.x(iron[1])) if iron is not None else None,
        (scale.x(low), scale.x(high)) if has_limits else None,
        axis.flag("travel.limits_on"),
        cushions,
        scale.x(stands_at(axis)),
        scale.x(met_at(axis)),
        ticks,
        scale.inside(scale.x(work_zero)) if work_zero is not None else None,
        None if program is None else (scale.inside(scale.x(program[0])), scale.inside(scale.x(program[1]))),
        (False, False)
        if program is None or axis.wraps
        else (program[0] < allowed[0] - SHOWN, program[1] > allowed[1] + SHOWN),
    )


class RailView(Picture):
    """The marks are painted once into a pixmap; the carriage moves over it."""

    under = "rails"

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(40)
        self._axis: Axis | None = None
        self._work_zero: float | None = None
        self._program: tuple[float, float] | None = None
        self._marks: RailMarks | None = None
        self._ground: QPixmap | None = None
        self._at: float | None = None
        self._ghost: float | None = None
        self._known = False

    def show_axis(self, axis: Axis, work_zero: float | None = None, program: tuple[float, float] | None = None) -> None:
        self._axis, self._work_zero, self._program = axis, work_zero, program
        self._marks = rail_marks(axis, self.wide, work_zero, program)
        self._ground = None
        self.update()

    def show_carriage(self, at: float | None, ghost: float | None, known: bool) -> bool:
        """False where nothing visible has changed."""
        if self._marks is None:
            return False
        scale = self._marks.scale
        old, new = (None if v is None else round(scale.x(v) * 2) for v in (self._at, at))
        if (old, self._ghost, self._known) == (new, ghost, known):
            return False
        dirty = [v for v in (self._at, at, self._ghost, ghost) if v is not None]
        self._at, self._ghost, self._known = at, ghost, known
        xs = [scale.inside(scale.x(v)) for v in dirty]
        if xs:
            self.update_part(min(xs) - 26, 0, max(xs) - min(xs) + 54, self.high)
        return True

    def at_limit(self, position: float) -> bool:
        """Whether a position is at a soft limit, to a pixel."""
        limits = self._marks.limits if self._marks is not None else None
        return limits is not None and min(abs(self._marks.scale.x(position) - x) for x in limits) < 1  # type: ignore[union-attr]

    def resizeEvent(self, _: object) -> None:
        if self._axis is not None:
            self.show_axis(self._axis, self._work_zero, self._program)

    def changeEvent(self, event: object) -> None:
        self._ground = None
        super().changeEvent(event)  # type: ignore[arg-type]

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._ground is None:
            self._ground = self.ground()
            if self._marks is not None:
                painter = self.painter(self._ground)
                self._paint_marks(painter, self._marks)
                painter.end()
        p = self.painter()
        self.show_ground(p, self._ground)
        if self._marks is not None:
            self._paint_carriage(p, self._marks)

    def _paint_marks(self, p: QPainter, m: RailMarks) -> None:
        middle = self.high / 2 - (4 if m.ticks else 0)
        p.setPen(QPen(theme.color("soft"), 1))
        p.setBrush(theme.color("metal"))
        left, right = m.stops or (ENDS, m.scale.width - ENDS)
        p.drawRect(QRectF(left, middle - 4, right - left, 8))
        if m.limits is not None:
            p.setBrush(theme.color("panel"))
            p.drawRect(QRectF(m.limits[0], middle - 4, m.limits[1] - m.limits[0], 8))
        if m.cushions is not None:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.color("brass", 0.35))
            for a, b in m.cushions:
                p.drawRect(QRectF(a, middle - 4, b - a, 8))
        if m.limits is not None:
            self._brackets(p, m, middle)
        if m.stops is not None:
            p.setPen(QPen(theme.color("ink"), 3))
            for x in m.stops:
                p.drawLine(QPointF(x, middle - 11), QPointF(x, middle + 11))
            p.setPen(QPen(theme.color("ink"), 1))
            p.setBrush(theme.color("ink"))
            p.drawRect(QRectF(m.switch - 2, middle - 8, 4, 6))
        if m.program is not None:
            self._program_span(p, m, middle)
        if m.work is not None:
            p.setPen(QPen(theme.color("brass"), 2))
            for way in (-1, 1):
                p.drawLine(QPointF(m.work - 4, middle - 4 * way), QPointF(m.work + 4, middle + 4 * way))
        # home: the datum triangle of technical drawings
        p.setPen(QPen(theme.color("petrol"), 1.2))
        p.setBrush(theme.color("petrol"))
        p.drawPolygon(
            QPolygonF(
                [QPointF(m.home - 5.5, middle - 16), QPointF(m.home + 5.5, middle - 16), QPointF(m.home, middle - 7)]
            )
        )
        if m.ticks:
            p.setFont(theme.text_font(10))
            for x, words in m.ticks:
                p.setPen(theme.color("soft"))
                p.drawLine(QPointF(x, middle + 4), QPointF(x, middle + 8))
                p.drawText(QRectF(x - 20, middle + 8, 40, 13), Qt.AlignmentFlag.AlignCenter, words)

    def _program_span(self, p: QPainter, m: RailMarks, middle: float) -> None:
        """How far the program in hand goes: a line below the rail, with an arrow head where it goes past an end."""
        assert m.program is not None
        low, high = m.program
        y = middle + (13 if m.limits_on or m.limits is None else -9)  # clear of the words “soft limits off”
        p.setPen(QPen(theme.color("vermilion" if any(m.beyond) else "indigo"), 3))
        p.drawLine(QPointF(low, y), QPointF(max(high, low + 2), y))
        for x, way, past in ((low, 1, m.beyond[0]), (high, -1, m.beyond[1])):
            if past:
                p.drawLine(QPointF(x, y), QPointF(x + 6 * way, y - 5))
                p.drawLine(QPointF(x, y), QPointF(x + 6 * way, y + 5))

    def _brackets(self, p: QPainter, m: RailMarks, middle: float) -> None:
        """Square brackets at the soft limits; dashed, with the word, where they are off."""
        assert m.limits is not None
        pen = QPen(theme.color("ink"), 2.2)
        if not m.limits_on:
            pen = QPen(theme.color("brass"), 1.6, Qt.PenStyle.DashLine)
        p.setPen(pen)
        for x, way in ((m.limits[0], 1), (m.limits[1], -1)):
            p.drawLine(QPointF(x, middle - 10), QPointF(x, middle + 10))
            p.drawLine(QPointF(x, middle - 10), QPointF(x + way * 5, middle - 10))
            p.drawLine(QPointF(x, middle + 10), QPointF(x + way * 5, middle + 10))
        if not m.limits_on:
            p.setFont(theme.text_font(11, bold=True))
            p.setPen(theme.color("brass"))
            centre = (m.limits[0] + m.limits[1]) / 2
            p.drawText(QRectF(centre - 80, middle + 5, 160, 14), Qt.AlignmentFlag.AlignCenter, "soft limits off")

    def _paint_carriage(self, p: QPainter, m: RailMarks) -> None:
        if self._at is None:
            return
        middle = self.high / 2 - (4 if m.ticks else 0)
        raw = m.scale.x(self._at)
        x = m.scale.inside(raw)
        if self._ghost is not None:
            g = m.scale.inside(m.scale.x(self._ghost))
            p.setPen(QPen(theme.color("petrol"), 1.2, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRoundedRect(QRectF(g - 10, middle - 8, 20, 16), 3, 3)
        p.setPen(QPen(theme.color("petrol"), 1.8))
        p.setBrush(theme.color("petrol") if self._known else theme.color("pale_petrol"))
        p.drawRoundedRect(QRectF(x - 11, middle - 9, 22, 18), 3, 3)
        p.setPen(QPen(theme.color("panel") if self._known else theme.color("petrol"), 1.6))
        if abs(raw - x) > 0.5:  # beyond the drawing
            way = 1 if raw > x else -1
            p.drawPolyline(
                [QPointF(x - way * 3, middle - 5), QPointF(x + way * 4, middle), QPointF(x - way * 3, middle + 5)]
            )
        else:
            p.drawLine(QPointF(x, middle - 8), QPointF(x, middle + 8))
