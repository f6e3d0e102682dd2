"""Signals: the lines to the drives, drawn on one time axis, with the values that shape them."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.table.sheets import SIGNALS
from idler.core.values.parameter import Value
from idler.core.wiring.signals import POWERINGS, REVERSALS, SignalsVerdict
from idler.procedures.wiring.signals import SignalsRun
from idler.session.session import Session

from ...bridge import follow
from ...pictures.signals import SignalPicture, SignalScene
from ...widgets.cards import label
from ...widgets.edits import edit_words
from ...widgets.machinebutton import MachineButton
from ...widgets.sheet import Sheet

WIDTH = 154


class SignalsPage(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(6)
        self.picture = SignalPicture()
        column.addWidget(self.picture, 1)
        column.addWidget(Sheet(session, SIGNALS, width=WIDTH))
        column.addWidget(
            label("The direction of each axis is turned at its drive, at the Drives station.", "small", wrap=True)
        )
        self.run = SignalsRun(session)
        follow(self.run.changed, self.refresh)
        follow(self.run.judged, self._judged)
        self._edit: dict[Address, Value] = {}
        row = QHBoxLayout()
        self.axis = QComboBox()
        self.axis.setAccessibleName("Axis to try the signals with")
        self.begin, self.mend = MachineButton(session, "Try the signals"), QPushButton()
        self.begin.setToolTip(
            f"{REVERSALS} reversals and {POWERINGS} powerings between touches of the home switch: what is lost shows."
        )
        self.mend.setProperty("role", "main")
        self.begin.clicked.connect(self._begin)
        self.mend.clicked.connect(lambda: session.set_values(self._edit))
        for widget in (self.axis, self.begin, self.mend):
            row.addWidget(widget)
        row.addStretch(1)
        column.addLayout(row)
        self.words = label("", "small", wrap=True)
        column.addWidget(self.words)
        follow(session.changed, self.refresh)
        self.refresh()

    def _begin(self) -> None:
        self._edit = {}
        if why := self.run.begin_with(max(0, self.axis.currentIndex())):
            self._session.refuse("Nothing was tried.", why)

    def _judged(self, verdict: SignalsVerdict) -> None:
        self._edit = verdict.edit
        self.refresh()

    def leave(self) -> None:
        if self.run.running:
            self._session.stop()

    def refresh(self) -> None:
        machine = self._session.machine
        delay, setup, width = (
            machine.show(Address(None, f"signals.{name}")) for name in ("power_delay", "direction_setup", "pulse_width")
        )
        enable, step = (bool(machine[Address(None, f"signals.{name}_inverted")]) for name in ("enable", "step"))
        self.picture.show_scene(SignalScene(delay, setup, width, enable, step))
        names = list(machine.names)
        if [self.axis.itemText(place) for place in range(self.axis.count())] != names:
            self.axis.clear()
            self.axis.addItems(names)
        self.begin.setEnabled(not self.run.running)
        self.words.setText(self.run.words)
        self.words.setVisible(bool(self.run.words))
        left = {a: v for a, v in self._edit.items() if machine[a] != v}
        self.mend.setVisible(bool(left))
        if left:
            self.mend.setText(edit_words(machine, left))
