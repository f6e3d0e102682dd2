"""The envelope in plan and elevation, to scale: stops, soft limits, cushions, switches, home, parking, the tool."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from idler.core.travel import Ends
from idler.core.values.measures import MILLIMETRES, Measures

from .. import theme
from .picture import Picture

GAP, FRAME = 34.0, 26.0


@dataclass(frozen=True)
class View:
    """One drawing: an axis to the right and one up, and what it is called."""

    across: Ends
    up: Ends
    words: str


@dataclass(frozen=True)
class EnvelopeScene:
    """at: coordinates by letter, empty while they are not known. trail: of the last run, as (letter, coordinate) by step."""

    views: tuple[View, ...]
    chosen: str
    at: dict[str, float]
    trail: tuple[dict[str, float], ...] = ()
    reads: Measures = MILLIMETRES


class EnvelopePicture(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(200)
        self._scene: EnvelopeScene | None = None

    def show_scene(self, scene: EnvelopeScene) -> None:
        if scene != self._scene:
            self._scene = scene
            self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        if self._scene is None or not self._scene.views:
            p.setPen(theme.color("soft"))
            p.drawText(self.room, Qt.AlignmentFlag.AlignCenter, "Two linear axes with their ends make the drawing.")
            return
        views = self._scene.views
        width = (self.wide - GAP * (len(views) - 1) - 2 * FRAME) / len(views)
        height = self.high - 20 - 2 * FRAME
        spans = [(_length(view.across), _length(view.up)) for view in views]
        scale = min(min(width / across, height / up) for across, up in spans)
        left = FRAME + max(0.0, (self.wide - 2 * FRAME - GAP * (len(views) - 1) - sum(a for a, _ in spans) * scale) / 2)
        for view, (across, up) in zip(views, spans, strict=True):
            box = QRectF(left, 20 + FRAME + (height - up * scale) / 2, across * scale, up * scale)
            self._view(p, view, box, scale)
            left += across * scale + GAP

    def _view(self, p: QPainter, view: View, box: QRectF, scale: float) -> None:
        scene = self._scene
        assert scene is not None
        low_x, low_y = view.across.span[0], view.up.span[0]

        def at(x: float, y: float) -> QPointF:
            return QPointF(box.left() + (x - low_x) * scale, box.bottom() - (y - low_y) * scale)

        p.setFont(theme.text_font(12))
        p.setPen(theme.color("soft"))
        p.drawText(QPointF(box.left(), box.top() - 12), view.words)
        a, b = view.across, view.up
        if a.stops is not None and b.stops is not None:
            p.setPen(QPen(theme.color("ink"), 2.4))
            p.setBrush(theme.color("metal", 0.35))
            p.drawRect(QRectF(at(a.stops[0], b.stops[1]), at(a.stops[1], b.stops[0])))
        if a.low < a.high and b.low < b.high:
            inside = QRectF(at(a.low, b.high), at(a.high, b.low))
            on = a.limits_on and b.limits_on
            p.setPen(
                QPen(theme.color("ink" if on else "brass"), 1.6, Qt.PenStyle.SolidLine if on else Qt.PenStyle.DashLine)
            )
            p.setBrush(theme.color("panel"))
            p.drawRect(inside)
            self._cushions(p, inside, a.cushion * scale, b.cushion * scale)
            if not on:
                p.setPen(theme.color("brass"))
                p.setFont(theme.text_font(12, bold=True))
                p.drawText(inside, Qt.AlignmentFlag.AlignCenter, "soft limits off")
        self._switches(p, box, view, at)
        self._chosen(p, box, view, at)
        self._trail(p, view, at)
        self._points(p, view, at)

    def _cushions(self, p: QPainter, inside: QRectF, across: float, up: float) -> None:
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("pale_brass", 0.75))
        if across > 0:
            p.drawRect(QRectF(inside.left(), inside.top(), across, inside.height()))
            p.drawRect(QRectF(inside.right() - across, inside.top(), across, inside.height()))
        if up > 0:
            p.drawRect(QRectF(inside.left(), inside.top(), inside.width(), up))
            p.drawRect(QRectF(inside.left(), inside.bottom() - up, inside.width(), up))

    def _switches(self, p: QPainter, box: QRectF, view: View, at: Callable[[float, float], QPointF]) -> None:
        p.setPen(QPen(theme.color("ink"), 3, Qt.PenStyle.DotLine))
        if view.across.switch is not None:
            x = at(view.across.switch, view.up.span[0]).x()
            p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        if view.up.switch is not None:
            y = at(view.across.span[0], view.up.switch).y()
            p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))

    def _chosen(self, p: QPainter, box: QRectF, view: View, at: Callable[[float, float], QPointF]) -> None:
        """The ends of the axis in question, with their figures."""
        scene = self._scene
        assert scene is not None
        p.setFont(theme.figure_font(11, bold=True))
        p.setPen(theme.color("petrol"))
        for ends, level in ((view.across, True), (view.up, False)):
            if ends.name != scene.chosen or ends.low >= ends.high:
                continue
            for value in (ends.low, ends.high):
                words = scene.reads.length(value, trim=True)
                if level:
                    x = at(value, view.up.span[0]).x()
                    first = value == ends.low  # each grows to the inside, clear of what is drawn beside
                    side = Qt.AlignmentFlag.AlignLeft if first else Qt.AlignmentFlag.AlignRight
                    p.drawText(QRectF(x - 8 if first else x - 92, box.bottom() + 5, 100, 15), side, words)
                else:
                    y = at(view.across.span[0], value).y()
                    right = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
                    p.drawText(QRectF(box.right() + 4, y - 8, 100, 16), right, words)

    def _trail(self, p: QPainter, view: View, at: Callable[[float, float], QPointF]) -> None:
        scene = self._scene
        assert scene is not None
        names = view.across.name, view.up.name
        points = [at(*(place[name] for name in names)) for place in scene.trail if all(name in place for name in names)]
        if len(points) > 1:
            p.setPen(QPen(theme.color("indigo"), 1.6, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPolyline(QPolygonF(points))

    def _points(self, p: QPainter, view: View, at: Callable[[float, float], QPointF]) -> None:
        scene = self._scene
        assert scene is not None
        if view.across.home is not None and view.up.home is not None:
            tip = at(view.across.home, view.up.home)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.color("petrol"))
            p.drawPolygon(QPolygonF([tip, tip + QPointF(-6, -10), tip + QPointF(6, -10)]))
        if view.across.park is not None and view.up.park is not None:
            park = at(view.across.park, view.up.park)
            p.setPen(QPen(theme.color("ink"), 1.4))
            p.setBrush(theme.color("panel"))
            p.drawRect(QRectF(park.x() - 7, park.y() - 7, 14, 14))
            p.setFont(theme.text_font(11, bold=True))
            p.drawText(QRectF(park.x() - 7, park.y() - 7, 14, 14), Qt.AlignmentFlag.AlignCenter, "P")
        if view.across.name in scene.at and view.up.name in scene.at:
            here = at(scene.at[view.across.name], scene.at[view.up.name])
            p.setPen(QPen(theme.color("petrol"), 2))
            p.setBrush(theme.color("pale_petrol"))
            p.drawEllipse(here, 6, 6)
            p.drawLine(here - QPointF(12, 0), here + QPointF(12, 0))
            p.drawLine(here - QPointF(0, 12), here + QPointF(0, 12))


def _length(ends: Ends) -> float:
    low, high = ends.span
    return high - low
