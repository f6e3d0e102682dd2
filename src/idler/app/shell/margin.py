"""The margin: for the value that has the focus, what it is, what would change if it is sent, and what is to settle."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QPushButton, QScrollArea, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.report.aside import Facts, Line, aside
from idler.core.table.stations import Station
from idler.session.session import Session

from ..bridge import follow
from .asides import Asides
from .nextstrip import NextStrip

WIDTH = 280


class Margin(QWidget):
    """notice stands below everything else here, so that neither the stage nor the help moves for it. explained: the
    code of a finding that somebody wants to read more about."""

    explained = Signal(str)

    def __init__(self, session: Session, notice: QWidget) -> None:
        super().__init__()
        self.setObjectName("margin")
        self._session = session
        self._station = Station.LINK
        self._shown: tuple[Line, ...] = ()
        self.setFixedWidth(WIDTH)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._lines = Asides(session)
        self._lines.explained.connect(self.explained)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("Help and what is to settle")
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self._lines)
        self._scroll = scroll
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        self.next = NextStrip(session)
        outer.addWidget(self.next)
        outer.addWidget(scroll, 1)
        self.help = QPushButton("Help on this station (F1)")
        self.help.setProperty("role", "quiet")
        strip = QVBoxLayout()
        strip.setContentsMargins(10, 0, 10, 8)
        strip.addWidget(self.help, alignment=Qt.AlignmentFlag.AlignRight)
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
        """Laid out anew only where it says something else."""
        lines = aside(self._facts(), self._station, self._session.focus)
        if lines == self._shown:
            return
        if lines[:1] != self._shown[:1]:
            # About something else. The bar is asked for and not kept: what Qt made by itself it may take for that of a window
            # that is gone, and end with it.
            self._scroll.verticalScrollBar().setValue(0)
        self._shown = lines
        self._lines.show_lines(lines)

    def _facts(self) -> Facts:
        session, focus = self._session, self._session.focus
        machine, standings = session.machine, {}
        if focus is not None and machine.shape.has(focus):
            slots = range(len(machine.names)) if focus.axis is not None else (focus.slot,)
            standings = {where: session.standing(where) for slot in slots for where in [Address(slot, focus.key)]}
        return Facts(
            machine, session.in_controller, session.in_force, session.connected, standings, session.proofs,
            session.findings(), session.offered,
        )  # fmt: skip
