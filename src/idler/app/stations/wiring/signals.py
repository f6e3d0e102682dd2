"""Signals: the lines to the drives, drawn on one time axis, with the values that shape them."""

from __future__ import annotations

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.table import MACHINE

from ...desk import Desk
from ...fields import field_for
from ...parts import label
from ...pictures.signals import SignalPicture, SignalScene

WIDTH = 154


class SignalsPage(QWidget):
    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(6)
        self.picture = SignalPicture()
        column.addWidget(self.picture, 1)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        for place, row in enumerate(row for row in MACHINE.values() if row.group == "signals"):
            short = row.label.replace(" line", "")
            field = field_for(desk, Address(None, row.key), width=WIDTH, label=short)
            field.setFixedWidth(WIDTH)
            grid.addWidget(field, place // 2, place % 2)
        column.addLayout(grid)
        column.addWidget(
            label("The direction of each axis is turned at its drive, at the Drives station.", "small", wrap=True)
        )
        desk.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        machine = self._desk.machine
        delay, setup, width = (
            machine.show(Address(None, f"signals.{name}")) for name in ("power_delay", "direction_setup", "pulse_width")
        )
        enable, step = (bool(machine[Address(None, f"signals.{name}_inverted")]) for name in ("enable", "step"))
        self.picture.show_scene(SignalScene(delay, setup, width, enable, step))
