"""Prove: the emergency stop first, then the guard, then every switch by touching it once."""

from __future__ import annotations

import time
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from idler.core.homing_outcome import exchanged
from idler.core.proofs import Claim, Proof, Witness, changed_since, duty_key, state, wiring_claims
from idler.core.roles import InputRole
from idler.core.trials import GuardTrial, Outcome, Seen, StopTrial, TouchRound
from idler.core.wire.cia402 import State
from idler.core.wire.terminals import Condition
from idler.core.wiring import Duty, Input, contacts, inputs
from idler.core.words import capital
from idler.link.events import Asked
from idler.link.trace import Edges
from idler.procedures.dead_man import DeadMan
from idler.session.session import Session

from ...bridge import follow
from ...machinebutton import MachineButton
from ...parts import label
from ...pictures.proof import ProofMark
from .study import SPINDLE_LEVEL

_GUIDED: dict[InputRole, type[StopTrial] | type[GuardTrial]] = {InputRole.STOP: StopTrial, InputRole.GUARD: GuardTrial}


class ProvePage(QWidget):
    def __init__(self, session: Session, holder: DeadMan) -> None:
        super().__init__()
        self._session, self._holder = session, holder
        self._trial: StopTrial | GuardTrial | None = None
        self._on: Input | None = None
        self._round: TouchRound | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(5)
        self.step = label("", "title", wrap=True)
        column.addWidget(self.step)
        row = QHBoxLayout()
        self.run = MachineButton(session, "Run the spindle")
        self.run.clicked.connect(self._run_spindle)
        self.power = MachineButton(session, "Power the drives")
        self.power.clicked.connect(lambda: session.power(True))
        self.loose, self.holds = QPushButton("It is loose"), QPushButton("It holds")
        self.loose.clicked.connect(lambda: self._answer(True))
        self.holds.clicked.connect(lambda: self._answer(False))
        self.push = QPushButton("Push it at the bench")
        self.push.clicked.connect(self._push)
        self.swap = QPushButton()
        self.swap.clicked.connect(self._swap)
        self.no_more = QPushButton("It has no more switches")
        self.no_more.clicked.connect(self._no_more)
        self.skip = QPushButton("Later")
        self.skip.clicked.connect(self._skip)
        self.end = QPushButton("End the trial")
        self.end.clicked.connect(self.leave)
        for button in (
            self.run,
            self.power,
            self.loose,
            self.holds,
            self.push,
            self.swap,
            self.no_more,
            self.skip,
            self.end,
        ):
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
        self.round_button.clicked.connect(self.begin_round)
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
            if claim.key in (duty_key(Duty(role)) for role in _GUIDED):
                button = QPushButton("Prove")
                button.setAccessibleName(f"Prove {claim.label}")
                button.clicked.connect(lambda _=False, claim=claim: self.begin(claim))
                grid.addWidget(button, row, 2, Qt.AlignmentFlag.AlignTop)
                self.begin_buttons[claim.key] = button
        grid.setRowStretch(len(listed), 1)
        self._scroll.setWidget(page)
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
        trial = self._trial
        self.end.setVisible(trial is not None or self._round is not None)
        self.round_button.setVisible(
            trial is None and self._round is None and bool(wiring_claims(self._session.machine))
        )
        asking = isinstance(trial, StopTrial) and trial.asks
        for button in (self.loose, self.holds):
            button.setVisible(asking)
        self.push.setVisible(asking and self._session.bench_hands is not None)
        self.swap.setVisible(self._round is not None and self._round.wrong is not None)
        self.skip.setVisible(self._round is not None and len(set(self._round.left)) > 1)
        self.no_more.setVisible(self._round is not None and 0 < self._round.of_chain[0] < self._round.of_chain[1])
        if trial is not None:
            self.step.setText(trial.step)
        elif self._round is not None:
            self.step.setText(self._round_words(self._round))
        elif wiring_claims(self._session.machine):
            self.step.setText(self._next())
        self.run.setVisible(isinstance(trial, GuardTrial) and trial.spins)
        self.power.setVisible(isinstance(trial, StopTrial) and trial.powers)

    def _round_words(self, touching: TouchRound) -> str:
        """Which switch is to be touched, and what another terminal's answer means."""
        wired = inputs(self._session.machine)
        assert touching.asked is not None
        asked, left = wired[touching.asked], len(set(touching.left)) - 1
        words = f"Press and release the {asked.duty.label}."
        done, of = touching.of_chain
        if asked.role.chained and of > 1:
            words = f"Press and release each switch of the {asked.duty.label}, one after the other: {done} of {of} are touched."
        if touching.wrong is not None:
            other = wired[touching.wrong]
            told = f"told to be the {other.duty.label}" if other.role is not InputRole.NONE else "which has no role"
            self.swap.setText(f"I did press the {asked.duty.label}: the wires are swapped")
            return f"{words} Terminal {other.name} answered, {told}; terminal {asked.name} did not."
        return f"{words} {left} more after it." if left else words

    def _next(self) -> str:
        """What to prove next; claims come in the order of the work."""
        machine = self._session.machine
        for claim in wiring_claims(machine):
            if state(machine, claim, self._session.proofs) is not Proof.PROVEN:
                guided = {duty_key(Duty(InputRole.STOP)): "Prove the emergency stop first.",
                          duty_key(Duty(InputRole.GUARD)): "Now prove the guard."}  # fmt: skip
                return guided.get(claim.key, "Now touch every switch once.")
        return "All of it is proven."

    # -- doing ----------------------------------------------------------------------------------------------------

    def _claims(self) -> dict[str, Claim]:
        return {claim.key: claim for claim in wiring_claims(self._session.machine)}

    def begin(self, claim: Claim) -> None:
        """Begins the guided trial of the stop or the guard."""
        if self._refused(claim):
            return
        self._on = next(item for item in inputs(self._session.machine) if duty_key(item.duty) == claim.key)
        self._round = None
        self._trial = _GUIDED[self._on.role]()
        self._show_step()

    def begin_round(self) -> None:
        """Every switch but stop and guard, asked for by its name: each is proven by being made and let go when it was
        asked for."""
        wanted: list[int] = []
        claims = self._claims()
        for item in inputs(self._session.machine):
            claim = claims.get(duty_key(item.duty))
            if (
                claim is not None
                and item.role not in _GUIDED
                and state(self._session.machine, claim, self._session.proofs) is not (Proof.PROVEN)
            ):
                if self._refused(claim):
                    return
                wanted += [item.slot] * contacts(self._session.machine, item)
        if not wanted:
            self._session.tell("plain", "Every switch is proven already.")
            return
        self._trial, self._round = None, TouchRound(wanted, self._made_now())
        self._show_step()

    def _made_now(self) -> frozenset[int]:
        """Inputs that are not at their rest."""
        panel = self._session.link.panel
        return frozenset(item.slot for item in inputs(self._session.machine) if item.made(panel.is_closed(item.slot)))

    def _no_more(self) -> None:
        if self._round is not None and (proven := self._round.no_more()):
            self._touched(self._round, proven)

    def _skip(self) -> None:
        if self._round is not None:
            self._round.skip()
            self._show_step()

    def _swap(self) -> None:
        """The person did press what was asked for: the two wires are at each other's terminals."""
        touching = self._round
        if touching is None or touching.wrong is None or touching.asked is None:
            return
        machine = self._session.machine
        wired = inputs(machine)
        asked, other = wired[touching.asked], wired[touching.wrong]
        for item in (asked, other):
            claim = self._claims().get(duty_key(item.duty))
            if claim is not None:
                answer = other.name if item is asked else asked.name
                self._session.prove(claim, False, f"when it was pressed, terminal {answer} answered", Witness.TOUCH)
        self.leave()
        self._session.set_values(exchanged(machine, asked.slot, other.slot), f"{asked.name} and {other.name} exchanged")
        self._session.tell(
            "plain",
            f"Terminals {asked.name} and {other.name} have each other's roles now. Send them, then touch again.",
        )

    def _push(self) -> None:
        """On the bench a hand pushes the first axis that has a motor; at a real machine the person does."""
        hands, machine = self._session.bench_hands, self._session.machine
        if hands is None:
            return
        name = next((axis.name for axis in machine.axes if axis.whole("axis.output")), machine.names[0])

        def felt(reply: dict[str, Any]) -> None:
            if reply["ok"]:
                self._answer(bool(reply["loose"]))

        hands.ask(felt, do="push", axis=name)

    def _answer(self, loose: bool) -> None:
        """What the hand felt."""
        if isinstance(self._trial, StopTrial) and self._on is not None:
            self._trial.answer(loose)
            if self._trial.outcome is not Outcome.RUNNING:
                self._finish(self._on, self._trial.outcome, self._trial.result)
            self._show_step()

    def _refused(self, claim: Claim) -> bool:
        why = self._session.proof_obstacle(claim)
        if why:
            self._session.tell("warn", f"{capital(claim.label)} cannot be proven now. {why}")
        return bool(why)

    def _run_spindle(self) -> None:
        session = self._session
        why = session.spindle_obstacle()
        if why:
            session.tell("warn", why)
        else:
            self._holder.hold(Asked(run=1, level=SPINDLE_LEVEL))

    def leave(self) -> None:
        """Ends a trial without a result."""
        if self._trial is not None or self._round is not None:
            self._trial = self._round = self._on = None
            self._holder.let_go()
            self._show_step()

    def feed(self, edges: Edges | None) -> None:
        """What the controller reports now. Called at the picture's pace while the page is shown."""
        if edges is None or not self._session.connected or (self._trial is None and self._round is None):
            return
        if self._trial is not None and self._on is not None:
            before = self._trial.step, self._trial.powers
            self._trial.feed(self._seen(edges, self._on))
            if self._trial.outcome is not Outcome.RUNNING:
                self._finish(self._on, self._trial.outcome, self._trial.result)
            elif (self._trial.step, self._trial.powers) != before:
                self._show_step()
        elif self._round is not None:
            self._feed_round(edges, self._round)

    def _seen(self, edges: Edges, item: Input) -> Seen:
        panel = self._session.link.panel
        axes = self._session.link.axes
        return Seen(
            edges.now, item.made(panel.is_closed(item.slot)), any(axis.state.powered for axis in axes),
            bool(axes) and all(axis.state in (State.FAULT, State.FAULT_REACTION) for axis in axes),
            bool(panel.conditions & Condition.SPINDLE), self._session.power_asked,
        )  # fmt: skip

    def _feed_round(self, edges: Edges, touching: TouchRound) -> None:
        before = touching.asked, touching.wrong, touching.of_chain
        touched = touching.feed(edges.now, self._made_now())
        if touched is not None:
            self._touched(touching, touched)
        elif (touching.asked, touching.wrong, touching.of_chain) != before:
            self._show_step()

    def _touched(self, touching: TouchRound, proven: tuple[int, str]) -> None:
        """One input is proven; the next one is asked for."""
        if touching.asked is None:
            self._round = None
        slot, result = proven
        self._session.prove(
            self._claims()[duty_key(inputs(self._session.machine)[slot].duty)], True, result, Witness.TOUCH
        )
        if self._round is None:
            self._session.tell("plain", "Every switch has been made and let go when it was asked for: all are proven.")
        self._show_step()

    @staticmethod
    def _witness(item: Input) -> Witness:
        """A stop is borne out by an axis that a hand could push; anything else by its terminal."""
        return Witness.EYES if item.role is InputRole.STOP else Witness.TOUCH

    def _finish(self, item: Input, outcome: Outcome, result: str) -> None:
        self._trial = self._on = None
        self._holder.let_go()
        passed = outcome is Outcome.PASSED
        self._session.prove(self._claims()[duty_key(item.duty)], passed, result, self._witness(item))
        words = f"{capital(item.duty.label)}: {result}."
        self._session.tell("plain" if passed else "warn", words if passed else f"Not proven. {words}")
        self.step.setText(words)
