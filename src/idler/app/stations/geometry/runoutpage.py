"""Whether what an axis holds turns true, and by how much to push it at which angle."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from PySide6.QtWidgets import QHBoxLayout

from idler.core.geometry.runout import FEELER, RunoutVerdict, can_prove, figures, sentence, verdict
from idler.core.machine import Axis
from idler.core.proof.claims import runout_claim
from idler.procedures.geometry.runout import OVER, TRUE_ENOUGH, RunoutRun
from idler.procedures.questions import Question
from idler.session.session import Session

from ...pictures.turning import RunoutPicture, RunoutScene
from ...widgets.cards import label
from ...widgets.lengthedit import LengthEdit
from ..workbench import AxisWorkbench
from .frame import Measuring


class RunoutPage(Measuring, AxisWorkbench):
    picture: RunoutPicture
    procedure: RunoutRun

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._tolerance = TRUE_ENOUGH
        self.procedure = RunoutRun(session)
        column = self.lay(self, RunoutPicture(), top=self._picker)
        wanted = QHBoxLayout()
        self.tolerance = LengthEdit(
            session, "how far the dial may go to and fro", low=Fraction(1, 1000), high=Fraction(1)
        )
        self.tolerance.taken.connect(self._take_tolerance)
        wanted.addWidget(label("wanted, to and fro: within", "soft"))
        wanted.addWidget(self.tolerance)
        wanted.addStretch(1)
        column.addLayout(wanted)
        self.drop.setText("Forget the readings")
        self.drop.clicked.connect(lambda: self.procedure.forget(self.slot))
        self.go.clicked.connect(lambda: self.begun(self.procedure.measure(self.slot, float(self._tolerance))))
        self.follow()
        rotary = next((axis.slot for axis in session.machine.axes if axis.rotary), None)
        if rotary is not None:
            self.show_axis(rotary)

    @property
    def _axis(self) -> Axis:
        return self._session.machine.axis(self.slot)

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        feeler = FEELER if question.key == "runout.follows" else 0.0
        return {"do": "read", "over": OVER, "axis": question.axis, "instrument": question.instrument, "feeler": feeler}

    def _take_tolerance(self, value: Fraction) -> None:
        self._tolerance = value
        self.procedure.settle(self.slot, float(value))
        self.refresh()

    def refresh(self) -> None:
        run, axis, tolerance = self.procedure, self._axis, float(self._tolerance)
        reads, values = run.reads, run.values.get(axis.name, dict[int, float]())
        found = run.found(self.slot) if not run.running else None
        said = verdict(found, tolerance)
        advised = said is RunoutVerdict.OFF
        self.picture.show_scene(RunoutScene(axis.name, dict(values), found, advised, reads))
        self.title.setText(
            f"{axis.name}: {said.words}" if axis.rotary else f"{axis.name} goes straight: it turns nothing"
        )
        self.mark.setVisible(axis.rotary)
        if axis.rotary:
            claim = runout_claim(self._session.machine, self.slot)
            self.mark.show_claim(self._session.machine, claim, self._session.proofs)
        told = f"{figures(found, reads)}. {sentence(axis, found, reads, tolerance)}" if found is not None else ""
        self.words.setText(told)
        self.words.setVisible(bool(told))
        self.tolerance.show_length(reads, self._tolerance)
        self.beforehand.setVisible(found is None and axis.rotary)
        self.beforehand.setText(
            f"A round bar in {axis.name}, and a dial against it that stands still. With the {run.dial.words(reads)} this tells "
            f"{reads.length(can_prove(run.dial), 3)} to and fro from none. A feeler gauge of {reads.length(FEELER, 2)} is "
            "needed once, to see that the dial stands on the bar."
        )
        self.drop.setVisible(bool(values) and not run.running)
        self.show_readings(run.readings(self.slot))
        self.go.setText("Go on" if run.goes_on(self.slot) else "Turn it round")
        self.go.setEnabled(not run.running and axis.rotary)
        self.laid_anew.emit()
