"""The page of the Sign-off station: proofs at the left; at the right revisions, a comparison, or what is left to settle."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from idler.core.report.progress import station_of
from idler.core.rules.findings import Severity
from idler.core.table.stations import Tab
from idler.core.wiring.tool import station_label
from idler.session.session import Session

from ... import growth
from ...bridge import follow
from ...tools.reports import ask_report
from ...widgets.cards import Segments, card, label, scrolled, turn_over
from .. import Host
from ..workbench import Workbench
from .compare import ComparePage
from .proofs import ProofsList
from .revisions import RevisionLine

RIGHT, WIDE = 440, 620  # a comparison has three columns of words
_SIGNS = {Severity.ERROR: "must be settled", Severity.WARNING: "should be looked at", Severity.NOTE: "to know"}


class FindingsPage(QWidget):
    """Everything that is wrong or doubtful anywhere, with the edit that would settle it."""

    asked = Signal(object)  # Station
    explained = Signal(str)  # the code of a finding

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.count = 0
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        self._scroll = scrolled(QWidget())
        column.addWidget(self._scroll, 1)

    def refresh(self) -> None:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 4, 0)
        column.setSpacing(3)
        listed = self._session.findings()
        self.count = len(listed)
        for severity in Severity:
            some = [item for item in listed if item.severity is severity]
            if some:
                column.addWidget(label(f"{_SIGNS[severity].capitalize()}, {len(some)}", "heading"))
            for item in some:
                column.addWidget(label(item.text, "", wrap=True))
                row = QHBoxLayout()
                if item.edit:
                    edit = QPushButton(item.edit_text)
                    edit.clicked.connect(lambda _=False, item=item: self._session.set_values(dict(item.edit)))
                    row.addWidget(edit)
                station = station_of(item)
                if station is not None:
                    there = QPushButton(f"at {station_label(self._session.machine, station)}")
                    there.setProperty("role", "quiet")
                    there.clicked.connect(lambda _=False, station=station: self.asked.emit(station))
                    row.addWidget(there)
                more = QPushButton("More about it")
                more.setProperty("role", "quiet")
                more.clicked.connect(lambda _=False, code=item.code: self.explained.emit(code))
                row.addWidget(more)
                row.addStretch(1)
                column.addLayout(row)
        if not listed:
            column.addWidget(label("Nothing is left to settle.", "heading"))
        column.addStretch(1)
        turn_over(self._scroll, page)


class SignOffStation(Workbench):
    opened = Signal(object)  # Station: another one is wanted
    keep = Signal()  # a revision is to be kept
    incidents = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.proofs, self.revisions = ProofsList(session), RevisionLine(session)
        self.compare, self.findings = ComparePage(session), FindingsPage(session)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 6, 12, 6)
        row.setSpacing(8)
        frame, inner = card((12, 8, 8, 8), 4)
        inner.addWidget(self.proofs, 1)
        row.addWidget(frame, 1)
        row.addWidget(self._right())
        self.proofs.asked.connect(self.opened)
        self.findings.asked.connect(self.opened)
        self.findings.explained.connect(self.explained)
        for signal in (session.changed, session.held, session.proved, session.revised, session.noticed):
            follow(signal, self._follow)

    def _right(self) -> QWidget:
        self._frame, column = card((10, 6, 10, 8), 6)
        self._frame.setFixedWidth(RIGHT)
        self._all = (self.revisions, self.compare, self.findings)
        self.segments = Segments(dict(zip((Tab.REVISIONS, Tab.COMPARE, Tab.TO_SETTLE), self._all, strict=True)))
        self.segments.turned.connect(self._turned)
        column.addWidget(self.segments, 1)
        self.keep_button = QPushButton("Keep this as a revision…")
        self.keep_button.clicked.connect(self.keep)
        self.report_button = QPushButton("Report…")
        self.report_button.setToolTip("Everything about the machine as one page, to be printed for its folder.")
        self.report_button.clicked.connect(lambda: ask_report(self, self._session))
        below = QHBoxLayout()
        below.addWidget(self.keep_button, 1)
        below.addWidget(self.report_button)
        self.incidents_button = QPushButton("Incidents")
        self.incidents_button.setToolTip("What stopped this machine, with the last seconds before it.")
        self.incidents_button.clicked.connect(self.incidents)
        below.addWidget(self.incidents_button)
        column.addLayout(below)
        return self._frame

    def _turned(self, place: int) -> None:
        growth.fix(self._frame, width=WIDE if self._all[place] is self.compare else RIGHT)
        self._all[place].refresh()

    def turn_to(self, name: str) -> None:
        """Shows one of the pages at the right."""
        self.segments.turn_to(name)

    def entered(self) -> None:
        self._refresh()

    def _follow(self) -> None:
        if self.isVisible():
            self._refresh()

    def _refresh(self) -> None:
        self.proofs.refresh()
        self._all[self.segments.place].refresh()


def make(host: Host) -> SignOffStation:
    made = SignOffStation(host.session)
    made.opened.connect(host.open_station)
    made.keep.connect(host.open_keep)
    made.incidents.connect(lambda: host.open_incident())
    made.compare.send.connect(host.open_send_of)
    return made
