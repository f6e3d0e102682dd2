"""What the lines of an index stop said around their last change: states that settled, and those that came past."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPen

from idler.core.wiring.indexing import StateSpan, number_of, passed

from .. import theme
from .picture import ScenePicture

BEFORE, AFTER = 400_000, 160_000  # µs around the last change that are drawn
TALL, BELOW = 20.0, 16.0  # pixels of the strip, and of the words below it
SCALE = 100_000  # µs of the measure below it
SIDE = 10.0


@dataclass(frozen=True)
class LineScene:
    """spans: one after the other, the last one of which stands still. settle: ms that a state must stand. gray: how numbers
    are told."""

    spans: tuple[StateSpan, ...]
    settle: float
    gray: bool

    @property
    def window(self) -> tuple[int, int]:
        """µs of the controller's clock that are drawn."""
        last = self.spans[-1].begin
        return last - BEFORE, last + max(AFTER, round(self.settle * 2000))


class LineStates(ScenePicture[LineScene]):
    least = 62
    nothing = "Nothing has changed on its lines yet"

    def words(self, scene: LineScene) -> str:
        over = len(passed(scene.spans, scene.settle))
        return f"Its lines say {number_of(scene.spans[-1].state, gray=scene.gray)}; {over} states came past and did nothing"

    def paint(self, p: QPainter, scene: LineScene) -> None:
        begin, end = scene.window
        wide, top = self.wide - 2 * SIDE, self.high - BELOW - TALL - 4

        def x(time: int) -> float:
            return SIDE + wide * (min(max(time, begin), end) - begin) / (end - begin)

        p.setFont(theme.text_font(11))
        p.setPen(theme.color("soft"))
        p.drawText(
            QPointF(SIDE, top - 6), "around the last change on its lines: filled what settled, hatched what came past"
        )
        over = set(passed(scene.spans, scene.settle))
        p.setFont(theme.figure_font(13, bold=True))
        for span in scene.spans:
            until = end if span.end is None else span.end
            if until <= begin:
                continue
            box = QRectF(x(span.begin), top, x(until) - x(span.begin), TALL)
            if span in over:
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(QBrush(theme.color("brass"), Qt.BrushStyle.BDiagPattern))
                p.drawRect(box)
                continue
            p.setPen(QPen(theme.color("petrol"), 1))
            p.setBrush(theme.color("pale_petrol"))
            p.drawRect(box)
            if box.width() > 20:
                p.setPen(theme.color("ink"))
                number = number_of(span.state, gray=scene.gray)
                p.drawText(box, Qt.AlignmentFlag.AlignCenter, str(number) if number else "0: stays")
        self._measure(p, wide * SCALE / (end - begin))

    def _measure(self, p: QPainter, wide: float) -> None:
        right, y = self.wide - SIDE, self.high - BELOW + 3
        p.setPen(QPen(theme.color("soft"), 1.2))
        p.drawLine(QPointF(right - wide, y), QPointF(right, y))
        p.setFont(theme.text_font(11))
        p.drawText(QRectF(right - wide - 66, y - 8, 60, 16), Qt.AlignmentFlag.AlignRight, f"{SCALE // 1000} ms")
