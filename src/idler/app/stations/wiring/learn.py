"""Learn: touch a switch, and Idler sees which input it is and how its contact rests; the role is one click."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from idler.core.learning import QUIET, Learner, Touch
from idler.core.machine import Address
from idler.core.wiring import Duty, given_duty, inputs, missing, offered
from idler.core.words import capital
from idler.link.trace import Edges
from idler.session.session import Session

from ...bridge import follow
from ...parts import label
from .fields import duty_menu

OFFERED = 4


class LearnPage(QWidget):
    """Runs while it is shown. What was touched stays until it was taken or left alone."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._learner: Learner | None = None
        self._fed = 0
        self._asked: Duty | None = None
        self.touches: list[Touch] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(6)
        self.ask = label("", "title", wrap=True)
        self.seen = label("", "", wrap=True)
        column.addWidget(self.ask)
        column.addWidget(self.seen)
        self._place = QVBoxLayout()
        column.addLayout(self._place)
        self._offers = QWidget()
        self._place.addWidget(self._offers)
        self.buttons: list[QPushButton] = []
        self._missing = label("", "soft", wrap=True)
        column.addStretch(1)
        column.addWidget(label("Still without a wire", "heading"))
        column.addWidget(self._missing)
        self._chatter = label("", "small", wrap=True)
        column.addWidget(self._chatter)
        follow(session.changed, self.refresh)
        self.refresh()

    @property
    def watching(self) -> bool:
        """Whether it knows how every input is at rest: what is touched before that is taken for its rest."""
        return self._learner is not None

    def start(self) -> None:
        self._learner, self._fed, self.touches = None, 0, []
        self._show_touches()

    def _wanted(self) -> Duty | None:
        left = missing(self._session.machine)
        return self._asked if self._asked in left else left[0] if left else None

    def refresh(self) -> None:
        left = missing(self._session.machine)
        wanted = self._wanted()
        if not self._session.machine.inputs:
            self.ask.setText("Connect to the controller first.")
        elif wanted is None:
            self.ask.setText("Everything that is needed is wired. Press any other switch to give it a role.")
        else:
            self.ask.setText(f"Press the {wanted.label} at the machine, for a moment.")
        self._missing.setText(", ".join(duty.label for duty in left) + "." if left else "nothing")

    def feed(self, edges: Edges | None) -> None:
        """The newest edges. Called at the picture's pace while the page is shown."""
        if edges is None or not len(edges.levels):
            return
        if self._learner is None:
            before = edges.times > edges.now - QUIET
            self._learner = Learner(edges.levels.tolist(), edges.now, edges.inputs[before].tolist())
            self._fed = edges.now
            self._show_touches()
            return
        new = edges.times > self._fed
        self._learner.feed(edges.times[new].tolist(), edges.inputs[new].tolist(), edges.closed[new].tolist(), edges.now)
        self._fed = int(edges.times[-1]) if new.any() else self._fed
        names = [inputs(self._session.machine)[slot].name for slot in self._learner.chattering]
        self._chatter.setText(
            f"Changing now, and left aside while it chatters: input {', '.join(names)}." if names else ""
        )
        touched = self._learner.take()
        if touched:
            self.touches = touched
            self._show_touches()

    def _show_touches(self) -> None:
        self._place.removeWidget(self._offers)
        self._offers.deleteLater()
        self._offers = QWidget()
        self._place.addWidget(self._offers)
        column = QVBoxLayout(self._offers)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.buttons = []
        machine = self._session.machine
        if not self.touches:
            words = "Watching every input…" if self.watching else "Looking at every input first: touch nothing yet."
            self.seen.setText(words)
            return
        if len(self.touches) > 1:
            names = " and ".join(inputs(machine)[touch.input].name for touch in self.touches)
            self.seen.setText(f"Inputs {names} changed together. Press one switch alone, or free what they share.")
            return
        touch = self.touches[0]
        item = inputs(machine)[touch.input]
        levels = ("closed", "open") if touch.closed else ("open", "closed")
        role = (
            "" if item.duty == Duty(item.role) and item.role.key == "none" else f" It is the {item.duty.label} so far."
        )
        self.seen.setText(
            f"<b>Input {item.name}</b> went from {levels[0]} to {levels[1]}, so its contact is {levels[0]} at rest.{role}"
        )
        first = [duty for duty in (self._wanted(),) if duty] + [d for d in offered(machine) if d != self._wanted()]
        for place, duty in enumerate(first[:OFFERED]):
            self._offer(column, duty, "main" if place == 0 else "")
        row = QHBoxLayout()
        more = QPushButton("Another role…")
        menu = QMenu(more)
        duty_menu(menu, self._session, self.take, first[:12])
        more.setMenu(menu)
        leave = QPushButton("Leave it")
        leave.clicked.connect(self.start)
        for button in (more, leave):
            row.addWidget(button)
            self.buttons.append(button)
        column.addLayout(row)

    def _offer(self, column: QVBoxLayout, duty: Duty, role: str) -> None:
        rest = "closed" if self.touches[0].closed else "open"
        button = QPushButton(f"{capital(duty.label)}, {rest} at rest")
        button.setProperty("role", role)
        button.clicked.connect(lambda _=False: self.take(duty))
        column.addWidget(button, alignment=Qt.AlignmentFlag.AlignLeft)
        self.buttons.append(button)

    def take(self, duty: Duty) -> None:
        """Gives the input that was touched this duty and its contact at rest, as one step of undo."""
        touch = self.touches[0]
        rest = {Address(touch.input, "input.rest"): "closed" if touch.closed else "open"}
        name = inputs(self._session.machine)[touch.input].name
        self.touches = []
        self._session.set_values({**given_duty(touch.input, duty), **rest}, f"input {name} learnt as {duty.label}")
        self._show_touches()
        self.seen.setText(f"Input {name} is the {duty.label}. Ctrl+Z takes it back.")
