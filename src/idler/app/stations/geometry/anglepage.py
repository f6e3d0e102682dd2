"""What both pages of the right angle share: what is wanted, the second side of a beam, and the offset that a press takes."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtWidgets import QGridLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from idler.core.errors import IdlerError, Refusal
from idler.core.geometry.spanner import Turn
from idler.core.geometry.square import SquareVerdict, figures, verdict
from idler.core.machine import Axis
from idler.core.proof.claims import square_claim
from idler.procedures.geometry.angle import FURTHEST, AngleRun, read_per_metre, usual_tolerance
from idler.session.session import Session

from ...bridge import follow
from ...pictures.picture import Picture
from ...widgets.cards import label
from ...widgets.lengthedit import LengthEdit
from ..workbench import Workbench
from .frame import Measuring


class AnglePage(Measuring, Workbench):
    procedure: AngleRun

    def __init__(self, session: Session, procedure: AngleRun, picture: Picture) -> None:
        super().__init__()
        self._session, self.procedure = session, procedure
        self._tolerance = usual_tolerance(session.machine)
        column = self.lay(self, picture)
        self._grid = QGridLayout()
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(0, 1)
        self.own_fields(column)
        self.tolerance = QLineEdit()
        self.tolerance.setAccessibleName("Tolerance wanted, mm per m")
        self.tolerance.setFixedWidth(84)
        self.tolerance.editingFinished.connect(self._take_tolerance)
        self.across = LengthEdit(session, "second side of the beam", low=Fraction(1), high=FURTHEST, signed=True)
        self.across.taken.connect(self._take_across)
        self.field(self.tolerance, "wanted, mm per m")
        self._across_name = self.field(self.across, "")
        column.addLayout(self._grid)
        self.accept.clicked.connect(self._accept)
        self.go.clicked.connect(lambda: self.begun(self.procedure.measure(self._tolerance)))
        for topic in (session.changed, session.held, session.proved):
            follow(topic, self.refresh)
        self.refresh()

    def own_fields(self, column: QVBoxLayout) -> None:
        """The fields that only this page has."""

    def show_own(self, first: Axis, second: Axis) -> None:
        """The picture, and the fields that only this page has."""

    def field(self, editor: QWidget, name: str) -> QLabel:
        """A line of the sheet; its name."""
        line = self._grid.rowCount()
        shown = label(name, "soft")
        self._grid.addWidget(shown, line, 0)
        self._grid.addWidget(editor, line, 1)
        return shown

    def _take_across(self, value: Fraction) -> None:
        self.procedure.across = float(value)
        self.refresh()

    def _take_tolerance(self) -> None:
        try:
            wanted = read_per_metre(self.tolerance.text())
        except Refusal as why:
            self._session.tell("warn", why.sentence)
        else:
            if wanted != self._tolerance:
                self._tolerance = wanted
                self.procedure.settle(wanted)
        self.refresh()

    def _accept(self) -> None:
        try:
            self._session.set_values(self.procedure.corrected(), "squaring offset")
        except IdlerError as why:
            self._session.tell("warn", why.sentence)

    @property
    def asked(self) -> QWidget | None:
        """The edit that was found, or what it lacks: where the second side of the beam stands."""
        lacks = self.across.isVisible() and not self.procedure.across
        off = verdict(self.procedure.found, self._tolerance) is SquareVerdict.OFF
        return self.across if off and lacks else super().asked

    @property
    def further(self) -> float | None:
        """By how much the second side of a beam is to go on, mm, where that is advised."""
        off = verdict(self.procedure.found, self._tolerance) is SquareVerdict.OFF
        return self.procedure.further if off else None

    @property
    def turned(self) -> Turn | None:
        """What a spanner turns, where that is advised."""
        off = verdict(self.procedure.found, self._tolerance) is SquareVerdict.OFF
        return self.procedure.turned if off else None

    def refresh(self) -> None:
        run, pair, machine = self.procedure, self.procedure.pair, self._session.machine
        self.setEnabled(pair is not None)
        if pair is None:
            self.title.setText("This machine has no bed that a driven X and Y span.")
            return
        first, second = (machine.axis(slot) for slot in pair)
        found, said = run.found, verdict(run.found, self._tolerance)
        self.title.setText(f"{first.name} and {second.name}: {said.words}")
        self.mark.show_claim(machine, square_claim(machine, *pair), self._session.proofs)
        self.words.setText(f"{figures(found)}. {run.said(self._tolerance)}" if found is not None else "")
        self.words.setVisible(found is not None)
        self.show_own(first, second)
        self.tolerance.setText(f"{self._tolerance:g}")
        beam = run.beam
        self._across_name.setText(f"second side, along {(second if beam == pair[0] else first).name}")
        for widget in (self._across_name, self.across):
            widget.setVisible(beam is not None)
        self.across.show_length(first.reads, Fraction(run.across or 0).limit_denominator(1000))
        edit = run.corrected() if said is SquareVerdict.OFF else {}
        self.offer(edit, lambda value: f"Set squaring offset: {first.reads.length(value, 3)}")  # type: ignore[arg-type]
        self.beforehand.setVisible(found is None)
        self.go.setEnabled(not run.running)
        self.laid_anew.emit()
