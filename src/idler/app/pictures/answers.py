"""Small pictures of answers: what a machine is, what drives an axis, how it finds its home, what turns its tool."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QGuiApplication, QIcon, QPainter, QPainterPath, QPixmap, QPolygonF

from idler.core.machine import Address, Machine

from .. import growth, theme
from .chain import HEIGHT, FinalPicture, pen

WIDE, HIGH = 84.0, 42.0
_TRAIN, _TRAIN_WIDE = 0.5, 160.0  # of a train's picture: its scale here, and how much of it is seen

Draw = Callable[[QPainter], None]


def answer_icon(question: str, answer: str) -> QIcon | None:
    """The picture of an answer; None where it has none. question: its key, without the axis that it is of."""
    if question == "driven":
        return _icon(lambda p: _train(p, answer))
    draw = _DRAWN.get((question, answer))
    return _icon(draw) if draw is not None else None


def _icon(draw: Draw) -> QIcon:
    screen = QGuiApplication.primaryScreen()
    ratio = (screen.devicePixelRatio() if screen is not None else 1.0) * growth.factor()
    made = QPixmap(round(WIDE * ratio), round(HIGH * ratio))
    made.setDevicePixelRatio(ratio)
    made.fill("transparent")
    p = QPainter(made)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(pen())
    draw(p)
    p.end()
    return QIcon(made)


class _Wordless(FinalPicture):
    """So small that words could not be read."""

    def load(self, p: QPainter, x: float, y: float, width: float) -> None:
        p.setPen(pen())
        p.setBrush(theme.color("panel"))
        p.drawRoundedRect(QRectF(x - width / 2, y, width, 16), 2, 2)


def _train(p: QPainter, final: str) -> None:
    axis = Machine(("X",)).with_values({Address(0, "chain.final"): final}).axis(0)
    p.scale(_TRAIN, _TRAIN)
    wide = 90.0 if final == "direct" else _TRAIN_WIDE
    p.translate((WIDE / _TRAIN - wide) / 2, (HIGH / _TRAIN - HEIGHT) / 2)
    p.setClipRect(QRectF(0, 0, 72 if final == "direct" else wide, HEIGHT))
    _Wordless(axis).draw(p, wide)


def _box(p: QPainter, x: float, y: float, wide: float, high: float, color: str = "panel") -> None:
    p.setPen(pen())
    p.setBrush(theme.color(color))
    p.drawRoundedRect(QRectF(x, y, wide, high), 1.5, 1.5)


def _tool(p: QPainter, x: float, y: float) -> None:
    """A head with its tool, the tip at (x, y)."""
    p.setPen(pen("petrol"))
    p.setBrush(theme.color("pale_petrol"))
    p.drawRoundedRect(QRectF(x - 6, y - 17, 12, 11), 1.5, 1.5)
    p.drawPolygon(QPolygonF([QPointF(x - 2.5, y - 6), QPointF(x + 2.5, y - 6), QPointF(x, y)]))


def _mill(p: QPainter) -> None:
    _box(p, 35, 3, 14, 36, "metal")
    _box(p, 24, 35, 36, 5, "metal")
    _box(p, 12, 27, 60, 6)
    _tool(p, 42, 25)


def _router(p: QPainter) -> None:
    for x in (8, 70):
        _box(p, x, 8, 6, 27, "metal")
    _box(p, 6, 34, 72, 6)
    _box(p, 8, 8, 68, 7, "metal")
    _tool(p, 50, 32)


def _lathe(p: QPainter) -> None:
    _box(p, 4, 6, 16, 30, "metal")
    _box(p, 20, 10, 7, 20, "pale_brass")
    _box(p, 27, 16, 36, 8)
    p.drawPolygon(QPolygonF([QPointF(63, 20), QPointF(70, 16), QPointF(70, 24)]))
    _box(p, 70, 12, 10, 24, "metal")
    _box(p, 4, 36, 76, 4, "metal")
    p.setPen(pen("petrol"))
    p.setBrush(theme.color("pale_petrol"))
    p.drawPolygon(QPolygonF([QPointF(45, 25), QPointF(49, 33), QPointF(41, 33)]))


def _sheet(p: QPainter) -> None:
    """A sheet on its slats, with a kerf in it."""
    p.setPen(pen())
    for x in range(12, 76, 10):
        p.drawLine(QPointF(x, 33), QPointF(x, 40))
    _box(p, 6, 29, 33, 4, "metal")
    _box(p, 43, 29, 35, 4, "metal")


def _nozzle(p: QPainter, x: float, high: float) -> None:
    p.setPen(pen("petrol"))
    p.setBrush(theme.color("pale_petrol"))
    p.drawPolygon(QPolygonF([
        QPointF(x - 7, 4), QPointF(x + 7, 4), QPointF(x + 7, high - 6), QPointF(x + 2, high), QPointF(x - 2, high),
        QPointF(x - 7, high - 6),
    ]))  # fmt: skip


def _torch(p: QPainter) -> None:
    _sheet(p)
    _nozzle(p, 41, 22)
    p.setPen(pen("brass", 2))
    for x in (38.5, 41, 43.5):
        p.drawLine(QPointF(41 + (x - 41) / 3, 23), QPointF(x, 38 if x == 41 else 34))


def _beam(p: QPainter) -> None:
    _sheet(p)
    _nozzle(p, 41, 20)
    p.setPen(pen("petrol", 1.4))
    p.drawLine(QPointF(41, 20), QPointF(41, 41))


def _knife(p: QPainter) -> None:
    _sheet(p)
    _box(p, 34, 3, 14, 14, "pale_petrol")
    p.setPen(pen("petrol"))
    p.setBrush(theme.color("panel"))
    p.drawPolygon(QPolygonF([QPointF(37, 17), QPointF(45, 17), QPointF(45, 25), QPointF(39, 36), QPointF(37, 33)]))


def _table(p: QPainter) -> None:
    for x in (8, 70):
        _box(p, x, 8, 6, 24, "metal")
    p.setPen(pen())
    for x in range(12, 76, 8):
        p.drawLine(QPointF(x, 34), QPointF(x, 41))
    _box(p, 6, 31, 72, 3, "metal")
    _box(p, 8, 8, 68, 6, "metal")
    _nozzle(p, 46, 26)


def _stepper(p: QPainter) -> None:
    _box(p, 24, 8, 26, 26, "metal")
    _box(p, 50, 18, 16, 6)
    for x, y in ((28, 12), (46, 12), (28, 30), (46, 30)):
        p.drawEllipse(QPointF(x, y), 1.5, 1.5)


def _servo(p: QPainter) -> None:
    _box(p, 28, 9, 34, 24, "metal")
    _box(p, 62, 18, 14, 6)
    _box(p, 14, 12, 14, 18, "pale_petrol")
    p.setPen(pen("petrol", 1.2))
    for x in (17, 20, 23):
        p.drawLine(QPointF(x, 16), QPointF(x, 26))


def _rail(p: QPainter) -> None:
    p.setPen(pen())
    p.drawLine(QPointF(6, 32), QPointF(78, 32))
    _box(p, 24, 20, 22, 11)


def _switch(p: QPainter) -> None:
    _rail(p)
    _box(p, 60, 22, 12, 9, "pale_brass")
    p.drawLine(QPointF(60, 24), QPointF(53, 17))
    p.setBrush(theme.color("panel"))
    p.drawEllipse(QPointF(52, 16), 3, 3)


def _stop(p: QPainter) -> None:
    _rail(p)
    p.setBrush(theme.color("ink"))
    p.drawRect(QRectF(66, 12, 6, 20))
    p.setPen(pen("petrol", 1.6))
    p.drawLine(QPointF(50, 25), QPointF(63, 25))
    p.drawLine(QPointF(63, 25), QPointF(58, 21))
    p.drawLine(QPointF(63, 25), QPointF(58, 29))


def _here(p: QPainter) -> None:
    _rail(p)
    p.setPen(pen("petrol", 1.6))
    p.drawLine(QPointF(35, 4), QPointF(35, 17))
    p.drawLine(QPointF(35, 17), QPointF(31, 12))
    p.drawLine(QPointF(35, 17), QPointF(39, 12))


def _end(p: QPainter, at: float, sign: str) -> None:
    p.drawLine(QPointF(10, 24), QPointF(74, 24))
    for x in (10, 74):
        p.drawLine(QPointF(x, 18), QPointF(x, 30))
    p.setBrush(theme.color("petrol"))
    p.setPen(pen("petrol"))
    p.drawPolygon(QPolygonF([QPointF(at, 22), QPointF(at - 6, 11), QPointF(at + 6, 11)]))
    p.setFont(theme.figure_font(13, bold=True))
    p.drawText(QRectF(at - 10, 28, 20, 14), Qt.AlignmentFlag.AlignCenter, sign)


def _none(p: QPainter) -> None:
    p.setPen(pen("soft", 1.6))
    p.drawEllipse(QPointF(42, 21), 13, 13)
    p.drawLine(QPointF(33, 30), QPointF(51, 12))


def _relay(p: QPainter) -> None:
    for x in (8, 56):
        p.drawLine(QPointF(x, 26), QPointF(x + 20, 26))
    p.setBrush(theme.color("ink"))
    for x in (28, 56):
        p.drawEllipse(QPointF(x, 26), 2.5, 2.5)
    p.setPen(pen("petrol", 2))
    p.drawLine(QPointF(28, 26), QPointF(52, 12))


def _voltage(p: QPainter) -> None:
    p.setPen(pen("soft"))
    p.drawLine(QPointF(14, 36), QPointF(72, 36))
    p.drawLine(QPointF(14, 36), QPointF(14, 6))
    p.setPen(pen("petrol", 2))
    p.drawLine(QPointF(14, 36), QPointF(68, 9))


def _pulse(p: QPainter) -> None:
    p.setPen(pen("petrol", 2))
    path = QPainterPath(QPointF(8, 32))
    for start, wide in ((14, 4), (32, 9), (50, 14)):
        for x, y in ((start, 32), (start, 11), (start + wide, 11), (start + wide, 32)):
            path.lineTo(x, y)
    path.lineTo(76, 32)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(path)


def _modbus(p: QPainter) -> None:
    p.drawLine(QPointF(10, 32), QPointF(74, 32))
    for x in (20, 42, 64):
        p.drawLine(QPointF(x, 32), QPointF(x, 24))
        _box(p, x - 8, 10, 16, 14, "pale_petrol" if x == 64 else "panel")


def _own_drive(p: QPainter) -> None:
    """Drives of axes on one line, and below it the one that turns the spindle."""
    p.drawLine(QPointF(10, 18), QPointF(74, 18))
    for x in (20, 42):
        p.drawLine(QPointF(x, 18), QPointF(x, 14))
        _box(p, x - 8, 4, 16, 10, "panel")
    p.drawLine(QPointF(64, 18), QPointF(64, 24))
    _box(p, 54, 24, 20, 12, "pale_petrol")
    p.drawLine(QPointF(54, 30), QPointF(42, 30))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawEllipse(QPointF(34, 30), 8, 8)


_DRAWN: dict[tuple[str, str], Draw] = {
    ("kind", "mill"): _mill, ("kind", "router"): _router, ("kind", "lathe"): _lathe, ("kind", "table"): _table,
    ("cutter", "torch"): _torch, ("cutter", "beam"): _beam, ("cutter", "knife"): _knife,
    ("motor", "stepper"): _stepper, ("motor", "counts"): _servo, ("by", "switch"): _switch, ("by", "stop"): _stop,
    ("by", "here"): _here, ("home", "high"): lambda p: _end(p, 74, "+"), ("home", "low"): lambda p: _end(p, 10, "−"),
    ("spindle", "none"): _none, ("spindle", "relay"): _relay, ("spindle", "voltage"): _voltage,
    ("spindle", "pulse"): _pulse, ("spindle", "modbus"): _modbus, ("spindle", "drive"): _own_drive,
}  # fmt: skip
