"""The drive train drawn as mechanics: one picture for each part, with the shaft at the same height in all of them."""

from __future__ import annotations

from importlib import import_module

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen

from idler.core.machine import Axis
from idler.core.values.stage import Stage
from idler.core.words import word

from .. import theme
from .gears import wheel
from .picture import Picture

SHAFT = 44.0  # height of the shaft in every picture
HEIGHT = 84


def wheel_radii(first: float, second: float) -> tuple[float, float]:
    """Pitch radii in pixels of two meshing wheels whose teeth (or turns) are in this ratio; both stay drawable."""
    share = first / (first + second)
    share = min(0.72, max(0.28, share))
    return 56 * share, 56 * (1 - share)


class PartPicture(Picture):
    """Base: fixed height, a shaft through it."""

    def __init__(self, width: int) -> None:
        super().__init__()
        self.setFixedHeight(HEIGHT)
        self.setMinimumWidth(width)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = self.painter()
        self.draw(painter, self.wide)

    def draw(self, p: QPainter, width: float) -> None:
        raise NotImplementedError


def pen(name: str = "ink", width: float = 1.4) -> QPen:
    return QPen(theme.color(name), width)


def shaft(p: QPainter, x0: float, x1: float, y: float = SHAFT) -> None:
    p.setPen(pen())
    p.setBrush(theme.color("metal"))
    p.drawRect(QRectF(x0, y - 5, x1 - x0, 10))


def turning_shaft(p: QPainter, x: float, way: int) -> None:
    """How a shaft turns on + of the axis: an arrow over its near side, up for 1 and down for -1."""
    p.setPen(pen("petrol", 1.6))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawArc(QRectF(x - 7, SHAFT - 14, 14, 28), 90 * 16, -180 * 16)
    tip = QPointF(x, SHAFT - 14 * way)
    p.drawLine(tip, tip + QPointF(6, 4.5 * way - 3))
    p.drawLine(tip, tip + QPointF(5, 4.5 * way + 3))


class MotorPicture(PartPicture):
    """way: 1 where the motor turns with the last shaft, -1 where an odd number of stages turns it round."""

    def __init__(self, way: int = 1) -> None:
        super().__init__(120)
        self._way = way

    def draw(self, p: QPainter, width: float) -> None:
        shaft(p, 96, width)
        p.setBrush(theme.color("pale_petrol"))
        p.drawRoundedRect(QRectF(14, SHAFT - 30, 74, 60), 3, 3)
        p.setBrush(theme.color("metal"))
        p.drawRect(QRectF(88, SHAFT - 20, 8, 40))
        for y in (-24, 24):
            p.drawEllipse(QPointF(20, SHAFT + y), 2, 2)
            p.drawEllipse(QPointF(82, SHAFT + y), 2, 2)
        p.setPen(pen("ink"))
        p.setFont(theme.text_font(12))
        p.drawText(QRectF(14, SHAFT - 30, 74, 60), Qt.AlignmentFlag.AlignCenter, "motor")
        turning_shaft(p, 108, self._way)


class StagePicture(PartPicture):
    """Two wheels seen from the shaft's end, meshing or with a belt round them, or a box; arrows show how they turn on +."""

    def __init__(self, stage: Stage, way: int = 1) -> None:
        """way: how the driven side turns on + of the axis."""
        super().__init__(136)
        self._stage, self._way = stage, way

    def draw(self, p: QPainter, width: float) -> None:
        driver, driven = self._stage.first, self._stage.second
        before = -self._way if self._stage.reverses else self._way
        if not self._stage.by_teeth:
            self._box(p, width, before)
            return
        r1, r2 = wheel_radii(float(driver), float(driven))
        middle = width / 2
        apart = 0 if self._stage.reverses else 12
        if apart:
            r1, r2 = r1 * 0.8, r2 * 0.8
        x1, x2 = middle - r2 - apart, middle + r1 + apart
        shaft(p, 0, x1)
        shaft(p, x2, width)
        p.setPen(pen("ink", 1.3))
        if apart:
            for side in (-1, 1):
                p.drawLine(QPointF(x1, SHAFT + side * (r1 + 3)), QPointF(x2, SHAFT + side * (r2 + 3)))
        for x, r, ground in ((x1, r1, "panel"), (x2, r2, "pale_brass")):
            p.setBrush(theme.color(ground))
            p.drawPath(wheel(x, SHAFT, r, max(8, round(r * 0.9)), 3.5))
            p.setBrush(theme.color("metal"))
            p.drawEllipse(QPointF(x, SHAFT), 4, 4)
        self._turning(p, x1, r1 - 7, clockwise=before > 0)
        self._turning(p, x2, r2 - 7, clockwise=self._way > 0)

    def _box(self, p: QPainter, width: float, before: int) -> None:
        """A gearbox by its reduction."""
        shaft(p, 0, 30)
        shaft(p, width - 30, width)
        p.setPen(pen())
        p.setBrush(theme.color("pale_brass"))
        p.drawRoundedRect(QRectF(30, SHAFT - 26, width - 60, 52), 4, 4)
        p.setFont(theme.figure_font(13, bold=True))
        words = str(self._stage).partition(",")[0]
        p.drawText(QRectF(30, SHAFT - 26, width - 60, 52), Qt.AlignmentFlag.AlignCenter, words)
        turning_shaft(p, 14, before)
        turning_shaft(p, width - 20, self._way)

    def _turning(self, p: QPainter, x: float, r: float, *, clockwise: bool) -> None:
        if r < 9:
            return
        p.setPen(pen("petrol", 1.5))
        p.setBrush(Qt.BrushStyle.NoBrush)
        box = QRectF(x - r, SHAFT - r, 2 * r, 2 * r)
        p.drawArc(box, 50 * 16, 80 * 16)
        side = 1 if clockwise else -1
        tip = QPointF(x + side * r * 0.643, SHAFT - r * 0.766)
        p.drawLine(tip, tip + QPointF(-side * 5, -2.5))
        p.drawLine(tip, tip + QPointF(-side * 0.5, -5.5))


class FinalPicture(PartPicture):
    """What holds the carriage or the table, with what it carries; drawn by the module of its key in `finals`."""

    def __init__(self, axis: Axis) -> None:
        super().__init__(200)
        self._axis = axis

    def draw(self, p: QPainter, width: float) -> None:
        import_module(f"{__package__}.finals.{self._axis.choice('chain.final')}").draw(p, width, self._axis, self)

    def load(self, p: QPainter, x: float, y: float, width: float) -> None:
        p.setPen(pen())
        p.setBrush(theme.color("panel"))
        p.drawRoundedRect(QRectF(x - width / 2, y, width, 16), 2, 2)
        p.setFont(theme.text_font(11))
        carried = word("table") if self._axis.choice("axis.moves") == "work" else word("head")
        p.drawText(QRectF(x - width / 2, y, width, 16), Qt.AlignmentFlag.AlignCenter, carried)

    def arrow(self, p: QPainter, x: float, y: float) -> None:
        """Both ways, since the part moves both ways."""
        p.setPen(pen("petrol", 1.5))
        p.drawLine(QPointF(x - 30, y), QPointF(x + 30, y))
        for side in (-1, 1):
            p.drawLine(QPointF(x + side * 30, y), QPointF(x + side * 24, y - 4))
            p.drawLine(QPointF(x + side * 30, y), QPointF(x + side * 24, y + 4))
