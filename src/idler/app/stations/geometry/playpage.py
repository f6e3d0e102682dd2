"""The play of one axis: three places along its travel, what is left at each, and what would take it up."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from PySide6.QtWidgets import QHBoxLayout

from idler.core.errors import IdlerError
from idler.core.geometry.play import PLACES, can_prove, pairs, places, sentence, travel
from idler.core.machine import Axis
from idler.core.proof.claims import play_claim
from idler.procedures.geometry.play import TIMES, TOLERANCE, PlayRun
from idler.procedures.questions import Question
from idler.procedures.safe import count_of
from idler.session.session import Session

from ...pictures.play import PlayPicture, PlayScene
from ...widgets.cards import label
from ...widgets.lengthedit import LengthEdit
from ..workbench import AxisWorkbench
from .frame import Measuring


class PlayPage(Measuring, AxisWorkbench):
    picture: PlayPicture
    procedure: PlayRun

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._wanted = dict.fromkeys(
            (False, True), Fraction(TOLERANCE).limit_denominator(1000)
        )  # mm, and of what turns °
        self.procedure = PlayRun(session)
        column = self.lay(self, PlayPicture(), top=self._picker)
        wanted = QHBoxLayout()
        self.tolerance = LengthEdit(self._session, "play that may be left", low=Fraction(1, 1000), high=Fraction(1))
        self.tolerance.taken.connect(self._take_tolerance)
        wanted.addWidget(label("wanted: within", "soft"))
        wanted.addWidget(self.tolerance)
        wanted.addStretch(1)
        column.addLayout(wanted)
        self.accept.clicked.connect(self._accept)
        self.drop.setText("Forget the readings")
        self.drop.clicked.connect(lambda: self.procedure.forget(self.slot))
        self.go.clicked.connect(lambda: self.begun(self.procedure.measure(self.slot, float(self._tolerance))))
        self.follow()

    @property
    def _axis(self) -> Axis:
        return self._session.machine.axis(self.slot)

    @property
    def _tolerance(self) -> Fraction:
        return self._wanted[self._axis.rotary]

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        return {"do": "read", **self.procedure.held(self.slot).at_bench} if question.instrument else None

    def _take_tolerance(self, value: Fraction) -> None:
        self._wanted[self._axis.rotary] = value
        self.refresh()

    def _accept(self) -> None:
        try:
            edit = self.procedure.proposed(self.slot, float(self._tolerance))
            self._session.set_values(edit, f"backlash of {self._axis.name}")
        except IdlerError as why:
            self._session.tell("warn", why.sentence)

    def refresh(self) -> None:
        run, axis, tolerance = self.procedure, self._axis, float(self._tolerance)
        reads, found, told = axis.reads, run.found(self.slot), run.told(self.slot)
        readings = run.readings.get(axis.name, [])
        low, high = travel(axis)
        held = run.held(self.slot)
        self.picture.show_scene(
            PlayScene(
                axis.name, low, high, places(axis), tuple(found), tuple(pairs(readings, held.by_axis)), tolerance, reads,
            )
        )  # fmt: skip
        said = run.said(self.slot, tolerance)
        self.title.setText(f"Play of {axis.name}: {said.words}")
        self.mark.show_claim(self._session.machine, play_claim(self._session.machine, self.slot), self._session.proofs)
        now = f"{reads.length(told, 3, trim=True)} taken up by the controller. " if told else ""
        waits = f"{len(found)} of {PLACES} places are measured. " if 0 < len(found) < PLACES else ""
        takes_up = not self._session.machine.made_of_parts
        self.words.setText(now + (sentence(axis, found, told, tolerance, takes_up=takes_up) or waits))
        self.tolerance.show_length(reads, self._tolerance)
        least = can_prove(held.by_axis, count_of(self._session, self.slot), TIMES)
        out = f" {held.reads.length(held.radius, 1, trim=True)} from the middle" if held.radius is not None else ""
        self.beforehand.setVisible(len(found) < PLACES)
        self.beforehand.setText(
            f"With the {run.dial.words(held.reads)}{out}, {TIMES} readings from each side tell {reads.length(least, 3)} from "
            f"none. {axis.name} turns round at {PLACES} places, from one end to the other: nothing may be in its way."
        )
        self.offer(run.proposed(self.slot, tolerance), lambda value: f"Take up {reads.length(value, 3)}")  # type: ignore[arg-type]
        self.drop.setVisible(bool(readings) and not run.running)
        self.show_readings(run.kept(self.slot))
        self.go.setEnabled(not run.running)
        self.laid_anew.emit()
        self.go.setText("Measure what is left" if 0 < len(found) < PLACES else "Measure the play")
