"""The page of the motor: its torque against what it has to move, the play behind it, and how far it may lag."""

from __future__ import annotations

import time

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.mechanics.torque import Muscle
from idler.session.session import Session

from ...pictures.lag import LagPicture
from ...pictures.torque import TorquePicture
from ...widgets.cards import card
from ...widgets.fields import Field, field_for


class MotorPage(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slot = 0
        self._fields: list[Field] = []
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        row.addWidget(self._strength(), 1)
        row.addWidget(self._loop(), 1)

    def _add(self, key: str, width: int, words: str) -> Field:
        field = field_for(self._session, Address(0, key), width=width, label=words)
        self._fields.append(field)
        return field

    def _strength(self) -> QWidget:
        frame, column = card((12, 4, 12, 4), 3)
        self.torque = TorquePicture()
        column.addWidget(self.torque, 1)
        column.addWidget(self._add("motor.torque", 200, "torque curve: rpm, then N·m, with commas between the points"))
        pair = QHBoxLayout()
        pair.addWidget(self._add("motor.inertia", 120, "inertia at the motor"))
        pair.addWidget(self._add("motor.friction", 120, "friction at the motor"))
        column.addLayout(pair)
        return frame

    def _loop(self) -> QWidget:
        frame, column = card((12, 4, 12, 4), 3)
        self.lag = LagPicture()
        column.addWidget(self.lag, 1)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        for place, (key, words) in enumerate((
            ("loop.measured", "position is measured"), ("loop.window", "following error allowed"),
            ("play.backlash", "backlash taken up"), ("loop.window_time", "for longer than"),
        )):  # fmt: skip
            grid.addWidget(self._add(key, 120, words), place // 2, place % 2)
        column.addLayout(grid)
        return frame

    def show_axis(self, slot: int) -> None:
        self.slot = slot
        for field in self._fields:
            field.set_axis(slot)
        self.refresh()
        self._session.watch_lag(*([slot] if self._measured else []))

    @property
    def _measured(self) -> bool:
        """Whether the controller itself has a measured position for this axis."""
        axes = self._session.in_force.axes
        return self._session.connected and self.slot < len(axes) and axes[self.slot].flag("loop.measured")

    def leave(self) -> None:
        self._session.watch_lag()

    def show_motion(self) -> None:
        """The trace follows the machine. Called at the picture's pace."""
        axis = self._session.machine.axis(self.slot)
        words = ""
        if not self._session.connected:
            words = "No controller is connected."
        elif not self._measured:
            words = f"{axis.name} has no measured position in the controller: how far it lags is not known."
        points = list(self._session.lags.get(self.slot, ()))
        self.lag.show_lag(points, float(axis.number("loop.window")), time.monotonic(), axis.reads, words)

    def refresh(self) -> None:
        if self.slot >= len(self._session.machine.names):
            return
        axis = self._session.machine.axis(self.slot)
        speed, rise = float(axis.number("pace.top_speed")), float(axis.number("pace.acceleration"))
        self.torque.show_muscle(Muscle.of(axis), speed, rise)
        if self.isVisible():
            self._session.watch_lag(*([self.slot] if self._measured else []))
        self.show_motion()
