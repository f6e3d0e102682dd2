"""The play of one axis: three places along its travel, what is left at each, and what would take it up."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from idler.core.errors import IdlerError
from idler.core.geometry.play import PLACES, can_prove, pairs, places, sentence, verdict
from idler.core.machine import Axis
from idler.core.proof.claims import play_claim
from idler.procedures.engine import Ending, Result
from idler.procedures.play import TIMES, TOLERANCE, PlayRun
from idler.procedures.questions import Question
from idler.procedures.safe import count_of
from idler.session.session import Session

from ...bridge import follow
from ...pictures.play import PlayPicture, PlayScene
from ...pictures.proof import claim_head
from ...widgets.asking import Asking
from ...widgets.cards import card, label, scrolled, tall
from ...widgets.lengthedit import LengthEdit
from ...widgets.machinebutton import MachineButton
from ..workbench import AxisWorkbench

RIGHT = 330


class PlayPage(AxisWorkbench):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._tolerance = Fraction(TOLERANCE).limit_denominator(1000)
        self.procedure = PlayRun(session)
        follow(self.procedure.changed, self.refresh)
        follow(self.procedure.ended, self._ended)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())
        self.follow()

    def _left(self) -> QFrame:
        frame, column = card((12, 6, 12, 8), 6)
        self.picture = PlayPicture()
        column.addWidget(self.picture, 1)
        self.asking = Asking(self._session, self.procedure, self._at_bench)
        column.addWidget(self.asking)
        return frame

    def _right(self) -> QFrame:
        frame, outer = card((14, 8, 14, 10), 6)
        frame.setFixedWidth(RIGHT)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self._picker)
        self._title, self._mark = claim_head(column)
        self._words = label("", "", wrap=True)
        column.addWidget(self._words)
        wanted = QHBoxLayout()
        self.tolerance = LengthEdit(self._session, "play that may be left", low=Fraction(1, 1000), high=Fraction(1))
        self.tolerance.taken.connect(self._take_tolerance)
        wanted.addWidget(label("wanted: within", "soft"))
        wanted.addWidget(self.tolerance)
        wanted.addStretch(1)
        column.addLayout(wanted)
        self._beforehand = label("", "small", wrap=True)
        column.addWidget(self._beforehand)
        column.addStretch(1)
        self.accept = QPushButton("")
        self.accept.clicked.connect(self._accept)
        self.drop = QPushButton("Drop the last")
        self.drop.clicked.connect(lambda: self.procedure.drop(self.slot, -1))
        self.go = MachineButton(self._session, "Measure the play")
        self.go.setProperty("role", "main")
        self.go.clicked.connect(self._measure)
        outer.addWidget(scrolled(page, whole=True), 1)
        outer.addWidget(self.accept)
        row = QHBoxLayout()
        row.addWidget(self.drop)
        row.addWidget(self.go, 1)
        outer.addLayout(row)
        for button in (self.accept, self.drop, self.go):
            tall(button)
        return frame

    @property
    def _axis(self) -> Axis:
        return self._session.machine.axis(self.slot)

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        return {"do": "read", "axis": question.axis, "instrument": question.instrument}

    def _take_tolerance(self, value: Fraction) -> None:
        self._tolerance = value
        self.refresh()

    def _measure(self) -> None:
        if why := self.procedure.measure(self.slot, float(self._tolerance)):
            self._session.tell("warn", why)

    def _accept(self) -> None:
        try:
            edit = self.procedure.proposed(self.slot, float(self._tolerance))
            self._session.set_values(edit, f"backlash of {self._axis.name}")
        except IdlerError as why:
            self._session.tell("warn", why.sentence)

    def _ended(self, result: Result) -> None:
        if result.end is Ending.FAILED:
            self._session.tell("warn", result.words)

    def refresh(self) -> None:
        run, axis, tolerance = self.procedure, self._axis, float(self._tolerance)
        reads, found, told = axis.reads, run.found(self.slot), run.told(self.slot)
        readings = run.readings.get(axis.name, [])
        low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
        self.picture.show_scene(
            PlayScene(
                axis.name, low, high, () if axis.rotary else places(axis), tuple(found),
                tuple(pairs(readings, run.dial)), tolerance, reads,
            )
        )  # fmt: skip
        said = verdict(found, told, tolerance)
        self._title.setText(f"Play of {axis.name}: {said.words}")
        if not axis.rotary:
            self._mark.show_claim(
                self._session.machine, play_claim(self._session.machine, self.slot), self._session.proofs
            )
        now = f"{reads.length(told, 3, trim=True)} taken up by the controller. " if told else ""
        waits = f"{len(found)} of {PLACES} places are measured. " if 0 < len(found) < PLACES else ""
        self._words.setText(now + (sentence(axis, found, told, tolerance) or waits))
        self.tolerance.show_length(reads, self._tolerance)
        least = can_prove(run.dial, count_of(self._session, self.slot), TIMES)
        self._beforehand.setVisible(len(found) < PLACES)
        self._beforehand.setText(
            f"With the {run.dial.words(reads)}, {TIMES} readings from each side tell {reads.length(least, 3)} from none. "
            f"{axis.name} turns round at {PLACES} places, from one end of its travel to the other: nothing may be in its way."
        )
        edit = run.proposed(self.slot, tolerance)
        self.accept.setVisible(bool(edit))
        for value in edit.values():
            self.accept.setText(f"Take up {reads.length(value, 3)}")  # type: ignore[arg-type]
        self.drop.setVisible(bool(readings) and not run.running)
        self.go.setEnabled(not run.running)
        self.laid_anew.emit()
        self.go.setText("Measure what is left" if 0 < len(found) < PLACES else "Measure the play")
