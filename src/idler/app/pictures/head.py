"""The head of the travel: stop, switch, soft limit and home on one scale, and each phase of homing as an arrow below them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from idler.core.homing import Leg, by_stop, met_at, stands_at, stops_of, way
from idler.core.machine import Machine
from idler.core.mechanics.axis_directions import sense
from idler.core.profile.homing import Phase
from idler.core.values.measures import Measures

from .. import theme
from .picture import ScenePicture


@dataclass(frozen=True)
class HeadScene:
    """Coordinates in mm (°). low, high: what is shown. ran: coordinates of the last run, in the order of time.

    signs: the four senses that must agree, as caption and value. iron: home is the hard stop itself.
    """

    name: str
    reads: Measures
    low: float
    high: float
    switch: float
    home: float
    limit: float | None
    limit_on: bool
    stop: float | None
    towards: int
    legs: tuple[Leg, ...]
    told: dict[Phase, str]  # the figure that a phase is told by, with its unit
    signs: tuple[tuple[str, str], ...]
    iron: bool
    ran: tuple[float, ...] = ()


def signs_of(machine: Machine, slot: int) -> tuple[tuple[str, str], ...]:
    """Motor, home, travel and what moves: each can be turned round by itself, and they are judged together."""
    axis, seen = machine.axis(slot), sense(machine, slot)
    low, high, met = float(axis.number("travel.low")), float(axis.number("travel.high")), met_at(axis)
    if axis.wraps:
        travel = "round and round"
    elif low >= high:
        travel = "not set yet"
    else:
        travel = "to −, from home" if (low + high) / 2 < met else "to +, from home"
    return (
        ("the motor is", "turned round" if axis.flag("axis.reversed") else "as wired"),
        (f"on + {seen.thing} goes", seen.plus.partition(",")[0]),
        ("home lies towards", "+" if way(axis) > 0 else "−"),
        ("the travel goes", travel),
    )


def head_scene(machine: Machine, slot: int, legs: tuple[Leg, ...], ran: tuple[float, ...] = ()) -> HeadScene:
    """The last millimetres before the switch or stop, as many as the phases and the marks need."""
    axis = machine.axis(slot)
    towards, switch = way(axis), met_at(axis)
    end = "high" if towards > 0 else "low"
    limits = float(axis.number("travel.low")) < float(axis.number("travel.high"))
    limit = float(axis.number(f"travel.{end}")) if limits and not axis.wraps else None
    stop = float(axis.number(f"travel.stop_{end}")) if stops_of(axis) is not None and not by_stop(axis) else None
    marks = [switch, *([limit] if limit is not None else []), *([stop] if stop is not None else [])]
    marks += [place for leg in legs[1:] for place in (leg.start, leg.stop)]
    span = max(max(marks) - min(marks), 4.0)
    wide, narrow = span * 0.7, span * 0.16
    low, high = min(marks) - (wide if towards > 0 else narrow), max(marks) + (narrow if towards > 0 else wide)
    reads = axis.reads
    told = {
        phase: written(axis.number(key), digits)
        for phase, key, digits, written in (
            (Phase.APPROACH, "homing.approach", 0, reads.speed), (Phase.TOUCH, "homing.touch", 0, reads.speed),
            (Phase.BACK_OFF, "homing.back_off", 2, reads.length), (Phase.LEAVE, "homing.leave", 2, reads.length),
        )
    }  # fmt: skip
    if by_stop(axis):
        told[Phase.APPROACH] = told[Phase.TOUCH]
    return HeadScene(
        axis.name, reads, low, high, switch, stands_at(axis), limit, axis.flag("travel.limits_on"), stop, towards, legs,
        told, signs_of(machine, slot), by_stop(axis), ran,
    )  # fmt: skip


class HeadPicture(ScenePicture[HeadScene]):
    least = 172

    def paint(self, p: QPainter, scene: HeadScene) -> None:
        s = scene
        left, width = 14.0, self.wide - 28.0

        def x(coordinate: float) -> float:
            return left + (coordinate - s.low) / (s.high - s.low) * width

        self._signs(p, s, left, width - 44)
        rail = 74.0
        p.setPen(QPen(theme.color("soft"), 1))
        p.setBrush(theme.color("metal", 0.5))
        p.drawRect(QRectF(left, rail - 7, width, 14))
        if s.limit is not None:
            inside = QRectF(QPointF(x(s.low), rail - 7), QPointF(x(s.limit), rail + 7))
            if s.towards < 0:
                inside = QRectF(QPointF(x(s.limit), rail - 7), QPointF(x(s.high), rail + 7))
            p.setBrush(theme.color("panel"))
            p.drawRect(inside)
        self._marks(p, s, x, rail)
        self._arrows(p, s, x, rail + 26)
        self._plus(p, left + width)

    def _signs(self, p: QPainter, s: HeadScene, left: float, width: float) -> None:
        """The four senses side by side, each read as a sentence: soft words, then the one that counts."""
        small, bold = theme.text_font(11), theme.text_font(12, bold=True)
        needs = [max(QFontMetricsF(small).horizontalAdvance(words), QFontMetricsF(bold).horizontalAdvance(value)) + 2
                 for words, value in s.signs]  # fmt: skip
        right = left + width
        between = max(8.0, (width - sum(needs)) / len(needs))
        for (words, value), need in zip(s.signs, needs, strict=True):
            room = int(min(need, right - left))
            for font, name, text, y in ((small, "soft", words, 0), (bold, "ink", value, 14)):
                p.setFont(font)
                p.setPen(theme.color(name))
                shown = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, room)
                p.drawText(QRectF(left, y, need, 18), Qt.AlignmentFlag.AlignLeft, shown)
            left += need + between

    def _plus(self, p: QPainter, right: float) -> None:
        p.setPen(QPen(theme.color("ink"), 1.4))
        p.drawLine(QPointF(right - 34, 10), QPointF(right - 6, 10))
        for side in (-4, 4):
            p.drawLine(QPointF(right - 6, 10), QPointF(right - 12, 10 + side))
        p.setFont(theme.text_font(14, bold=True))
        p.drawText(QPointF(right - 46, 15), "+")

    def _marks(self, p: QPainter, s: HeadScene, x: Callable[[float], float], rail: float) -> None:
        p.setFont(theme.text_font(11))
        ink = "ink" if s.limit_on else "soft"
        if s.stop is not None:
            p.setPen(QPen(theme.color("ink"), 3))
            p.drawLine(QPointF(x(s.stop), rail - 16), QPointF(x(s.stop), rail + 16))
        if s.limit is not None:
            at, into = x(s.limit), -5 * s.towards
            p.setPen(QPen(theme.color(ink), 2))
            for y in (-14, 14):
                p.drawLine(QPointF(at, rail + y), QPointF(at + into, rail + y))
            p.drawLine(QPointF(at, rail - 14), QPointF(at, rail + 14))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("ink"))
        p.drawRect(QRectF(x(s.switch) - 3, rail - 12, 6, 24).adjusted(0, -4 * s.iron, 0, 4 * s.iron))
        tip = QPointF(x(s.home), rail - 8)
        p.setBrush(theme.color("petrol"))
        p.drawPolygon(QPolygonF([tip, tip + QPointF(-6, -9), tip + QPointF(6, -9)]))
        low, high = rail - 18, rail - 30
        thing = "hard stop" if s.iron else "switch"
        names = [(x(s.switch), low, f"{thing}, {s.reads.length(s.switch, trim=True)}", "ink"),
                 (x(s.home), high, f"stands at {s.reads.length(s.home, trim=True)}", "petrol")]  # fmt: skip
        if s.stop is not None:
            names.append((x(s.stop), low, "hard stop", "soft"))
        if s.limit is not None:
            names.append((x(s.limit), high, "soft limit" if s.limit_on else "soft limit, off", "soft"))
        self._names(p, names, low, high)

    def _names(self, p: QPainter, names: list[tuple[float, float, str, str]], low: float, high: float) -> None:
        """The names of the marks in two rows; one that would cover another goes to the other row, or beside it."""
        taken: list[tuple[float, float, float]] = []
        for middle, wanted, words, name in names:
            half = p.fontMetrics().horizontalAdvance(words) / 2 + 5
            places = [(middle, row) for row in (wanted, low + high - wanted)]
            places += [
                (at, wanted) for left, right, row in taken if row == wanted for at in (right + half, left - half)
            ]
            free = [
                (at, row)
                for at, row in places
                if half <= at <= self.wide - half
                and all(row != other or at + half <= left or at - half >= right for left, right, other in taken)
            ]
            at, row = free[0] if free else (middle, wanted)
            taken.append((at - half, at + half, row))
            self._words(p, at, row, words, name)

    def _words(self, p: QPainter, middle: float, base: float, words: str, name: str) -> None:
        width = p.fontMetrics().horizontalAdvance(words)
        at = min(max(4.0, middle - width / 2), self.wide - width - 4.0)
        p.fillRect(QRectF(at - 2, base - 11, width + 4, 14), theme.color("panel"))
        p.setPen(theme.color(name))
        p.drawText(QPointF(at, base), words)

    def _arrows(self, p: QPainter, s: HeadScene, x: Callable[[float], float], top: float) -> None:
        shown = [
            leg
            for leg in s.legs
            if leg.phase in (Phase.APPROACH, Phase.BACK_OFF, Phase.TOUCH, Phase.SQUARE, Phase.INDEX, Phase.LEAVE)
        ]
        step = min(24.0, (self.high - top - 6) / max(1, len(shown)))
        self._ran(p, s, x, top, step * len(shown))
        colours = {Phase.APPROACH: "petrol", Phase.TOUCH: "brass", Phase.INDEX: "brass"}
        for place, leg in enumerate(shown):
            y = top + (place + 0.62) * step
            start, end = max(x(s.low), min(x(leg.start), x(s.high))), x(leg.stop)
            name = colours.get(leg.phase, "ink")
            p.setPen(QPen(theme.color(name), 2))
            p.drawLine(QPointF(start, y), QPointF(end, y))
            back = 7 if end < start else -7
            for side in (-4, 4):
                p.drawLine(QPointF(end, y), QPointF(end + back, y + side))
            p.setFont(theme.text_font(11, bold=True))
            words = f"{leg.phase.words} {s.told.get(leg.phase, s.reads.length(abs(leg.stop - leg.start), 2))}"
            self._words(p, (start + end) / 2, y - 4, words, name)

    def _ran(self, p: QPainter, s: HeadScene, x: Callable[[float], float], top: float, height: float) -> None:
        """Where the axis really was, from top to bottom in the course of the last run."""
        inside = [place for place in s.ran if s.low <= place <= s.high]
        if len(inside) < 2:
            return
        line = [QPointF(x(place), top + height * k / (len(inside) - 1)) for k, place in enumerate(inside)]
        p.setPen(QPen(theme.color("indigo"), 1.6, Qt.PenStyle.DashLine))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPolyline(QPolygonF(line))
