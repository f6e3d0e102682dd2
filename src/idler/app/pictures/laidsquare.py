"""A square on the bed, laid twice: where the dial is carried, what it said, and how the axes stand, exaggerated."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from idler.core.geometry.blade import Laying
from idler.core.geometry.spanner import Part, Turn
from idler.core.values.measures import Measures

from .. import theme
from .exaggerated import times
from .labels import Placer, beside
from .picture import ScenePicture

BROAD = 16.0  # pixels: of a leg
SEEN = 0.12  # how far, of its length, an axis is drawn aside so that it is seen
HEAD = 40.0
ARROW = 28.0  # pixels: it says the way; by how much is written


@dataclass(frozen=True)
class BladeScene:
    """layings: by which of the two, 0 and 1. now: which laying (0, 1) and leg is read; None while nothing
    is. angle: mm per m, None where it is not known."""

    first: str
    second: str
    layings: Mapping[int, Laying]
    now: tuple[int, str] | None
    angle: float | None
    reads: Measures
    turned: Turn | None = None  # what a spanner turns

    @property
    def factor(self) -> float:
        """How many times the angle is drawn."""
        return times((self.angle or 0.0) / 1000, SEEN)


class LaidSquarePicture(ScenePicture[BladeScene]):
    def words(self, scene: BladeScene) -> str:
        known = "not measured yet" if scene.angle is None else f"{scene.angle:.2f} mm per m"
        return f"Square laid along {scene.first} and {scene.second}: {known}"

    def paint(self, p: QPainter, scene: BladeScene) -> None:
        half = self.wide / 2
        for number in (0, 1):
            self._laid(p, scene, number, QRectF(half * number, HEAD, half, self.high - HEAD - 24))
        p.setFont(theme.text_font(12))
        p.setPen(theme.color("soft"))
        if scene.angle is not None:
            p.drawText(QPointF(8, 16), f"{scene.second} drawn askew {scene.factor:g} times as much as it is")
        if scene.turned is not None:
            self._turn(p, scene, scene.turned)

    def _laid(self, p: QPainter, scene: BladeScene, number: int, room: QRectF) -> None:
        """One laying: the stock to + of the first axis, or to − of it when the square is turned over."""
        way = -1.0 if number else 1.0
        size = min(room.width() - 150, room.height() - 70)
        corner = QPointF(room.center().x() - way * size / 2, min(room.bottom() - 46, room.center().y() + size / 2))
        done, current = number in scene.layings, scene.now is not None and scene.now[0] == number
        p.setPen(QPen(theme.color("ink" if done or current else "line"), 1.2))
        p.setBrush(theme.color("metal" if done or current else "panel"))
        p.drawPolygon(
            QPolygonF([
                corner, corner + QPointF(way * size, 0), corner + QPointF(way * size, BROAD),
                corner + QPointF(-way * BROAD, BROAD), corner + QPointF(-way * BROAD, -size), corner + QPointF(0, -size),
            ])
        )  # fmt: skip
        placer = Placer(self.room)
        placer.keep_clear(
            QRectF(corner, corner + QPointF(way * size, BROAD)).normalized(),
            QRectF(corner, corner + QPointF(-way * BROAD, -size)).normalized(),
        )
        self._ways(p, scene, number, corner, size, way)
        self._axis(p, scene, corner, size, way, placer)
        if done:
            laying = scene.layings[number]
            p.setFont(theme.figure_font(14, bold=True))
            p.setPen(theme.color("ink"))
            for value, place in (
                (laying.stock, corner + QPointF(way * size * 0.75, -14)),
                (laying.blade, corner + QPointF(way * 40, -size * 0.85)),
            ):
                words = f"{'+' if value > 0 else ''}{scene.reads.length(value, 3)}"
                placer.write(p, words, beside(place, p.fontMetrics().horizontalAdvance(words), 4))
        p.setFont(theme.text_font(13))
        p.setPen(theme.color("ink" if current else "soft"))
        words = "turned over" if number else "as it is laid first"
        wide = p.fontMetrics().horizontalAdvance(words)
        p.drawText(QPointF(room.center().x() - wide / 2, corner.y() + BROAD + 50), words)

    def _ways(self, p: QPainter, scene: BladeScene, number: int, corner: QPointF, size: float, way: float) -> None:
        """Along which leg the dial is carried now."""
        for leg, start, end in (
            ("stock", QPointF(way * 0.15 * size, -9), QPointF(way * 0.95 * size, -9)),
            ("blade", QPointF(way * 9, -0.15 * size), QPointF(way * 9, -0.95 * size)),
        ):
            current = scene.now == (number, leg)
            read = number in scene.layings
            if not (current or read):
                continue
            one, other = corner + start, corner + end
            p.setPen(QPen(theme.color("petrol"), 3 if current else 1.5))
            p.drawLine(one, other)
            along = QLineF(one, other).unitVector()
            step, side = QPointF(along.dx(), along.dy()), QPointF(-along.dy(), along.dx())
            p.setBrush(theme.color("petrol"))
            p.drawPolygon(QPolygonF([other, other - step * 9 + side * 5, other - step * 9 - side * 5]))

    def _turn(self, p: QPainter, scene: BladeScene, turned: Turn) -> None:
        """What a spanner moves: its end, by how much, and an arrow the way that it goes; above both layings."""
        first, second = scene.first, scene.second
        end = {Part.COLUMN: f"top of {second}", Part.WAYS: f"far end of {second}", Part.BEAM: f"end of {first}"}
        words = f"{end[turned.part]}: {scene.reads.length(abs(turned.shift), 2)}"
        p.setFont(theme.figure_font(13, bold=True))
        p.setPen(theme.color("brass"))
        x = self.wide - p.fontMetrics().horizontalAdvance(words) - 8
        p.drawText(QPointF(x, 22), words)
        sign = 1.0 if turned.shift > 0 else -1.0
        way = QPointF(0, -sign) if turned.part is Part.BEAM else QPointF(sign, 0)
        tip, across = QPointF(x - 8 - ARROW / 2, 17) + way * ARROW / 2, QPointF(-way.y(), way.x())
        p.setPen(QPen(theme.color("brass"), 3))
        p.drawLine(tip - way * ARROW, tip - way * 8)
        p.setBrush(theme.color("brass"))
        p.drawPolygon(QPolygonF([tip, tip - way * 10 + across * 6, tip - way * 10 - across * 6]))

    def _axis(self, p: QPainter, scene: BladeScene, corner: QPointF, size: float, way: float, placer: Placer) -> None:
        """The two axes as they stand: the first level, the second leaning."""
        lean = (scene.angle or 0.0) / 1000 * scene.factor
        foot = corner + QPointF(-way * (BROAD + 26), BROAD + 14)
        p.setPen(QPen(theme.color("brass"), 2))
        tip = foot + QPointF(lean * size, -size)
        p.drawLine(foot, tip)
        side = foot + QPointF(way * size * 0.9, 0)
        p.drawLine(foot, side)
        placer.stroke(foot, tip)
        placer.stroke(foot, side)
        if scene.angle is not None:
            p.setPen(QPen(theme.color("line"), 1, Qt.PenStyle.DashLine))
            p.drawLine(foot, foot + QPointF(0, -size))
        p.setFont(theme.text_font(13))
        p.setPen(theme.color("brass"))
        for words, place in ((scene.second, tip + QPointF(0, -8)), (scene.first, side + QPointF(10 * way, 4))):
            wide = p.fontMetrics().horizontalAdvance(words)
            placer.write(p, words, [place - QPointF(wide / 2, 0)])
