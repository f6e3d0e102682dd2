"""Two rulers of the reliable pace: what was tried, what held, where steps were lost, and what is proposed."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from idler.core.mechanics.reliable import Bracket, Part, Search
from idler.core.values.measures import Measures

from .. import theme
from .picture import Picture


class TrialPicture(Picture):
    """Dots held, crosses lost steps; the hatched part is beyond what the controller or the motor allows."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(110)
        self._search: Search | None = None
        self._reads = Measures()

    def show_search(self, search: Search | None, reads: Measures) -> None:
        self._search, self._reads = search, reads
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        if self._search is None:
            p.setPen(theme.color("soft"))
            p.setFont(theme.text_font(12))
            p.drawText(self.room, Qt.AlignmentFlag.AlignCenter, "Nothing was tried yet")
            return
        search, proposal = self._search, self._search.proposal
        half = self.high / 2
        speeds = [(t.speed, t.held) for t in search.trials if t.part is Part.SPEED]
        rises = [(t.acceleration, t.held) for t in search.trials if t.part is Part.ACCELERATION]
        self._ruler(p, 0, half, "top speed", self._reads.speed, search.speed, speeds, proposal and float(proposal[0]))
        self._ruler(
            p,
            half,
            half,
            "acceleration",
            self._reads.acceleration,
            search.acceleration,
            rises,
            proposal and float(proposal[1]),
        )

    def _ruler(
        self, p: QPainter, top: float, height: float, words: str, written: Callable[[float], str], bracket: Bracket,
        tried: list[tuple[float, bool]], proposal: float | None,
    ) -> None:  # fmt: skip
        left, right, y = 12.0, self.wide - 12.0, top + height * 0.62
        highest = min(bracket.ceiling, max([value for value, _ in tried] + [bracket.held]) * 1.5)
        shown = max(highest * 1.05, 1.0)

        def x(value: float) -> float:
            return left + min(value, shown) / shown * (right - left)

        p.setFont(theme.text_font(12, bold=True))
        p.setPen(theme.color("ink"))
        p.drawText(QPointF(left, top + 14), words)
        p.setFont(theme.text_font(11))
        p.setPen(theme.color("soft"))
        p.drawText(QRectF(left, top + 2, right - left, 14), Qt.AlignmentFlag.AlignRight, f"to {written(shown)}")
        p.setPen(QPen(theme.color("line"), 1))
        p.setBrush(theme.color("paper"))
        p.drawRect(QRectF(left, y - 7, right - left, 14))
        if bracket.lost is not None:
            p.fillRect(QRectF(x(bracket.held), y - 7, x(bracket.lost) - x(bracket.held), 14), theme.color("pale_brass"))
            p.fillRect(QRectF(x(bracket.lost), y - 6, right - x(bracket.lost), 12), theme.color("brass", 0.35))
        for value, held in tried:
            self._mark(p, QPointF(x(value), y), held)
        if proposal:
            tip = QPointF(x(proposal), y + 9)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.color("indigo"))
            p.drawPolygon(QPolygonF([tip, tip + QPointF(-5, 8), tip + QPointF(5, 8)]))
            p.setPen(theme.color("indigo"))
            p.setFont(theme.figure_font(12, bold=True))
            said = written(proposal)
            width = p.fontMetrics().horizontalAdvance(said)
            p.drawText(QPointF(min(max(left, tip.x() + 9), right - width), y + 20), said)

    def _mark(self, p: QPainter, at: QPointF, held: bool) -> None:
        if held:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.color("petrol"))
            p.drawEllipse(at, 4, 4)
            return
        p.setPen(QPen(theme.color("ink"), 2))
        for angle in (math.pi / 4, 3 * math.pi / 4):
            arm = QPointF(math.cos(angle), math.sin(angle)) * 5
            p.drawLine(at - arm, at + arm)
