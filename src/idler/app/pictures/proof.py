"""The mark of a proof: the same shapes on a small disc as on the wheels of the train."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout

from idler.core.machine import Machine
from idler.core.proof.claims import Claim, Evidence, Proof, state
from idler.core.words import capital

from .. import theme
from ..widgets.cards import label
from .picture import Picture


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


class ProofMark(Picture):
    def __init__(self, state: Proof = Proof.NOTHING) -> None:
        super().__init__()
        self.setFixedSize(22, 22)
        self.show_state(state)

    def show_state(self, state: Proof) -> None:
        self.state = state
        self._say(state.words)
        self.update()

    def _say(self, words: str) -> None:
        self.setAccessibleName(words)
        self.setToolTip(words)

    def show_claim(self, machine: Machine, claim: Claim, kept: Mapping[str, Evidence]) -> Proof:
        """Where a claim stands, with the result of its proof in the tip."""
        self.state = state(machine, claim, kept)
        words = f"{capital(claim.label)}: {self.state.words}"
        found = kept.get(claim.key)
        self._say(f"{words}; {found.result}" if found is not None else words)
        self.update()
        return self.state

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        entered = self.state is not Proof.NOTHING
        pen = QPen(theme.color("brass" if entered else "metal"), 1.5)
        if self.state is Proof.STALE:
            pen.setStyle(Qt.PenStyle.DashLine)
        p.setPen(pen)
        p.setBrush(theme.color("brass" if self.state is Proof.PROVEN else "panel"))
        centre = QPointF(11, 11)
        p.drawEllipse(centre, 9.5, 9.5)
        draw_mark(p, centre, self.state)


def claim_head(column: QVBoxLayout, words: str = "") -> tuple[QLabel, ProofMark]:
    """Puts a line into a column: what is claimed, and the mark of its proof."""
    row, title, mark = QHBoxLayout(), label(words, "title", wrap=True), ProofMark()
    row.addWidget(title, 1)
    row.addWidget(mark)
    column.addLayout(row)
    return title, mark
