"""Every claim of the machine with where it stands, station by station: when it was proven and how, or what is stale."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from idler.core.proof.claims import Claim, Proof, changed_since, claims, state
from idler.core.table.stations import Station
from idler.core.wiring.tool import station_label
from idler.core.words import capital
from idler.session.session import Session
from idler.shelf.dates import moment

from ...pictures.proof import ProofMark
from ...widgets.cards import label, scrolled, turn_over

_ORDER = (Proof.FAILED, Proof.STALE, Proof.PROVEN, Proof.ENTERED)
_WORDS = {Proof.PROVEN: "proven", Proof.STALE: "stale", Proof.FAILED: "failed", Proof.ENTERED: "not proven yet"}


def summary(found: list[Proof]) -> str:
    """ "14 of 27 proven, 2 stale, 1 failed"."""
    counts = {kind: found.count(kind) for kind in _ORDER}
    words = [f"{counts[Proof.PROVEN]} of {len(found)} proven"]
    words += [f"{counts[kind]} {_WORDS[kind]}" for kind in (Proof.STALE, Proof.FAILED) if counts[kind]]
    return ", ".join(words)


class ProofsList(QWidget):
    """`refresh`, which the station calls while it is on the stage, draws it anew where something is other than before."""

    asked = Signal(object)  # Station: a claim's own station is wanted

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.shown: dict[str, str] = {}  # by claim, the words beside its mark
        self._drawn: list[tuple[Claim, Proof, str]] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.title = label("", "title")
        column.addWidget(self.title)
        self._scroll = scrolled(QWidget())
        column.addWidget(self._scroll, 1)

    def refresh(self) -> None:
        machine, kept = self._session.machine, self._session.proofs
        listed = claims(machine)
        states = {claim.key: state(machine, claim, kept) for claim in listed}
        content = [(claim, states[claim.key], self._about(claim, states[claim.key])) for claim in listed]
        if content == self._drawn:
            return
        self._drawn = content
        self.shown = {claim.key: about for claim, _, about in content}
        self.title.setText(summary(list(states.values())))
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 6, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        row = 0
        for station in Station:
            of_station = [claim for claim in listed if claim.station is station]
            if not of_station:
                continue
            called = station_label(machine, station)
            head = QPushButton(f"{called}: {summary([states[claim.key] for claim in of_station])}")
            head.setProperty("role", "quiet")
            head.setToolTip(f"Opens {called}.")
            head.clicked.connect(lambda _=False, station=station: self.asked.emit(station))
            grid.addWidget(head, row, 0, 1, 2, Qt.AlignmentFlag.AlignLeft)
            row += 1
            for claim in sorted(of_station, key=lambda claim: _ORDER.index(states[claim.key])):
                grid.addWidget(ProofMark(states[claim.key]), row, 0, Qt.AlignmentFlag.AlignTop)
                lines = QVBoxLayout()
                lines.setSpacing(0)
                lines.addWidget(label(capital(claim.label), wrap=True))
                lines.addWidget(label(self.shown[claim.key], "small", wrap=True))
                grid.addLayout(lines, row, 1)
                row += 1
        grid.setRowStretch(row, 1)
        turn_over(self._scroll, page)

    def _about(self, claim: Claim, found: Proof) -> str:
        kept, reason = self._session.proofs.get(claim.key), self._session.agenda.skips.get(claim.key)
        if reason and found is not Proof.PROVEN:
            return f"left out: {reason}"
        if kept is None:
            return _WORDS[found]
        when = moment(kept.when)
        if found is Proof.STALE:
            part, before, now = changed_since(self._session.machine, claim, self._session.proofs)[0]
            return f"stale: {part} was {before} and is {now} ({when}, {kept.witness.words}: {kept.result})"
        return f"{when}, {kept.witness.words}: {'' if kept.passed else 'failed, '}{kept.result}"
