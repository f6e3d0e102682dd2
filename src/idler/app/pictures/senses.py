"""The right-hand rule: the three directions of a machine, the axis in question, and what moves when it goes to +."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from idler.core.machine import Machine
from idler.core.mechanics.axis_directions import Vector, directions, pointing, sense

from .. import theme
from .picture import ScenePicture


@dataclass(frozen=True)
class SenseScene:
    """ways: where X, Y and Z point. letter: along or about which the axis goes; way: where its + points for the tool.

    table: whether the work moves, and so the other way.
    """

    name: str
    ways: dict[str, Vector]
    letter: str
    way: Vector
    turns: bool
    table: bool
    plus: str
    thing: str


def scene_of(machine: Machine, slot: int) -> SenseScene:
    axis = machine.axis(slot)
    letter, way = pointing(machine, slot)
    seen = sense(machine, slot)
    return SenseScene(
        axis.name,
        directions(machine),
        letter,
        way,
        axis.rotary,
        axis.choice("axis.moves") == "work",
        seen.plus,
        seen.thing,
    )


def project(way: Vector) -> QPointF:
    """A direction on the page: what points away from the person goes up and to the right."""
    right, away, up = way
    return QPointF(right + 0.62 * away, -up - 0.42 * away)


def turning(way: Vector, start: float = -0.4, end: float = 4.6, points: int = 48) -> list[QPointF]:
    """A circle about a direction, right-handed, from one angle to another in radians."""
    first = (0.0, 0.0, 1.0) if abs(way[2]) < 0.5 else (1.0, 0.0, 0.0)
    second = _cross(way, first)
    found = []
    for k in range(points + 1):
        angle = start + (end - start) * k / points
        c, s = math.cos(angle), math.sin(angle)
        x, y, z = (c * a + s * b for a, b in zip(first, second, strict=True))
        found.append(project((x, y, z)))
    return found


def _cross(a: Vector, b: Vector) -> Vector:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


class SensePicture(ScenePicture[SenseScene]):
    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(230, 120)

    def paint(self, p: QPainter, scene: SenseScene) -> None:
        reach = min(self.high * 0.4, self.wide * 0.28)
        home = QPointF(self.wide * 0.44, self.high * 0.54)
        for letter, way in scene.ways.items():
            if letter != scene.letter or scene.turns:
                self._arrow(p, home, home + project(way) * reach * 0.9, QPen(theme.color("soft"), 1.2), letter)
        if scene.turns:
            self._turn(p, home, reach, scene)
        else:
            self._arrow(
                p, home, home + project(scene.way) * reach * 1.15, QPen(theme.color("petrol"), 3), f"+{scene.name}"
            )
            if scene.table:
                end = home - project(scene.way) * reach * 0.8
                self._arrow(p, home, end, QPen(theme.color("brass"), 2, Qt.PenStyle.DashLine), "table")
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("ink"))
        p.drawEllipse(home, 3.5, 3.5)
        p.setPen(theme.color("soft"))
        p.setFont(theme.text_font(11))
        whose = "the tool over the work, as ISO 841 counts" if scene.table and not scene.turns else "as ISO 841 counts"
        p.drawText(QRectF(4, self.high - 17, self.wide - 8, 16), Qt.AlignmentFlag.AlignLeft, f"+{scene.name}: {whose}")

    def _turn(self, p: QPainter, home: QPointF, reach: float, scene: SenseScene) -> None:
        self._arrow(p, home, home + project(scene.way) * reach, QPen(theme.color("ink"), 1.6), "")
        middle = home + project(scene.way) * reach * 0.5
        for way, name, size, words in (
            (scene.way, "petrol", 0.42, f"+{scene.name}"),
            ((-scene.way[0], -scene.way[1], -scene.way[2]), "brass", 0.68, scene.thing.removeprefix("the ")),
        ):
            if name == "brass" and not scene.table:
                continue
            points = [middle + point * reach * size for point in turning(way)]
            pen = QPen(theme.color(name), 3 if name == "petrol" else 2)
            if name == "brass":
                pen.setStyle(Qt.PenStyle.DashLine)
            p.setPen(pen)
            p.drawPolyline(QPolygonF(points))
            self._head(p, points[-3], points[-1], name)
            p.setFont(theme.text_font(13, bold=True))
            p.drawText(points[-1] + QPointF(8, 4), words)

    def _arrow(self, p: QPainter, start: QPointF, end: QPointF, pen: QPen, words: str) -> None:
        p.setPen(pen)
        p.drawLine(start, end)
        along = end - start
        length = math.hypot(along.x(), along.y()) or 1.0
        unit = along / length
        p.setPen(QPen(pen.color(), pen.widthF()))
        for side in (-1, 1):
            p.drawLine(end, end - unit * 9 + QPointF(-unit.y(), unit.x()) * 5 * side)
        if words:
            p.setFont(theme.text_font(13, bold=pen.widthF() > 1.5))
            width = p.fontMetrics().horizontalAdvance(words)
            place = end + unit * (10 + abs(unit.x()) * width / 2)
            p.drawText(QPointF(place.x() - width / 2, place.y() + 5), words)

    def _head(self, p: QPainter, before: QPointF, end: QPointF, name: str) -> None:
        along = end - before
        length = math.hypot(along.x(), along.y()) or 1.0
        unit = along / length
        p.setPen(QPen(theme.color(name), 2.4))
        for side in (-1, 1):
            p.drawLine(end, end - unit * 8 + QPointF(-unit.y(), unit.x()) * 5 * side)
