"""How long the false pulses of one input are: a histogram with the filter in it."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from idler.core.wiring.filterstudy import Study

from .. import theme
from .pacemap import nice_step
from .picture import Picture

BINS = 24


class Histogram(Picture):
    """The filter in force as a dashed line, the proposed one as a full line, both with their figures."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(96)
        self._study: Study | None = None
        self._now = Fraction(0)

    def show_study(self, study: Study | None, filter_now: Fraction) -> None:
        """filter_now in ms."""
        self._study, self._now = study, filter_now
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        box = QRectF(8, 24, self.wide - 16, self.high - 44)
        p.fillRect(box, theme.color("paper"))
        p.setPen(QPen(theme.color("line"), 1))
        p.drawRect(box)
        study = self._study
        p.setFont(theme.text_font(12))
        if study is None or not study.widths:
            p.setPen(theme.color("soft"))
            words = "not recorded yet" if study is None else f"no false pulse in {study.seconds:.0f} s"
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
            return
        proposal = study.proposal
        highest = max(float(proposal or 0), float(self._now), study.longest / 1000) * 1.15  # ms
        counts = study.histogram(BINS, highest * 1000)
        tallest = max(counts)
        width = box.width() / BINS
        p.setPen(QPen(theme.color("brass"), 1))
        p.setBrush(theme.color("pale_brass"))
        for k, count in enumerate(counts):
            if count:
                height = max(2.0, count / tallest * (box.height() - 6))
                p.drawRect(QRectF(box.left() + k * width + 1, box.bottom() - height, width - 2, height))
        self._scale(p, box, highest)
        self._line(p, box, float(self._now) / highest, f"now {float(self._now):g} ms", "soft", dashed=True)
        if proposal is not None:
            self._line(p, box, float(proposal) / highest, f"{float(proposal):g} ms", "indigo", dashed=False)

    def _scale(self, p: QPainter, box: QRectF, highest: float) -> None:
        p.setPen(theme.color("soft"))
        p.setFont(theme.text_font(11))
        step = nice_step(highest, 4)
        k = 0
        while k * step <= highest:
            x = box.left() + k * step / highest * box.width()
            p.drawLine(QPointF(x, box.bottom()), QPointF(x, box.bottom() + 3))
            words = f"{k * step:g} ms" if k else "0"
            p.drawText(QRectF(x - 30, box.bottom() + 4, 60, 14), Qt.AlignmentFlag.AlignHCenter, words)
            k += 1

    def _line(self, p: QPainter, box: QRectF, share: float, words: str, name: str, *, dashed: bool) -> None:
        x = box.left() + share * box.width()
        p.setPen(QPen(theme.color(name), 1.8, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine))
        p.drawLine(QPointF(x, box.top() - 3), QPointF(x, box.bottom()))
        p.setFont(theme.text_font(11, bold=not dashed))
        wide = p.fontMetrics().horizontalAdvance(words)
        left = min(max(box.left(), x - wide / 2), box.right() - wide)
        p.drawText(QPointF(left, box.top() - (14 if dashed else 4)), words)
