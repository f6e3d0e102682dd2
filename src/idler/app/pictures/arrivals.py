"""Readings of one place, arrival by arrival: where each ended, by how it came, against what is wanted."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from idler.core.geometry.comeback import Approach, Arrival, Comeback
from idler.core.values.measures import Measures

from .. import theme
from .labels import Placer
from .pacemap import nice_step
from .picture import ScenePicture

LEFT, RIGHT, TOP, BOTTOM = 76, 24, 34, 64
SIZE = 5.5  # pixels: half of a mark
FEWEST = 12  # arrivals that there is room for at least


@dataclass(frozen=True)
class ArrivalScene:
    """tolerance: ± mm around the middle of what was read."""

    name: str
    arrivals: tuple[Arrival, ...]
    found: Comeback | None
    tolerance: float
    reads: Measures

    @property
    def middle(self) -> float:
        """mm, half-way between the outermost readings."""
        values = [each.value for each in self.arrivals] or [0.0]
        return (min(values) + max(values)) / 2

    @property
    def span(self) -> float:
        """mm from the middle to the edge of the picture."""
        furthest = max((abs(each.value - self.middle) for each in self.arrivals), default=0.0)
        return 1.25 * max(self.tolerance, furthest + (self.found.expanded if self.found is not None else 0.0))


def _mark(p: QPainter, approach: Approach, at: QPointF) -> None:
    """A ring or disc for near, a diamond for far; full where it came fast."""
    color = theme.color("brass" if approach.far else "petrol")
    p.setPen(QPen(color, 2))
    p.setBrush(color if approach.fast else theme.color("panel"))
    if approach.far:
        p.drawPolygon(
            QPolygonF([at + QPointF(x * 1.3 * SIZE, y * 1.3 * SIZE) for x, y in ((0, -1), (1, 0), (0, 1), (-1, 0))])
        )
    else:
        p.drawEllipse(at, SIZE, SIZE)


class ArrivalPicture(ScenePicture[ArrivalScene]):
    def words(self, scene: ArrivalScene) -> str:
        said = ", ".join(f"{scene.reads.length(each.value, 3)} {each.approach.words}" for each in scene.arrivals)
        return f"Where {scene.name} came back to: {said or 'not measured yet'}"

    def paint(self, p: QPainter, scene: ArrivalScene) -> None:
        box = QRectF(LEFT, TOP, self.wide - LEFT - RIGHT, self.high - TOP - BOTTOM)
        number = max(FEWEST, len(scene.arrivals))

        def at(turn: float, value: float) -> QPointF:
            share = (value - scene.middle) / scene.span
            return QPointF(
                box.left() + (turn + 0.5) / number * box.width(), box.center().y() - share * box.height() / 2
            )

        low, high = (at(0, scene.middle + way * scene.tolerance).y() for way in (-1, 1))
        p.fillRect(box, theme.color("paper"))
        p.fillRect(QRectF(box.left(), high, box.width(), low - high), theme.color("pale_petrol"))
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(box)
        placer = Placer(self.room)
        self._scale(p, box, scene, at(0, scene.middle).y())
        if scene.found is not None:
            slope = scene.found.drift.value / 2
            ends = at(0, scene.middle - slope), at(number - 1, scene.middle + slope)
            p.setPen(QPen(theme.color("soft"), 1.5, Qt.PenStyle.DotLine))
            p.drawLine(*ends)
            placer.stroke(*ends)
        for turn, each in enumerate(scene.arrivals):
            point = at(turn, each.value)
            if scene.found is not None:
                p.setPen(QPen(theme.color("soft"), 1.5))
                p.drawLine(at(turn, each.value - scene.found.expanded), at(turn, each.value + scene.found.expanded))
            _mark(p, each.approach, point)
        p.setFont(theme.text_font(12))
        p.setPen(theme.color("petrol"))
        words = f"wanted: within ± {scene.reads.length(scene.tolerance, 3, trim=True)}"
        p.drawText(QPointF(box.left(), box.top() - 12), words)
        self._legend(p, box)

    def _scale(self, p: QPainter, box: QRectF, scene: ArrivalScene, middle: float) -> None:
        step = nice_step(2 * scene.span * scene.reads.scale, 5) / scene.reads.scale
        p.setFont(theme.figure_font(12))
        for k in range(-int(scene.span / step), int(scene.span / step) + 1):
            y = middle - k * step / scene.span * box.height() / 2
            p.setPen(QPen(theme.color("line" if k else "soft"), 1))
            p.drawLine(QLineF(box.left() - 4, y, box.left() if k else box.right(), y))
            p.setPen(theme.color("soft"))
            area = QRectF(0, y - 8, LEFT - 8, 16)
            p.drawText(
                area, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, scene.reads.length(k * step, 3)
            )

    def _legend(self, p: QPainter, box: QRectF) -> None:
        p.setFont(theme.text_font(13))
        p.setPen(theme.color("soft"))
        y = box.bottom() + 20
        words = "arrivals in their order"
        p.drawText(QPointF(box.center().x() - p.fontMetrics().horizontalAdvance(words) / 2, y), words)
        x, y = box.left() + 4, box.bottom() + 46
        for approach in Approach:
            _mark(p, approach, QPointF(x + SIZE, y - 4))
            p.setPen(theme.color("ink"))
            p.drawText(QPointF(x + 20, y), approach.words)
            x += 34 + p.fontMetrics().horizontalAdvance(approach.words)
