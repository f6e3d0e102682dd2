"""What one homing did: position over time with its phases, and below it the switch's terminal."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from idler.core.values.measures import Measures
from idler.core.values.units import figure

from .. import theme
from .curves import draw_curve
from .picture import Picture

HEIGHT = 96
FOOT = 18.0  # pixels of the terminal's line


@dataclass(frozen=True)
class RunTraceScene:
    """points: seconds, coordinate in mm (°), whether the switch was made. marks: seconds at which phases began."""

    points: Sequence[tuple[float, float, bool]]
    marks: Sequence[float]
    terminal: str
    reads: Measures
    failed: bool


class RunTrace(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(HEIGHT)
        self._scene: RunTraceScene | None = None

    def show_scene(self, scene: RunTraceScene | None) -> None:
        """None, or a run that is too short to be seen, hides it."""
        self._scene = scene if scene is not None and len(scene.points) > 1 else None
        self.setVisible(self._scene is not None)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self._scene is None:
            return
        s, p = self._scene, self.painter()
        box = QRectF(1, 1, self.wide - 2, self.high - 2)
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(theme.color("panel"))
        p.drawRoundedRect(box, 3, 3)
        times, places = [t for t, _, _ in s.points], [y for _, y, _ in s.points]
        first, span = times[0], max(times[-1] - times[0], 0.05)
        low, high = min(places), max(places)
        reach = max(high - low, 0.05)
        left, width = box.left() + 6, box.width() - 12
        top, height = box.top() + 18, box.height() - FOOT - 28

        def at(time: float, place: float) -> QPointF:
            return QPointF(left + (time - first) / span * width, top + (high - place) / reach * height)

        p.setFont(theme.text_font(10))
        for mark in s.marks:
            p.setPen(QPen(theme.color("line"), 1))
            p.drawLine(QPointF(at(mark, low).x(), top), QPointF(at(mark, low).x(), box.bottom() - 4))
        p.setPen(QPen(theme.color("petrol"), 1.8))
        draw_curve(p, [at(t, y) for t, y, _ in s.points])
        p.setPen(theme.color("petrol"))
        p.drawText(QPointF(left, box.top() + 12), f"position, {s.reads.length(reach, 2)} in {figure(span, 1)} s")
        self._terminal(p, s, box, at)
        if s.failed:
            end = at(times[-1], places[-1])
            p.setPen(QPen(theme.color("ink"), 2.2))
            for a, b in ((-4, -4), (-4, 4)):
                p.drawLine(end + QPointF(a, b), end + QPointF(-a, -b))

    def _terminal(self, p: QPainter, s: RunTraceScene, box: QRectF, at: Callable[[float, float], QPointF]) -> None:
        """Up is made. What a filter swallowed does not show here."""
        base = box.bottom() - 5
        line = []
        for (t, y, made), (after, _, _) in zip(s.points, [*s.points[1:], s.points[-1]], strict=True):
            level = base - (FOOT - 8 if made else 0)
            line += [QPointF(at(t, y).x(), level), QPointF(at(after, y).x(), level)]
        p.setPen(QPen(theme.color("ink"), 1.6))
        p.setBrush(Qt.BrushStyle.NoBrush)
        draw_curve(p, line)
        words = f"{s.terminal}: made" if any(made for _, _, made in s.points) else f"{s.terminal}: never made"
        wide = p.fontMetrics().horizontalAdvance(words)
        p.fillRect(QRectF(box.left() + 4, base - FOOT - 1, wide + 4, 12), theme.color("panel", 0.85))
        p.setPen(theme.color("ink"))
        p.drawText(QPointF(box.left() + 6, base - FOOT + 8), words)
