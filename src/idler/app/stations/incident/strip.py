"""The incident strip: over the stage when something stopped the machine, with what happened and the way back."""

from __future__ import annotations

import time

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from idler.core.incident import Incident, Step, steps, title

from ...desk import Desk
from ...fields import restyle

SETTLES = 3.0  # s after the message


class IncidentStrip(QFrame):
    """Steps tick themselves off as they are seen done; the strip stays until it is closed or everything is."""

    laid = Signal()  # it came, went, or has another height
    asked = Signal()  # the last seconds are wanted

    def __init__(self, desk: Desk) -> None:
        super().__init__(objectName="incident")
        self._desk = desk
        self._incident: Incident | None = None
        self._title = QLabel()
        self._title.setProperty("role", "title")
        self._title.setWordWrap(True)
        self._when = QLabel()
        self.close_button = QPushButton("Close")
        self.close_button.clicked.connect(self.finish)
        top = QHBoxLayout()
        top.addWidget(self._title, 1)
        top.addWidget(self._when)
        self.seconds_button = QPushButton("The last seconds")
        self.seconds_button.clicked.connect(self.asked)
        self.seconds_button.hide()
        self._recorded = self._seconds_shown = False
        top.addWidget(self.seconds_button)
        top.addWidget(self.close_button)
        self._row = QHBoxLayout()
        self._row.setSpacing(18)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 8, 10, 10)
        column.setSpacing(6)
        column.addLayout(top)
        column.addLayout(self._row)
        self._shown: list[Step] = []
        self._begun = False  # the state that the message speaks of has been seen
        self._settled = 0.0  # from then on it need not be seen any more: it has come and gone
        self.labels: list[QLabel] = []
        self.power_button = QPushButton("Power drives")
        self.power_button.clicked.connect(lambda: desk.power(True))
        self.power_button.hide()
        desk.stopped.connect(self.tell)
        self.hide()

    @property
    def words(self) -> str:
        return " ".join([self._title.text(), *(made.text() for made in self.labels)]) if self.isVisible() else ""

    def tell(self, incident: Incident) -> None:
        self._incident = incident
        self._title.setText(title(self._desk.machine, incident))
        self._when.setText(time.strftime("at %H:%M:%S"))
        self.setProperty("kind", "fault" if incident.stops_axes else "warn")
        restyle(self, deep=True)
        self._shown, self._begun = [], False
        self._settled = time.monotonic() + SETTLES
        self._offer(False)
        self.show()
        self.raise_()
        self.show_motion()

    def offer_seconds(self) -> None:
        """The flight record has come."""
        self._offer(True)
        self.laid.emit()

    def show_seconds(self, shown: bool) -> None:
        """Whether the last seconds are on the stage: then they need not be asked for."""
        self._seconds_shown = shown
        self._offer(self._recorded)

    def _offer(self, recorded: bool) -> None:
        self._recorded = recorded
        self.seconds_button.setVisible(recorded and not self._seconds_shown)

    def show_motion(self) -> None:
        """Called at the picture's pace."""
        if self._incident is None:
            return
        axes = self._desk.link.axes
        unhomed = [name for name, axis in zip(self._desk.machine.names, axes, strict=False) if not axis.homed]
        self._incident = self._incident.seen(unhomed)
        conditions, made = self._desk.link.panel.conditions, any(axis.limit_made for axis in axes)
        found = steps(self._incident, conditions, powered=self._desk.powered, unhomed=unhomed, limit_made=made)
        left = not all(step.done for step in found)
        self._begun = self._begun or left
        if found != self._shown:
            self._draw(found)
        if not left and (self._begun or time.monotonic() > self._settled):
            self.finish()

    def _draw(self, found: list[Step]) -> None:
        self._shown = found
        for made in self.labels:
            made.deleteLater()
        self.labels = []
        while self._row.takeAt(0) is not None:
            pass
        for number, step in enumerate(found, start=1):
            made = QLabel(f"{'✓' if step.done else number}  {step.words}")
            made.setProperty("done", step.done)
            self._row.addWidget(made)
            self.labels.append(made)
            if step.action == "power":
                self.power_button.setVisible(not step.done and all(s.done for s in found[: number - 1]))
                self._row.addWidget(self.power_button)
        self._row.addStretch(1)
        self.laid.emit()

    def finish(self) -> None:
        self._incident = None
        self._offer(False)
        self.hide()
        self.laid.emit()
