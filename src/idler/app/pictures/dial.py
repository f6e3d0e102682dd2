"""Index stops round the axis that goes to them, or along it: their numbers and names, where it stands, where it is going."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from idler.core.values.indexstops import IndexStop
from idler.core.values.measures import Measures

from .. import theme
from .labels import Placer, beside
from .picture import ScenePicture

EDGE = 74.0  # pixels around for the names
MARK = 15.0  # radius of a stop's mark


@dataclass(frozen=True)
class DialScene:
    """here: where the axis stands, mm or °; None: it is not known. at, goal: numbers of stops, 0 for none."""

    name: str
    stops: tuple[IndexStop, ...]
    here: float | None
    at: int
    goal: int
    reads: Measures


class DialPicture(ScenePicture[DialScene]):
    """Degrees count against the clock from the right, as angles do."""

    def words(self, scene: DialScene) -> str:
        listed = ", ".join(stop.title(number) for number, stop in enumerate(scene.stops, start=1))
        return f"Index stops of {scene.name}: {listed or 'none yet'}; it stands at {scene.at or 'none of them'}"

    def paint(self, p: QPainter, scene: DialScene) -> None:
        placer = Placer(self.room)
        if not scene.stops:
            p.setPen(theme.color("soft"))
            p.setFont(theme.text_font(15))
            p.drawText(
                self.room,
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                f"{scene.name} has no index stops yet.",
            )
        elif scene.reads.rotary:
            self._round(p, scene, placer)
        else:
            self._along(p, scene, placer)

    # -- round it ---------------------------------------------------------------------------------------------------

    def _round(self, p: QPainter, scene: DialScene, placer: Placer) -> None:
        middle = QPointF(self.wide / 2, self.high / 2)
        radius = max(40.0, min(self.wide - 60, self.high) / 2 - EDGE)

        def at(angle: float, far: float) -> QPointF:
            turn = math.radians(angle)
            return middle + QPointF(math.cos(turn), -math.sin(turn)) * far

        p.setPen(QPen(theme.color("metal"), 2))
        p.setBrush(theme.color("paper"))
        p.drawEllipse(middle, radius, radius)
        for quarter in range(0, 360, 10):
            long = quarter % 90 == 0
            p.setPen(QPen(theme.color("soft" if long else "line"), 1))
            p.drawLine(at(quarter, radius - (12 if long else 6)), at(quarter, radius))
        if scene.here is not None:
            self._pointer(p, middle, at(scene.here, radius - MARK - 8), theme.color("petrol"))
        for number, stop in enumerate(scene.stops, start=1):
            point = at(float(stop.at), radius)
            self._mark(p, scene, number, point)
            placer.keep_clear(QRectF(point.x() - MARK, point.y() - MARK, 2 * MARK, 2 * MARK))
        p.setFont(theme.text_font(13))
        for stop in scene.stops:
            words = stop.name or scene.reads.length(stop.at, 1, trim=True)
            self._name(p, placer, words, at(float(stop.at), radius + MARK + 6), math.radians(float(stop.at)))

    def _name(self, p: QPainter, placer: Placer, words: str, point: QPointF, turn: float) -> None:
        """Outside of its mark, on the side where there is room."""
        wide, high = p.fontMetrics().horizontalAdvance(words), p.fontMetrics().height()
        left = point.x() - wide * (1 - math.cos(turn)) / 2
        base = point.y() + high * (1 - math.sin(turn)) / 2 - 4
        p.setPen(theme.color("ink"))
        placer.write(p, words, [QPointF(left, base), *beside(point, wide)])

    def _pointer(self, p: QPainter, start: QPointF, end: QPointF, color: QColor) -> None:
        line = QLineF(start, end)
        p.setPen(QPen(color, 4))
        p.drawLine(line)
        unit = line.unitVector()
        step, side = QPointF(unit.dx(), unit.dy()), QPointF(-unit.dy(), unit.dx())
        p.setBrush(color)
        p.drawPolygon(QPolygonF([end + step * 6, end - step * 8 + side * 8, end - step * 8 - side * 8]))

    def _mark(self, p: QPainter, scene: DialScene, number: int, point: QPointF) -> None:
        """Full where it stands, ringed where it is going."""
        reached, going = number == scene.at, number == scene.goal and number != scene.at
        p.setPen(QPen(theme.color("petrol" if reached or going else "metal"), 3 if going else 1.5))
        p.setBrush(theme.color("petrol" if reached else "pale_petrol" if going else "panel"))
        p.drawEllipse(point, MARK, MARK)
        p.setPen(theme.color("panel" if reached else "ink"))
        p.setFont(theme.figure_font(14, bold=True))
        box = QRectF(point.x() - MARK, point.y() - MARK, 2 * MARK, 2 * MARK)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, str(number))

    # -- along it ---------------------------------------------------------------------------------------------------

    def _along(self, p: QPainter, scene: DialScene, placer: Placer) -> None:
        places = [float(stop.at) for stop in scene.stops] + ([scene.here] if scene.here is not None else [])
        low, high = min(places), max(places)
        y, left, right = self.high / 2, 60.0, self.wide - 60.0

        def at(place: float) -> QPointF:
            return QPointF(left + (place - low) / max(high - low, 1e-9) * (right - left), y)

        p.setPen(QPen(theme.color("metal"), 3))
        p.drawLine(QPointF(left, y), QPointF(right, y))
        placer.stroke(QPointF(left, y), QPointF(right, y))
        if scene.here is not None:
            foot = at(scene.here)
            self._pointer(p, foot - QPointF(0, 70), foot - QPointF(0, MARK + 8), theme.color("petrol"))
        for number, stop in enumerate(scene.stops, start=1):
            point = at(float(stop.at))
            self._mark(p, scene, number, point)
            placer.keep_clear(QRectF(point.x() - MARK, point.y() - MARK, 2 * MARK, 2 * MARK))
        p.setFont(theme.text_font(13))
        for stop in scene.stops:
            words, point = stop.name or scene.reads.length(stop.at, 1, trim=True), at(float(stop.at))
            wide = p.fontMetrics().horizontalAdvance(words)
            rows = [QPointF(point.x() - wide / 2, y + MARK + 20 + 18 * row) for row in range(6)]
            p.setPen(theme.color("ink"))
            placer.write(p, words, rows)
