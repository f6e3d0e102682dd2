"""Way and encoder: right is right, and the encoder counts as it turns."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSpinBox, QWidget

from idler.core.machine import Address
from idler.core.proof.claims import meter_claim, spindle_way_claim
from idler.core.spindle import Meter, turns_both_ways
from idler.core.spindle.way import WAYS
from idler.core.words import word
from idler.procedures.engine import Ending, Result
from idler.procedures.spindle.counting import TURNS
from idler.procedures.spindle.way import EncoderRun, WayRun
from idler.session.session import Session

from ...bridge import follow
from ...widgets.cards import figures, label, tall
from ...widgets.edits import edit_words
from ...widgets.fields import field_for
from ...widgets.machinebutton import HoldButton
from .pages import FIELD, Page


class WayPage(Page):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.run, self.encoder = WayRun(session), EncoderRun(session)
        self.mark = self.claim_row("Right is right")
        self.column.addWidget(
            label("Hold, and look from the motor along the spindle towards the work.", "small", wrap=True)
        )
        row = QHBoxLayout()
        self.holds: dict[int, QPushButton] = {}
        for way, words in ((1, "Hold: turn right"), (-1, "Hold: turn left")):
            self.holds[way] = hold = HoldButton(session, words, partial(self._hold, way), self.run.let_go)
            tall(hold)
            row.addWidget(hold)
        self.column.addLayout(row)
        self.question = QWidget()
        ask = QHBoxLayout(self.question)
        ask.setContentsMargins(0, 0, 0, 0)
        ask.addWidget(label("It turned", "soft"))
        self.answers: dict[int, QPushButton] = {}
        for way, words in ((1, "Right"), (-1, "Left"), (0, "It did not turn")):
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, way=way: self._answer(way))
            self.answers[way] = button
            ask.addWidget(button)
        self.column.addWidget(self.question)
        self.words = label("", "", wrap=True)
        self.column.addWidget(self.words)
        self.turn_mark = self.claim_row("A turn is counted as one")
        line = QHBoxLayout()
        line.setSpacing(4)
        self.counts = figures("0", 18)
        self.counts.setMinimumWidth(96)
        line.addWidget(self.counts)
        self.of = label("counts", "soft")
        line.addWidget(self.of, 1)
        self.by_hand = QSpinBox()
        self.by_hand.setRange(1, 20)
        self.by_hand.setSuffix(" turn")
        self.by_hand.valueChanged.connect(lambda n: self.by_hand.setSuffix(" turn" if n == 1 else " turns"))
        self.by_hand.setAccessibleName("Turns by hand")
        line.addWidget(self.by_hand)
        self.begin = QPushButton("Begin")
        self.begin.clicked.connect(self._toggle)
        line.addWidget(self.begin)
        self.column.addLayout(line)
        self.counted = label("Turn the spindle by hand, and back to the same mark.", "small", wrap=True)
        self.column.addWidget(self.counted)
        self.take = self.main("")
        self.take.clicked.connect(self._take)
        self.column.addWidget(self.take)
        fields = QHBoxLayout()
        self._fields: list[tuple[Meter, QWidget]] = []
        for kind, key, words in (
            (Meter.ENCODER, "counts", "counts per turn"),
            (Meter.ENCODER, "counts_reversed", word("backwards")),
            (Meter.PULSE, "pulses", "pulses per turn"),
        ):
            field = field_for(session, Address(None, f"spindle.{key}"), width=FIELD, label=words)
            self._fields.append((kind, field))
            fields.addWidget(field)
        fields.addStretch(1)
        self.column.addLayout(fields)
        self._kind: Meter | None = None  # what is counted, as it is shown
        self.column.addStretch(1)
        follow(self.run.changed, self.refresh)
        follow(self.run.ended, self._ended)
        follow(self.encoder.changed, self.refresh)

    @property
    def next(self) -> QPushButton:
        """What the hand goes to: the way that nobody has seen it turn yet."""
        return self.holds[(*self.run.left, 1)[0]]

    @property
    def by_hand_next(self) -> QPushButton:
        """What the hand goes to where a turn is to be counted: what was counted, else the count."""
        return self.begin if self.take.isHidden() else self.take

    # -- doing ----------------------------------------------------------------------------------------------------

    def _hold(self, way: int) -> None:
        self.say(self.run.look_at(way))

    def _answer(self, way: int) -> None:
        """What a person saw while it was held: 1 right, -1 left, 0 nothing."""
        if self.run.question is not None:
            self.run.answer(WAYS[way])

    def _ended(self, result: Result) -> None:
        self._session.mend(result.edit, "spindle turned round")
        machine = self._session.machine  # a set-up that is locked takes nothing
        done = bool(result.edit) and all(machine[where] == value for where, value in result.edit.items())
        taken = " That is in the draft now: send it, and hold again." if done else ""
        self.words.setText("" if result.end is Ending.STOPPED else f"{result.words}{taken}")
        self.refresh()

    def _toggle(self) -> None:
        if self.encoder.question is not None:
            self.encoder.answer("")
        else:
            self.say(self.encoder.count(self.by_hand.value()))

    def _take(self) -> None:
        if self.encoder.result is not None:
            self._session.mend(self.encoder.result.edit, "what is counted in a turn of the spindle")

    # -- showing --------------------------------------------------------------------------------------------------

    def show_now(self) -> None:
        if self.encoder.kind is Meter.ENCODER:
            self.counts.setText(str(self._session.panel.counts))

    def leave(self) -> None:
        """Another page or station is shown."""
        for run in (self.run, self.encoder):
            if run.running:
                run.stop("Another page was opened.")

    def refresh(self) -> None:
        machine, counting = self._session.machine, self.encoder.running
        self.mark.show_claim(machine, spindle_way_claim(machine), self._session.proofs)
        self._show_what_counts(counting)
        self.holds[-1].setVisible(turns_both_ways(machine))
        self.question.setVisible(self.run.question is not None)
        if self.run.running:
            self.words.setText(self.run.words)
        self.begin.setText("Done" if counting else "Begin")
        if counting:
            self.by_hand.setValue(self.encoder.turns)
        self.by_hand.setEnabled(not counting)
        if self.encoder.words:
            self.counted.setText(self.encoder.words)
        result = self.encoder.result
        edit = result.edit if result is not None and not counting else {}
        self.take.setVisible(any(machine[where] != value for where, value in edit.items()))
        self.take.setText(edit_words(machine, dict(edit)))

    def _show_what_counts(self, counting: bool) -> None:
        """Of an encoder, or of the pulses of an input."""
        kind, machine = self.encoder.kind, self._session.machine
        claim = meter_claim(machine, kind)
        assert claim is not None
        self.turn_mark.show_claim(machine, claim, self._session.proofs)
        if kind is not self._kind and not counting:
            self._kind = kind
            self.by_hand.setValue(TURNS[kind])
            self.counts.setVisible(kind is Meter.ENCODER)
            for of, field in self._fields:
                field.setVisible(of is kind)
            self.of.setText("counts" if kind is Meter.ENCODER else "pulses")
