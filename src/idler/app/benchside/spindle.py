"""What a hand does to the rig's spindle: turns it, lays the belt, holds a tachometer to it, trips its drive."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ..widgets.cards import figures, label, tall
from .hands import BenchHands


class SpindleRow(QWidget):
    """Hidden on a rig without a spindle of its own."""

    def __init__(self, hands: BenchHands) -> None:
        super().__init__()
        self._hands = hands
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(label("Spindle", "heading"))
        head.addStretch(1)
        column.addLayout(head)
        grid = QGridLayout()
        grid.setSpacing(4)
        column.addLayout(grid)
        self.turn = QPushButton("One turn by hand")
        self.turn.setToolTip("One turn to the right.")
        self.turn.clicked.connect(lambda: self._do(do="spin", turns=1.0))
        self.belt = QComboBox()
        self.belt.setAccessibleName("Where the belt lies")
        self.belt.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.belt.activated.connect(lambda place: self._do(do="belt", place=place + 1))
        self.trip = QPushButton("Trip its drive")
        self.trip.setCheckable(True)
        self.trip.clicked.connect(lambda on: self._do(do="trip" if on else "restore"))
        self.tachometer = QPushButton("Tachometer")
        self.tachometer.clicked.connect(lambda: self._do(do="tachometer"))
        self.tachometer.setToolTip("Holds a tachometer to it.")
        for place, widget in enumerate((self.turn, self.tachometer, self.trip, self.belt)):
            tall(widget)
            grid.addWidget(widget, *divmod(place, 2))
        self.reading = figures("")
        head.addWidget(self.reading)

    def show_spindle(self, seen: dict[str, Any]) -> None:
        """What the bench said when it was looked at."""
        self.setVisible(seen["spindles"])
        if self.belt.count() != seen["belts"]:
            self.belt.clear()
            self.belt.addItems([f"belt in groove {place}" for place in range(1, seen["belts"] + 1)])
        self.belt.setVisible(seen["belts"] > 1)
        if not self.belt.hasFocus():
            self.belt.setCurrentIndex(seen["belt"] - 1)
        self.trip.setChecked(seen["tripped"])

    def _do(self, **request: object) -> None:
        def answered(reply: dict[str, Any]) -> None:
            if not reply["ok"]:
                self.reading.setText(reply["error"].removeprefix("Hands: "))
            elif "value" in reply:
                self.reading.setText(f"{reply['value']:.0f} rpm")

        self._hands.ask(answered, **request)
