"""The margin: for the value that has the focus, what it is, what would change if it is sent, and what is to settle."""

from __future__ import annotations

from collections import Counter

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from idler.core.controller.standing import Change, Standing, consequences
from idler.core.machine import Address
from idler.core.proof.claims import claims
from idler.core.report.progress import station_of
from idler.core.rules.findings import Finding, Severity
from idler.core.table.stations import Station
from idler.core.words import capital
from idler.session.session import Session

from .. import theme
from ..bridge import follow
from ..widgets.cards import figures, label

WIDTH = 284


class Margin(QWidget):
    """notice stands above everything else here, so that the stage never moves for it."""

    def __init__(self, session: Session, notice: QWidget) -> None:
        super().__init__()
        self.setObjectName("margin")
        self._session = session
        self._station = Station.LINK
        self.setFixedWidth(WIDTH)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        strip = QVBoxLayout()
        strip.setContentsMargins(10, 8, 10, 0)
        strip.addWidget(notice)
        outer.addLayout(strip)
        outer.addWidget(self._scroll)
        follow(session.changed, self.refresh)
        follow(session.held, self.refresh)
        follow(session.focused, lambda _: self.refresh(), self)
        follow(session.noticed, self.refresh)

    def show_station(self, station: Station) -> None:
        self._station = station
        self.refresh()

    def refresh(self) -> None:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(18, 14, 16, 12)
        column.setSpacing(5)
        address = self._session.focus
        if address is not None and not self._session.machine.shape.has(address):
            address = None
        if address is None:
            self._about_station(column)
        else:
            self._about_value(column, address)
        self._to_settle(column)
        column.addStretch(1)
        self._scroll.setWidget(page)

    # -- pieces ---------------------------------------------------------------------------------------------------

    def _text(self, column: QVBoxLayout, words: str, role: str) -> QLabel:
        made = label(words, role, wrap=True)
        column.addWidget(made)
        return made

    def _line(self, column: QVBoxLayout) -> None:
        column.addSpacing(5)
        line = QFrame()
        line.setProperty("role", "hairline")
        column.addWidget(line)
        column.addSpacing(3)

    def _about_station(self, column: QVBoxLayout) -> None:
        self._text(column, self._station.label, "title")
        self._text(column, self._station.proves, "soft")
        self._text(
            column, "Click a value to read what it is, how to find it, and what would change if it is sent.", "small"
        )

    def _about_value(self, column: QVBoxLayout, address: Address) -> None:
        row, session = address.row, self._session
        title = session.machine.part(address)
        self._text(column, capital(title), "title")
        said = self._session.machine.reads.said
        self._text(column, said(row.what), "soft")
        self._text(column, f"How to find it: {said(row.find)}", "small")
        self._if_sent(column, address)
        if address.axis is not None:
            self._on_every_axis(column, address)
        self._line(column)
        restart = (
            "Takes effect after a restart of the controller." if row.restart else "Takes effect when sent. No restart."
        )
        self._text(column, restart, "small")

    def _if_sent(self, column: QVBoxLayout, address: Address) -> None:
        session = self._session
        standing = session.standing(address)
        self._line(column)
        edited = standing is Standing.EDITED or (
            not session.connected and session.machine[address] != session.in_controller[address]
        )
        if not edited:
            self._text(column, capital(standing.words) + ".", "soft")
            if standing is Standing.WAITING:
                self._text(column, f"In force until then: {session.in_force.show(address)}.", "soft")
            return
        self._text(column, "If you send this" if session.connected else "Since the last revision", "heading")
        before = session.in_controller.show(address) if self._same_axes() else "—"
        changes = [Change(address.row.label, before, session.machine.show(address))]
        if address.axis is not None and self._same_axes():
            changes += consequences(session.in_controller, session.machine, address.axis)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(1)
        grid.setColumnStretch(0, 1)
        line = 0
        for change in changes:
            old, new = figures(f"{change.before} →"), label(change.after, "edited")
            new.setFont(theme.figure_font(13, bold=True))
            for shown in (old, new):
                shown.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(label(change.label, "soft"), line, 0, 1, 2)
            grid.addWidget(old, line + 1, 0)
            grid.addWidget(new, line + 1, 1)
            line += 2
        column.addLayout(grid)
        touched = [claim for claim in claims(session.machine) if address in claim.rests]
        proven = [claim.label for claim in touched if claim.key in session.proofs]
        rests = proven or list(dict.fromkeys(claim.station.label for claim in touched))
        if rests:
            self._text(column, f"Prove again after sending, for it rests on this: {', '.join(rests)}.", "warn")

    def _same_axes(self) -> bool:
        return self._session.in_controller.shape == self._session.machine.shape

    def _on_every_axis(self, column: QVBoxLayout, address: Address) -> None:
        machine = self._session.machine
        self._line(column)
        self._text(column, "The same on every axis", "heading")
        grid = QGridLayout()
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(1, 1)
        for slot, name in enumerate(machine.names):
            other = Address(slot, address.key)
            value = figures(self._used(other))
            value.setProperty("role", "edited" if self._session.standing(other) is Standing.EDITED else "")
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label(name, "heading"), slot, 0)
            grid.addWidget(value, slot, 1)
        column.addLayout(grid)

    def _used(self, address: Address) -> str:
        """The value on another axis, or what that axis has instead of it."""
        machine = self._session.machine
        assert address.slot is not None
        when = address.row.used_when
        if when is not None and not machine.axis(address.slot).uses(address.row):
            return machine.show(Address(address.slot, when[0]))
        return machine.show(address)

    def _to_settle(self, column: QVBoxLayout) -> None:
        """What is wrong at this station in full, at the others as a count."""
        by_station = Counter(station_of(item) for item in self._session.findings())
        found = [item for item in self._session.findings() if station_of(item) is self._station]
        elsewhere = [
            f"{station.label} {n}" for station, n in by_station.items() if station and station is not self._station
        ]
        if not by_station:
            return
        self._line(column)
        self._text(column, f"To settle here, {len(found)}" if found else "Nothing to settle here", "heading")
        for item in found[:6]:
            mark = {Severity.ERROR: "■", Severity.WARNING: "▲", Severity.NOTE: "·"}[item.severity]
            self._text(column, f"{mark} {item.text}", "warn" if item.severity is not Severity.NOTE else "soft")
            if item.edit:
                button = QPushButton(item.edit_text)
                button.clicked.connect(lambda _=False, item=item: self._settle(item))
                column.addWidget(button, alignment=Qt.AlignmentFlag.AlignLeft)
        if len(found) > 6:
            self._text(column, f"and {len(found) - 6} more", "small")
        if elsewhere:
            self._text(column, f"At other stations: {', '.join(elsewhere)}.", "small")

    def _settle(self, item: Finding) -> None:
        self._session.set_values(dict(item.edit))
