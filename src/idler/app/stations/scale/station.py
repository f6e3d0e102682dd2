"""The page of the Scale station: a move on a rule, the passes below it, and what they prove, correct or explain."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from idler.core.errors import IdlerError, Refusal
from idler.core.machine import Axis
from idler.core.mechanics.mistakes import ScaleCause
from idler.core.mechanics.scale import Estimate, Instrument, Pass, Verdict, alone, estimate, fitting
from idler.core.mechanics.scalewords import off_by, percent, sentence, title
from idler.core.proof.claims import Proof, scale_claim
from idler.core.values.measures import Measures
from idler.core.words import capital
from idler.procedures.engine import Ending, Result
from idler.procedures.scale.onepass import PassStage
from idler.procedures.scale.run import ScaleRun
from idler.procedures.scale.wanted import instrument_able, read_tolerance, usual_reach
from idler.session.session import Session

from ...bridge import follow
from ...pictures.passes import PassPicture, PassScene
from ...pictures.proof import claim_head
from ...widgets.cards import card, figures, label
from ...widgets.fields import restyle
from ...widgets.lengthedit import LengthEdit
from ...widgets.machinebutton import MachineButton
from .. import Host
from ..workbench import AxisWorkbench

RIGHT = 330


class ScaleStation(AxisWorkbench):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._typed: Fraction | None = None  # the move, where the person has told one
        self._tolerance = Fraction(2, 10_000)
        self.procedure = ScaleRun(session)
        follow(self.procedure.ended, self._ended)
        follow(self.procedure.changed, self.refresh)
        follow(self.procedure.turned, self._turn_round)
        column = self.page_column()
        column.addLayout(self._head())
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())
        column.addLayout(row, 1)
        self.follow()

    # -- pieces ---------------------------------------------------------------------------------------------------

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.instrument = QComboBox()
        self.instrument.setAccessibleName("Instrument")
        self.instrument.activated.connect(lambda _: self.refresh())
        self.length = LengthEdit(
            self._session, "length of the move", low=Fraction(1, 100), high=Fraction(100_000), signed=True
        )
        self.length.taken.connect(self._take_length)
        self.tolerance = QLineEdit()
        self.tolerance.setAccessibleName("Tolerance wanted")
        self.tolerance.editingFinished.connect(self._take_tolerance)
        for editor in (self.length, self.tolerance):
            editor.setFixedWidth(78)
            editor.setAlignment(Qt.AlignmentFlag.AlignRight)
        for widget in (self._picker, label("measured with", "soft"), self.instrument, label("over", "soft"), self.length,
                       label("wanted to", "soft"), self.tolerance):  # fmt: skip
            row.addWidget(widget)
        row.addStretch(1)
        return row

    def _left(self) -> QFrame:
        frame, column = card((12, 6, 12, 8), 6)
        self.picture = PassPicture()
        column.addWidget(self.picture, 1)
        self._step = label("", "heading", wrap=True)
        column.addWidget(self._step)
        row = QHBoxLayout()
        self.go = MachineButton(self._session)
        self.go.setProperty("role", "main")
        self.go.clicked.connect(self._go)
        self.reading = QLineEdit()
        self.reading.setPlaceholderText("what the instrument says")
        self.reading.setAccessibleName("Reading of the instrument")
        self.reading.setFixedWidth(190)
        self.reading.returnPressed.connect(self._enter)
        self.read_button = QPushButton("Read it at the bench")
        self.read_button.clicked.connect(self._read_bench)
        self.fast_button = QPushButton("next one at top speed")
        self.fast_button.setCheckable(True)
        self.fast_button.setToolTip("Beside a slow pass it shows whether steps are lost at this pace.")
        self.fast_button.toggled.connect(self._choose_fast)
        self.drop_button = QPushButton("Drop the last pass")
        self.drop_button.clicked.connect(self._drop)
        for widget in (self.go, self.reading, self.read_button):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.fast_button)
        row.addWidget(self.drop_button)
        column.addLayout(row)
        return frame

    def _right(self) -> QFrame:
        frame, column = card((14, 8, 14, 10), 6)
        frame.setFixedWidth(RIGHT)
        self._title, self._mark = claim_head(column)
        self._words = label("", "", wrap=True)
        column.addWidget(self._words)
        self._grid = QGridLayout()
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnStretch(0, 1)
        self._figures: list[QLabel] = []
        self._off_name = label("", "soft")  # too far, or too short
        names = (
            label("counts, told", "soft"),
            label("counts, measured", "soft"),
            self._off_name,
            label("known to", "soft"),
        )
        for line, name in enumerate(names):
            value = figures("—")
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            self._grid.addWidget(name, line, 0)
            self._grid.addWidget(value, line, 1)
            self._figures.append(value)
        column.addLayout(self._grid)
        self._causes_place = QVBoxLayout()
        column.addLayout(self._causes_place)
        self._causes = QWidget()
        self._causes_place.addWidget(self._causes)
        self._listed: list[ScaleCause] = []
        self.cause_buttons: list[QPushButton] = []  # of the causes that an edit would mend, in their order
        column.addStretch(1)
        self.gentler = QPushButton("Take the gentler pace")
        self.gentler.clicked.connect(self._take_gentler)
        self.accept = QPushButton("Correct the counts")
        self.accept.clicked.connect(self._accept)
        self.prove = QPushButton("Keep as proof")
        self.prove.clicked.connect(self._prove)
        row = QHBoxLayout()
        row.addWidget(self.gentler)
        row.addWidget(self.accept)
        row.addWidget(self.prove)
        row.addStretch(1)
        column.addLayout(row)
        return frame

    # -- facts ----------------------------------------------------------------------------------------------------

    @property
    def _axis(self) -> Axis:
        return self._session.machine.axis(self.slot)

    @property
    def _name(self) -> str:
        return self._axis.name

    @property
    def _reads(self) -> Measures:
        return self._axis.reads

    def _chosen(self) -> Instrument:
        return fitting(self._axis.rotary)[max(0, self.instrument.currentIndex())]

    @property
    def passes(self) -> list[Pass]:
        return self.procedure.passes

    @property
    def _length(self) -> Fraction:
        """Of the next move, with its sign: as it was told, or as it is proposed."""
        if self._typed is not None:
            return self._typed
        if self.procedure.running:
            return Fraction(self.procedure.length).limit_denominator(10_000)
        wished = self.procedure.proposed(self._chosen())
        return (1 if wished > 0 else -1) * self._reads.tidy(abs(wished), most=True)

    # -- doing ----------------------------------------------------------------------------------------------------

    def show_axis(self, slot: int) -> None:
        self.slot, self._typed = slot, None
        listed = fitting(self._axis.rotary)
        self.instrument.clear()
        self.instrument.addItems([item.words(self._reads) for item in listed])
        able = instrument_able(self._axis, float(self._tolerance), usual_reach(self._axis))
        self.instrument.setCurrentIndex(listed.index(able))
        self.procedure.choose(slot)
        super().show_axis(slot)

    def _choose_fast(self, on: bool) -> None:
        self.procedure.fast = on
        self.refresh()

    def _enter(self) -> None:
        """Return in the reading adds the pass; it moves nothing."""
        if self.procedure.stage is PassStage.READ:
            self._go()

    def _turn_round(self, way: int) -> None:
        self._typed = way * abs(self._typed) if self._typed is not None else None
        self.refresh()

    def _take_length(self, length: Fraction) -> None:
        self._typed = length
        self.refresh()

    def _take_tolerance(self) -> None:
        try:
            self._tolerance = read_tolerance(self.tolerance.text())
        except Refusal as why:
            self._session.tell("warn", why.sentence)
        self.refresh()

    def _go(self) -> None:
        run = self.procedure
        run.length, run.instrument = float(self._length), self._chosen()
        match run.stage:
            case PassStage.START:
                if why := run.measure(float(self._tolerance)):
                    self._session.tell("warn", why)
            case PassStage.ZERO:
                run.answer("")
            case PassStage.MOVE:
                if why := run.obstacle():
                    self._session.tell("warn", why)
                else:
                    run.answer("")
            case PassStage.READ:
                self._add()
        self.refresh()

    def _ended(self, result: Result) -> None:
        if result.end in (Ending.FAILED, Ending.NOT_PROVEN):
            self._session.tell("warn", result.words)
        self.refresh()

    def _read_bench(self) -> None:
        hands = self._session.bench_hands
        if hands is None:
            return

        def answered(reply: dict[str, Any]) -> None:
            if reply["ok"]:
                self.reading.setText(f"{self._reads.length(reply['value'], trim=True)}")
            else:
                self._session.tell("warn", reply["error"])

        hands.ask(answered, do="read", axis=self._name, instrument=self._chosen().key)

    def _add(self) -> None:
        """One more pass from what was typed or read."""
        try:
            self.procedure.answer(self.reading.text())
        except Refusal as why:
            self._session.tell("warn", why.sentence)
        else:
            self.reading.clear()

    def _drop(self) -> None:
        """The pass that lies alone, or else the last one."""
        which = alone(self.passes)
        place = len(self.passes) - 1 if which is None else which
        self._keep([*self.passes[:place], *self.passes[place + 1 :]])

    def _keep(self, passes: list[Pass]) -> None:
        self._session.keep_passes(self._name, passes)
        self.refresh()

    def _accept(self) -> None:
        """Writes the correction that the passes ask for; the train stays as it was drawn."""
        try:
            self._session.set_values(self.procedure.corrected(), f"scale of {self._name} corrected")
        except IdlerError as why:
            self._session.tell("warn", why.sentence.before("So large an error is not corrected: look for its cause."))

    def _take_gentler(self) -> None:
        self._session.set_values(self.procedure.gentler, f"gentler pace of {self._name}")
        self.refresh()

    def _settle(self, cause: ScaleCause) -> None:
        self._session.set_values(self.procedure.edit_for(cause), f"{self._name}: {cause.slip.words}")

    def _prove(self) -> None:
        if why := self.procedure.settle(float(self._tolerance)):
            self._session.tell("warn", why)

    # -- showing --------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        told, tolerance = self.procedure.told, float(self._tolerance)
        found = estimate(self.passes)
        self.length.show_length(self._reads, self._length)
        self.tolerance.setText(percent(tolerance))
        self.picture.show_scene(
            PassScene(
                abs(float(self._length)), self.procedure.travelled, self._reads, self.passes, found, told, tolerance
            )
        )
        self.procedure.length = float(self._length)
        self._step.setText(self.procedure.words_at(self.procedure.stage, self._reads, self._chosen()))
        self.go.setText(self.procedure.button(self._reads))
        reading = self.procedure.stage is PassStage.READ
        self.go.setEnabled(self.procedure.stage is not PassStage.MOVING)
        self.reading.setVisible(reading)
        self.read_button.setVisible(reading and self._session.bench_hands is not None)
        self.drop_button.setVisible(bool(self.passes))
        which = alone(self.passes)
        self.drop_button.setText("Drop the last pass" if which is None else f"Drop pass {which + 1}, which lies alone")
        slow_first = bool(self.passes) and not reading and self.procedure.safe_speed < self.procedure.top
        self.fast_button.setVisible(slow_first)
        if not slow_first and not reading:
            self.fast_button.setChecked(False)
        self._show_verdict(found, told, tolerance)

    def _show_verdict(self, found: Estimate | None, told: float, tolerance: float) -> None:
        said = self.procedure.said(tolerance)
        self._title.setText(title(self._axis, said, tolerance))
        length, item = float(self._length), self._chosen()
        result = self.procedure.result
        stood = result.words if result is not None and self.procedure.gentler else ""
        self._words.setText(stood or sentence(self._axis, self.passes, said, told, tolerance, length, item))
        texts = ["—"] * 4
        texts[0] = self._counts(told)
        if found is not None:
            texts[1:] = [
                self._counts(found.counts_per_unit),
                off_by(found, told)[1],
                "± " + percent(found.expanded),
            ]
        self._off_name.setText(off_by(found, told)[0] if found is not None else "the axis is off by")
        for shown, text in zip(self._figures, texts, strict=True):
            shown.setText(text)
        explained = self.procedure.explained() if said is Verdict.OFF else []
        self._show_causes(explained)
        self.accept.setVisible(said is Verdict.OFF)
        self.prove.setVisible(said is Verdict.PROVEN)
        self.gentler.setVisible(self.procedure.gentler != {})
        claim = scale_claim(self._session.machine, self.slot)
        if self._mark.show_claim(self._session.machine, claim, self._session.proofs) is Proof.STALE:
            self._words.setText(self._words.text() + " It was proven once; a value of the train has changed since.")
        self._show_main(said, [cause for cause in explained if cause.listed])

    def _show_main(self, said: Verdict, listed: list[ScaleCause]) -> None:
        """What the hand goes to next: the next pass, or what the passes came to."""
        main: QPushButton = self.go
        if self.procedure.stage is PassStage.START:
            if self.procedure.gentler:
                main = self.gentler
            elif said is Verdict.PROVEN and self._mark.state is not Proof.PROVEN:
                main = self.prove
            elif said is Verdict.OFF:
                likely = self.procedure.likely
                main = self.cause_buttons[listed.index(likely)] if likely in listed else self.accept
        for button in (self.go, self.gentler, self.accept, self.prove, *self.cause_buttons):
            button.setProperty("role", "main" if button is main else "")
            restyle(button)

    def _counts(self, per_unit: float) -> str:
        return f"{float(self._reads.per_unit(per_unit)):.4f} per {self._reads.name}"

    def _show_causes(self, listed: list[ScaleCause]) -> None:
        """Made anew only where they are others: one of their buttons may have the focus."""
        if listed == self._listed:
            return
        self._listed = listed
        self._causes_place.removeWidget(self._causes)
        self._causes.hide()
        self._causes.deleteLater()
        self._causes = QWidget()
        self._causes_place.addWidget(self._causes)
        column = QVBoxLayout(self._causes)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(4)
        self.cause_buttons = []
        if listed:
            column.addWidget(label("What would explain it", "heading"))
        for cause in listed:
            words = f"{capital(cause.slip.words)}: {cause.share}"
            row = QHBoxLayout()
            row.addWidget(label(words, "", wrap=True), 1)
            if cause.listed:
                button = QPushButton("That is it")
                button.setAccessibleName(f"Take this cause: {cause.slip.words}")
                button.clicked.connect(lambda _=False, cause=cause: self._settle(cause))
                row.addWidget(button)
                self.cause_buttons.append(button)
            column.addLayout(row)
        self._causes.show()  # at once: what leads on looks for what is to be seen


def make(host: Host) -> ScaleStation:
    return ScaleStation(host.session)
