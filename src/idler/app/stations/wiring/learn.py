"""Learn: touch a switch, and Idler sees which input it is and how its contact rests; the role is one click."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from idler.core.wiring import Duty, inputs, missing, offered
from idler.core.wiring.learning import Touch
from idler.core.words import capital
from idler.procedures.wiring.learn import LearnRun
from idler.session.session import Session

from ...bridge import follow
from ...widgets.cards import label
from .fields import duty_menu

OFFERED = 4


class LearnPage(QWidget):
    """Runs while it is shown. What was touched stays until it was taken or left alone."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.run = LearnRun(session)
        follow(self.run.changed, self._show_touches)
        follow(session.held, self._look_again)
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
        self._by_keys = False
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
        return self.run.watching

    @property
    def touches(self) -> list[Touch]:
        return self.run.touches

    def start(self) -> None:
        self.run.learn()
        self._show_touches()

    def leave(self) -> None:
        self.run.stop("")

    def _look_again(self) -> None:
        """A link that is back is learnt by anew."""
        if self._session.connected and self.isVisible() and not self.run.running:
            self.start()

    def refresh(self) -> None:
        left = missing(self._session.machine)
        wanted = self.run.wanted
        if not self._session.machine.inputs:
            self.ask.setText("Connect to the controller first.")
        elif wanted is None:
            self.ask.setText("Everything that is needed is wired. Press any other switch to give it a role.")
        else:
            self.ask.setText(f"Press the {wanted.label} at the machine, for a moment.")
        self._missing.setText(", ".join(duty.label for duty in left) + "." if left else "nothing")

    def show_chatter(self) -> None:
        """Called at the picture's pace while the page is shown."""
        names = ", ".join(self.run.chattering)
        words = f"Changing now, and left aside while it chatters: input {names}." if names else ""
        if words != self._chatter.text():
            self._chatter.setText(words)

    def _show_touches(self) -> None:
        within = QApplication.focusWidget()
        if self.buttons and within is not None:  # who took the last offer by keys gets the next one under his finger
            self._by_keys = self._offers.isAncestorOf(within)
        self._place.removeWidget(self._offers)
        self._offers.hide()  # what is offered for a touch that is over is pressed no more
        self._offers.deleteLater()
        self._offers = QWidget()
        self._place.addWidget(self._offers)
        column = QVBoxLayout(self._offers)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.buttons = []
        machine = self._session.machine
        if not self.touches:
            watching = f"{self.run.given} Ctrl+Z takes it back." if self.run.given else "Watching every input…"
            self.seen.setText(watching if self.watching else "Looking at every input first: touch nothing yet.")
            return
        if len(self.touches) > 1:
            names = " and ".join(inputs(machine)[touch.input].name for touch in self.touches)
            self.seen.setText(f"Inputs {names} changed together. Press one switch alone, or free what they share.")
            return
        touch = self.touches[0]
        self.seen.setText(self.run.words_of(touch))
        first = [duty for duty in (self.run.wanted,) if duty] + [d for d in offered(machine) if d != self.run.wanted]
        for place, duty in enumerate(first[:OFFERED]):
            self._offer(column, duty, "main" if place == 0 else "")
        if self._by_keys:
            self.buttons[0].setFocus()
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
        self.run.give(duty)
