"""Feed asked for against feed reached, along the time of a program; a part of it is chosen by drawing over it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen, QPolygonF

from idler.core.values.measures import MILLIMETRES, Measures
from idler.core.words import duration

from .. import theme
from .curves import draw_curve
from .picture import ScenePicture

if TYPE_CHECKING:
    from idler.core.program.strokes import Feeds

LEFT, RIGHT, TOP, FOOT = 8.0, 8.0, 18.0, 19.0
ABOVE = 1.25  # of the highest feed: where the drawing ends, for rapids are much faster
SHORTEST = 0.004  # share of the time that is a part; less is a click, which chooses all again


@dataclass(frozen=True, eq=False)
class FeedScene:
    """part: shares of the time that are chosen, from and to."""

    feeds: Feeds
    part: tuple[float, float] = (0.0, 1.0)
    reads: Measures = MILLIMETRES


class FeedPicture(ScenePicture[FeedScene]):
    brushed = Signal(float, float)
    least = 70
    nothing = ""

    def __init__(self) -> None:
        super().__init__()
        self._from: float | None = None

    def words(self, scene: FeedScene) -> str:
        return f"Feed along {duration(scene.feeds.seconds)}"

    def _frame(self) -> QRectF:
        return QRectF(LEFT, TOP, self.wide - LEFT - RIGHT, self.high - TOP - FOOT)

    def paint(self, p: QPainter, scene: FeedScene) -> None:
        frame, feeds = self._frame(), scene.feeds
        if not len(feeds.asked):
            return
        fed = float(feeds.asked.max())
        top = fed * ABOVE if fed > 0 else max(float(feeds.reached.max()), 1.0)
        xs = frame.left() + np.linspace(0, 1, len(feeds.asked)) * frame.width()

        def line(values: np.ndarray) -> list[QPointF]:
            ys = frame.bottom() - np.minimum(1.0, values / top) * frame.height()
            return list(map(QPointF, xs.tolist(), ys.tolist()))

        reached, asked = line(feeds.reached), line(feeds.asked)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.color("pale_petrol"))
        p.drawPolygon(QPolygonF([frame.bottomLeft(), *reached, frame.bottomRight()]))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.color("petrol"), 1.4))
        draw_curve(p, reached)
        p.setPen(QPen(theme.color("brass"), 1.2))
        since = 0
        for at in [*(np.flatnonzero(np.diff(feeds.asked > 0)) + 1).tolist(), len(feeds.asked)]:
            if feeds.asked[since] > 0:  # a rapid asks for no feed
                draw_curve(p, asked[since:at])
            since = at
        if scene.part != (0.0, 1.0):
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.color("paper", 0.7))
            left, right = (frame.left() + share * frame.width() for share in scene.part)
            p.drawRect(QRectF(QPointF(frame.left(), TOP), QPointF(left, frame.bottom())))
            p.drawRect(QRectF(QPointF(right, TOP), QPointF(frame.right(), frame.bottom())))
        p.setFont(theme.text_font(12))
        x = frame.left()
        for words, tone in (
            ("feed asked", "brass"),
            ("reached", "petrol"),
            (f"{scene.reads.speed(fed)} at most, rapids cut off", "soft"),
        ):
            p.setPen(theme.color(tone))
            p.drawText(QPointF(x, TOP - 6), words)
            x += p.fontMetrics().horizontalAdvance(words) + 16
        p.setPen(theme.color("soft"))
        foot = QRectF(frame.left(), frame.bottom() + 1, frame.width(), FOOT - 2)
        begin, end = (share * feeds.seconds for share in scene.part)
        p.drawText(foot, Qt.AlignmentFlag.AlignLeft, "begin" if begin <= 0 else duration(begin))
        p.drawText(foot, Qt.AlignmentFlag.AlignRight, duration(end))

    def _share(self, event: QMouseEvent) -> float:
        frame = self._frame()
        return min(1.0, max(0.0, (self.hand(event).x() - frame.left()) / max(1.0, frame.width())))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = self._share(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None:
            self._brush(self._share(event))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._from is not None:
            self._brush(self._share(event))
        self._from = None

    def _brush(self, to: float) -> None:
        assert self._from is not None
        low, high = min(self._from, to), max(self._from, to)
        if high - low < SHORTEST:
            low, high = 0.0, 1.0
        self.brushed.emit(low, high)
