"""The play of an axis along its travel: what is left at each place with its bar, against what is wanted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from idler.core.geometry.play import PlayAt
from idler.core.values.measures import Measures

from .. import theme
from .labels import Placer, beside
from .pacemap import nice_step
from .picture import ScenePicture

LEFT, RIGHT, TOP, BOTTOM = 76, 24, 20, 44


@dataclass(frozen=True)
class PlayScene:
    """places: where it is measured, mm; pairs: place and what one pair of readings says; tolerance in mm."""

    name: str
    low: float
    high: float
    places: tuple[float, ...]
    found: tuple[PlayAt, ...]
    pairs: tuple[tuple[float, float], ...]
    tolerance: float
    reads: Measures
    here: float | None = None

    @property
    def span(self) -> tuple[float, float]:
        """The least and the most that the picture shows, mm."""
        values = [each.play + way * each.expanded for each in self.found for way in (-1, 1)]
        values += [value for _, value in self.pairs]
        low, high = min([-self.tolerance, *values]), max([self.tolerance, *values])
        room = 0.15 * (high - low)
        return low - room, high + room


class PlayPicture(ScenePicture[PlayScene]):
    def words(self, scene: PlayScene) -> str:
        said = ", ".join(
            f"{scene.reads.length(each.play, 3)} at {scene.reads.length(each.at, 0)}" for each in scene.found
        )
        return f"Play of {scene.name}: {said or 'not measured yet'}"

    def paint(self, p: QPainter, scene: PlayScene) -> None:
        box = QRectF(LEFT, TOP, self.wide - LEFT - RIGHT, self.high - TOP - BOTTOM)
        low, high = scene.span

        def at(place: float, value: float) -> QPointF:
            share = (place - scene.low) / max(1e-9, scene.high - scene.low)
            return QPointF(box.left() + share * box.width(), box.bottom() - (value - low) / (high - low) * box.height())

        placer = Placer(box)
        self._ground(p, box, scene, at(scene.low, scene.tolerance).y(), at(scene.low, -scene.tolerance).y())
        self._scale(p, box, scene, placer, lambda value: at(scene.low, value).y())
        p.setFont(theme.text_font(12))
        for place in scene.places:
            x = at(place, 0).x()
            p.setPen(QPen(theme.color("line"), 1, Qt.PenStyle.DashLine))
            p.drawLine(QLineF(x, box.top(), x, box.bottom()))
            p.setPen(theme.color("soft"))
            words = f"{scene.name} {scene.reads.length(place, 1, trim=True)}"
            wide = p.fontMetrics().horizontalAdvance(words)
            p.drawText(QPointF(min(max(x - wide / 2, 4), self.wide - wide - 4), box.bottom() + 18), words)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("soft"))
        for number, (place, value) in enumerate(scene.pairs):
            p.drawEllipse(at(place, value) + QPointF(9 + 5 * (number % 3), 0), 2, 2)
        self._found(p, scene, at, placer)
        p.setPen(theme.color("petrol"))
        p.setFont(theme.text_font(12))
        words = f"wanted: within {scene.reads.length(scene.tolerance, 3, trim=True)}"
        start = box.left() + box.width() / 4 - p.fontMetrics().horizontalAdvance(words) / 2
        placer.write(p, words, [QPointF(start, at(0, way * scene.tolerance).y() - 5) for way in (1, -1)], "pale_petrol")

    def _ground(self, p: QPainter, box: QRectF, scene: PlayScene, top: float, bottom: float) -> None:
        p.fillRect(box, theme.color("paper"))
        p.fillRect(QRectF(box.left(), top, box.width(), bottom - top), theme.color("pale_petrol"))
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(box)

    def _scale(self, p: QPainter, box: QRectF, scene: PlayScene, placer: Placer, y: Callable[[float], float]) -> None:
        low, high = scene.span
        step = nice_step((high - low) * scene.reads.scale, 5) / scene.reads.scale
        p.setFont(theme.figure_font(12))
        value = step * int(low / step)
        while value <= high:
            if value >= low:
                p.setPen(QPen(theme.color("ink" if abs(value) < step / 2 else "line"), 1))
                p.drawLine(QLineF(box.left() - 4, y(value), box.left(), y(value)))
                if abs(value) < step / 2:
                    p.drawLine(QLineF(box.left(), y(value), box.right(), y(value)))
                    placer.stroke(QPointF(box.left(), y(value)), QPointF(box.right(), y(value)))
                p.setPen(theme.color("soft"))
                words = scene.reads.length(value if abs(value) > step / 2 else 0.0, 3)
                area = QRectF(0, y(value) - 8, LEFT - 8, 16)
                p.drawText(area, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
            value += step

    def _found(self, p: QPainter, scene: PlayScene, at: Callable[[float, float], QPointF], placer: Placer) -> None:
        ink = theme.color("ink")
        points = [at(each.at, each.play) for each in scene.found]
        p.setPen(QPen(theme.color("petrol"), 1.5, Qt.PenStyle.DotLine))
        p.drawPolyline(points)
        placer.stroke(*points)
        p.setFont(theme.figure_font(13, bold=True))
        for each, point in zip(scene.found, points, strict=True):
            ends = at(each.at, each.play - each.expanded), at(each.at, each.play + each.expanded)
            p.setPen(QPen(ink, 2))
            p.drawLine(*ends)
            for end in ends:
                p.drawLine(end - QPointF(5, 0), end + QPointF(5, 0))
            p.setBrush(theme.color("petrol"))
            p.drawEllipse(point, 4.5, 4.5)
            placer.stroke(*ends)
            p.setPen(ink)
            words = scene.reads.length(each.play, 3)
            placer.write(p, words, beside(point, p.fontMetrics().horizontalAdvance(words), 14), "paper")
