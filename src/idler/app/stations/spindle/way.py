"""Way and encoder: right is right, and the encoder counts as it turns."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSpinBox, QWidget

from idler.core.machine import Address
from idler.core.proof.claims import Witness, spindle_way_claim
from idler.core.spindle import flag, has_level, ranges, told_range, turns_both_ways, whole
from idler.core.spindle.encoder import Counted, cause_of_ratio, from_hand, sign_words
from idler.core.values.parameter import Value
from idler.core.values.roles import OutputRole
from idler.core.wiring import outputs
from idler.link.events import Asked
from idler.procedures.dead_man import DeadMan
from idler.session.session import Session

from ...widgets.cards import figures, label
from ...widgets.fields import field_for
from .pages import FIELD, Page


class WayPage(Page):
    def __init__(self, session: Session, dead_man: DeadMan) -> None:
        super().__init__(session)
        self._dead_man = dead_man
        self._way = 0  # that was held last
        self._seen = 0.0  # the encoder's speed meanwhile
        self._start: int | None = None
        self.found: Counted | None = None
        self.mark = self.claim_row("Right is right")
        self.column.addWidget(
            label("Hold, and look from the motor along the spindle towards the work.", "small", wrap=True)
        )
        row = QHBoxLayout()
        self.holds: dict[int, QPushButton] = {}
        for way, words in ((1, "Hold: turn right"), (-1, "Hold: turn left")):
            button = QPushButton(words)
            button.setProperty("role", "hold")
            button.setMinimumHeight(40)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.pressed.connect(lambda way=way: self._press(way))
            button.released.connect(dead_man.let_go)
            self.holds[way] = button
            row.addWidget(button)
        self.column.addLayout(row)
        self.question = QWidget()
        ask = QHBoxLayout(self.question)
        ask.setContentsMargins(0, 0, 0, 0)
        self.answers: dict[int, QPushButton] = {}
        for way, words in ((1, "It turned right"), (-1, "It turned left")):
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, way=way: self.answer(way))
            self.answers[way] = button
            ask.addWidget(button)
        self.column.addWidget(self.question)
        self.question.hide()
        self.words = label("", "", wrap=True)
        self.column.addWidget(self.words)
        self.column.addWidget(label("Encoder", "title"))
        line = QHBoxLayout()
        self.counts = figures("0", 18)
        self.counts.setMinimumWidth(96)
        line.addWidget(self.counts)
        line.addWidget(label("counts", "soft"), 1)
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
        for key, words in (("counts", "counts per turn"), ("counts_reversed", "counts backwards")):
            fields.addWidget(field_for(session, Address(None, f"spindle.{key}"), width=FIELD, label=words))
        self.column.addLayout(fields)
        self.column.addStretch(1)

    # -- which way ------------------------------------------------------------------------------------------------

    def _speed(self) -> int:
        found = ranges(self._session.machine)[told_range(self._session.machine)]
        return round(max(found.low, found.high / 10))

    def _press(self, way: int) -> None:
        switching = spindle_way_claim(self._session.machine).rests
        if why := self._session.unsent(switching) or self._session.spindle_obstacle():
            self.say(why)
            return
        self._way, self._seen = way, 0.0
        self._dead_man.hold(Asked(run=way, speed=self._speed()))
        self.question.show()
        self.words.setText("")

    def answer(self, way: int) -> None:
        """What a person saw while it was held: 1 right, -1 left."""
        self.question.hide()
        encoder = sign_words(self._way, self._seen) if whole(self._session.machine, "counts") else ""
        right = way == self._way
        agrees = not encoder or (self._seen > 0) == (self._way > 0)
        parts = [encoder]
        if not right:
            edit = self._turned_round()
            parts.insert(0, "It turns the wrong way: the outputs are turned round now. Send that, and hold again.")
            self._session.set_values(edit, "spindle turned round")
        elif not agrees:
            reversed_ = Address(None, "spindle.counts_reversed")
            parts.append("The encoder's sign is turned round now. Send that, and hold again.")
            self._session.set_values(
                {reversed_: not flag(self._session.machine, "counts_reversed")}, "encoder turned round"
            )
        if right and agrees:
            asked = "right" if self._way > 0 else "left"
            words = f"asked to turn {asked}, it did{'; the encoder agrees' if encoder else ''}"
            self._session.keep_proof(spindle_way_claim(self._session.machine), True, words, Witness.EYES)
        if not has_level(self._session.machine) or encoder:
            parts.append(cause_of_ratio(abs(self._seen), self._speed()))
        self.words.setText(" ".join(part for part in parts if part))
        self.refresh()

    def _turned_round(self) -> dict[Address, Value]:
        """The values that turn the spindle round: the direction's sense, or both relays swapped."""
        by_role = {out.role: out.slot for out in outputs(self._session.machine)}
        if OutputRole.DIRECTION in by_role:
            address = Address(by_role[OutputRole.DIRECTION], "output.inverted")
            return {address: not self._session.machine[address]}
        pair = (OutputRole.TURN_RIGHT, OutputRole.TURN_LEFT)
        if all(role in by_role for role in pair):
            return {
                Address(by_role[role], "output.role"): other.key
                for role, other in zip(pair, reversed(pair), strict=True)
            }
        return {}

    # -- encoder --------------------------------------------------------------------------------------------------

    def _toggle(self) -> None:
        counts = self._session.panel.counts
        if self._start is None:
            self._start, self.found = counts, None
            self.counted.setText(
                f"Now turn it {self.by_hand.value()} times to the right, to the same mark, then press Done."
            )
        else:
            moved, self._start = counts - self._start, None
            self.found = from_hand(moved, self.by_hand.value())
            few = "Nothing was counted: is the encoder wired, and powered?"
            sign = "" if moved >= 0 else " Turned right it counts downwards: it is told to count backwards with it."
            self.counted.setText(f"{self.found.words}.{sign}" if self.found is not None else few)
            self._backwards = moved < 0
            if self.found is not None and self.found.again:
                self.by_hand.setValue(self.found.again)
                self.found = None
        self.refresh()

    _backwards = False

    def _take(self) -> None:
        if self.found is None:
            return
        values: dict[Address, Value] = {Address(None, "spindle.counts"): self.found.counts}
        if self._backwards:
            values[Address(None, "spindle.counts_reversed")] = not flag(self._session.machine, "counts_reversed")
        self._session.set_values(values, "counts of the spindle's encoder")
        self.found = None
        self.refresh()

    # -- showing --------------------------------------------------------------------------------------------------

    def show_now(self) -> None:
        panel = self._session.panel
        self.counts.setText(str(panel.counts))
        if self._dead_man.asked.run and abs(panel.speed) > abs(self._seen):
            self._seen = panel.speed

    def refresh(self) -> None:
        machine = self._session.machine
        self.mark.show_claim(machine, spindle_way_claim(machine), self._session.proofs)
        self.holds[-1].setVisible(turns_both_ways(machine))
        self.begin.setText("Begin" if self._start is None else "Done")
        self.begin.setEnabled(self._session.connected)
        self.take.setVisible(self.found is not None and self.found.counts != whole(machine, "counts"))
        if self.found is not None:
            self.take.setText(f"Take {self.found.counts} counts per turn")
