"""The right angle of X and Y: a rectangle of marks, both diagonals, and what is to be moved by how much."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from typing import Any

from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QVBoxLayout

from idler.core.errors import IdlerError, Refusal
from idler.core.geometry.square import SquareVerdict, beam_of, can_prove, figures, refusal, verdict
from idler.core.proof.claims import square_claim
from idler.core.values.measures import Measures
from idler.procedures.angle import read_per_metre, usual_tolerance
from idler.procedures.questions import Question
from idler.procedures.square import LENGTHS, TIMES, SquareRun
from idler.session.session import Session

from ...bridge import follow
from ...pictures.quadrilateral import QuadrilateralPicture, SquareScene
from ...widgets.cards import label
from ...widgets.lengthedit import LengthEdit
from ..workbench import Workbench
from .frame import Measuring

FURTHEST = Fraction(10_000)
MARKS = {"square.rising": ["1", "3"], "square.falling": ["2", "4"]}


class SquarePage(Measuring, Workbench):
    picture: QuadrilateralPicture
    procedure: SquareRun

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.procedure = SquareRun(session)
        self.procedure.propose()
        self._tolerance = usual_tolerance(session.machine)
        column = self.lay(self, QuadrilateralPicture())
        self._fields(column)
        for topic in (session.changed, session.held, session.proved):
            follow(topic, self.refresh)
        self.refresh()

    def _fields(self, column: QVBoxLayout) -> None:
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(0, 1)
        self.instrument = QComboBox()
        self.instrument.setAccessibleName("Instrument")
        self.instrument.activated.connect(self._choose)
        self.width_edit = LengthEdit(self._session, "side along the first axis", low=Fraction(1), high=FURTHEST)
        self.height_edit = LengthEdit(self._session, "side along the second axis", low=Fraction(1), high=FURTHEST)
        self.across = LengthEdit(self._session, "second side of the beam", low=Fraction(1), high=FURTHEST, signed=True)
        self.tolerance = QLineEdit()
        self.tolerance.setAccessibleName("Tolerance wanted, mm per m")
        self.tolerance.setFixedWidth(84)
        self.width_edit.taken.connect(lambda value: self._resize(width=float(value)))
        self.height_edit.taken.connect(lambda value: self._resize(height=float(value)))
        self.across.taken.connect(self._take_across)
        self.tolerance.editingFinished.connect(self._take_tolerance)
        self._names = [label("", "soft") for _ in range(4)]
        grid.addWidget(self.instrument, 0, 0, 1, 2)
        editors = (self.width_edit, self.height_edit, self.tolerance, self.across)
        for line, (name, editor) in enumerate(zip(self._names, editors, strict=True), start=1):
            grid.addWidget(name, line, 0)
            grid.addWidget(editor, line, 1)
        column.addLayout(grid)
        self.accept.clicked.connect(self._accept)
        self.drop.setText("Read again")
        self.drop.clicked.connect(self.procedure.drop)
        self.go.clicked.connect(lambda: self.begun(self.procedure.measure(self._tolerance)))

    # -- doing ----------------------------------------------------------------------------------------------------

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        marks = MARKS.get(question.key)
        return {"do": "between", "marks": marks, "instrument": question.instrument} if marks else None

    def _choose(self, place: int) -> None:
        self.procedure.take(LENGTHS[place])
        self.refresh()

    def _resize(self, **sides: float) -> None:
        if self.procedure.rectangle is not None:
            self.procedure.rectangle = replace(self.procedure.rectangle, **sides)
        self.refresh()

    def _take_across(self, value: Fraction) -> None:
        self.procedure.across = float(value)
        self.refresh()

    def _take_tolerance(self) -> None:
        try:
            self._tolerance = read_per_metre(self.tolerance.text())
        except Refusal as why:
            self._session.tell("warn", why.sentence)
        self.refresh()

    def _accept(self) -> None:
        try:
            self._session.set_values(self.procedure.corrected(), "squaring offset")
        except IdlerError as why:
            self._session.tell("warn", why.sentence)

    # -- showing --------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        run, pair, machine = self.procedure, self.procedure.pair, self._session.machine
        self.setEnabled(pair is not None)
        if pair is None:
            self.title.setText("This machine has no bed with an X and a Y along it.")
            return
        if run.rectangle is None and not run.running:
            run.propose()
        first, second = (machine.axis(slot) for slot in pair)
        reads, found = first.reads, run.found
        place = run.marked if run.running or found is not None else run.rectangle
        self.picture.show_scene(
            SquareScene(
                first.name, second.name, place, run.corner if place == run.marked else 0,
                _mean(run.rising), _mean(run.falling), found.angle if found is not None else None, reads,
                run.further if verdict(found, self._tolerance) is SquareVerdict.OFF else None, run.across or 0.0,
            )
        )  # fmt: skip
        said = verdict(found, self._tolerance)
        self.title.setText(f"{first.name} and {second.name}: {said.words}")
        self.mark.show_claim(machine, square_claim(machine, *pair), self._session.proofs)
        self.words.setText(f"{figures(found)}. {run.said(self._tolerance)}" if found is not None else "")
        self._show_fields(reads, first.name, second.name)
        edit = run.corrected() if said.key == "off" else {}
        self.accept.setVisible(bool(edit))
        for value in edit.values():
            self.accept.setText(f"Set squaring offset: {reads.length(value, 3)}")  # type: ignore[arg-type]
        self.beforehand.setVisible(found is None)
        self.laid_anew.emit()
        self.drop.setVisible(bool(run.rising) and not run.running)
        self.go.setEnabled(not run.running)
        self.go.setText("Go on" if 0 < run.corner < 4 or (run.corner == 4 and not run.falling) else "Go to the corners")

    def _show_fields(self, reads: Measures, first: str, second: str) -> None:
        run, pair = self.procedure, self.procedure.pair
        assert pair is not None
        machine = self._session.machine
        beam, place = beam_of(machine, *pair), run.rectangle
        words = [item.words(reads) for item in LENGTHS]
        if [self.instrument.itemText(k) for k in range(self.instrument.count())] != words:
            self.instrument.clear()
            self.instrument.addItems(words)
        self.instrument.setCurrentIndex(LENGTHS.index(run.instrument))
        for editor in (self.instrument, self.width_edit, self.height_edit):
            editor.setEnabled(not run.running)
        other = second if beam == pair[0] else first
        names = (
            f"side along {first}",
            f"side along {second}",
            "wanted, mm per m",
            f"second side, along {other}",
        )
        for shown, name in zip(self._names, names, strict=True):
            shown.setText(name)
        self.tolerance.setText(f"{self._tolerance:g}")
        for widget in (self._names[3], self.across):
            widget.setVisible(beam is not None)
        self.across.show_length(reads, Fraction(run.across or 0).limit_denominator(1000))
        if place is None:
            self.beforehand.setText(
                "There is no rectangle that both travels have room for. Set the ends at Travel first."
            )
            return
        for editor, side in ((self.width_edit, place.width), (self.height_edit, place.height)):
            editor.show_length(reads, Fraction(side).limit_denominator(1000))
        axes = [machine.axis(slot) for slot in pair]
        least = can_prove(place, run.instrument, TIMES)
        self.beforehand.setText(
            refusal(place, axes[0], axes[1], run.instrument)
            or f"With the {run.instrument.words(reads)} over {reads.length(place.diagonal, 0)} this tells {least:.2f} mm per m "
            "from a right angle. Raise the tool clear of the bed first."
        )


def _mean(values: list[float]) -> float | None:
    return sum(values) / len(values) if values else None
