"""Prove: the emergency stop first, then the guard, then every switch by touching it once."""

from __future__ import annotations

import time
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.proof.claims import Claim, Proof, changed_since, duty_key, state, wiring_claims
from idler.core.table.stations import Station, Tab
from idler.core.values.parameter import Value
from idler.core.wiring import Duty
from idler.core.wiring.tool import tool_of
from idler.core.wiring.trials import Held, held_of
from idler.core.words import capital
from idler.procedures.engine import Procedure, Result
from idler.procedures.wiring.trials import TRIALS, GuidedProof, TouchProof
from idler.session.session import Session

from ...bridge import follow
from ...pictures.proof import ProofMark
from ...widgets.cards import label, turn_over
from ...widgets.machinebutton import MachineButton

RUN = "Run the spindle"


class ProvePage(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.guided, self.touching = GuidedProof(session), TouchProof(session)
        for run in (self.guided, self.touching):
            follow(run.changed, self._show_step)
            follow(run.ended, self._ended)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(5)
        self.step = label("", "title", wrap=True)
        column.addWidget(self.step)
        self.run = MachineButton(session, RUN)
        self.run.clicked.connect(lambda: self._answer(self.guided, ""))
        self.power = MachineButton(session, "Power the drives")
        self.power.clicked.connect(lambda: self._answer(self.guided, ""))
        self.loose, self.holds = QPushButton("All are loose"), QPushButton("Not all of them")
        self.loose.clicked.connect(lambda: self._answer(self.guided, "yes"))
        self.holds.clicked.connect(lambda: self._answer(self.guided, "no"))
        self.felt = {each: QPushButton(capital(each.words)) for each in Held}
        for each, button in self.felt.items():
            button.clicked.connect(lambda _=False, key=each.key: self._answer(self.guided, key))
        self.turn_round = QPushButton("Turn the enable line round")
        self.turn_round.setProperty("role", "main")
        self.turn_round.clicked.connect(self._turn_round)
        self.push = QPushButton("Push them at the bench")
        self.push.clicked.connect(self._push)
        self.swap = QPushButton()
        self.swap.clicked.connect(lambda: self._answer(self.touching, "swapped"))
        self.rest = QPushButton()
        self.rest.clicked.connect(lambda: self._answer(self.touching, "rest"))
        self.no_more = QPushButton("It has no more switches")
        self.no_more.clicked.connect(lambda: self._answer(self.touching, "no_more"))
        self.skip = QPushButton("Later")
        self.skip.clicked.connect(lambda: self._answer(self.touching, "later"))
        self.end = QPushButton("End the trial")
        self.end.clicked.connect(self.leave)
        answers = (
            self.run,
            self.power,
            self.loose,
            self.holds,
            *self.felt.values(),
            self.turn_round,
            self.swap,
            self.rest,
        )
        for row, buttons in ((QHBoxLayout(), answers), (QHBoxLayout(), (self.no_more, self.skip, self.push, self.end))):
            for button in buttons:
                row.addWidget(button)
            row.addStretch(1)
            column.addLayout(row)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setProperty("role", "clear")
        self._scroll = scroll
        column.addWidget(scroll, 1)
        self.round_button = QPushButton("Touch round: every switch once")
        self.round_button.clicked.connect(lambda: self._begin(self.touching.prove()))
        column.addWidget(self.round_button, alignment=Qt.AlignmentFlag.AlignLeft)
        self.begin_buttons: dict[str, QPushButton] = {}
        follow(session.changed, self.refresh)
        follow(session.proved, self.refresh)
        self.refresh()

    # -- showing --------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        machine = self._session.machine
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 4, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        self.begin_buttons = {}
        listed = wiring_claims(machine)
        for row, claim in enumerate(listed):
            found = state(machine, claim, self._session.proofs)
            grid.addWidget(ProofMark(found), row, 0, Qt.AlignmentFlag.AlignTop)
            lines = QVBoxLayout()
            lines.setSpacing(0)
            lines.addWidget(label(capital(claim.label)))
            lines.addWidget(label(self._about(claim, found), "small", wrap=True))
            grid.addLayout(lines, row, 1)
            role = next((role for role in TRIALS if claim.key == duty_key(Duty(role))), None)
            if role is not None:
                button = QPushButton("Prove")
                button.setAccessibleName(f"Prove {claim.label}")
                button.clicked.connect(lambda _=False, role=role: self._begin(self.guided.prove(role)))
                grid.addWidget(button, row, 2, Qt.AlignmentFlag.AlignTop)
                self.begin_buttons[claim.key] = button
        grid.setRowStretch(len(listed), 1)
        turn_over(self._scroll, page)
        if not listed:
            self.step.setText("No input has a role yet. Learn them first: there is nothing to prove.")
        self._show_step()

    def _about(self, claim: Claim, found: Proof) -> str:
        kept = self._session.proofs.get(claim.key)
        if kept is None:
            return found.words
        when = time.strftime("%-d\u00a0%b,\u00a0%H:%M", time.localtime(kept.when))
        if found is Proof.STALE:
            part, before, now = changed_since(self._session.machine, claim, self._session.proofs)[0]
            return f"stale, was proven {when}: {part} was {before} and is {now}"
        return f"{'' if found is Proof.PROVEN else 'failed: '}{kept.result} ({when})"

    def _show_step(self) -> None:
        running = next((run for run in (self.guided, self.touching) if run.running), None)
        there = bool(wiring_claims(self._session.machine))
        asked = running.question if running is not None else None
        key = asked.key if asked is not None else ""
        self.end.setVisible(running is not None)
        self.round_button.setVisible(running is None and there)
        for button in (self.loose, self.holds):
            button.setVisible(key == "stop.loose")
        for button in self.felt.values():
            button.setVisible(key == "stop.holds")
        self.turn_round.setVisible(running is None and bool(self._mend))
        of_hand = key in ("stop.loose", "stop.holds")
        self.push.setVisible(of_hand and self._session.bench_hands is not None)
        self.run.setVisible(key == "guard.run")
        self.run.setText(tool_of(self._session.machine).worded(RUN))
        self.power.setVisible(key == "stop.power")
        ways = {way.key: way.text for way in asked.choices} if asked is not None and key == "touch.switch" else {}
        for way, button in (
            ("swapped", self.swap),
            ("rest", self.rest),
            ("no_more", self.no_more),
            ("later", self.skip),
        ):
            button.setVisible(way in ways)
            button.setText(ways.get(way, button.text()))
        if running is not None:
            self.step.setText(running.words)
        elif there:
            self.step.setText(self._session.agenda.left_at(Station.WIRING, Tab.PROVE, "All of it is proven."))

    # -- doing ----------------------------------------------------------------------------------------------------

    @property
    def _mend(self) -> dict[Address, Value]:
        """What the last trial proposes, and is not taken yet."""
        result, machine = self.guided.result, self._session.machine
        proposed = result.edit if result is not None else {}
        return {where: value for where, value in proposed.items() if machine[where] != value}

    def _turn_round(self) -> None:
        self._session.mend(self._mend, "the enable line turned round")

    def _ended(self, result: Result) -> None:
        self._show_step()
        if result.words:
            self.step.setText(result.words)

    def _begin(self, why: str) -> None:
        if why:
            self._session.tell("warn", why)

    def _answer(self, run: Procedure, typed: str) -> None:
        if run.question is not None:
            run.answer(typed)

    def _push(self) -> None:
        """On the bench a hand pushes each axis that has a motor; at a real machine the person does."""
        hands, machine, asked = self._session.bench_hands, self._session.machine, self.guided.question
        if hands is None or asked is None:
            return
        left = [axis.name for axis in machine.axes if axis.whole("axis.output")] or [machine.names[0]]
        felt: list[dict[str, Any]] = []

        def feel(reply: dict[str, Any]) -> None:
            if not reply["ok"]:
                return
            felt.append(reply)
            if left:
                hands.ask(feel, do="push", axis=left.pop(0))
                return
            held = held_of([(each["loose"], each["sinks"]) for each in felt])
            self._answer(self.guided, "yes" if held is None else "no" if asked.key == "stop.loose" else held.key)

        hands.ask(feel, do="push", axis=left.pop(0))

    def leave(self) -> None:
        """Ends a trial without a result."""
        for run in (self.guided, self.touching):
            run.stop("")
