"""A rectangle of marks: as it was told, and over it as it truly lies, exaggerated, with what is to be moved as an arrow."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from idler.core.geometry.spanner import Part, Turn
from idler.core.geometry.square import Rectangle
from idler.core.values.measures import Measures

from .. import theme
from .exaggerated import times
from .labels import Placer, beside
from .picture import ScenePicture

EDGE = 44  # pixels around it for its words
SEEN = 0.09  # of the height: how far the far side is drawn aside, so that it is seen


@dataclass(frozen=True)
class SquareScene:
    """first, second: names of the axes. marked: how many corners are marked. angle: mm per m, None where it is not known."""

    first: str
    second: str
    place: Rectangle | None
    marked: int
    rising: float | None
    falling: float | None
    angle: float | None
    reads: Measures
    further: float | None = None  # mm by which the second side of a beam is to go on to +
    across: float = 0.0  # where that side stands
    turned: Turn | None = None  # what a spanner turns

    @property
    def factor(self) -> float:
        """How many times the angle is drawn."""
        return times((self.angle or 0.0) / 1000, SEEN)


class QuadrilateralPicture(ScenePicture[SquareScene]):
    def words(self, scene: SquareScene) -> str:
        known = "not measured yet" if scene.angle is None else f"{scene.angle:.2f} mm per m"
        return f"Rectangle of marks of {scene.first} and {scene.second}: {known}"

    def paint(self, p: QPainter, scene: SquareScene) -> None:
        if scene.place is None:
            return
        place = scene.place
        unit = min((self.wide - 5 * EDGE) / place.width, (self.high - 2 * EDGE) / place.height)
        left, base = (self.wide - unit * place.width) / 2, (self.high + unit * place.height) / 2
        lean = (scene.angle or 0.0) / 1000 * scene.factor

        def at(corner: tuple[float, float], leaning: float) -> QPointF:
            x, y = corner[0] - place.x, corner[1] - place.y
            return QPointF(left + unit * (x + y * leaning), base - unit * y)

        told = [at(corner, 0.0) for corner in place.corners]
        true = [at(corner, lean) for corner in place.corners]
        placer = Placer(self.room)
        p.setPen(QPen(theme.color("soft"), 1, Qt.PenStyle.DashLine))
        p.drawPolygon(QPolygonF(told))
        placer.stroke(*told, told[0])
        if scene.angle is not None:
            self._measured(p, true, placer)
        self._corners(p, scene, true if scene.angle is not None else told, placer)
        self._axes(p, scene, told, placer)
        self._words(p, scene, true if scene.angle is not None else told, placer)
        if scene.further is not None:
            self._side(p, scene, true, scene.across > 0, scene.further, "second side")
        elif scene.turned is not None and scene.turned.part is Part.BEAM:
            self._side(p, scene, true, True, scene.turned.shift, f"end of {scene.first}")
        elif scene.turned is not None:
            self._arrow(p, scene, told, true, placer)

    def _measured(self, p: QPainter, true: list[QPointF], placer: Placer) -> None:
        p.setPen(QPen(theme.color("ink"), 2))
        p.drawPolygon(QPolygonF(true))
        placer.stroke(*true, true[0])
        p.setPen(QPen(theme.color("petrol"), 1.2))
        for one, other in ((0, 2), (1, 3)):
            p.drawLine(true[one], true[other])
            placer.stroke(true[one], true[other])

    def _corners(self, p: QPainter, scene: SquareScene, corners: list[QPointF], placer: Placer) -> None:
        """A mark that is made is full, one to come is open."""
        p.setFont(theme.figure_font(13, bold=True))
        for number, corner in enumerate(corners):
            made = number < scene.marked
            p.setPen(QPen(theme.color("ink"), 1.5))
            p.setBrush(theme.color("petrol") if made else theme.color("panel"))
            p.drawEllipse(corner, 6, 6)
            right, far = number in (1, 2), number in (2, 3)
            p.drawText(corner + QPointF(12 if right else -22, -8 if far else 18), str(number + 1))
            placer.keep_clear(QRectF(corner.x() - 24, corner.y() - 24, 48, 48))

    def _axes(self, p: QPainter, scene: SquareScene, told: list[QPointF], placer: Placer) -> None:
        assert scene.place is not None
        p.setPen(theme.color("soft"))
        p.setFont(theme.text_font(12))
        below = f"{scene.first} {scene.reads.length(scene.place.width, 1, trim=True)}"
        wide = p.fontMetrics().horizontalAdvance(below)
        middle = (told[0] + told[1]) / 2
        p.drawText(QPointF(middle.x() - wide / 2, middle.y() + 26), below)
        side = f"{scene.second} {scene.reads.length(scene.place.height, 1, trim=True)}"
        wide = p.fontMetrics().horizontalAdvance(side)
        edge = (told[0] + told[3]) / 2
        lean = QLineF(told[0], told[3])
        placer.write(p, side, [QPointF(min(edge.x(), lean.x1()) - wide - 40, edge.y() + 4)])

    def _words(self, p: QPainter, scene: SquareScene, corners: list[QPointF], placer: Placer) -> None:
        p.setFont(theme.figure_font(12))
        p.setPen(theme.color("petrol"))
        for length, (one, other), share in ((scene.rising, (0, 2), 0.72), (scene.falling, (1, 3), 0.72)):
            if length is not None:
                words = scene.reads.length(length, 2)
                point = corners[one] + (corners[other] - corners[one]) * share
                placer.write(p, words, beside(point, p.fontMetrics().horizontalAdvance(words), 10))
        if scene.angle is not None:
            p.setPen(theme.color("soft"))
            p.setFont(theme.text_font(12))
            p.drawText(QPointF(8, 16), f"drawn askew {scene.factor:g} times as much as it is")

    def _side(self, p: QPainter, scene: SquareScene, true: list[QPointF], right: bool, shift: float, side: str) -> None:
        """The side of a beam that is to go on, and which way."""
        x = max(true[1].x(), true[2].x()) + 26 if right else min(true[0].x(), true[3].x()) - 26
        middle, way = (true[0].y() + true[2].y()) / 2, -1.0 if shift > 0 else 1.0
        end = QPointF(x, middle + 26 * way)
        p.setPen(QPen(theme.color("brass"), 2.5))
        p.drawLine(QPointF(x, middle - 26 * way), end)
        p.drawPolyline([end + QPointF(-5, -7 * way), end, end + QPointF(5, -7 * way)])
        p.setFont(theme.figure_font(13, bold=True))
        words = scene.reads.length(abs(shift), 2)
        wide = p.fontMetrics().horizontalAdvance(words)
        p.drawText(QPointF(x + 10 if right else x - 10 - wide, middle + 4), words)
        p.setFont(theme.text_font(12))
        wide = p.fontMetrics().horizontalAdvance(side)
        p.drawText(QPointF(x + 10 if right else x - 10 - wide, middle + 20), side)

    def _arrow(self, p: QPainter, scene: SquareScene, told: list[QPointF], true: list[QPointF], placer: Placer) -> None:
        """What the far side is to be moved by: from where it lies to where it should."""
        assert scene.place is not None and scene.angle is not None
        start, end = (true[2] + true[3]) / 2 - QPointF(0, 16), (told[2] + told[3]) / 2 - QPointF(0, 16)
        way = 1.0 if end.x() > start.x() else -1.0
        p.setPen(QPen(theme.color("brass"), 2.5))
        p.drawLine(start, end)
        p.drawPolyline([end + QPointF(-7 * way, -5), end, end + QPointF(-7 * way, 5)])
        p.setFont(theme.figure_font(13, bold=True))
        words = scene.reads.length(abs(scene.angle) * scene.place.height / 1000, 2)
        p.drawText(
            QPointF((start.x() + end.x()) / 2 - p.fontMetrics().horizontalAdvance(words) / 2, start.y() - 8), words
        )
