"""Shows lines of a text that is too long for a widget: only those that are seen are ever asked for."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QAbstractScrollArea

from .. import growth, theme

LINE = 17  # pixels of the usual size
STEPS = {
    Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -20, Qt.Key.Key_PageDown: 20,
    Qt.Key.Key_Home: -(2**31), Qt.Key.Key_End: 2**31,
}  # fmt: skip


class LineView(QAbstractScrollArea):
    """taken: the line that was chosen by hand, from 1. marked: lines that have something to say."""

    taken = Signal(int)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumHeight(4 * LINE)
        self._lines, self._marked = 0, frozenset[int]()
        self._of: Callable[[int, int], list[str]] = _nothing
        self.line = 1

    def show_text(self, lines: int, of: Callable[[int, int], list[str]], marked: frozenset[int]) -> None:
        """of: lines from one on, so many of them."""
        self._lines, self._of, self._marked = lines, of, marked
        self.line = min(self.line, max(1, lines))
        self._range()
        self.viewport().update()

    def go_to(self, line: int) -> None:
        """Shows a line and marks it."""
        self.line = min(max(1, line), max(1, self._lines))
        seen = self._seen
        top = self.verticalScrollBar().value()
        if not top < self.line <= top + seen:
            self.verticalScrollBar().setValue(self.line - 1 - seen // 2)
        self.viewport().update()

    @property
    def _line_height(self) -> int:
        return max(1, growth.px(LINE))

    @property
    def _seen(self) -> int:
        return max(1, self.viewport().height() // self._line_height)

    def _range(self) -> None:
        self.verticalScrollBar().setRange(0, max(0, self._lines - self._seen))
        self.verticalScrollBar().setPageStep(self._seen)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._range()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = QPainter(self.viewport())
        p.setFont(theme.figure_font(12))
        top, high = self.verticalScrollBar().value(), self._line_height
        digits = p.fontMetrics().horizontalAdvance("0" * max(3, len(str(self._lines)))) + 8
        wide = self.viewport().width()
        for row, words in enumerate(self._of(top + 1, self._seen + 1) if self._lines else []):
            line = top + 1 + row
            box = QRectF(0, row * high, wide, high)
            if line == self.line:
                p.fillRect(box, theme.color("pale_petrol"))
            p.setPen(theme.color("vermilion" if line in self._marked else "soft"))
            p.drawText(
                QRectF(0, row * high, digits, high),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                str(line),
            )
            p.setPen(theme.color("ink"))
            left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextExpandTabs
            p.drawText(box.adjusted(digits + 10, 0, 0, 0), left, words)
        p.end()

    def _choose(self, line: int) -> None:
        if self._lines:
            self.go_to(line)
            self.taken.emit(self.line)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._choose(self.verticalScrollBar().value() + 1 + int(event.position().y()) // self._line_height)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = STEPS.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self._choose(self.line + step)


def _nothing(_first: int, _count: int) -> list[str]:
    return []
