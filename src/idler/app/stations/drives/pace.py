"""The page of the pace: speed against acceleration with their ceilings, and the velocity of one move."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from idler.core.controller.standing import Standing
from idler.core.errors import Refusal
from idler.core.machine import Address, Axis
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.pace import Move, Pace
from idler.core.mechanics.torque import Muscle
from idler.core.table.sheets import MOVE, PACE
from idler.core.values.units import figure
from idler.core.words import duration, word
from idler.session.session import Session

from ...pictures.move import MovePicture
from ...pictures.pacemap import Ceiling, PaceMap, PaceScene
from ...widgets.cards import card, figures, label
from ...widgets.lengthedit import LengthEdit
from ...widgets.sheet import Sheet


class PacePage(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slot = 0
        self._length = Fraction(25)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        row.addWidget(self._pace_card(), 1)
        row.addWidget(self._move_card(), 1)

    def _pace_card(self) -> QFrame:
        frame, column = card((12, 3, 10, 3), 1)
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(label("Pace", "title"))
        head.addWidget(label("drag the point, or type", "soft"))
        head.addStretch(1)
        column.addLayout(head)
        self.pace_map = PaceMap()
        self.pace_map.dragged.connect(self._drag)
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.pace_map, 1)
        column.addLayout(row, 1)
        self.pace = Sheet(self._session, PACE, columns=1, width=124)
        self.pace.setFixedWidth(124)
        row.addWidget(self.pace)
        return frame

    def _move_card(self) -> QFrame:
        frame, column = card((12, 3, 10, 3), 1)
        head = QHBoxLayout()
        head.setSpacing(6)
        head.addWidget(label("A move of", "title"))
        self.length = LengthEdit(
            self._session, "length of the move", low=Fraction(1, 100), high=Fraction(100_000), width=76
        )
        self.length.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.length.taken.connect(self._take_length)
        head.addWidget(self.length)
        self._takes = QLabel()
        head.addWidget(self._takes)
        head.addStretch(1)
        column.addLayout(head)
        self._move = MovePicture()
        row = QHBoxLayout()
        row.setSpacing(8)
        left = QVBoxLayout()
        left.setSpacing(2)
        left.addWidget(self._move, 1)
        row.addLayout(left, 1)
        column.addLayout(row, 1)
        grid = QGridLayout()
        grid.setVerticalSpacing(0)
        grid.setColumnStretch(0, 1)
        self._figures: list[QLabel] = []
        for line, name in enumerate(("to top speed", "to a stop", "at top speed")):
            value = figures("")
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label(name, "soft"), line, 0)
            grid.addWidget(value, line, 1)
            self._figures.append(value)
        left.addLayout(grid)
        self.shape = Sheet(self._session, MOVE, columns=1, width=176)
        self.shape.setFixedWidth(176)
        row.addWidget(self.shape)
        return frame

    # -- doing ----------------------------------------------------------------------------------------------------

    def show_axis(self, slot: int) -> None:
        self.slot = slot
        for sheet in (self.pace, self.shape):
            sheet.show_axis(slot)
        self.refresh()

    def _drag(self, speed: float, acceleration: float, last: bool) -> None:
        """While the point moves the draft follows; all of one drag is one step of undo."""
        speed_at, acceleration_at = Address(self.slot, "pace.top_speed"), Address(self.slot, "pace.acceleration")
        values: dict[Address, Fraction] = {
            speed_at: Fraction(speed).limit_denominator(1000),
            acceleration_at: Fraction(acceleration).limit_denominator(1000),
        }
        decelerate = Address(self.slot, "pace.deceleration")
        if self._session.machine[decelerate] == self._session.machine[acceleration_at]:
            values[decelerate] = values[acceleration_at]
        try:
            self._session.drag_values(values, f"pace of {self._session.machine.names[self.slot]}", last=last)
        except Refusal as why:
            self._session.tell("warn", why.sentence)

    def _take_length(self, length: Fraction) -> None:
        self._length = length
        self.refresh()

    def leave(self) -> None:
        """Nothing here goes on by itself."""

    def show_motion(self) -> None:
        """Nothing here moves with the machine."""

    def refresh(self) -> None:
        axis = self._session.machine.axis(self.slot)
        self._refresh_pace(axis)
        self._refresh_move(axis)

    def _before(self) -> Axis | None:
        """The same axis as it is in force, where there is one."""
        old = self._session.in_force
        return old.axis(self.slot) if self.slot < len(old.names) else None

    def _edited(self, *keys: str) -> bool:
        standings = [self._session.standing(Address(self.slot, key)) for key in keys]
        return Standing.EDITED in standings

    def _refresh_pace(self, axis: Axis) -> None:
        machine, chain = self._session.machine, Chain.of(axis)
        before = self._before() or axis
        motor = Ceiling(float(chain.speed_at_rpm(axis.number("pace.motor_speed"))),
                        f"motor at {figure(axis.number('pace.motor_speed'), 0)} rpm", False)  # fmt: skip
        steps = Ceiling(float(chain.speed_at_step_rate(machine.step_rate)),
                        f"{figure(machine.step_rate / 1000, 1, trim=True)} kHz of steps", True)  # fmt: skip
        ceilings = (motor,) if machine.made_of_parts else (steps, motor)
        speed, acceleration = axis.number("pace.top_speed"), axis.number("pace.acceleration")
        if not speed or not acceleration:
            self.pace_map.show_scene(None)
            return
        self.pace_map.show_scene(
            PaceScene(
                float(speed), float(acceleration), float(before.number("pace.top_speed")),
                float(before.number("pace.acceleration")), ceilings, axis.reads,
                self._edited("pace.top_speed", "pace.acceleration"), Muscle.of(axis), self._saving(axis),
            )
        )  # fmt: skip

    def _saving(self, axis: Axis) -> tuple[float, str] | None:
        """What the program in hand would gain if this axis were quicker; it was asked with twice what the axis has now."""
        judged = self._session.program.judged
        found = (
            next((saving for saving in judged.faster if saving.axis == axis.name), None) if judged is not None else None
        )
        if judged is None or found is None or found.acceleration <= float(axis.number("pace.acceleration")):
            return None
        return found.acceleration, f"{judged.path.name} takes {duration(found.seconds)} less"

    def _refresh_move(self, axis: Axis) -> None:
        pace = Pace.of(axis)
        reads = axis.reads
        self.length.show_length(reads, self._length)
        before = self._before()
        old_pace = Pace.of(before) if before is not None else None
        new = pace.move(float(self._length)) if pace else None
        old: Move | None = old_pace.move(float(self._length)) if old_pace and old_pace != pace else None
        self._move.show_moves(new, old, reads)
        if pace is None or new is None:
            self._takes.setText("never ends, for a speed or an acceleration is zero")
            for shown in self._figures:
                shown.setText("—")
            return
        reach = "" if new.reaches_speed else ", never at top speed"
        self._takes.setText(f"takes {new.duration:.3f} s{reach}")
        chain, top = Chain.of(axis), axis.number("pace.top_speed")
        up, down = pace.ramp(pace.acceleration), pace.ramp(pace.deceleration)
        self._figures[0].setText(f"{up[0]:.3f} s, {reads.length(up[1], 2)}")
        self._figures[1].setText(f"{down[0]:.3f} s, {reads.length(down[1], 2)}")
        rpm, rate = chain.motor_rpm(top), chain.step_rate(top) / 1000
        steps = word("counts") if self._session.machine.made_of_parts else word("steps")
        self._figures[2].setText(f"{figure(rpm, 0)} rpm, {figure(rate, 1)} kHz of {steps}")
