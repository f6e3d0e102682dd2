"""The bed from above: what stands high and what low, the figure of each place, and by how much each corner is to be raised."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QLinearGradient, QPainter, QPen, QPolygonF

from idler.core.geometry.level import Bed, Grid, heights_words
from idler.core.values.measures import Measures

from .. import theme
from .labels import Placer, beside
from .picture import ScenePicture

SIDE, HEAD, FOOT = 112.0, 34.0, 46.0  # pixels around the bed: for the raises beside it, and for the scale below
FINE = 6  # patches along the side of one field of the grid
SCALE = 150.0  # pixels: length of the scale of heights


@dataclass(frozen=True)
class LevelScene:
    """first, second: names of the axes. heights: those that are read, by the number of the place. bed: where all are read.
    raises: whether advised."""

    first: str
    second: str
    grid: Grid | None
    heights: Mapping[int, float]
    bed: Bed | None
    raises: bool
    reads: Measures


def _between(one: QColor, other: QColor, share: float) -> QColor:
    ends = ((one.redF(), other.redF()), (one.greenF(), other.greenF()), (one.blueF(), other.blueF()))
    return QColor.fromRgbF(*(a + (b - a) * share for a, b in ends))


class HeightMap(ScenePicture[LevelScene]):
    def words(self, scene: LevelScene) -> str:
        said = heights_words(scene.reads, scene.heights.values()) if scene.heights else "not measured yet"
        return f"Heights of the bed over {scene.first} and {scene.second}: {said}"

    def _box(self) -> QRectF:
        """The bed fills the room, whatever its shape: what is read is how high it stands, and the figures need the room."""
        return QRectF(SIDE, HEAD, self.wide - 2 * SIDE, self.high - HEAD - FOOT)

    def paint(self, p: QPainter, scene: LevelScene) -> None:
        if scene.grid is None:
            return
        grid = scene.grid
        box = self._box()

        def at(place: tuple[float, float]) -> QPointF:
            x, y = (place[0] - grid.left) / grid.width, (place[1] - grid.low) / grid.height
            return QPointF(box.left() + x * box.width(), box.bottom() - y * box.height())

        placer = Placer(self.room)
        if scene.bed is not None:
            self._relief(p, box, scene.bed)
        else:
            p.fillRect(box, theme.color("paper"))
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(box)
        points = [at(place) for place in grid.places]
        p.setPen(QPen(theme.color("line"), 1, Qt.PenStyle.DotLine))
        for one, other in pairwise(points):
            p.drawLine(QLineF(one, other))
        self._axes(p, scene, box, placer)
        if scene.raises and scene.bed is not None:
            self._raises(p, scene, scene.bed, [at(corner) for corner in grid.corners], placer)
        self._places(p, scene, points, box, placer)
        if scene.bed is not None:
            self._scale(p, scene, box)

    def _relief(self, p: QPainter, box: QRectF, bed: Bed) -> None:
        """The heights between the places, bilinear."""
        grid, low, span = bed.grid, min(bed.heights), max(bed.spread, 1e-9)
        by_place = dict(zip(grid.places, bed.heights, strict=True))
        xs, ys = (sorted({place[k] for place in grid.places}) for k in (0, 1))
        wide, tall = (grid.across - 1) * FINE, (grid.along - 1) * FINE
        down, up = theme.color("pale_indigo"), theme.color("pale_brass")
        p.setPen(Qt.PenStyle.NoPen)
        for column in range(wide):
            for row in range(tall):
                i, j = column // FINE, row // FINE
                u, v = (column % FINE + 0.5) / FINE, (row % FINE + 0.5) / FINE
                a, b, c, d = (by_place[xs[i + k], ys[j + m]] for m in (0, 1) for k in (0, 1))
                height = a * (1 - u) * (1 - v) + b * u * (1 - v) + c * (1 - u) * v + d * u * v
                left, right = (box.left() + box.width() * k / wide for k in (column, column + 1))
                base, top = (box.bottom() - box.height() * k / tall for k in (row, row + 1))
                p.fillRect(
                    QRectF(QPointF(left, top), QPointF(right + 0.6, base + 0.6)),
                    _between(down, up, (height - low) / span),
                )

    def _places(self, p: QPainter, scene: LevelScene, points: list[QPointF], box: QRectF, placer: Placer) -> None:
        missing = [number for number in range(len(points)) if number not in scene.heights]
        following_place = missing[0] if missing else -1
        for number, point in enumerate(points):
            read = number in scene.heights
            following = number == following_place
            p.setPen(QPen(theme.color("petrol" if read or following else "soft"), 2 if following else 1.5))
            p.setBrush(theme.color("petrol") if read else Qt.BrushStyle.NoBrush)
            p.drawEllipse(point, 7 if following else 4.5, 7 if following else 4.5)
        assert scene.grid is not None
        cell = box.width() / scene.grid.across, box.height() / scene.grid.along
        p.setFont(theme.figure_font(15 if min(scene.grid.across, scene.grid.along) <= 4 else 12, bold=True))
        p.setPen(theme.color("ink"))
        words = {
            number: f"{'+' * (height > 0)}{scene.reads.length(height, 3)}" for number, height in scene.heights.items()
        }
        widest = max((p.fontMetrics().horizontalAdvance(each) for each in words.values()), default=0)
        few = widest + 8 > cell[0] or p.fontMetrics().height() + 10 > cell[1]
        ends = [end(scene.heights.values()) for end in (min, max)] if words else []
        for number, height in scene.heights.items():
            point = points[number]
            if few and height not in ends:
                continue  # no room for all: the lowest and the highest
            wide = p.fontMetrics().horizontalAdvance(words[number])
            x = point.x() - wide / 2  # towards the middle of the bed, so that what stands beside it has room
            if abs(point.x() - box.left()) < 1:
                x = point.x() + 10
            elif abs(point.x() - box.right()) < 1:
                x = point.x() - wide - 10
            y = point.y() + (22 if point.y() < box.center().y() - 1 else -10)
            placer.write(p, words[number], [QPointF(x, y), *beside(point, wide, 12)], "panel")

    def _raises(self, p: QPainter, scene: LevelScene, bed: Bed, corners: list[QPointF], placer: Placer) -> None:
        """An arrow beside each corner that is to go up."""
        p.setFont(theme.figure_font(14, bold=True))
        for number, (corner, by) in enumerate(zip(corners, bed.raises, strict=True)):
            if by <= bed.expanded / 4:
                continue
            way = -1 if number in (0, 3) else 1
            foot = corner + QPointF(46 * way, 17)
            tip = foot - QPointF(0, 34)
            p.setPen(QPen(theme.color("brass"), 3))
            p.drawLine(QLineF(foot, tip))
            p.setBrush(theme.color("brass"))
            p.drawPolygon(QPolygonF([tip - QPointF(0, 7), tip + QPointF(6, 5), tip + QPointF(-6, 5)]))
            words = scene.reads.length(by, 2)
            placer.keep_clear(QRectF(foot.x() - 7, tip.y() - 8, 14, 44))
            p.setPen(theme.color("brass"))
            wide = p.fontMetrics().horizontalAdvance(words)
            placer.write(p, words, [QPointF(foot.x() - wide / 2, foot.y() + 18)])

    def _scale(self, p: QPainter, scene: LevelScene, box: QRectF) -> None:
        """From the lowest to the highest, as they are tinted."""
        assert scene.bed is not None
        bar = QRectF(box.center().x() - SCALE / 2, self.high - 16, SCALE, 9)
        tint = QLinearGradient(bar.topLeft(), bar.topRight())
        tint.setColorAt(0, theme.color("pale_indigo"))
        tint.setColorAt(1, theme.color("pale_brass"))
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(tint)
        p.drawRect(bar)
        p.setFont(theme.figure_font(12))
        p.setPen(theme.color("soft"))
        low, high = (scene.reads.length(end(scene.bed.heights), 3) for end in (min, max))
        wide = p.fontMetrics().horizontalAdvance(low)
        p.drawText(QPointF(bar.left() - wide - 8, bar.bottom()), low)
        p.drawText(QPointF(bar.right() + 8, bar.bottom()), high)

    def _axes(self, p: QPainter, scene: LevelScene, box: QRectF, placer: Placer) -> None:
        """What the ends of the bed are called."""
        p.setFont(theme.text_font(13))
        p.setPen(theme.color("soft"))
        for words, place in (
            (f"{scene.first}\u2212", QPointF(box.left() - 34, box.center().y() + 5)),
            (f"{scene.first}+", QPointF(box.right() + 14, box.center().y() + 5)),
            (f"{scene.second}+", QPointF(box.center().x() - 10, box.top() - 18)),
            (f"{scene.second}\u2212", QPointF(box.center().x() - 10, box.bottom() + 24)),
        ):
            placer.write(p, words, [place])
