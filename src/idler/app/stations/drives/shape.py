"""The page of the shape: what each shape of the velocity costs in time, and what it spares the machine."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.pace import Pace, Shape
from idler.core.parameter import Value
from idler.core.proofs import pace_claim
from idler.session.session import Session

from ...bridge import follow
from ...fields import Field, field_for
from ...machinebutton import MachineButton
from ...parts import card, label
from ...pictures.shapes import ShapeScene, ShapesPicture

LENGTH = 20.0  # mm or °: a move in which the ends matter
READ_AFTER_MS = 150


class ShapePage(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slot = 0
        self._seen: dict[tuple[Value, ...], float] = {}
        self._way = 1.0
        self._running = False
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
        for key, words in (("pace.jerk", "jerk"), ("frame.rings", "the frame rings at")):
            field = field_for(session, Address(0, key), width=176, label=words)
            column.addWidget(field)
            self._fields.append(field)
        self._words = label("", "small", wrap=True)
        column.addWidget(self._words)
        column.addStretch(1)
        self.run_button = MachineButton(session, "Run one and look")
        self.run_button.setMinimumHeight(40)
        self.run_button.setToolTip(
            "One move at the pace that is in force; the bench's gauge tells how much shaking is left."
        )
        self.run_button.clicked.connect(self._run)
        column.addWidget(self.run_button)
        row.addWidget(side)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(READ_AFTER_MS)
        self._pause.timeout.connect(self._read)
        follow(session.halted, self.leave)

    def show_axis(self, slot: int) -> None:
        self.slot = slot
        for field in self._fields:
            field.set_axis(slot)
        self.refresh()

    def leave(self) -> None:
        """A move that was stopped says nothing."""
        self._running = False
        self._session.floor.leave(self)
        self._pause.stop()

    def _choose(self, shape: str) -> None:
        self._session.set_values({Address(self.slot, "pace.shape"): shape})

    def _key(self, shape: str) -> tuple[Value, ...]:
        """What the shaking of a move depends on."""
        values = self._session.machine.axis(self.slot).values
        keys = ("pace.top_speed", "pace.acceleration", "pace.deceleration", "pace.jerk", "frame.rings")
        return (self._session.machine.names[self.slot], shape, *(values[key] for key in keys))

    def _run(self) -> None:
        machine = self._session.machine
        if why := self._session.motion_obstacle(pace_claim(machine, self.slot).rests):
            self._session.tell("warn", f"Nothing was moved. {why}")
            return
        self._running = False
        self._session.link.jog_step(
            self.slot, LENGTH * self._way, float(machine.axis(self.slot).number("pace.top_speed"))
        )
        self._way = -self._way
        self._running = True
        self._session.floor.take(self, "a move that shows the shaking")
        self._pause.stop()

    def show_motion(self) -> None:
        """Reads the gauge once the axis has moved and come to rest. Called at the picture's pace."""
        axes = self._session.axes
        if not self._running or self.slot >= len(axes):
            return
        if axes[self.slot].moving:
            self._pause.stop()
        elif not self._pause.isActive():
            self._pause.start()

    def _read(self) -> None:
        hands, name = self._session.bench_hands, self._session.machine.names[self.slot]
        self._running = False
        self._session.floor.leave(self)
        if hands is None:
            return
        shape = str(self._session.machine.axis(self.slot).choice("pace.shape"))

        def answered(reply: dict[str, Any]) -> None:
            for axis in reply.get("axes", ()):
                if axis["name"] == name:
                    self._seen[self._key(shape)] = float(axis["shaking"])
            self.refresh()

        hands.ask(answered, do="look")

    def refresh(self) -> None:
        machine = self._session.machine
        if self.slot >= len(machine.names):
            return
        axis = machine.axis(self.slot)
        rings = float(axis.number("frame.rings"))
        pace = Pace.of(axis)
        scenes: list[ShapeScene] = []
        for choice in Address(self.slot, "pace.shape").row.choices:
            shape = Shape(choice.key)
            if pace is None or (shape is not Shape.CONSTANT and not axis.number("pace.jerk")):
                continue
            move = replace(pace, shape=shape, jerk=float(axis.number("pace.jerk"))).move(LENGTH)
            shaking = move.shaking(rings) if rings else None
            scenes.append(ShapeScene(shape, choice.label, move, shaking, self._seen.get(self._key(choice.key))))
        chosen = next((k for k, scene in enumerate(scenes) if scene.shape.value == axis.choice("pace.shape")), 0)
        reads = axis.reads
        self.picture.show_scenes(tuple(scenes), chosen, reads)
        told = "" if rings else " Type how fast the frame rings, and the shaking is worked out."
        self._words.setText(f"A move of {reads.length(LENGTH, trim=True)} at this pace.{told}")
        self.run_button.setVisible(self._session.bench_hands is not None)
