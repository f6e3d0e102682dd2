"""Whether one axis comes back to the same place, and what it hangs on where it does not."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from PySide6.QtWidgets import QHBoxLayout

from idler.core.geometry.comeback import can_prove, figures, place, sentence, verdict
from idler.core.machine import Axis
from idler.core.proof.claims import comeback_claim
from idler.procedures.comeback import ROUNDS, WANTED, ComebackRun
from idler.procedures.questions import Question
from idler.session.session import Session

from ...pictures.arrivals import ArrivalPicture, ArrivalScene
from ...widgets.cards import label
from ...widgets.lengthedit import LengthEdit
from ..workbench import AxisWorkbench
from .frame import Measuring


class ComebackPage(Measuring, AxisWorkbench):
    picture: ArrivalPicture
    procedure: ComebackRun

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._tolerance = WANTED
        self.procedure = ComebackRun(session)
        column = self.lay(self, ArrivalPicture(), top=self._picker)
        wanted = QHBoxLayout()
        self.tolerance = LengthEdit(self._session, "how far it may end beside", low=Fraction(1, 1000), high=Fraction(1))
        self.tolerance.taken.connect(self._take_tolerance)
        wanted.addWidget(label("wanted: within ±", "soft"))
        wanted.addWidget(self.tolerance)
        wanted.addStretch(1)
        column.addLayout(wanted)
        self.drop.setText("Forget the readings")
        self.drop.clicked.connect(lambda: self.procedure.forget(self.slot))
        self.go.setText("Come back")
        self.go.clicked.connect(lambda: self.begun(self.procedure.measure(self.slot, float(self._tolerance))))
        self.follow()

    @property
    def _axis(self) -> Axis:
        return self._session.machine.axis(self.slot)

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        return {"do": "read", "axis": question.axis, "instrument": question.instrument}

    def _take_tolerance(self, value: Fraction) -> None:
        self._tolerance = value
        self.procedure.settle(self.slot, float(value))
        self.refresh()

    def refresh(self) -> None:
        run, axis, tolerance = self.procedure, self._axis, float(self._tolerance)
        found, arrivals = run.found(self.slot), run.arrivals.get(axis.name, [])
        whole = found if not run.running else None
        self.picture.show_scene(ArrivalScene(axis.name, tuple(arrivals), whole, tolerance, axis.reads))
        said = verdict(whole, tolerance)
        self.title.setText(f"{axis.name}: {said.words}")
        if not axis.rotary:
            claim = comeback_claim(self._session.machine, self.slot)
            self.mark.show_claim(self._session.machine, claim, self._session.proofs)
        told = f"{figures(whole, axis)}. {sentence(whole, axis, tolerance)}" if whole is not None else ""
        self.words.setText(told)
        self.words.setVisible(bool(told))
        self.tolerance.show_length(axis.reads, self._tolerance)
        self.beforehand.setVisible(whole is None)
        there = None if axis.rotary else place(axis)
        self.beforehand.setText(
            f"{4 * ROUNDS} arrivals at one place, from near and far, slowly and fast. With the {run.dial.words(axis.reads)} "
            f"they can prove ± {axis.reads.length(can_prove(run.dial), 3)}. It goes {axis.reads.length(there[1], 0)} away: "
            "nothing may be in its way."
            if there is not None
            else f"{axis.name} turns: whether it comes back is not measured here."
            if axis.rotary
            else f"{axis.name} has too little travel between its soft limits. Set them at Travel first."
        )
        self.drop.setVisible(bool(arrivals) and not run.running)
        self.go.setEnabled(not run.running)
        self.laid_anew.emit()
