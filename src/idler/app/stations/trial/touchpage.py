"""The touch plate, or a probe: what is to be touched, what its parts measure, and what was found, before it is taken."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from idler.core.errors import Refusal
from idler.core.proof.workzero import CODES
from idler.core.trial.touching import ASKED, WHAT, checked, needed, read_one, shown
from idler.core.words import capital
from idler.procedures.engine import Ending, Result
from idler.procedures.trial.touch import TouchRun
from idler.session.session import Session

from ...bridge import follow
from ...pictures.touchsketch import TouchScene, TouchSketch
from ...widgets.asking import Asking
from ...widgets.cards import card, label, scrolled, tall
from ...widgets.machinebutton import MachineButton
from ..workbench import Workbench
from .wishes import WishGrid

RIGHT = 336


class TouchPage(Workbench):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.procedure = TouchRun(session)
        self._values: dict[str, float] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        left, column = card((12, 8, 12, 8), 6)
        self.picture = TouchSketch()
        self.asking = Asking(session, self.procedure, lambda _: None)
        column.addWidget(self.picture, 1)
        column.addWidget(self.asking)
        row.addWidget(left, 1)
        row.addWidget(self._right())
        for topic in (
            session.changed,
            session.held,
            session.work.changed,
            session.floor.changed,
            self.procedure.changed,
        ):
            follow(topic, self.refresh)
        follow(self.procedure.ended, self._ended)
        self.refresh()

    def _right(self) -> QWidget:
        frame, outer = card((14, 8, 14, 10), 6)
        frame.setFixedWidth(RIGHT)
        page = QWidget()
        self.what = QComboBox()
        for key, words in WHAT.items():
            self.what.addItem(capital(words), key)
        self.what.setAccessibleName("What is touched")
        self.what.activated.connect(lambda _: self.refresh())
        self.wishes = WishGrid({key: asked.words for key, asked in ASKED.items()})
        self.wishes.taken.connect(self._take_wish)
        self.found = label("", "bold", wrap=True)
        self.words = label("", "soft", wrap=True)
        self.take = QPushButton("")
        self.take.clicked.connect(self._take)
        self.go = MachineButton(self._session, "Touch it")
        self.go.setProperty("role", "main")
        self.go.clicked.connect(self._go)
        for button in (self.what, self.take, self.go):
            tall(button)
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        for widget in (self.wishes, self.found, self.words):
            column.addWidget(widget)
        column.addStretch(1)
        outer.addWidget(self.what)
        outer.addWidget(scrolled(page, whole=True), 1)
        outer.addWidget(self.take)
        outer.addWidget(self.go)
        return frame

    def _take_wish(self, key: str, typed: str) -> None:
        try:
            value = read_one(self._session.machine, key, typed)
            checked(self._session.machine, self.what.currentData(), {**self._values, key: value})
            self._values[key] = value
        except Refusal as why:
            self._session.tell("warn", why.sentence)
        self.refresh()

    def _go(self) -> None:
        try:
            why = self.procedure.touch(checked(self._session.machine, self.what.currentData(), self._values))
        except Refusal as refused:
            why = refused.sentence
        if why:
            self._session.tell("warn", why)

    def _take(self) -> None:
        if why := self.procedure.take():
            self._session.tell("warn", why)
        else:
            tool = self.procedure.tool
            words = f"The length of H{tool} is known." if tool else f"{self._shown} begins where it was touched."
            self._session.tell("found", words)
        self.refresh()

    def _ended(self, result: Result) -> None:
        if result.end is Ending.FAILED:
            self._session.tell("warn", result.words)

    @property
    def _shown(self) -> str:
        return CODES[self._session.work.set.shown]

    def refresh(self) -> None:
        run, machine, what = self.procedure, self._session.machine, self.what.currentData()
        texts = {key: shown(machine, key, self._values.get(key, float(asked.usual))) for key, asked in ASKED.items()}
        self.wishes.show_texts(texts, needed(what))
        self.picture.show_scene(TouchScene(what, tuple(name for name, _ in run.touches)))
        known = bool(run.found) and not run.running
        reads = machine.reads
        found = {name: reads.length(at) for name, at in run.found.items()}
        if run.length is not None:
            found = {f"H{run.tool}": reads.length(run.length, sign=True)}
        self.found.setText("\n".join(f"{name}  {at}" for name, at in found.items()) if known else "")
        self.found.setVisible(known)
        self.words.setText(
            f"{'Longer than the tool of the work zero' if run.tool else 'In machine coordinates'}; touches scatter by "
            f"{reads.length(max(run.scatter.values(), default=0.0))}." if known
            else "Thickness and diameters are asked here, and nothing is taken over from before without being shown."
        )  # fmt: skip
        self.take.setText(f"Take it as {f'the length of H{run.tool}' if run.tool else self._shown}")
        self.take.setVisible(known)
        self.go.setEnabled(not run.running)
        self.laid_anew.emit()
