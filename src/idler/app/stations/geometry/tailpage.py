"""Whether a lathe's tailstock stands in line, by two diameters of a bar that was turned between centres."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from PySide6.QtWidgets import QHBoxLayout

from idler.core.geometry.tailstock import TailstockVerdict, figures, sentence, verdict
from idler.core.machine import Address
from idler.core.proof.claims import tailstock_claim
from idler.core.words import capital
from idler.procedures.geometry.tailstock import AT_BENCH, CENTRES, IN_LINE, TailstockRun
from idler.procedures.questions import Question
from idler.session.session import Session

from ...bridge import follow
from ...pictures.turning import TailPicture, TailScene
from ...widgets.cards import label
from ...widgets.lengthedit import LengthEdit
from ..workbench import Workbench
from .frame import Measuring


class TailPage(Measuring, Workbench):
    picture: TailPicture
    procedure: TailstockRun

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._tolerance = IN_LINE
        self.procedure = TailstockRun(session)
        column = self.lay(self, TailPicture())
        wanted = QHBoxLayout()
        self.tolerance = LengthEdit(
            session, "how far the centre may stand off", low=Fraction(1, 1000), high=Fraction(5)
        )
        self.tolerance.taken.connect(self._take_tolerance)
        wanted.addWidget(label("wanted: within ±", "soft"))
        wanted.addWidget(self.tolerance)
        wanted.addStretch(1)
        column.addLayout(wanted)
        self.beforehand.setText(
            "A bar is turned between centres with one setting of the tool, and its diameter measured at both ends. The further "
            "these are apart, the less the reading of the micrometer counts."
        )
        self.drop.setText("Forget the diameters")
        self.drop.clicked.connect(self.procedure.drop)
        self.go.clicked.connect(lambda: self.begun(self.procedure.measure(float(self._tolerance))))
        for topic in (session.changed, session.proved):
            follow(topic, self.refresh)
        self.refresh()

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        at = AT_BENCH.get(question.key)
        return {"do": "diameter", "at": at, "centres": CENTRES} if at is not None else None

    def _take_tolerance(self, value: Fraction) -> None:
        self._tolerance = value
        self.procedure.settle(float(value))
        self.refresh()

    def refresh(self) -> None:
        run, reads, tolerance = self.procedure, self.procedure.reads, float(self._tolerance)
        lathe = self._session.machine[Address(None, "build.kind")] == "lathe"
        self.setEnabled(lathe)
        if not lathe:
            self.title.setText("This machine is no lathe: it has no tailstock.")
            return
        found, said = run.found, verdict(run.found, tolerance)
        head, tail = (run.answers.get(f"tailstock.{end}") for end in ("head", "tail"))
        self.picture.show_scene(TailScene(head, tail, found, said is TailstockVerdict.OFF, reads))
        self.title.setText(f"Tailstock: {said.words}")
        self.mark.show_claim(self._session.machine, tailstock_claim(self._session.machine), self._session.proofs)
        told = f"{capital(figures(found, reads))}. {sentence(found, reads, tolerance)}" if found is not None else ""
        self.words.setText(told)
        self.words.setVisible(bool(told))
        self.tolerance.show_length(reads, self._tolerance)
        self.beforehand.setVisible(found is None)
        self.drop.setVisible(bool(run.answers) and not run.running)
        self.show_readings(run.readings)
        self.go.setEnabled(not run.running)
        self.go.setText("Go on" if run.answers and found is None else "Measure the bar")
        self.laid_anew.emit()
