"""The mark of a proof: the same shapes on a small disc as on the wheels of the train."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from idler.core.proofs import Proof

from .. import theme


def draw_mark(p: QPainter, centre: QPointF, state: Proof) -> None:
    """The sign inside a wheel or disc: dot, tick, turned arrow, exclamation; nothing where there is nothing."""
    if state is Proof.ENTERED:
        p.setBrush(theme.color("brass"))
        p.drawEllipse(centre, 3, 3)
    elif state is Proof.PROVEN:
        p.setPen(QPen(theme.color("panel"), 2.2))
        p.drawPolyline([centre + QPointF(-5, 0), centre + QPointF(-1.5, 4), centre + QPointF(5.5, -4.5)])
    elif state is Proof.STALE:
        p.drawArc(QRectF(centre.x() - 5, centre.y() - 5, 10, 10), 60 * 16, 270 * 16)
    elif state is Proof.FAILED:
        p.setPen(QPen(theme.color("brass"), 2.4))
        p.drawLine(centre + QPointF(0, -6), centre + QPointF(0, 1))
        p.drawPoint(centre + QPointF(0, 5.5))


class ProofMark(QWidget):
    def __init__(self, state: Proof) -> None:
        super().__init__()
        self.state = state
        self.setFixedSize(22, 22)
        self.setAccessibleName(state.words)
        self.setToolTip(state.words)

    def paintEvent(self, _: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        entered = self.state is not Proof.NOTHING
        pen = QPen(theme.color("brass" if entered else "metal"), 1.5)
        if self.state is Proof.STALE:
            pen.setStyle(Qt.PenStyle.DashLine)
        p.setPen(pen)
        p.setBrush(theme.color("brass" if self.state is Proof.PROVEN else "panel"))
        centre = QPointF(11, 11)
        p.drawEllipse(centre, 9.5, 9.5)
        draw_mark(p, centre, self.state)
