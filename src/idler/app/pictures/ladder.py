"""The interlocks as a ladder: every rung must be closed before the spindle turns; the first open one says why it does not."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen

from idler.core.spindle.interlocks import Rung
from idler.core.wiring.tool import Tool
from idler.core.words import capital

from .. import theme
from .picture import Picture

TALLEST, SHORTEST = 54.0, 29.0


class LadderPicture(Picture):
    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(190)
        self.setAccessibleName("What must be so for the spindle to turn")
        self._rungs: tuple[Rung, ...] = ()
        self._turns, self._speed, self._tool = False, "", Tool.SPINDLE

    def show_rungs(self, rungs: Sequence[Rung], turns: bool, speed: str, tool: Tool = Tool.SPINDLE) -> None:
        state = (tuple(rungs), turns, speed, tool)
        if state != (self._rungs, self._turns, self._speed, self._tool):
            self._rungs, self._turns, self._speed, self._tool = state
            self.setAccessibleName(f"What must be so for the {tool.noun} to {tool.work}")
            self.setAccessibleDescription("; ".join(f"{rung.title}: {rung.now}" for rung in rungs))
            self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        step = min(TALLEST, max(SHORTEST, (self.high - 62) / max(1, len(self._rungs))))
        x, y = min(260.0, self.wide * 0.4), 14.0
        alive = True
        for rung in self._rungs:
            self._rung(p, rung, QPointF(x, y), step, alive)
            alive = alive and rung.closed
            y += step
        self._end(p, QPointF(x, y), alive)

    def _rung(self, p: QPainter, rung: Rung, top: QPointF, step: float, alive: bool) -> None:
        """A contact in the line that comes down: its arm lies across where it is closed, and stands off where it is open."""
        live, dead = QPen(theme.color("petrol"), 3), QPen(theme.color("soft"), 1.4)
        middle = top.y() + step / 2
        gap = 8.0
        p.setPen(live if alive else dead)
        p.drawLine(top, QPointF(top.x(), middle - gap))
        through = alive and rung.closed
        p.setPen(live if through else dead)
        p.drawLine(QPointF(top.x(), middle + gap), QPointF(top.x(), top.y() + step))
        arm = QPointF(top.x(), middle - gap) if rung.closed else QPointF(top.x() + 15, middle - gap + 1)
        p.setPen(live if through else QPen(theme.color("ink"), 2.4))
        p.drawLine(QPointF(top.x(), middle + gap), arm)
        p.setBrush(theme.color("panel"))
        for y in (middle - gap, middle + gap):
            p.drawEllipse(QPointF(top.x(), y), 3, 3)
        first = alive and not rung.closed
        if first:
            p.fillRect(QRectF(top.x() + 30, middle - 15, self.wide - top.x() - 40, 30), theme.color("pale_brass"))
        p.setPen(theme.color("ink"))
        p.setFont(theme.text_font(14, bold=True))
        p.drawText(QRectF(4, middle - 17, top.x() - 26, 18), Qt.AlignmentFlag.AlignRight, rung.title)
        p.setPen(theme.color("soft"))
        p.setFont(theme.text_font(11))
        p.drawText(QRectF(4, middle + 1, top.x() - 26, 14), Qt.AlignmentFlag.AlignRight, rung.by)
        words = f"{capital(rung.why)}." if first else rung.now
        place = QRectF(top.x() + 36, middle - 15, self.wide - top.x() - 48, 30)
        p.setPen(theme.color("ink") if first or rung.closed else theme.color("soft"))
        p.setFont(theme.text_font(13, bold=first))
        p.drawText(place, Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, words)

    def _end(self, p: QPainter, top: QPointF, alive: bool) -> None:
        """The spindle at the foot of the ladder."""
        p.setPen(QPen(theme.color("petrol"), 3) if alive else QPen(theme.color("soft"), 1.4))
        p.drawLine(top, top + QPointF(0, 8))
        p.setBrush(theme.color("pale_petrol") if self._turns else theme.color("panel"))
        p.drawEllipse(top + QPointF(0, 26), 18, 18)
        tool = self._tool
        works = f"{tool.works}, {self._speed}" if tool.turns else tool.works
        words = works if self._turns else "may start" if alive else "stays off"
        p.setPen(theme.color("ink"))
        p.setFont(theme.text_font(14, bold=True))
        p.drawText(QRectF(4, top.y() + 17, top.x() - 26, 18), Qt.AlignmentFlag.AlignRight, tool.noun)
        p.drawText(QPointF(top.x() + 36, top.y() + 31), words)
