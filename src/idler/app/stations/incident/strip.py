"""The incident strip: over the stage when something stopped the machine, with what happened and the way back."""

from __future__ import annotations

import time

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from idler.core.incident import Incident, Step, steps, title
from idler.session.session import Session
from idler.shelf.incidents import KeptIncident

from ...bridge import follow
from ...widgets.fields import restyle
from ...widgets.machinebutton import MachineButton

SETTLES = 3.0  # s after the message
SEEN_TO_MOVE = 0.2  # mm (°)


class IncidentStrip(QFrame):
    """Steps tick themselves off as they are seen done; the strip stays until it is closed or everything is."""

    laid = Signal()  # it came, went, or has another height
    asked = Signal()  # the last seconds are wanted

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("incident")
        self._session = session
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
        self._seconds_shown = False
        self.record = ""  # the name of the record of what the strip tells
        self._told: Incident | None = None  # the same incident as it came
        self._stood: dict[int, float] = {}  # where axes stood since
        self._moved = False
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
        self._led = False  # whether a trial of the stop says what is next
        self._begun = False  # the state that the message speaks of has been seen
        self._settled = 0.0  # from then on it need not be seen any more: it has come and gone
        self.labels: list[QLabel] = []
        self.power_button = MachineButton(session, "Power drives")
        self.power_button.clicked.connect(lambda: session.power(True))
        self.power_button.hide()
        follow(session.stopped, self.tell)
        self.hide()

    @property
    def words(self) -> str:
        return " ".join([self._title.text(), *(made.text() for made in self.labels)]) if self.isVisible() else ""

    def tell(self, incident: Incident) -> None:
        self._incident = self._told = incident
        self.record, self._moved = "", False
        self._stood = {slot: axis.position for slot, axis in enumerate(self._session.heard_axes) if not axis.moving}
        self._title.setText(title(self._session.machine, incident))
        self._when.setText(time.strftime("at %H:%M:%S"))
        self.setProperty("kind", "fault" if incident.stops_axes else "warn")
        restyle(self, deep=True)
        self._shown, self._begun = [], False
        self._settled = time.monotonic() + SETTLES
        self._offer()
        self.show()
        self.raise_()
        self.show_motion()

    def offer_seconds(self, kept: KeptIncident, name: str) -> None:
        """A record has come: where it is that of what the strip tells, it can be looked at."""
        if self._told is not None and kept.incident == self._told:
            self.record = name
            self._offer()
            self.laid.emit()

    def show_seconds(self, shown: bool) -> None:
        """Whether the last seconds are on the stage: then they need not be asked for."""
        self._seconds_shown = shown
        self._offer()

    def _offer(self) -> None:
        self.seconds_button.setVisible(bool(self.record) and not self._seconds_shown)

    def _note_moves(self) -> None:
        """Whether the axis of the incident was seen to move freely since: it came to rest elsewhere."""
        axes, slot = self._session.heard_axes, self._incident.axis if self._incident is not None else None
        if slot is None or slot >= len(axes) or self._moved or axes[slot].moving:
            return
        if not axes[slot].state.powered:  # pushed by hand as it is freed: that is not its own move
            self._stood[slot] = axes[slot].position
            return
        stood = self._stood.setdefault(slot, axes[slot].position)
        self._moved = abs(axes[slot].position - stood) > SEEN_TO_MOVE

    def show_motion(self) -> None:
        """Called at the picture's pace."""
        if self._incident is None:
            return
        axes = self._session.heard_axes
        unhomed = [name for name, axis in zip(self._session.machine.names, axes, strict=False) if not axis.homed]
        self._incident = self._incident.seen(unhomed)
        conditions, made = self._session.panel.conditions, any(axis.limit_made or axis.unwatched for axis in axes)
        self._note_moves()
        found = steps(
            self._incident,
            conditions,
            powered=self._session.powered,
            unhomed=unhomed,
            limit_made=made,
            moved=self._moved,
        )
        left = not all(step.done for step in found)
        self._begun = self._begun or left
        if found != self._shown or self._led != self._session.led:
            self._draw(found)
        if not left and (self._begun or time.monotonic() > self._settled):
            self.finish()

    def _draw(self, found: list[Step]) -> None:
        self._shown, self._led = found, self._session.led
        for made in self.labels:
            made.deleteLater()
        self.labels = []
        while self._row.takeAt(0) is not None:
            pass
        for number, step in enumerate(found, start=1):
            made = QLabel(f"{'✓' if step.done else number}  {step.words}")
            made.setProperty("done", step.done)
            self._row.addWidget(made)
            made.setVisible(not self._led)  # in its place: shown before, it would be a window of its own
            self.labels.append(made)
            if step.action == "power":
                due = not step.done and all(s.done for s in found[: number - 1])
                self._row.addWidget(self.power_button)
                self.power_button.setVisible(due and not self._led)
        self._row.addStretch(1)
        self.laid.emit()

    def finish(self) -> None:
        self._incident = self._told = None
        self.record = ""
        self._offer()
        self.hide()
        self.laid.emit()
