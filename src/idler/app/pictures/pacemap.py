"""The pace map: acceleration over top speed with the ceilings of controller and motor; the point is dragged or typed."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QBrush, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF

from idler.core.mechanics.torque import Muscle
from idler.core.values.measures import Measures
from idler.core.values.units import MM, Dimension

from .. import theme
from .labels import Placer, beside
from .picture import ScenePicture

LEFT, RIGHT, TOP, BOTTOM = 52, 16, 14, 40


def nice_step(span: float, parts: int) -> float:
    """A step of 1, 2 or 5 times a power of ten that divides `span` into about `parts` parts."""
    raw = span / parts
    power: float = 10 ** math.floor(math.log10(raw))
    return next(step * power for step in (1, 2, 5, 10) if step * power >= raw)


@dataclass(frozen=True)
class Ceiling:
    """A speed (mm/min or °/min) that cannot be passed, and why."""

    speed: float
    words: str
    hard: bool


@dataclass(frozen=True)
class PaceScene:
    """What the map shows. Speeds in mm/min (°/min), accelerations in mm/s² (°/s²). saving: an acceleration with which the
    program in hand takes less time, and how much less."""

    speed: float
    acceleration: float
    old_speed: float
    old_acceleration: float
    ceilings: tuple[Ceiling, ...]
    reads: Measures
    edited: bool
    muscle: Muscle | None = None
    saving: tuple[float, str] | None = None

    def torque_line(self, points: int = 60) -> list[tuple[float, float]]:
        """Speed and the acceleration that takes all of the torque there; empty where the motor is not known."""
        if self.muscle is None:
            return []
        speeds = [self.speed_span * k / points for k in range(points + 1)]
        return [(speed, self.muscle.acceleration_at(speed)) for speed in speeds]

    @property
    def torque_share(self) -> float | None:
        return self.muscle.share(self.speed, self.acceleration) if self.muscle is not None else None

    @property
    def speed_span(self) -> float:
        lowest = min((ceiling.speed for ceiling in self.ceilings), default=self.speed * 2)
        return max(lowest * 1.25, self.speed * 1.15, self.old_speed * 1.15, 1.0)

    @property
    def acceleration_span(self) -> float:
        return max(self.acceleration * 2.2, self.old_acceleration * 1.4, 10.0)

    def position(self, box: QRectF, speed: float, acceleration: float) -> QPointF:
        return QPointF(
            box.left() + speed / self.speed_span * box.width(),
            box.bottom() - acceleration / self.acceleration_span * box.height(),
        )

    def values(self, box: QRectF, point: QPointF) -> tuple[float, float]:
        """Speed and acceleration at a point, rounded to what a person would write."""
        speed = (point.x() - box.left()) / box.width() * self.speed_span
        acceleration = (box.bottom() - point.y()) / box.height() * self.acceleration_span
        grain_v, grain_a = nice_step(self.speed_span, 120), nice_step(self.acceleration_span, 120)
        return (
            max(grain_v, round(speed / grain_v) * grain_v),
            max(grain_a, round(acceleration / grain_a) * grain_a),
        )


class PaceMap(ScenePicture[PaceScene]):
    """`dragged` while the point moves (last is False), and once when it is let go (last is True)."""

    dragged = Signal(float, float, bool)

    least = 72
    nothing = "Give a top speed and an acceleration"

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Pace map: arrow keys change top speed and acceleration")
        self._held: PaceScene | None = None

    def box(self) -> QRectF:
        return QRectF(LEFT, TOP, self.wide - LEFT - RIGHT, self.high - TOP - BOTTOM)

    # -- hand -----------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        scene = self._scene
        if scene is None or event.button() != Qt.MouseButton.LeftButton:
            return
        here = scene.position(self.box(), scene.speed, scene.acceleration)
        if (self.hand(event) - here).manhattanLength() < 28:
            self._held = scene

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        scene = self._held or self._scene
        if scene is None:
            return
        if self._held is not None:
            self._drag(self.hand(event), last=False)
        else:
            here = scene.position(self.box(), scene.speed, scene.acceleration)
            near = (self.hand(event) - here).manhattanLength() < 28
            self.setCursor(Qt.CursorShape.SizeAllCursor if near else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._drag(self.hand(event), last=True)
            self._held = None
            self.anew()

    def _drag(self, point: QPointF, *, last: bool) -> None:
        assert self._held is not None
        speed, acceleration = self._held.values(self.box(), point)
        self.dragged.emit(speed, acceleration, last)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        scene = self._scene
        moves = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Down: (0, -1), Qt.Key.Key_Up: (0, 1),
        }  # fmt: skip
        move = moves.get(Qt.Key(event.key()))
        if scene is None or move is None:
            super().keyPressEvent(event)
            return
        grain_v, grain_a = nice_step(scene.speed_span, 60), nice_step(scene.acceleration_span, 60)
        speed = max(grain_v, scene.speed + move[0] * grain_v)
        acceleration = max(grain_a, scene.acceleration + move[1] * grain_a)
        self.dragged.emit(speed, acceleration, True)

    # -- picture --------------------------------------------------------------------------------------------------

    def paint(self, p: QPainter, scene: PaceScene) -> None:
        box = self.box()
        p.fillRect(box, theme.color("panel"))
        scene = self._held_view(scene)
        placer = Placer(box)
        self._ground(p, box, scene)
        rays = self._times(p, box, scene, placer)
        self._axes(p, box, scene)
        self._ceilings(p, box, scene, placer)
        self._torque(p, box, scene, placer)
        self._points(p, box, scene, placer)
        self._name_ceilings(p, box, scene, placer)
        self._name_torque(p, box, scene, placer)
        self._name_rays(p, rays, placer)
        if self.hasFocus():
            p.setPen(QPen(theme.color("petrol"), 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box.adjusted(-1, -1, 1, 1))

    def _held_view(self, now: PaceScene) -> PaceScene:
        """While dragging, scale stays that of the start, so that the point follows the hand."""
        held = self._held
        if held is None:
            return now
        return replace(now, old_speed=held.old_speed, old_acceleration=held.old_acceleration)

    def _ground(self, p: QPainter, box: QRectF, scene: PaceScene) -> None:
        free = min((c.speed for c in scene.ceilings), default=scene.speed_span)
        edge = scene.position(box, min(free, scene.speed_span), 0).x()
        p.fillRect(QRectF(box.left(), box.top(), edge - box.left(), box.height()), theme.color("pale_petrol", 0.55))
        p.fillRect(
            QRectF(edge, box.top(), box.right() - edge, box.height()),
            QBrush(theme.color("line"), Qt.BrushStyle.BDiagPattern),
        )

    def _times(self, p: QPainter, box: QRectF, scene: PaceScene, placer: Placer) -> list[tuple[str, QLineF]]:
        """Rays of equal time to top speed: a = v / t; each with its words."""
        rays = []
        start = scene.position(box, 0, 0)
        p.setPen(QPen(theme.color("petrol", 0.55), 1, Qt.PenStyle.DotLine))
        for seconds in (0.05, 0.1, 0.2, 0.5, 1.0, 2.0):
            top = scene.speed_span / 60 / seconds
            if not scene.acceleration_span * 0.15 < top < scene.acceleration_span * 12:
                continue
            if top > scene.acceleration_span:
                end = scene.position(box, scene.acceleration_span * seconds * 60, scene.acceleration_span)
            else:
                end = scene.position(box, scene.speed_span, top)
            p.drawLine(start, end)
            placer.stroke(start, end)
            rays.append((f"{seconds:g} s", QLineF(start, end)))
        return rays

    def _name_rays(self, p: QPainter, rays: list[tuple[str, QLineF]], placer: Placer) -> None:
        p.setFont(theme.text_font(11))
        p.setPen(theme.color("petrol"))
        for words, ray in rays:
            width = p.fontMetrics().horizontalAdvance(words)
            along = [ray.pointAt(share) for share in (0.97, 0.88, 0.78, 0.68, 0.58, 0.48, 0.38)]
            placer.write(p, words, [place for at in along for place in beside(at, width, 4, 8)])

    def _axes(self, p: QPainter, box: QRectF, scene: PaceScene) -> None:
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(box)
        p.setFont(theme.text_font(11))
        metres = scene.speed_span >= 2000 and scene.reads.unit() is MM
        unit = "m/min" if metres else scene.reads.unit(Dimension.SPEED).symbol
        one = 1000 if metres else 1 / scene.reads.scale  # mm (°) in one of the units that stand there
        step = nice_step(scene.speed_span / one, 6)
        k = 0
        while k * step * one <= scene.speed_span:
            x = scene.position(box, k * step * one, 0).x()
            p.setPen(theme.color("soft"))
            p.drawText(QRectF(x - 30, box.bottom() + 3, 60, 14), Qt.AlignmentFlag.AlignHCenter, f"{k * step:g}")
            k += 1
        one = 1 / scene.reads.scale
        step = nice_step(scene.acceleration_span / one, 4)
        k = 0
        while k * step * one <= scene.acceleration_span:
            y = scene.position(box, 0, k * step * one).y()
            p.setPen(theme.color("soft"))
            p.drawText(
                QRectF(0, y - 8, LEFT - 6, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{k * step:g}",
            )
            k += 1
        p.drawText(QPointF(4, self.high - 6), f"acceleration, {scene.reads.unit(Dimension.ACCELERATION).symbol}")
        p.drawText(QRectF(0, self.high - 19, box.right(), 16), Qt.AlignmentFlag.AlignRight, f"top speed, {unit}")

    def _ceilings(self, p: QPainter, box: QRectF, scene: PaceScene, placer: Placer) -> None:
        for ceiling in scene.ceilings:
            if ceiling.speed > scene.speed_span:
                continue
            x = scene.position(box, ceiling.speed, 0).x()
            style = Qt.PenStyle.SolidLine if ceiling.hard else Qt.PenStyle.DashLine
            p.setPen(QPen(theme.color("ink"), 1.6, style))
            p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
            placer.stroke(QPointF(x, box.top()), QPointF(x, box.bottom()))

    def _name_ceilings(self, p: QPainter, box: QRectF, scene: PaceScene, placer: Placer) -> None:
        p.setPen(theme.color("ink"))
        p.setFont(theme.text_font(11, bold=True))
        inside = [ceiling for ceiling in scene.ceilings if ceiling.speed <= scene.speed_span]
        for ceiling in sorted(inside, key=lambda c: c.speed):
            x = scene.position(box, ceiling.speed, 0).x()
            width = p.fontMetrics().horizontalAdvance(ceiling.words)
            rows = [box.bottom() - 9 - 18 * row for row in range(8)]
            placer.write(p, ceiling.words, [QPointF(left, y) for left in (x - width - 6, x + 6) for y in rows])
        p.setFont(theme.text_font(11))
        p.setPen(theme.color("soft"))
        for ceiling in (c for c in scene.ceilings if c.speed > scene.speed_span):
            words = f"{ceiling.words} at {scene.reads.speed(ceiling.speed)}  ▸"
            if p.fontMetrics().horizontalAdvance(words) > box.width() - 10:
                words = f"{ceiling.words}  ▸"
            left = box.right() - 5 - p.fontMetrics().horizontalAdvance(words)
            placer.write(p, words, [QPointF(left, box.top() + 14 + 15 * row) for row in range(8)])

    def _torque(self, p: QPainter, box: QRectF, scene: PaceScene, placer: Placer) -> None:
        """Beyond the line the motor has no torque left; the share that the pace takes stands beside it."""
        line = scene.torque_line()
        if not line:
            return
        p.save()
        p.setClipRect(box)
        points = [scene.position(box, *point) for point in line]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("brass", 0.16))
        p.drawPolygon(QPolygonF([*points, box.topRight(), box.topLeft()]))
        p.setPen(QPen(theme.color("brass"), 2))
        p.drawPolyline(QPolygonF(points))
        p.restore()
        placer.stroke(*points)

    def _name_torque(self, p: QPainter, box: QRectF, scene: PaceScene, placer: Placer) -> None:
        if not scene.torque_line():
            return
        share = scene.torque_share
        words = "no torque left" if share is None or share >= 10 else f"{share * 100:.0f} % of the torque"
        p.setFont(theme.text_font(11, bold=True))
        p.setPen(theme.color("brass"))
        placer.write(
            p, words, [QPointF(box.left() + 7, box.bottom() - 52 + 15 * row) for row in (0, -1, 1, -2, 2, 3, -3)]
        )

    def _points(self, p: QPainter, box: QRectF, scene: PaceScene, placer: Placer) -> None:
        here = scene.position(box, scene.speed, scene.acceleration)
        name = "indigo" if scene.edited else "petrol"
        p.setPen(QPen(theme.color(name), 1, Qt.PenStyle.DotLine))
        p.drawLine(QPointF(box.left(), here.y()), here)
        p.drawLine(QPointF(here.x(), box.bottom()), here)
        if scene.edited:
            old = scene.position(box, scene.old_speed, scene.old_acceleration)
            p.setPen(QPen(theme.color("soft"), 1.4, Qt.PenStyle.DashLine))
            p.setBrush(theme.color("panel"))
            p.drawEllipse(old, 6, 6)
        p.setPen(QPen(theme.color("panel"), 2))
        p.setBrush(theme.color(name))
        p.drawEllipse(here, 8, 8)
        p.setPen(theme.color(name))
        p.setFont(theme.figure_font(12, bold=True))
        for far in (QPointF(box.left(), here.y()), QPointF(here.x(), box.bottom())):
            placer.stroke(far, here)
        placer.keep_clear(QRectF(here - QPointF(9, 9), here + QPointF(9, 9)))
        words = f"{scene.reads.speed(scene.speed)}, {scene.reads.acceleration(scene.acceleration)}"
        width = p.fontMetrics().horizontalAdvance(words)
        placer.write(p, words, [here + QPointF(-width / 2, y) for y in (-18, -32, 28, -46, 42)])
        if scene.saving is not None:
            self._saving(p, scene.position(box, scene.speed, scene.saving[0]), here, scene.saving[1], placer)

    def _saving(self, p: QPainter, there: QPointF, here: QPointF, words: str, placer: Placer) -> None:
        """What the program in hand would gain further up."""
        p.setPen(QPen(theme.color("petrol"), 1.6, Qt.PenStyle.DashLine))
        p.drawLine(here, there)
        placer.stroke(here, there)
        p.setPen(QPen(theme.color("petrol"), 2))
        p.setBrush(theme.color("panel"))
        p.drawPolygon([there + QPointF(0, -7), there + QPointF(7, 5), there + QPointF(-7, 5)])
        placer.keep_clear(QRectF(there - QPointF(8, 8), there + QPointF(8, 8)))
        p.setFont(theme.text_font(11, bold=True))
        placer.write(p, words, beside(there, p.fontMetrics().horizontalAdvance(words), 12, 10))
