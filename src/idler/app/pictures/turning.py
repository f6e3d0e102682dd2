"""What turns: a bar that stands beside the middle of its axis, and a bar between centres that grew thicker at one end."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from idler.core.geometry.runout import ANGLES, Runout
from idler.core.geometry.tailstock import Tailstock
from idler.core.values.measures import Measures

from .. import theme
from .exaggerated import times
from .labels import Placer, beside
from .picture import ScenePicture

EDGE = 62.0  # pixels around for what was read
SEEN = 0.3  # of the ring's radius: how far what is off is drawn


def _arrow(p: QPainter, start: QPointF, end: QPointF) -> None:
    line = QLineF(start, end)
    if line.length() < 1:
        return
    p.setPen(QPen(theme.color("brass"), 3))
    p.drawLine(line)
    unit = line.unitVector()
    step, side = QPointF(unit.dx(), unit.dy()), QPointF(-unit.dy(), unit.dx())
    p.setBrush(theme.color("brass"))
    p.drawPolygon(QPolygonF([end + step * 4, end - step * 8 + side * 6, end - step * 8 - side * 6]))


@dataclass(frozen=True)
class RunoutScene:
    """values: what was read, by which of ANGLES, mm. advised: whether the push is to be shown."""

    name: str
    values: Mapping[int, float]
    found: Runout | None
    advised: bool
    reads: Measures


class RunoutPicture(ScenePicture[RunoutScene]):
    """As the dial sees it, which stands at the right; the axis at the angle at which the bar is nearest to it."""

    def words(self, scene: RunoutScene) -> str:
        said = ", ".join(
            f"{scene.reads.length(value, 3)} at {ANGLES[number]:g}°" for number, value in sorted(scene.values.items())
        )
        return f"What {scene.name} holds: {said or 'not measured yet'}"

    def paint(self, p: QPainter, scene: RunoutScene) -> None:
        middle = QPointF(self.wide / 2, self.high / 2)
        radius = max(30.0, min(self.wide, self.high) / 2 - EDGE)
        placer = Placer(self.room)
        p.setPen(QPen(theme.color("metal"), 2))
        p.setBrush(theme.color("paper"))
        p.drawEllipse(middle, radius, radius)
        p.setPen(QPen(theme.color("line"), 1, Qt.PenStyle.DashLine))
        for a, b in ((QPointF(-radius, 0), QPointF(radius, 0)), (QPointF(0, -radius), QPointF(0, radius))):
            p.drawLine(middle + a, middle + b)
            placer.stroke(middle + a, middle + b)
        found = scene.found
        unit = times(found.off, SEEN * radius) if found is not None else 1.0
        turn = math.radians(found.toward) if found is not None else 0.0
        drawn = found.off * unit if found is not None else 0.0
        at = middle + QPointF(drawn * math.cos(turn), -drawn * math.sin(turn))
        p.setPen(QPen(theme.color("ink"), 1.5))
        p.setBrush(theme.color("metal"))
        p.drawEllipse(at, radius * 0.55, radius * 0.55)
        p.setPen(QPen(theme.color("ink"), 1.5))
        for way in (QPointF(6, 0), QPointF(0, 6)):
            p.drawLine(middle - way, middle + way)
        if found is not None and scene.advised:
            way = QPointF(math.cos(turn), -math.sin(turn))  # pushed from where it stands out
            _arrow(p, at + way * (0.55 * radius + 40), at + way * (0.55 * radius + 8))
        self._readings(p, scene, middle, radius, placer)
        p.setFont(theme.text_font(12))
        p.setPen(theme.color("soft"))
        if found is not None:
            p.drawText(QPointF(8, 16), f"drawn off {unit:g} times as much as it is")

    def _readings(self, p: QPainter, scene: RunoutScene, middle: QPointF, radius: float, placer: Placer) -> None:
        """Around the ring: at each angle what the dial said when that angle stood before it."""
        for number, angle in enumerate(ANGLES):
            way = QPointF(math.cos(math.radians(angle)), -math.sin(math.radians(angle)))
            read = number in scene.values
            p.setPen(QPen(theme.color("petrol" if read else "soft"), 2))
            p.setBrush(theme.color("petrol") if read else theme.color("panel"))
            p.drawEllipse(middle + way * radius, 5.5, 5.5)
            words = f"{angle:g}°"
            if read:
                value = scene.values[number]
                words = f"{'+' * (value > 0)}{scene.reads.length(value, 3)}"
            p.setFont(theme.figure_font(15 if read else 13, bold=read))
            p.setPen(theme.color("ink" if read else "soft"))
            wide = p.fontMetrics().horizontalAdvance(words)
            outside = middle + way * (radius + 16)
            x = outside.x() if way.x() > 0.5 else outside.x() - wide if way.x() < -0.5 else outside.x() - wide / 2
            y = outside.y() + (5 if abs(way.x()) > 0.5 else 14 if way.y() > 0 else -2)
            placer.write(p, words, [QPointF(x, y), *beside(outside, wide)])


@dataclass(frozen=True)
class TailScene:
    """head, tail: diameters in mm, None before they are told."""

    head: float | None
    tail: float | None
    found: Tailstock | None
    advised: bool
    reads: Measures


class TailPicture(ScenePicture[TailScene]):
    """From above, the tool below: headstock left, tailstock right."""

    def words(self, scene: TailScene) -> str:
        said = scene.reads.length(scene.found.off, 3) if scene.found is not None else "not measured yet"
        return f"Bar between centres; the tail centre is off by {said}"

    def paint(self, p: QPainter, scene: TailScene) -> None:
        left, right, y = 110.0, self.wide - 110.0, self.high / 2
        half = min(46.0, self.high / 8)
        off = scene.found.off if scene.found is not None else 0.0
        unit = times(abs(off), half * 0.7)
        aside = -off * unit  # + is away from the tool, which stands below
        tail = QPointF(right, y + aside)
        p.setPen(QPen(theme.color("line"), 1, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(left - 60, y), QPointF(right + 60, y))
        p.setPen(QPen(theme.color("ink"), 1.5))
        p.setBrush(theme.color("metal"))
        # the side that the tool has turned is straight; the other follows the line between the centres
        p.drawPolygon(
            QPolygonF([
                QPointF(left, y - half), QPointF(right, y + 2 * aside - half),
                QPointF(right, y + half), QPointF(left, y + half),
            ])
        )  # fmt: skip
        for point, way in ((QPointF(left, y), -1), (tail, 1)):
            p.setBrush(theme.color("panel"))
            p.drawPolygon(QPolygonF([point, point + QPointF(44 * way, -20), point + QPointF(44 * way, 20)]))
            p.drawRect(QRectF(point.x() + (44 if way > 0 else -84), point.y() - 26, 40, 52))
        placer = Placer(self.room)
        p.setFont(theme.figure_font(15, bold=True))
        p.setPen(theme.color("ink"))
        for value, x in ((scene.head, left + 60), (scene.tail, right - 60)):
            if value is not None:
                words = f"⌀ {scene.reads.length(value, 3)}"
                placer.write(p, words, [QPointF(x - p.fontMetrics().horizontalAdvance(words) / 2, y + half + 30)])
        p.setFont(theme.text_font(13))
        p.setPen(theme.color("soft"))
        for words, x in (("headstock", left - 64), ("tailstock", right + 64), ("tool", self.wide / 2)):
            base = y + half + 52 if words == "tool" else y - half - 54
            placer.write(p, words, [QPointF(x - p.fontMetrics().horizontalAdvance(words) / 2, base)])
        if scene.found is not None:
            p.setFont(theme.text_font(12))
            p.drawText(QPointF(8, 16), f"drawn off {unit:g} times as much as it is")
        if scene.advised:
            start = tail + QPointF(64, -62 if off > 0 else 62)
            _arrow(p, start, start + QPointF(0, 30 if off > 0 else -30))
