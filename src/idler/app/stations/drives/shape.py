"""The page of the shape: what each shape of the velocity costs in time, and what it spares the machine."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtWidgets import QHBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.mechanics.pace import Pace, VelocityShape
from idler.core.words import word
from idler.procedures.drives.shapes import LENGTH, ShapeRun, shaken_by
from idler.session.session import Session

from ...bridge import follow
from ...pictures.shapes import ShapeScene, ShapesPicture
from ...widgets.cards import card, label, tall
from ...widgets.fields import Field, field_for
from ...widgets.machinebutton import MachineButton


class ShapePage(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slot = 0
        self.run = ShapeRun(session)
        follow(self.run.ended, lambda _: self.refresh(), self)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        frame, column = card((10, 6, 10, 6), 4)
        self.picture = ShapesPicture()
        self.picture.chosen.connect(self._choose)
        column.addWidget(self.picture, 1)
        row.addWidget(frame, 1)
        side, column = card((12, 6, 12, 8), 4)
        side.setFixedWidth(206)
        self._fields: list[Field] = []
        for key, words in (("pace.jerk", word("jerk")), ("frame.rings", "the frame rings at")):
            field = field_for(session, Address(0, key), width=176, label=words)
            column.addWidget(field)
            self._fields.append(field)
        self._words = label("", "small", wrap=True)
        column.addWidget(self._words)
        column.addStretch(1)
        self.run_button = MachineButton(session, "Run one and look")
        tall(self.run_button)
        self.run_button.setToolTip(
            "One move at the pace that is in force; the bench's gauge tells how much shaking is left."
        )
        self.run_button.clicked.connect(self._run)
        column.addWidget(self.run_button)
        row.addWidget(side)

    def show_axis(self, slot: int) -> None:
        self.slot = slot
        for field in self._fields:
            field.set_axis(slot)
        self.refresh()

    def leave(self) -> None:
        """A move that nobody looks at says nothing."""
        self.run.stop("")

    def _choose(self, shape: str) -> None:
        self._session.set_values({Address(self.slot, "pace.shape"): shape})

    def _run(self) -> None:
        if why := self.run.look_at(self.slot):
            self._session.refuse("Nothing was moved.", why)

    def show_motion(self) -> None:
        """The run has a clock of its own."""

    def refresh(self) -> None:
        machine = self._session.machine
        if self.slot >= len(machine.names):
            return
        axis = machine.axis(self.slot)
        rings = float(axis.number("frame.rings"))
        pace = Pace.of(axis)
        scenes: list[ShapeScene] = []
        for choice in Address(self.slot, "pace.shape").row.choices:
            shape = VelocityShape(choice.key)
            if pace is None or (shape is not VelocityShape.CONSTANT and not axis.number("pace.jerk")):
                continue
            move = replace(pace, shape=shape, jerk=float(axis.number("pace.jerk"))).move(LENGTH)
            shaking = move.shaking(rings) if rings else None
            scenes.append(
                ShapeScene(
                    shape, choice.label, move, shaking, self.run.seen.get(shaken_by(machine, self.slot, choice.key))
                )
            )
        chosen = next((k for k, scene in enumerate(scenes) if scene.shape.value == axis.choice("pace.shape")), 0)
        reads = axis.reads
        self.picture.show_scenes(tuple(scenes), chosen, reads)
        told = "" if rings else " Type how fast the frame rings, and the shaking is worked out."
        self._words.setText(f"A move of {reads.length(LENGTH, trim=True)} at this pace.{told}")
        self.run_button.setVisible(self._session.bench_hands is not None)
