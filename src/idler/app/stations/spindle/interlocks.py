"""Interlocks: why the spindle may not start now, and each way of ending it, proven."""

from __future__ import annotations

from PySide6.QtWidgets import QGridLayout, QLabel, QPushButton

from idler.core.proof.claims import STOPS, Claim, spindle_claims, stop_claim
from idler.core.spindle.interlocks import obstacle_of
from idler.core.wiring.tool import tool_of
from idler.core.words import capital
from idler.procedures.spindle.stops import StopRun
from idler.session.session import Session

from ...bridge import follow
from ...pictures.proof import ProofMark
from ...widgets.asking import Asking
from ...widgets.cards import label
from ...widgets.machinebutton import MachineButton
from .pages import Page, Reading


class InterlocksPage(Page):
    def __init__(self, session: Session, run: StopRun) -> None:
        super().__init__(session)
        self._run = run
        self.why = label("", "title", wrap=True)
        self.column.addWidget(self.why)
        self.words = label("", "heading", wrap=True)
        self.column.addWidget(self.words)
        self.reading = Reading(session, run)
        self.column.addWidget(self.reading)
        self.asking = Asking(session, run, lambda _: None)  # where eyes are asked, and no tachometer
        self.column.addWidget(self.asking)
        self.column.addWidget(label("Every way of ending it is tried while it is on.", "small", wrap=True))
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(6)
        self._grid.setColumnStretch(1, 1)
        self.buttons: dict[str, QPushButton] = {}
        self._marks: dict[str, ProofMark] = {}
        self._words: dict[str, QLabel] = {}
        for row, (way, words) in enumerate(STOPS.items()):
            self._marks[way] = ProofMark()
            self.buttons[way] = MachineButton(session, "Prove")
            self.buttons[way].clicked.connect(lambda _=False, way=way: self.say(run.prove(way)))
            self._grid.addWidget(self._marks[way], row, 0)
            self._words[way] = label(capital(words), wrap=True)
            self._grid.addWidget(self._words[way], row, 1)
            self._grid.addWidget(self.buttons[way], row, 2)
        self.column.addLayout(self._grid)
        self.column.addStretch(1)
        follow(run.changed, self.refresh)

    def _claims(self) -> dict[str, Claim]:
        there = {claim.key for claim in spindle_claims(self._session.machine)}
        made = {way: stop_claim(self._session.machine, way) for way in STOPS}
        return {way: claim for way, claim in made.items() if claim.key in there}

    def refresh(self) -> None:
        claims = self._claims()
        for way, button in self.buttons.items():
            button.setEnabled(way in claims and not self._run.running)
            button.setToolTip("" if way in claims else "No input has this role: give it one at the Wiring station.")
            if way in claims:
                self._marks[way].show_claim(self._session.machine, claims[way], self._session.proofs)
        tool = tool_of(self._session.machine)
        for way, words in STOPS.items():
            self._words[way].setText(capital(tool.worded(words)))
            self.buttons[way].setAccessibleName(f"Prove that {tool.worded(words)}")
        self.asking.setVisible(not tool.turns)
        self.words.setVisible(tool.turns)
        self.words.setText(self._run.words)
        self.show_now()

    def show_now(self) -> None:
        """The sentence follows the machine."""
        if not self._session.connected:
            words = "No controller is connected."
        else:
            machine = self._session.machine
            words = obstacle_of(machine, self._session.ladder()) or f"The {tool_of(machine).noun} may start."
        if words != self.why.text():
            self.why.setText(words)
