"""The right angle of X and Y: a rectangle of marks, both diagonals, and what is to be moved by how much."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from typing import Any

from PySide6.QtWidgets import QCheckBox, QComboBox, QVBoxLayout

from idler.core.geometry.square import able_for, can_prove, refusal
from idler.core.machine import Axis
from idler.procedures.geometry.angle import FURTHEST
from idler.procedures.geometry.square import LENGTHS, MARKS, TIMES, SquareRun
from idler.procedures.questions import Question
from idler.session.session import Session

from ...pictures.quadrilateral import QuadrilateralPicture, SquareScene
from ...widgets.cards import tall
from ...widgets.lengthedit import LengthEdit
from .anglepage import AnglePage


class SquarePage(AnglePage):
    picture: QuadrilateralPicture
    procedure: SquareRun

    def __init__(self, session: Session) -> None:
        run = SquareRun(session)
        run.propose()
        super().__init__(session, run, QuadrilateralPicture())
        self.drop.setText("Read again")
        self.drop.clicked.connect(run.drop)

    def own_fields(self, column: QVBoxLayout) -> None:
        self.instrument = QComboBox()
        self.instrument.setAccessibleName("Instrument")
        self.instrument.activated.connect(self._choose)
        tall(self.instrument)
        column.addWidget(self.instrument)
        self.width_edit = LengthEdit(self._session, "side along the first axis", low=Fraction(1), high=FURTHEST)
        self.height_edit = LengthEdit(self._session, "side along the second axis", low=Fraction(1), high=FURTHEST)
        self.width_edit.taken.connect(lambda value: self._resize(width=float(value)))
        self.height_edit.taken.connect(lambda value: self._resize(height=float(value)))
        self.with_sides = QCheckBox("measure the sides too")
        self.with_sides.toggled.connect(self._take_sides)
        column.addWidget(self.with_sides)
        self._names = [self.field(editor, "") for editor in (self.width_edit, self.height_edit)]

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        marks = MARKS.get(question.key)
        if marks is None:
            return None
        return {"do": "between", "marks": [str(mark) for mark in marks], "instrument": question.instrument}

    def _choose(self, place: int) -> None:
        self.procedure.take(LENGTHS[place])
        self.refresh()

    def _take_sides(self, on: bool) -> None:
        self.procedure.with_sides = on
        self.refresh()

    def _resize(self, **sides: float) -> None:
        if self.procedure.rectangle is not None:
            self.procedure.rectangle = replace(self.procedure.rectangle, **sides)
        self.refresh()

    def show_own(self, first: Axis, second: Axis) -> None:
        run, reads, found = self.procedure, first.reads, self.procedure.found
        if run.rectangle is None and not run.running:
            run.propose()
        place = run.marked if run.running or found is not None else run.rectangle
        self.picture.show_scene(
            SquareScene(
                first.name, second.name, place, run.corner if place == run.marked else 0,
                _mean(run.rising), _mean(run.falling), found.angle if found is not None else None, reads,
                self.further, run.across or 0.0, self.turned,
            )
        )  # fmt: skip
        words = [item.words(reads) for item in LENGTHS]
        if [self.instrument.itemText(k) for k in range(self.instrument.count())] != words:
            self.instrument.clear()
            self.instrument.addItems(words)
        self.instrument.setCurrentIndex(LENGTHS.index(run.instrument))
        for editor in (self.instrument, self.width_edit, self.height_edit):
            editor.setEnabled(not run.running)
        for shown, axis in zip(self._names, (first, second), strict=True):
            shown.setText(f"side along {axis.name}")
        self.drop.setVisible(bool(run.rising or run.falling) and not run.running)
        self.show_readings(run.readings)
        self.go.setText("Go on" if run.goes_on else "Go to the corners")
        if run.rectangle is None:
            self.beforehand.setText(
                "There is no rectangle that both travels have room for. Set the ends at Travel first."
            )
            return
        for editor, side in ((self.width_edit, run.rectangle.width), (self.height_edit, run.rectangle.height)):
            editor.show_length(reads, Fraction(side).limit_denominator(1000))
        better = able_for(first, second, run.instrument, run.rectangle, LENGTHS, self._tolerance)
        least, diagonal = can_prove(run.rectangle, run.instrument, TIMES), reads.length(run.rectangle.diagonal, 0)
        self.beforehand.setText(
            refusal(run.rectangle, first, second, run.instrument)
            or f"With the {run.instrument.words(reads)} over {diagonal} this tells {least:.2f} mm per m from a right angle. "
            f"{better}{' ' * bool(better)}Raise the tool clear of the bed first."
        )


def _mean(values: list[float]) -> float | None:
    return sum(values) / len(values) if values else None
