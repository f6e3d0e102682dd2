"""The page of the direction: a small move to +, one question about what was seen, and the sign is settled."""

from __future__ import annotations

from enum import Enum
from functools import partial
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from idler.core.machine import Address
from idler.core.mechanics.axis_directions import sense, small_move
from idler.core.proof.claims import Proof, direction_claim, state
from idler.procedures.drives.direction import APART, EXCHANGED, EXCHANGING, DirectionRun
from idler.procedures.engine import Result
from idler.procedures.questions import Question
from idler.session.session import Session

from ...bridge import follow
from ...pictures.proof import claim_head
from ...pictures.senses import SensePicture, scene_of
from ...widgets.cards import card, emptied, label, tall
from ...widgets.fields import Field, field_for, restyle
from ...widgets.machinebutton import MachineButton

_MENDS = {APART: "Turn the second motor round", "nothing": "Take these signals", "other": "Exchange the outputs"}
_TAKEN = {"nothing": "signals that the drive of {} sees", "other": "output of {} exchanged"}


class DirectionStep(Enum):
    START = "start"
    MOVING = "moving"
    ASK = "ask"


class DirectionPage(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slot = 0
        self._said = ""
        self.run = DirectionRun(session)
        follow(self.run.changed, self.refresh)
        follow(self.run.ended, self._ended)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        frame, column = card((10, 4, 10, 4), 2)
        self.picture = SensePicture()
        column.addWidget(self.picture, 1)
        row.addWidget(frame, 4)
        row.addWidget(self._question(), 6)

    def _question(self) -> QWidget:
        frame, column = card((14, 6, 14, 8), 5)
        facts = QHBoxLayout()
        facts.setSpacing(8)
        self._fields: list[Field] = [
            field_for(self._session, Address(0, "axis.moves"), width=104, label=""),
            field_for(self._session, Address(0, "axis.reversed"), width=160, label="direction reversed"),
            field_for(self._session, Address(0, "axis.mirrored"), width=164, label="mirrored on purpose"),
        ]
        facts.addWidget(self._fields[0])
        facts.addWidget(label("moves", "soft"))
        for field in self._fields[1:]:
            facts.addWidget(field)
        facts.addStretch(1)
        column.addLayout(facts)
        column.addLayout(self._motors())
        self.title, self.mark = claim_head(column)
        self.words = label("", "", wrap=True)
        column.addWidget(self.words)
        column.addStretch(1)
        self.go = MachineButton(self._session)
        self.go.setProperty("role", "main")
        tall(self.go)
        self.go.clicked.connect(self._go)
        self.plus, self.minus, self.apart, self.nothing, self.other = (QPushButton() for _ in range(5))
        self.which: dict[str, QPushButton] = {}  # by what they answer: which axis moved instead, or what a hand feels
        self.apart.setText("its sides apart")
        self.nothing.setText("nothing moved")
        self.other.setText("something else moved")
        self.turn = QPushButton("Turn the direction round")
        self.turn.setProperty("role", "main")
        tall(self.turn)
        self.plus.clicked.connect(lambda: self._answer("plus"))
        self.minus.clicked.connect(lambda: self._answer("minus"))
        self.apart.clicked.connect(lambda: self._answer(APART))
        self.nothing.clicked.connect(lambda: self._answer("nothing"))
        self.other.clicked.connect(lambda: self._answer("other"))
        self.turn.clicked.connect(self._turn_round)
        buttons = QHBoxLayout()
        for button in (self.go, self.turn):
            buttons.addWidget(button)
        for button in (self.plus, self.minus, self.apart, self.nothing, self.other):
            tall(button)
            buttons.addWidget(button)
        self._which = QHBoxLayout()
        buttons.addLayout(self._which)
        buttons.addStretch(1)
        column.addLayout(buttons)
        return frame

    def _motors(self) -> QHBoxLayout:
        """Where the motors hang on the controller."""
        row = QHBoxLayout()
        row.setSpacing(8)
        for key, width, words in (
            ("axis.output", 44, "drive output"), ("axis.second_output", 44, "of a second motor"),
            ("axis.second_reversed", 190, "second motor reversed"),
        ):  # fmt: skip
            of_number = key != "axis.second_reversed"
            field = field_for(self._session, Address(0, key), width=width, label="" if of_number else words)
            field.setMaximumWidth(width + 20)
            if of_number:
                row.addWidget(label(words, "soft"))
            row.addWidget(field)
            self._fields.append(field)
        row.addStretch(1)
        return row

    # -- doing ----------------------------------------------------------------------------------------------------

    def show_axis(self, slot: int) -> None:
        if slot != self.slot:
            self._said = ""
        self.slot = slot
        for field in self._fields:
            field.set_axis(slot)
        self.leave()

    @property
    def step(self) -> DirectionStep:
        if not self.run.running:
            return DirectionStep.START
        return DirectionStep.MOVING if self.run.question is None else DirectionStep.ASK

    def leave(self) -> None:
        """Another page: nothing is asked."""
        self.run.stop("")
        self.refresh()

    def _go(self) -> None:
        if why := self.run.look_at(self.slot):
            self._session.refuse("Nothing was moved.", why)

    def _answer(self, seen: str) -> None:
        if self.run.question is not None:
            self.run.answer(seen)

    def _ended(self, _result: Result) -> None:
        self._said = self.run.seen
        self.refresh()

    def show_motion(self) -> None:
        """The run has a clock of its own."""

    def _turn_round(self) -> None:
        name = self._session.machine.names[self.slot]
        words = _TAKEN.get(self._said, "direction of {} turned round").format(name)
        self._session.set_values(self.run.mended(self.slot, self._said), words)
        self._said = "turned"
        self.refresh()

    # -- showing --------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        machine = self._session.machine
        if self.slot >= len(machine.names):
            return
        self.picture.show_scene(scene_of(machine, self.slot))
        seen, name = sense(machine, self.slot), machine.names[self.slot]
        way = machine.axis(self.slot).reads.length(small_move(machine, self.slot), trim=True)
        question, start = self.run.question, self.step is DirectionStep.START
        self._offer_others(question)
        ask = question is not None and not self.which
        self.plus.setText(seen.plus)
        self.minus.setText(seen.minus)
        for button in (self.plus, self.minus, self.nothing, self.other):
            button.setVisible(ask)
        self.apart.setVisible(ask and question is not None and APART in [option.key for option in question.choices])
        again = "Move again" if self._said else "Move"
        self.go.setText(f"{again} {name} {way} to +" if start else "moving…")
        self.go.setVisible(question is None)
        self.go.setEnabled(start)
        denied = state(machine, direction_claim(machine, self.slot), self._session.proofs) is Proof.FAILED
        mends = start and denied and bool(self.run.mended(self.slot, self._said))  # of values that are told still
        self.turn.setVisible(mends)
        if self.go.property("role") != (role := "" if mends else "main"):  # one of them is the next step
            self.go.setProperty("role", role)
            restyle(self.go)
        self.turn.setText(_MENDS.get(self._said, "Turn the direction round"))
        title, words = self._texts(name)
        self.title.setText(title)
        self.words.setText(words)
        self.mark.show_claim(machine, direction_claim(machine, self.slot), self._session.proofs)

    def _offer_others(self, question: Question[Any] | None) -> None:
        """A button for each answer of what is asked after the first look: which axis moved instead, or what a hand feels."""
        choices = question.choices if question is not None and question.key != "direction.seen" else ()
        if [option.key for option in choices] == [*self.which]:
            return
        emptied(self._which)
        self.which = {}
        for option in choices:
            button = QPushButton(option.text)
            tall(button)
            button.clicked.connect(partial(self._answer, option.key))
            self._which.addWidget(button)
            button.show()
            self.which[option.key] = button

    def _texts(self, name: str) -> tuple[str, str]:
        seen = sense(self._session.machine, self.slot)
        stand = f", {seen.seen_from}" if seen.seen_from else ""
        right = f"On + {seen.thing} must go {seen.plus}{stand}."
        if self._session.machine.axis(self.slot).flag("axis.mirrored"):
            right += " It is mirrored on purpose: what programs draw comes out as in a mirror."
        if self.which and (question := self.run.question) is not None:
            if question.key == "direction.hand":
                return f"Does the motor of {name} hold?", question.text
            parts = self._session.machine.made_of_parts
            return (
                f"Which axis moved in place of {name}?",
                EXCHANGING if parts else "Their outputs can be exchanged then.",
            )
        if self.step is DirectionStep.ASK:
            return seen.question, f"{name} was told to go to +{stand}."
        if self.step is DirectionStep.MOVING:
            return f"Watch {seen.thing}", "Esc stops it."
        match self._said:
            case "minus":
                return (
                    f"{name} goes the wrong way",
                    f"{right} {self.run.words_of('minus', self.slot)}",
                )
            case "apart":
                return f"The two sides of {name} go apart", self.run.words_of(APART, self.slot)
            case "turned":
                return "Now send it, and look again", f"{right} It is proven when it was seen to be right."
            case "nothing":
                return "Nothing moved", self.run.words_of("nothing", self.slot)
            case str(said) if said == EXCHANGED:
                return "The drives have changed places", self.run.words_of(EXCHANGED, self.slot)
            case "other":
                return "Something else moved", self.run.words_of("other", self.slot)
        return f"Which way is + of {name}?", f"{right} A small move and your eyes settle it."
