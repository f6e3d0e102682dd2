"""The pages at the right of the Spindle station: what is to be done, what came of it, and the values that it settles."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from idler.core.errors import Refusal
from idler.core.machine import Address
from idler.core.profile.terminals import OIL_STROKES, OIL_TOWARDS
from idler.core.proof.claims import Proof, curve_claim, times_claim
from idler.core.report.agenda import pages_without
from idler.core.spindle import has_level, meters, ranges, takes_speeds
from idler.core.spindle.oil import day_in_words, days, now_in_words
from idler.core.spindle.speedcurve import Miss, cause, misses, speeds_to_try, worst
from idler.core.table.sheets import CUTTER, OIL, RANGE_SHEET, SPINDLE, TIMES
from idler.core.table.stations import Tab
from idler.core.values.parameter import Value
from idler.core.values.speedpoints import points_text
from idler.core.values.units import figure
from idler.core.wiring.tool import tool_of
from idler.link.events import Read
from idler.procedures.questions import Question, QuestionKind
from idler.procedures.spindle.run import SpindleRun, Turning
from idler.session.session import Session

from ...bridge import follow
from ...pictures.proof import ProofMark, claim_head
from ...widgets.asking import Asking
from ...widgets.cards import label, tall
from ...widgets.edits import edit_words
from ...widgets.machinebutton import MachineButton
from ...widgets.sheet import Sheet

FIELD, WIDER = 140, 152
_LOOK = 1000  # ms between two looks at what the controller counts of the oil
LONG = 2.0  # times what was measured: a wait that is longer may be shortened


class Page(QWidget):
    """A column; `shown` says that the picture at the left must follow. wide: it takes the picture's room too."""

    wide = False
    shown = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 4, 0, 0)
        self.column.setSpacing(6)

    def main(self, words: str) -> QPushButton:
        made = QPushButton(words)
        made.setProperty("role", "main")
        return made

    def turns(self, words: str) -> MachineButton:
        """A button that turns the spindle."""
        return MachineButton(self._session, words)

    def say(self, why: str) -> None:
        if why:
            self._session.tell("warn", why)

    def claim_row(self, words: str) -> ProofMark:
        return claim_head(self.column, words)[1]

    def refresh(self) -> None:
        raise NotImplementedError


class MeasuringPage(Page):
    """Of a run that measures speeds: what a turn by hand has shown of its meter is taken here."""

    def __init__(self, session: Session, run: SpindleRun) -> None:
        super().__init__(session)
        self._run = run
        self.mend = self.main("")
        self.mend.clicked.connect(self._mend)

    def _mend(self) -> None:
        self._session.mend(self._counted, "what is counted in a turn of the spindle")

    @property
    def _counted(self) -> dict[Address, Value]:
        """What the last run proposes of its meter, where that is not taken yet."""
        result, machine = self._run.result, self._session.machine
        edit = result.edit if result is not None and not self._run.running else {}
        return {
            where: value
            for where, value in edit.items()
            if where.key.startswith("spindle.") and machine[where] != value
        }

    def _show_mend(self) -> None:
        self.mend.setVisible(bool(self._counted))
        self.mend.setText(edit_words(self._session.machine, self._counted))


class CurvePage(MeasuringPage):
    def __init__(self, session: Session, run: SpindleRun) -> None:
        super().__init__(session, run)
        self.mark = self.claim_row("Commanded speed is the speed")
        line = QHBoxLayout()
        line.addWidget(label("measured by", "soft"))
        self.meter = QComboBox()
        self.meter.setAccessibleName("What measures the speed")
        self.meter.activated.connect(lambda _: self._choose())
        line.addWidget(self.meter, 1)
        self.column.addLayout(line)
        self.measure, self.check = self.turns("Measure the curve"), self.turns("Prove the speeds")
        self.measure.setProperty("role", "main")
        self.measure.clicked.connect(self._measure)
        self.check.clicked.connect(self._check)
        row = QHBoxLayout()
        row.addWidget(self.measure)
        row.addWidget(self.check)
        self.column.addLayout(row)
        self.reading = Reading(session, run)
        self.column.addWidget(self.reading)
        self.words = label("", "", wrap=True)
        self.column.addWidget(self.words)
        self.done = self.main("It is done")  # turned by hand, where the encoder may count otherwise
        self.done.clicked.connect(lambda: run.answer(""))
        self.lies, self.lies_not = QPushButton("Yes, it lies there"), QPushButton("No, it does not")
        row = QHBoxLayout()
        for button, answer in (
            (self.lies, "yes"),
            (self.lies_not, "no"),
        ):  # the belt, where it turns as in another range
            button.clicked.connect(partial(run.answer, answer))
            tall(button)
            row.addWidget(button)
        self.column.addLayout(row)
        for button in (self.done, self.mend):
            self.column.addWidget(button)
        self._shown: Question[Any] | None = None
        self.take = self.main("Take the points")
        self.take.clicked.connect(self._take)
        self.column.addWidget(self.take)
        self.filter = QPushButton("Study the noise in this range")
        self.filter.setToolTip("Opens the filter study of the Wiring station, with the spindle running.")
        self.column.addStretch(1)
        self.column.addWidget(self.filter)

    @property
    def next(self) -> QPushButton:
        """What the hand goes to: what was measured, else the proof; where that has failed, the curve again."""
        machine = self._session.machine
        for taken in (self.mend, self.take):
            if not taken.isHidden():
                return taken
        failed = self.mark.state is Proof.FAILED and has_level(machine)
        return self.check if takes_speeds(machine) and not failed else self.measure

    def _choose(self) -> None:
        self._run.meter = type(self._run.meter)(self._session, self.meter.currentData())
        self.shown.emit()

    def _measure(self) -> None:
        self.say(self._run.measure())

    def _check(self) -> None:
        self.say(self._run.check_speeds(mend=True))

    def foreseen(self) -> tuple[tuple[Miss, ...], tuple[Miss, ...]]:
        """Errors that the points in use, and the new ones, leave by the measured curve."""
        found = self._run.engaged()
        curve = self._run.curves.get(found.slot)
        if curve is None:
            return (), ()
        speeds = speeds_to_try(found, curve, 24)
        return misses(curve, found.curve, speeds), misses(curve, curve.points, speeds)

    def _take(self) -> None:
        found = self._run.engaged()
        try:
            self._session.set_values(self._run.points(found.slot), f"measured points of {found.title}")
        except Refusal as why:
            self.say(why.sentence)

    def refresh(self) -> None:
        machine, run = self._session.machine, self._run
        kinds = meters(machine)
        if [self.meter.itemData(k) for k in range(self.meter.count())] != kinds:
            self.meter.clear()
            for kind in kinds:
                self.meter.addItem(kind.words, kind)
            self._choose()
        self.meter.setCurrentIndex(max(0, self.meter.findData(run.meter.kind)))
        found = run.engaged()
        self.mark.show_claim(machine, curve_claim(machine, found.slot), self._session.proofs)
        for button in (self.measure, self.check, self.meter):
            button.setEnabled(not run.running)
        self.measure.setVisible(has_level(machine))
        self.check.setVisible(takes_speeds(machine))
        curve = run.curves.get(found.slot)
        new = curve is not None and points_text(curve.points) != points_text(found.points)
        self.take.setVisible(new and not run.running)
        self.filter.setVisible(Tab.FILTER not in pages_without(machine))
        asked = run.question.kind if run.question is not None else None
        self.done.setVisible(asked is QuestionKind.DONE)
        for answer in (self.lies, self.lies_not):
            answer.setVisible(asked is QuestionKind.YES)
        if run.question is not self._shown:  # the hand goes to what is asked
            self._shown = run.question
            to = {QuestionKind.DONE: self.done, QuestionKind.YES: self.lies}.get(asked) if asked is not None else None
            if to is not None and to.isVisible():
                to.setFocus()
        self._show_mend()
        self.words.setText(run.words if run.running else self._verdict())
        if curve is not None:
            self.take.setText(f"Take these {len(curve.points)} points")

    def _verdict(self) -> str:
        found, run = self._run.engaged(), self._run
        if not takes_speeds(self._session.machine):
            return "It is only switched on and off: there is one speed, and no curve. Prove its way, its times and its stops."
        curve = run.curves.get(found.slot)
        parts = []
        if curve is None and has_level(self._session.machine):
            parts.append(
                run.words
                or "The level goes up and down in steps; each speed is measured once it is steady. Nothing is changed by it."
            )
        elif curve is not None:
            now, then = self.foreseen()
            before, after = worst(now), worst(then)
            parts.append(
                f"Turns from {curve.dead:.1f} % on, up to {curve.top:.0f} rpm at {curve.full:.1f} %; up and down differ by "
                f"{curve.play:.1f} rpm at most."
            )
            parts.append(cause(ranges(self._session.machine), found, curve))
            parts.append(f"As it is told, {before.asked:.0f} rpm is off by {figure(before.error, 0)}.")
            if points_text(curve.points) != points_text(found.points):
                parts.append(f"With the measured points the largest error would be {figure(abs(after.error), 1)} rpm.")
        tried = run.misses.get(found.slot)
        if tried:
            bad = worst(tried)
            parts.append(
                f"Tried: the largest error is {figure(abs(bad.error), 1)} rpm at {bad.asked:.0f} rpm; "
                f"{'that is within 1 % or 5 rpm' if bad.share <= 1 else 'that is too much'}."
            )
        return " ".join(part for part in parts if part)


class Reading(QWidget):
    """A field for what a hand tachometer shows; it is there while a run waits for it."""

    def __init__(self, session: Session, run: Turning) -> None:
        super().__init__()
        self._session, self._run = session, run
        self._shown: Question[Any] | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        self.words = label("", "heading", wrap=True)
        column.addWidget(self.words)
        row = QHBoxLayout()
        self.field = QLineEdit()
        self.field.setPlaceholderText("rpm")
        self.field.setAccessibleName("Reading of the tachometer in rpm")
        self.field.returnPressed.connect(self._take)
        self.hold = QPushButton("Hold it to the spindle")
        self.hold.setToolTip("The bench's own tachometer reads the rig.")
        self.hold.clicked.connect(self._from_bench)
        row.addWidget(self.field, 1)
        row.addWidget(self.hold)
        column.addLayout(row)
        self.hide()
        follow(run.changed, self._look)

    def _look(self) -> None:
        asked = self._run.question
        if asked is not None and asked.key != "spindle.reading":
            asked = None
        if asked is self._shown:
            return
        self._shown = asked
        self.setVisible(asked is not None)
        if asked is not None:
            self.words.setText(asked.text)
            self.hold.setVisible(self._session.bench_hands is not None)
            self.field.clear()
            self.field.setFocus()

    def _from_bench(self) -> None:
        if self._session.bench_hands is not None:
            self._session.bench_hands.ask(lambda reply: self._answer(str(reply["value"])), do="tachometer")

    def _take(self) -> None:
        self._answer(self.field.text())

    def _answer(self, typed: str) -> None:
        try:
            self._run.answer(typed)
        except Refusal as why:
            self._session.tell("warn", why.sentence)


class TimesPage(MeasuringPage):
    def __init__(self, session: Session, run: SpindleRun) -> None:
        super().__init__(session, run)
        self.mark = self.claim_row("Motion waits long enough")
        self.measure = self.turns("Measure the times")
        self.measure.setProperty("role", "main")
        self.measure.clicked.connect(lambda: self.say(run.time_it()))
        self.column.addWidget(self.measure)
        self.asking = Asking(session, run, lambda _: None)
        self.column.addWidget(self.asking)
        self.words = label("", "", wrap=True)
        self.column.addWidget(self.words)
        self.take = self.main("Take both waits")
        self.take.clicked.connect(self._take)
        for button in (self.mend, self.take):
            self.column.addWidget(button)
        self.sheet = Sheet(session, TIMES, width=FIELD)
        self.column.addWidget(self.sheet)
        self.column.addStretch(1)

    @property
    def next(self) -> QPushButton:
        """What the hand goes to: what was measured, else the measurement."""
        return next((each for each in (self.mend, self.take) if not each.isHidden()), self.measure)

    def _times(self, slot: int) -> dict[str, float]:
        """The longest measured times, in s, by the name of the row of their wait."""
        times = {"run_up": self._run.longest(slot, "up"), "run_down": self._run.longest(slot, "down")}
        return {name: time for name, time in times.items() if time is not None}

    def _take(self) -> None:
        slot = self._run.engaged().slot
        self._session.set_values(self._run.waits(slot), f"times of range {slot + 1}")

    def refresh(self) -> None:
        run, found = self._run, self._run.engaged()
        self.sheet.show_axis(found.slot)
        self.mark.show_claim(
            self._session.machine, times_claim(self._session.machine, found.slot), self._session.proofs
        )
        self.measure.setEnabled(not run.running)
        self.asking.setVisible(run.question is not None)
        self.words.setVisible(run.question is None)  # its words are those of the question
        self._show_mend()
        times = self._times(found.slot)
        told = {"run_up": found.run_up, "run_down": found.run_down}
        self.take.setVisible(
            not run.running and any(not time <= told[name] < LONG * time for name, time in times.items())
        )
        up, down = run.longest(found.slot, "up"), run.longest(found.slot, "down")
        if run.running or up is None or down is None:
            self.words.setText(run.words or "It runs up to the highest speed and down again, both ways where it can.")
            return
        short = up > found.run_up or down > found.run_down
        self.words.setText(
            f"{up:.2f} s to its speed, {down:.2f} s to standstill at the longest. "
            + (
                "The waits are shorter: take longer ones, send them, and measure again."
                if short
                else "The waits are long enough."
            )
        )


class OilPage(Page):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.column.addWidget(label("Oil for the ways", "title"))
        line = QHBoxLayout()
        line.addWidget(label("a shift with", "soft"))
        self.day = QComboBox()
        self.day.setAccessibleName("Kind of working day")
        for day in days():
            self.day.addItem(day.name, day)
        self.day.activated.connect(lambda _: self.refresh())
        line.addWidget(self.day, 1)
        self.column.addLayout(line)
        self.words = label("", "", wrap=True)
        self.column.addWidget(self.words)
        self.column.addWidget(Sheet(session, OIL, width=FIELD))
        self.column.addWidget(label("Now", "heading"))
        self.now = label("", "", wrap=True)
        self.column.addWidget(self.now)
        self.column.addStretch(1)
        self._unanswered = False
        self._look = QTimer(self)
        self._look.setInterval(_LOOK)
        self._look.timeout.connect(self._ask)
        follow(session.read, self._take)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._unanswered = False
        self._look.start()
        self._ask()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._look.stop()

    def _ask(self) -> None:
        if self._session.connected:
            if not self._unanswered:  # a controller that does not say it is asked once
                self._unanswered = True
                self._session.ask_for([OIL_STROKES, OIL_TOWARDS])
        else:
            self._unanswered = False
            self.now.setText("Strokes are counted by the controller; none is connected.")

    def _take(self, event: Read) -> None:
        held = self._session.held_machine
        if held is not None and {OIL_STROKES, OIL_TOWARDS} <= set(event.raws):
            self._unanswered = False
            self.now.setText(now_in_words(held, int(event.raws[OIL_STROKES]), int(event.raws[OIL_TOWARDS])))

    def refresh(self) -> None:
        self.words.setText(day_in_words(self._session.machine, self.day.currentData()))
        self.shown.emit()


class SetUpPage(Page):
    """Kind and ranges. The fields of a range are those of the one that is engaged."""

    wide = True

    def __init__(self, session: Session, run: SpindleRun) -> None:
        super().__init__(session)
        self._run = run
        self.range = Sheet(session, RANGE_SHEET, width=WIDER)
        kind, starting, seen = SPINDLE
        self._of_speed = self.range, Sheet(session, (seen,), width=WIDER), Sheet(session, (kind, starting), width=WIDER)
        self._cutter = Sheet(session, CUTTER, width=WIDER)
        row = QHBoxLayout()
        row.setSpacing(16)
        for sheets in ((*self._of_speed[:2], self._cutter), self._of_speed[2:]):
            column = QVBoxLayout()
            column.setSpacing(4)
            for sheet in sheets:
                column.addWidget(sheet)
            column.addStretch(1)
            row.addLayout(column, 1)
        self.column.addLayout(row)
        self.column.addStretch(1)

    def refresh(self) -> None:
        turns, slot = tool_of(self._session.machine).turns, self._run.engaged().slot
        for sheet in self._of_speed:
            sheet.setVisible(turns)
        self._cutter.setVisible(not turns)
        self._cutter.show_axis(slot)
        self.range.show_axis(slot)
