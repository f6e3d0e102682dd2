"""The page of the torque print: what the motor of an axis takes at each place, over what it took before."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from idler.core.mechanics.torqueprint import TorquePrint, print_words
from idler.procedures.drives.torqueprint import TorquePrintRun
from idler.procedures.engine import Result
from idler.session.session import Session
from idler.shelf.dates import day, moment

from ...bridge import follow
from ...pictures.torqueprint import PrintScene, TorquePrintPicture
from ...widgets.cards import card, label, scrolled, tall
from ...widgets.machinebutton import MachineButton


class TorquePage(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slot = 0
        self._listed: list[float] = []
        self.run = TorquePrintRun(session)
        follow(self.run.changed, self.refresh)
        follow(self.run.ended, self._ended)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        frame, column = card((12, 4, 12, 4), 2)
        self.picture = TorquePrintPicture()
        column.addWidget(self.picture, 1)
        row.addWidget(frame, 1)
        row.addWidget(self._side(), 1)

    def _side(self) -> QWidget:
        frame, column = card((14, 6, 14, 8), 5)
        self.title = label("", "title", wrap=True)
        self.words = label("", "", wrap=True)
        column.addWidget(self.title)
        page = QWidget()
        told = QVBoxLayout(page)
        told.setContentsMargins(0, 0, 0, 0)
        told.addWidget(self.words)
        told.addStretch(1)
        column.addWidget(scrolled(page), 1)
        line = QHBoxLayout()
        line.addWidget(label("laid over", "soft"))
        self.over = QComboBox()
        self.over.setAccessibleName("Which print it is laid over")
        self.over.activated.connect(lambda _: self.refresh())
        line.addWidget(self.over, 1)
        column.addLayout(line)
        self.go = MachineButton(self._session, "Print it")
        self.go.clicked.connect(self._go)
        tall(self.go)
        column.addWidget(self.go)
        return frame

    def show_axis(self, slot: int) -> None:
        self.slot = slot
        self.refresh()

    def leave(self) -> None:
        if self.run.running:
            self._session.stop()

    def show_motion(self) -> None:
        """The run has a clock of its own."""

    def _go(self) -> None:
        if self.run.running:
            self._session.stop()
        elif why := self.run.go(self.slot):
            self._session.refuse("Nothing was printed.", why)

    def _ended(self, result: Result) -> None:
        self._listed = []  # the newest one is chosen, over the one before
        self.refresh()
        self._session.tell("plain", result.words)

    def refresh(self) -> None:
        machine = self._session.machine
        if self.slot >= len(machine.names):
            return
        axis = machine.axis(self.slot)
        kept = self._session.prints.get(axis.name, [])
        before = self._list(kept)
        newest = kept[-1] if kept else None
        self.go.setText("Stop it" if self.run.running else "Print it")
        self.title.setText(f"What {axis.name} takes on its way")
        if self.run.running or (self.run.result is not None and newest is None):
            words = self.run.words
        elif newest is None:
            words = (
                f"{axis.name} goes slowly from end to end and back, and its motor says at each place how much of its torque it "
                "gives: friction, tight places, weight. It is kept, and laid under the next one."
            )
        else:
            date = day(before.when) if before is not None else ""
            words = f"{day(newest.when)}: {print_words(axis.name, axis.reads, newest, before, date)}"
        self.words.setText(words)
        self.picture.show_scene(None if newest is None else PrintScene(newest, before, axis.reads))

    def _list(self, kept: list[TorquePrint]) -> TorquePrint | None:
        """Those before the newest; which of them it is laid over."""
        older = kept[-2::-1]
        times = [self.slot, *(each.when for each in older)]
        if times != self._listed:
            self._listed = times
            self.over.clear()
            self.over.addItems([moment(each.when) for each in older] or ["nothing before it"])
        self.over.setEnabled(bool(older))
        return older[max(0, self.over.currentIndex())] if older else None
