"""The right angle of two axes by a square and a dial: laid, turned over, and what is to be moved by how much."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from PySide6.QtWidgets import QComboBox, QVBoxLayout

from idler.core.geometry.blade import LEAST, MOST, can_prove
from idler.core.machine import Axis
from idler.core.proof.claims import square_pairs
from idler.procedures.geometry.blade import BladeRun
from idler.procedures.questions import Question
from idler.procedures.safe import count_of
from idler.session.session import Session

from ...pictures.laidsquare import BladeScene, LaidSquarePicture
from ...widgets.cards import tall
from ...widgets.lengthedit import LengthEdit
from .anglepage import AnglePage


class BladePage(AnglePage):
    picture: LaidSquarePicture
    procedure: BladeRun

    def __init__(self, session: Session) -> None:
        self._told = False  # whether somebody has said how long the legs are
        super().__init__(session, BladeRun(session), LaidSquarePicture())
        self.drop.setText("Lay it anew")
        self.drop.clicked.connect(self.procedure.drop)

    def own_fields(self, column: QVBoxLayout) -> None:
        self.plane = QComboBox()
        self.plane.setAccessibleName("Axes")
        self.plane.activated.connect(self._choose)
        tall(self.plane)
        column.addWidget(self.plane)
        self.length = LengthEdit(self._session, "length of each leg", low=Fraction(LEAST), high=Fraction(MOST))
        self.length.taken.connect(self._take_length)
        self.field(self.length, "along each leg")

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        return {"do": "read", "over": question.axis, "instrument": question.instrument}

    def choose_axes(self, names: str) -> None:
        """The plane of these letters, unless another is being measured."""
        letters, pairs = self._session.machine.names, square_pairs(self._session.machine)
        for place, pair in enumerate(pairs):
            if "".join(letters[slot] for slot in pair) == names and not self.procedure.running:
                self._choose(place)

    def _choose(self, place: int) -> None:
        self.procedure.choose(square_pairs(self._session.machine)[place])
        self.refresh()

    def _take_length(self, value: Fraction) -> None:
        self.procedure.length, self._told = float(value), True
        self.refresh()

    def show_own(self, first: Axis, second: Axis) -> None:
        run, reads, found = self.procedure, first.reads, self.procedure.found
        if not (self._told or run.running or run.layings):
            run.propose()
        machine, pairs = self._session.machine, square_pairs(self._session.machine)
        names = [" and ".join(machine.names[slot] for slot in pair) for pair in pairs]
        if [self.plane.itemText(k) for k in range(self.plane.count())] != names:
            self.plane.clear()
            self.plane.addItems(names)
        self.plane.setCurrentIndex(pairs.index((first.slot, second.slot)))
        self.plane.setEnabled(not run.running)
        now = (run.leg[0], run.leg[1].name) if run.leg is not None else None
        angle = found.angle if found is not None else None
        self.picture.show_scene(BladeScene(first.name, second.name, dict(run.layings), now, angle, reads, self.turned))
        both = run.by_blade
        if both is not None:
            own = f"{both.own:+.2f} mm per m ± {both.own_expanded:.2f}".replace("-", "\u2212")
            self.words.setText(f"{self.words.text()} The square itself has {own}.")
        self.length.show_length(reads, Fraction(run.length).limit_denominator(1000))
        self.length.setEnabled(not run.running)
        least = can_prove(run.length, run.dial, max(count_of(self._session, axis.slot) for axis in (first, second)))
        self.beforehand.setText(
            f"With the {run.dial.words(reads)} along {reads.length(run.length, 0)} this tells {least:.2f} mm per m from a "
            "right angle. The square's own error drops out when it is turned over. The tool must be clear of it."
        )
        self.drop.setVisible(bool(run.layings) and not run.running)
        self.show_readings(run.readings)
        whole = len(run.layings) != 1
        self.go.setText("Lay the square" if whole else "Go on, turned over" if 0 in run.layings else "Go on")
