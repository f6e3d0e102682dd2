"""The margin: for the value that has the focus, what it is, what would change if it is sent, and what is to settle."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from idler.core.controller.standing import Change
from idler.core.machine import Address
from idler.core.report.aside import Claimed, Facts, Line, OnAxis, Rule, Settled, Text, aside
from idler.core.table.stations import Station
from idler.session.session import Session

from .. import theme
from ..bridge import follow
from ..pictures.proof import ProofMark
from ..widgets.cards import figures, label

WIDTH = 280


class Margin(QWidget):
    """notice stands below everything else here, so that neither the stage nor the help moves for it."""

    def __init__(self, session: Session, notice: QWidget) -> None:
        super().__init__()
        self.setObjectName("margin")
        self._session = session
        self._station = Station.LINK
        self._shown: tuple[Line, ...] = ()
        self.setFixedWidth(WIDTH)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setAccessibleName("Help and what is to settle")
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._scroll, 1)
        strip = QVBoxLayout()
        strip.setContentsMargins(10, 0, 10, 8)
        strip.addWidget(notice)
        outer.addLayout(strip)
        follow(session.changed, self.refresh)
        follow(session.held, self.refresh)
        follow(session.proved, self.refresh)
        follow(session.focused, lambda _: self.refresh(), self)
        follow(session.noticed, self.refresh)

    def show_station(self, station: Station) -> None:
        self._station = station
        self.refresh()

    def refresh(self) -> None:
        """Made anew only where it says something else."""
        lines = aside(self._facts(), self._station, self._session.focus)
        if lines == self._shown:
            return
        self._shown = lines
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(18, 14, 16, 12)
        column.setSpacing(5)
        for line in lines:
            self._add(column, line)
        column.addStretch(1)
        self._scroll.setWidget(page)

    def _facts(self) -> Facts:
        session, focus = self._session, self._session.focus
        machine, standings = session.machine, {}
        if focus is not None and machine.shape.has(focus):
            slots = range(len(machine.names)) if focus.axis is not None else (focus.slot,)
            standings = {where: session.standing(where) for slot in slots for where in [Address(slot, focus.key)]}
        return Facts(
            machine, session.in_controller, session.in_force, session.connected, standings, session.proofs,
            session.findings(),
        )  # fmt: skip

    # -- lines ----------------------------------------------------------------------------------------------------

    def _add(self, column: QVBoxLayout, line: Line) -> None:
        match line:
            case Text(words, tone):
                column.addWidget(label(words, tone.value, wrap=True))
            case Rule():
                column.addSpacing(5)
                hairline = QFrame()
                hairline.setProperty("role", "hairline")
                column.addWidget(hairline)
                column.addSpacing(3)
            case Change():
                column.addLayout(_change(line))
            case OnAxis():
                column.addLayout(_on_axis(line))
            case Claimed(words, state):
                row = QHBoxLayout()
                row.setSpacing(8)
                row.addWidget(ProofMark(state))
                row.addWidget(label(words, wrap=True), 1)
                column.addLayout(row)
            case Settled(finding):
                button = QPushButton(finding.edit_text)
                button.clicked.connect(lambda _=False: self._session.set_values(dict(finding.edit)))
                column.addWidget(button, alignment=Qt.AlignmentFlag.AlignLeft)


def _change(change: Change) -> QGridLayout:
    grid = QGridLayout()
    grid.setHorizontalSpacing(8)
    grid.setVerticalSpacing(1)
    grid.setColumnStretch(0, 1)
    old, new = figures(f"{change.before} →"), label(change.after, "edited")
    new.setFont(theme.figure_font(13, bold=True))
    for shown in (old, new):
        shown.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    grid.addWidget(label(change.label, "soft"), 0, 0, 1, 2)
    grid.addWidget(old, 1, 0)
    grid.addWidget(new, 1, 1)
    return grid


def _on_axis(line: OnAxis) -> QHBoxLayout:
    row = QHBoxLayout()
    value = figures(line.value)
    value.setProperty("role", "edited" if line.edited else "")
    value.setAlignment(Qt.AlignmentFlag.AlignRight)
    row.addWidget(label(line.axis, "heading"))
    row.addWidget(value, 1)
    return row
