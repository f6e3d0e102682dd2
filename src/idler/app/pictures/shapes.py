"""The three shapes of the velocity side by side: how each moves, how long it takes, and how it leaves the machine shaking."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from idler.core.mechanics.pace import Move, VelocityShape
from idler.core.values.measures import Measures

from .. import theme
from .move import curve
from .picture import Picture

GAP = 8.0


@dataclass(frozen=True)
class ShapeScene:
    """One shape. shaking: amplitude left in mm (°) as worked out, None where the frame's frequency is not known.

    seen: the same as the bench's gauge showed it.
    """

    shape: VelocityShape
    label: str
    move: Move
    shaking: float | None
    seen: float | None = None


class ShapesPicture(Picture):
    """A shape is chosen with a click, or with the arrow keys."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(150)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Shape of the velocity: arrow keys choose")
        self._scenes: tuple[ShapeScene, ...] = ()
        self._at = 0
        self._reads = Measures()

    def show_scenes(self, scenes: tuple[ShapeScene, ...], chosen: int, reads: Measures) -> None:
        self._scenes, self._at, self._reads = scenes, chosen, reads
        said = "; ".join(f"{scene.label}: {', '.join(self.figures(scene))}" for scene in scenes)
        self.setAccessibleDescription(said)
        self.update()

    def figures(self, scene: ShapeScene) -> tuple[str, str, str]:
        """Duration, peak jerk and shaking, as the picture says them."""
        jerk = scene.move.peak_jerk
        jerks = "jerk without limit" if math.isinf(jerk) else f"jerk {self._reads.jerk(jerk)}"
        known = scene.shaking is not None
        shakes = f"shakes ± {self._reads.length(scene.shaking or 0.0)}" if known else "shaking not known"
        if scene.seen is not None:
            shakes += f", seen {self._reads.length(scene.seen)}"
        return f"{scene.move.duration:.3f} s", jerks, shakes

    def _columns(self) -> list[QRectF]:
        width = (self.wide - GAP * (len(self._scenes) - 1)) / max(1, len(self._scenes))
        return [QRectF(k * (width + GAP), 0, width, self.high) for k in range(len(self._scenes))]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for scene, column in zip(self._scenes, self._columns(), strict=True):
            if column.contains(self.hand(event)):
                self.chosen.emit(scene.shape.value)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None or not self._scenes:
            super().keyPressEvent(event)
        elif 0 <= self._at + step < len(self._scenes):
            self.chosen.emit(self._scenes[self._at + step].shape.value)

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        if not self._scenes:
            p.setPen(theme.color("soft"))
            p.drawText(self.room, Qt.AlignmentFlag.AlignCenter, "This axis would not move")
            return
        longest = max(scene.move.duration for scene in self._scenes)
        highest = max(scene.move.peak for scene in self._scenes) * 1.1
        for place, (scene, column) in enumerate(zip(self._scenes, self._columns(), strict=True)):
            self._column(p, column.adjusted(1, 1, -1, -1), scene, place == self._at, longest, highest)

    def _column(
        self, p: QPainter, box: QRectF, scene: ShapeScene, chosen: bool, longest: float, highest: float
    ) -> None:
        p.setPen(QPen(theme.color("petrol" if chosen else "line"), 2 if chosen else 1))
        p.setBrush(theme.color("pale_petrol", 0.45) if chosen else theme.color("paper"))
        p.drawRoundedRect(box, 4, 4)
        if chosen and self.hasFocus():
            p.setPen(QPen(theme.color("ink"), 1, Qt.PenStyle.DotLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRoundedRect(box.adjusted(3, 3, -3, -3), 3, 3)
        p.setPen(theme.color("ink"))
        p.setFont(theme.text_font(13, bold=True))
        p.drawText(
            QRectF(box.left() + 10, box.top() + 5, box.width() - 20, 18), Qt.AlignmentFlag.AlignLeft, scene.label
        )
        lines = self.figures(scene)
        graph = QRectF(box.left() + 10, box.top() + 28, box.width() - 20, box.height() - 34 - 17 * len(lines))
        points = [
            QPointF(graph.left() + t / longest * graph.width(), graph.bottom() - v / highest * graph.height())
            for t, v in curve(scene.move)
        ]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("petrol", 0.14))
        p.drawPolygon(QPolygonF(points))
        p.setPen(QPen(theme.color("petrol"), 2))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPolyline(QPolygonF(points))
        self._ringing(p, graph, scene, points[-1].x())
        y = graph.bottom() + 4
        for place, line in enumerate(lines):
            p.setFont(theme.figure_font(14, bold=True) if not place else theme.text_font(12))
            p.setPen(theme.color("ink" if not place else "soft"))
            p.drawText(QRectF(box.left() + 10, y, box.width() - 16, 17), Qt.AlignmentFlag.AlignLeft, line)
            y += 17

    def _ringing(self, p: QPainter, graph: QRectF, scene: ShapeScene, start: float) -> None:
        """What is left after the end, as a dying wave on the base line; its height grows with the logarithm of it."""
        if not scene.shaking or start > graph.right() - 8:
            return
        height = min(14.0, max(0.0, 5.0 * (math.log10(scene.shaking) + 3.5)))
        points = []
        for k in range(40):
            x = start + k / 39 * (graph.right() - start)
            points.append(QPointF(x, graph.bottom() - 7 - height * math.sin(k * 0.9) * math.exp(-k / 22)))
        p.setPen(QPen(theme.color("brass"), 1.6))
        p.drawPolyline(QPolygonF(points))
