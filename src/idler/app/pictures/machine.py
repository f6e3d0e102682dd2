"""A machine drawn to scale from above and from the front, at the place where its axes stand."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from idler.core.homing import extent_of
from idler.core.machine import Address, Machine
from idler.core.values.measures import MILLIMETRES, Measures

from .. import theme
from .lathe import LatheScene, draw_lathe
from .picture import Picture
from .scalebar import scale_bar
from .span import Span

GAP = 24.0  # pixels between the two drawings


@dataclass(frozen=True)
class Scene:
    """X, Y and Z of a mill or router, mm; turn: the dividing head in degrees or None. known: whether positions can be trusted.

    beam: the tool hangs on a beam along X. skew: how much further its right side stands than its left, mm.
    """

    x: Span
    y: Span
    z: Span
    turn: float | None = None
    known: bool = True
    beam: bool = False
    skew: float = 0.0
    reads: Measures = MILLIMETRES


def scene_of(machine: Machine, positions: dict[str, float], known: bool) -> Scene | LatheScene | None:
    """The scene of a lathe with X and Z, or of a machine with X, Y and Z; None for another."""
    kind = machine[Address(None, "build.kind")]
    spans = {}
    turn = None
    for axis in machine.axes:
        at = positions.get(axis.name)
        if axis.rotary:
            turn = at if at is not None else 0.0
            continue
        if (extent := extent_of(axis)) is None:
            return None
        low, high = map(float, extent)
        soft = [float(axis.number(key)) for key in ("travel.low", "travel.high")]
        if soft[0] >= soft[1]:
            soft = [low, high]
        here = (low + high) / 2 if at is None or not known else min(max(at, low), high)
        spans[axis.name] = Span(low, high, soft[0], soft[1], here, axis.choice("axis.moves") == "tool")
    if kind == "lathe" and {"X", "Z"} <= spans.keys():
        return LatheScene(
            spans["X"], spans["Z"], machine[Address(None, "build.post")] == "behind", turn, known, machine.reads
        )
    if not {"X", "Y", "Z"} <= spans.keys():
        return None
    return Scene(spans["X"], spans["Y"], spans["Z"], turn, known, kind in ("router", "table"), reads=machine.reads)


def _coarse(scene: Scene | LatheScene) -> tuple[object, ...]:
    """The scene to a millimetre and a degree, about a pixel of the picture."""
    if isinstance(scene, LatheScene):
        return scene.coarse()
    spans = tuple(
        (s.low, s.high, s.soft_low, s.soft_high, round(s.at), s.tool_moves) for s in (scene.x, scene.y, scene.z)
    )
    return (
        *spans,
        None if scene.turn is None else round(scene.turn),
        scene.known,
        scene.beam,
        round(scene.skew, 1),
        scene.reads,
    )


class MachinePicture(Picture):
    """Plan and front elevation side by side or one below the other, both to one scale; what really moves moves."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(126)
        self._scene: Scene | LatheScene | None = None

    def show_scene(self, scene: Scene | LatheScene | None) -> None:
        """Paints anew only where something has moved by what can be seen."""
        if scene is None or self._scene is None or _coarse(scene) != _coarse(self._scene):
            self._scene = scene
            self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        scene = self._scene
        if scene is None:
            p.setPen(theme.color("soft"))
            p.drawText(self.room, Qt.AlignmentFlag.AlignCenter, "X, Y and Z with their hard stops make the drawing.")
            return
        if isinstance(scene, LatheScene):
            draw_lathe(p, scene, self.wide, self.high)
            return
        table_w, table_d = scene.x.length * 1.3, scene.y.length * 0.8
        reach_w, reach_d = table_w + scene.x.length, table_d + scene.y.length  # the table's way to both sides
        height = scene.z.length * 2.1
        wide, high = self.wide - 24, self.high - 44
        beside = min((wide - GAP) / (2 * reach_w), high / max(reach_d, height))
        stacked = min(wide / reach_w, (high - GAP) / (reach_d + height))
        scale = max(beside, stacked)
        if beside >= stacked:
            left, used = (self.wide - 2 * reach_w * scale - GAP) / 2, max(reach_d, height) * scale
            top = 24 + (high - used) / 2
            second = QPointF(left + reach_w * scale + GAP, top)
        else:
            left, used = (self.wide - reach_w * scale) / 2, (reach_d + height) * scale + GAP
            top = 24 + (high - used) / 2
            second = QPointF(left, top + reach_d * scale + GAP)
        self._plan(p, scene, left, top, scale, reach_w, reach_d, table_w, table_d)
        self._front(p, scene, second.x(), second.y(), scale, reach_w, height, table_w)
        scale_bar(p, left, top + used + 14, scale, 100.0, scene.reads)

    def _offset(self, span: Span) -> float:
        """How far the table stands from its middle: the tool at + means the table at −."""
        return 0.0 if span.tool_moves else (span.low + span.high) / 2 - span.at

    def _tool(self, span: Span) -> float:
        """How far the tool stands from the middle of the drawing."""
        return span.at - (span.low + span.high) / 2 if span.tool_moves else 0.0

    def _caption(self, p: QPainter, x: float, y: float, words: str, room: float = math.inf) -> None:
        """Only what comes before the colon, where there is little room."""
        p.setFont(theme.text_font(12))
        p.setPen(theme.color("soft"))
        if p.fontMetrics().horizontalAdvance(words) > room:
            words = words.partition(":")[0]
        p.drawText(QPointF(x, y), words)

    def _plan(
        self, p: QPainter, s: Scene, left: float, top: float, k: float, rw: float, rd: float, tw: float, td: float
    ) -> None:
        self._caption(p, left, top - 8, "from above: X + to the right, Y + up", rw * k)
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(theme.color("rails"))
        p.drawRoundedRect(QRectF(left, top, rw * k, rd * k), 4, 4)
        cx, cy = left + rw * k / 2, top + rd * k / 2
        x, y = cx + self._offset(s.x) * k, cy - self._offset(s.y) * k
        table = QRectF(x - tw * k / 2, y - td * k / 2, tw * k, td * k)
        p.setPen(QPen(theme.color("ink"), 1.4))
        p.setBrush(theme.color("panel"))
        p.drawRoundedRect(table, 2, 2)
        p.setPen(QPen(theme.color("line"), 3))
        for share in (0.25, 0.5, 0.75):
            p.drawLine(QPointF(table.left() + 3, table.top() + share * table.height()),
                       QPointF(table.right() - 3, table.top() + share * table.height()))  # fmt: skip
        # what the tool can reach over the table, hard stops and soft limits
        middle_x, middle_y = (s.x.low + s.x.high) / 2, (s.y.low + s.y.high) / 2
        for low_x, high_x, low_y, high_y, style in (
            (s.x.low, s.x.high, s.y.low, s.y.high, Qt.PenStyle.SolidLine),
            (s.x.soft_low, s.x.soft_high, s.y.soft_low, s.y.soft_high, Qt.PenStyle.DashLine),
        ):
            p.setPen(QPen(theme.color("soft"), 1, style))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(QRectF(x + (low_x - middle_x) * k, y - (high_y - middle_y) * k,
                              (high_x - low_x) * k, (high_y - low_y) * k))  # fmt: skip
        cx, cy = cx + self._tool(s.x) * k, cy - self._tool(s.y) * k
        if s.beam:
            self._beam(p, QRectF(left, cy - 9, rw * k, 18), s.skew, s.reads)
        p.setPen(QPen(theme.color("petrol"), 2))
        p.drawEllipse(QPointF(cx, cy), 7, 7)
        p.drawLine(QPointF(cx - 12, cy), QPointF(cx + 12, cy))
        p.drawLine(QPointF(cx, cy - 12), QPointF(cx, cy + 12))
        if s.turn is not None:
            self._head(p, table.right() - 0.09 * table.width(), table.center().y(), 0.055 * table.width(), s.turn)

    def _beam(self, p: QPainter, box: QRectF, skew: float, reads: Measures) -> None:
        """The beam of a router; a skew is drawn twenty times as large, and said."""
        tilt = 20 * skew * box.height() / 100
        p.setPen(QPen(theme.color("ink"), 1.4))
        p.setBrush(theme.color("metal", 0.6))
        p.drawPolygon(QPolygonF([box.topLeft() + QPointF(0, tilt), box.topRight() - QPointF(0, tilt),
                                 box.bottomRight() - QPointF(0, tilt), box.bottomLeft() + QPointF(0, tilt)]))  # fmt: skip
        if abs(skew) >= 0.1:
            self._caption(p, box.left() + 6, box.top() - 4, f"the beam is {reads.length(abs(skew), 1)} askew")

    def _head(self, p: QPainter, x: float, y: float, r: float, turn: float) -> None:
        p.setPen(QPen(theme.color("ink"), 1.2))
        p.setBrush(theme.color("pale_brass"))
        p.drawEllipse(QPointF(x, y), r, r)
        p.save()
        p.translate(x, y)
        p.rotate(-turn)
        p.setPen(QPen(theme.color("petrol"), 2))
        p.drawLine(QPointF(0, 0), QPointF(r, 0))
        p.restore()

    def _front(
        self, p: QPainter, s: Scene, left: float, top: float, k: float, rw: float, height: float, tw: float
    ) -> None:
        self._caption(p, left, top - 8, "from the front: X + to the right, Z + up", rw * k)
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(theme.color("rails"))
        p.drawRoundedRect(QRectF(left, top, rw * k, height * k), 4, 4)
        cx, floor = left + rw * k / 2, top + height * k
        p.setPen(QPen(theme.color("ink"), 1.4))
        p.setBrush(theme.color("metal"))
        column = 0.22 * s.x.length * k
        if not s.beam:
            p.drawRect(QRectF(cx - column / 2, top + 6, column, height * k - 6))
        p.drawRect(
            QRectF(cx - 0.5 * s.x.length * k, floor - 0.32 * s.z.length * k, s.x.length * k, 0.32 * s.z.length * k)
        )
        table_top = floor - 0.5 * s.z.length * k
        x = cx + self._offset(s.x) * k
        p.setBrush(theme.color("panel"))
        p.drawRoundedRect(QRectF(x - tw * k / 2, table_top, tw * k, 0.16 * s.z.length * k), 2, 2)
        cx += self._tool(s.x) * k
        nose = table_top - (s.z.at - s.z.low) * k - 3
        width = 0.3 * s.x.length * k
        p.setBrush(theme.color("pale_petrol"))
        p.setPen(QPen(theme.color("petrol"), 1.6))
        p.drawRoundedRect(QRectF(cx - width / 2, nose - 0.62 * s.z.length * k, width, 0.46 * s.z.length * k), 3, 3)
        p.drawPolygon(QPolygonF([QPointF(cx - 6, nose - 0.16 * s.z.length * k), QPointF(cx + 6, nose - 0.16 * s.z.length * k),
                                 QPointF(cx + 2.5, nose), QPointF(cx - 2.5, nose)]))  # fmt: skip
        p.setPen(QPen(theme.color("soft"), 1))
        edge = left + rw * k - 16
        for value, solid in ((s.z.low, True), (s.z.high, True), (s.z.soft_low, False), (s.z.soft_high, False)):
            y = table_top - (value - s.z.low) * k - 3
            p.setPen(QPen(theme.color("soft"), 1, Qt.PenStyle.SolidLine if solid else Qt.PenStyle.DashLine))
            p.drawLine(QPointF(edge - 8, y), QPointF(edge + 8, y))
        p.drawLine(QPointF(edge, table_top - 3), QPointF(edge, table_top - s.z.length * k - 3))
