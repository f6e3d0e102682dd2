"""A hand device that is none, beside the machine: a wheel, a stick, a dead man and buttons, plugged in and pulled out."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDial, QGridLayout, QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from idler.core.hand.assignment import Control, Sort
from idler.link.hand.simulated import WAY, SimulatedHand

from ..widgets.cards import label, tall

NAME = "Hand device of the bench"
WHEEL, STICK = Control(Sort.WHEEL, 8), Control(Sort.STICK, 0)  # REL_WHEEL and ABS_X of linux/input.h
BUTTONS = {"hold": 288, "1": 289, "2": 290, "3": 291}  # from BTN_TRIGGER on
NOTCHES = 20  # detents of a turn of the wheel
DIAL = 64  # pixels


class PendantRow(QWidget):
    """The first button stays pressed until it is pressed again: a mouse has one finger, and a dead man wants another."""

    def __init__(self) -> None:
        super().__init__()
        self.made: SimulatedHand | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(label("Hand device", "heading"))
        head.addStretch(1)
        self.plug = QPushButton("Plug one in")
        self.plug.clicked.connect(self._plug)
        tall(self.plug)
        head.addWidget(self.plug)
        column.addLayout(head)
        self._body = QWidget()
        column.addWidget(self._body)
        grid = QGridLayout(self._body)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        self.wheel = QDial()
        self.wheel.setWrapping(True)
        self.wheel.setNotchesVisible(True)
        self.wheel.setRange(0, NOTCHES - 1)
        self.wheel.setFixedSize(DIAL, DIAL)
        self.wheel.setAccessibleName("Wheel of the hand device")
        self.wheel.valueChanged.connect(self._turned)
        self._stood = 0
        self.stick = QSlider(Qt.Orientation.Horizontal)
        self.stick.setRange(-WAY, WAY)
        self.stick.setAccessibleName("Stick of the hand device, which springs back")
        self.stick.valueChanged.connect(lambda value: self._say(STICK, value / WAY))
        self.stick.sliderReleased.connect(lambda: self.stick.setValue(0))
        grid.addWidget(self.wheel, 0, 0, 2, 1)
        grid.addWidget(self.stick, 0, 1, 1, len(BUTTONS))
        self.buttons: dict[str, QPushButton] = {}
        for place, (name, code) in enumerate(BUTTONS.items()):
            self.buttons[name] = button = QPushButton(name)
            control = Control(Sort.BUTTON, code)
            if not place:
                button.setCheckable(True)
                button.toggled.connect(lambda on, control=control: self._say(control, float(on)))
            else:
                button.pressed.connect(lambda control=control: self._say(control, 1.0))
                button.released.connect(lambda control=control: self._say(control, 0.0))
            button.setProperty("role", "touch")
            button.setAccessibleName(f"Button {name} of the hand device")
            tall(button)
            grid.addWidget(button, 1, 1 + place)
        self.buttons["hold"].setToolTip("Stays pressed until it is pressed again.")
        self._body.hide()

    def pull_out(self) -> None:
        if self.made is not None:
            self.made.close()
            self.made = None
        self._show()

    def _plug(self) -> None:
        if self.made is not None:
            self.pull_out()
            return
        self.buttons["hold"].setChecked(False)
        self.made = SimulatedHand(NAME)
        self._show()

    def _show(self) -> None:
        self._body.setVisible(self.made is not None)
        self.plug.setText("Plug one in" if self.made is None else "Pull it out")

    def _turned(self, value: int) -> None:
        """By the shorter way round."""
        by = (value - self._stood + NOTCHES // 2) % NOTCHES - NOTCHES // 2
        self._stood = value
        if by:
            self._say(WHEEL, by)

    def _say(self, control: Control, value: float) -> None:
        if self.made is not None:
            self.made.say(control, value)
