"""Homing on a time line: each axis in its turn, its phases as bars; below each, what the last run really took."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from idler.core.homing import Leg
from idler.core.profile.homing import Phase

from .. import growth, theme
from .labels import on_plate
from .pacemap import nice_step
from .picture import Picture

LEFT, BOTTOM = 44.0, 22.0
LEAST = 14  # pixels of a row
_COLOURS = {
    Phase.APPROACH: "petrol", Phase.HALT: "metal", Phase.BACK_OFF: "metal", Phase.TOUCH: "pale_brass",
    Phase.HALT_AT_TOUCH: "metal", Phase.INDEX: "pale_petrol", Phase.HALT_AT_INDEX: "metal", Phase.LEAVE: "metal",
}  # fmt: skip


@dataclass(frozen=True)
class TimeRow:
    """One axis. ran: phases of the last run with the seconds of their begin and end; failed: it did not find home."""

    name: str
    turn: int
    begin: float
    legs: tuple[Leg, ...]
    ran: tuple[tuple[Phase, float, float], ...] = ()
    failed: bool = False
    words: str = ""  # where nothing moves


class TimeLine(Picture):
    """An axis is chosen with a click."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(92)
        self._rows: tuple[TimeRow, ...] = ()
        self._at = 0

    def show_rows(self, rows: tuple[TimeRow, ...], chosen: int) -> None:
        """chosen: the row that is lit."""
        if len(rows) != len(self._rows):
            growth.fix(self, height=max(92, round(BOTTOM) + LEAST * len(rows)), loose=True)
        if (rows, chosen) != (self._rows, self._at):
            self._rows, self._at = rows, chosen
            self.update()

    @property
    def _height(self) -> float:
        return (self.high - BOTTOM) / max(1, len(self._rows))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = int(self.hand(event).y() / self._height) if self._rows else 0
        if at < len(self._rows):
            self.chosen.emit(at)

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        ends = [row.begin + row.legs[-1].end for row in self._rows if row.legs]
        ends += [end for row in self._rows for _, _, end in row.ran]
        longest = max(ends, default=1.0) * 1.04
        width = self.wide - LEFT - 10

        def x(seconds: float) -> float:
            return LEFT + seconds / longest * width

        p.setFont(theme.text_font(11))
        step = nice_step(longest, 7)
        for k in range(int(longest / step) + 1):
            p.setPen(QPen(theme.color("line"), 1))
            p.drawLine(QPointF(x(k * step), 2), QPointF(x(k * step), self.high - BOTTOM + 2))
            p.setPen(theme.color("soft"))
            p.drawText(
                QRectF(x(k * step) - 30, self.high - BOTTOM + 5, 60, 14),
                Qt.AlignmentFlag.AlignHCenter,
                f"{k * step:g} s",
            )
        for place, row in enumerate(self._rows):
            self._row(p, row, place * self._height, place == self._at, x)

    def _row(self, p: QPainter, row: TimeRow, top: float, lit: bool, x: Callable[[float], float]) -> None:
        high = min(22.0, max(self._height - 12, min(self._height - 3, 14.0)))  # of many rows each keeps its words
        above = min(4.0, self._height - high - 1)
        badge = QRectF(8, top + above, 26, high)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("petrol" if lit else "ink"))
        p.drawRoundedRect(badge, 3, 3)
        p.setPen(theme.color("panel"))
        p.setFont(theme.text_font(13 if high >= 18 else 11, bold=True))
        p.drawText(badge, Qt.AlignmentFlag.AlignCenter, row.name)
        p.setFont(theme.text_font(11))
        if not row.legs:
            p.setPen(theme.color("soft"))
            side = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
            on_plate(p, QRectF(LEFT + 6, top + above, 400, high), row.words, side)
        for leg in row.legs:
            box = QRectF(x(row.begin + leg.begin), top + above, x(leg.seconds) - x(0), high)
            colour = _COLOURS.get(leg.phase, "metal")
            p.setPen(QPen(theme.color("ink"), 1))
            p.setBrush(theme.color(colour))
            p.drawRoundedRect(box, 2, 2)
            words = leg.phase.words
            if p.fontMetrics().horizontalAdvance(words) < box.width() - 6:
                p.setPen(theme.color("panel" if colour == "petrol" else "ink"))
                p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        self._ran(p, row, min(top + high + 6, top + self._height - 1), x)

    def _ran(self, p: QPainter, row: TimeRow, y: float, x: Callable[[float], float]) -> None:
        """The last run as a thin line with a tick where each phase began; a cross where it ended without home."""
        if not row.ran:
            return
        p.setPen(QPen(theme.color("indigo"), 2))
        first, last = row.ran[0][1], row.ran[-1][2]
        p.drawLine(QPointF(x(first), y), QPointF(x(last), y))
        for _, begin, _ in row.ran:
            p.drawLine(QPointF(x(begin), y - 3), QPointF(x(begin), y + 3))
        end = QPointF(x(last), y)
        if row.failed:
            p.setPen(QPen(theme.color("ink"), 2.4))
            p.drawLine(end + QPointF(-4, -4), end + QPointF(4, 4))
            p.drawLine(end + QPointF(-4, 4), end + QPointF(4, -4))
        else:
            p.drawLine(end + QPointF(0, -4), end + QPointF(0, 4))
