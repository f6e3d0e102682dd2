"""Whether one axis comes back to the same place, and what it hangs on where it does not."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from PySide6.QtWidgets import QComboBox, QHBoxLayout

from idler.core.geometry.comeback import Arrival, can_prove, figures, place, sentence, verdict
from idler.core.machine import Axis
from idler.core.proof.claims import comeback_claim
from idler.procedures.geometry.comeback import BY, ENCODER, ROUNDS, WANTED, ComebackRun
from idler.procedures.questions import Question
from idler.session.session import Session

from ...pictures.arrivals import ArrivalPicture, ArrivalScene
from ...widgets.cards import label, tall
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
        self.held = QComboBox()
        self.held.setAccessibleName("What it is read by")
        self.held.activated.connect(self._take)
        tall(self.held)
        column.addWidget(self.held)
        self.drop.setText("Forget the readings")
        self.drop.clicked.connect(lambda: self.procedure.forget(self.slot))
        self.go.clicked.connect(lambda: self.begun(self.procedure.measure(self.slot, float(self._tolerance))))
        self.follow()

    @property
    def _axis(self) -> Axis:
        return self._session.machine.axis(self.slot)

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        held = self.procedure.dial(self.slot)
        return {"do": "read", **held.at_bench} if question.instrument else None

    def _take(self, place: int) -> None:
        self.procedure.held = BY[place]
        self.refresh()

    def _take_tolerance(self, value: Fraction) -> None:
        self._tolerance = value
        self.procedure.settle(self.slot, float(value))
        self.refresh()

    def refresh(self) -> None:
        run, axis, tolerance = self.procedure, self._axis, float(self._tolerance)
        found, kept = run.found(self.slot), run.arrivals.get(axis.name, dict[int, Arrival]())
        arrivals = sorted(kept.values(), key=lambda each: each.turn)
        whole = found if not run.running else None
        self.picture.show_scene(ArrivalScene(axis.name, tuple(arrivals), whole, tolerance, axis.reads))
        dial = run.dial(self.slot)
        offered = [item for item in BY if item != ENCODER or run.sees_motor(self.slot)]
        words = [f"by {'the ' if item == ENCODER else ''}{item.words(dial.reads)}" for item in offered]
        if words != [self.held.itemText(k) for k in range(self.held.count())]:
            self.held.clear()
            self.held.addItems(words)
        if run.held not in offered:
            run.held = offered[0]
        self.held.setCurrentIndex(offered.index(run.held))
        self.held.setVisible(len(offered) > 1)
        self.held.setEnabled(not run.running)
        said = verdict(whole, tolerance)
        self.title.setText(f"{axis.name}: {said.words}")
        claim = comeback_claim(self._session.machine, self.slot)
        self.mark.show_claim(self._session.machine, claim, self._session.proofs)
        told = f"{figures(whole, axis)}. {sentence(whole, axis, tolerance)}" if whole is not None else ""
        self.words.setText(told)
        self.words.setVisible(bool(told))
        self.tolerance.show_length(axis.reads, self._tolerance)
        self.beforehand.setVisible(whole is None)
        there = place(axis)
        least = axis.reads.length(can_prove(run.instrument(self.slot)), 3)
        proves = (
            f"By the encoder they tell ± {least} of the motor, and prove nothing of what hangs on it."
            if run.held == ENCODER
            else f"With the {dial.dial.words(dial.reads)} they can prove ± {least}."
        )
        self.beforehand.setText(
            f"{4 * ROUNDS} arrivals at one place, from near and far, slowly and fast. {proves} It goes "
            f"{axis.reads.length(there[1], 0)} away: nothing may be in its way."
            if there is not None
            else f"{axis.name} has too little travel between its soft limits. Set them at Travel first."
        )
        self.drop.setVisible(bool(arrivals) and not run.running)
        self.show_readings(run.readings(self.slot))
        self.go.setText("Go on" if run.goes_on(self.slot) else "Come back")
        self.go.setEnabled(not run.running)
        self.laid_anew.emit()
