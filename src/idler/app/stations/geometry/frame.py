"""What every page of the station is made of: picture and question on the left; verdict, fields and buttons on the right."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.values.parameter import Value
from idler.procedures.engine import Ending, Procedure, Result
from idler.procedures.geometry.dial import KeptReading
from idler.procedures.questions import Question
from idler.session.session import Session

from ...bridge import follow
from ...pictures.picture import Picture
from ...pictures.proof import claim_head
from ...widgets.asking import Asking
from ...widgets.cards import card, label, scrolled, tall
from ...widgets.machinebutton import MachineButton
from ...widgets.offerbutton import OfferButton

RIGHT = 330


class Measuring:
    """Lays out a workbench that measures with one procedure. It has `refresh` and says what the bench's hands do."""

    _session: Session
    procedure: Procedure

    def refresh(self) -> None: ...

    def _at_bench(self, question: Question[Any]) -> dict[str, Any] | None:
        """What the bench's hands do to read what is asked for; None where they cannot."""
        return None

    def lay(self, page: QWidget, picture: Picture, *, top: QWidget | None = None) -> QVBoxLayout:
        """Fills the page; its fields belong into the column that is returned. top: what stands over the verdict."""
        self.picture = picture
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        left, column = card((12, 6, 12, 8), 6)
        column.addWidget(picture, 1)
        self.asking = Asking(self._session, self.procedure, self._at_bench)
        column.addWidget(self.asking)
        row.addWidget(left, 1)
        right, fields = self._right(top)
        row.addWidget(right)
        follow(self.procedure.changed, self.refresh)
        follow(self.procedure.ended, self._ended)
        return fields

    def _right(self, top: QWidget | None) -> tuple[QFrame, QVBoxLayout]:
        frame, outer = card((14, 8, 14, 10), 6)
        frame.setFixedWidth(RIGHT)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        if top is not None:
            column.addWidget(top)
        self.title, self.mark = claim_head(column)
        self.words = label("", "", wrap=True)
        column.addWidget(self.words)
        fields = QVBoxLayout()
        fields.setSpacing(6)
        column.addLayout(fields)
        self.beforehand = label("", "small", wrap=True)
        column.addWidget(self.beforehand)
        column.addStretch(1)
        self.accept, self.drop, self.go = OfferButton(self._session), QPushButton(""), MachineButton(self._session, "")
        self._readings: list[KeptReading] = []
        self.one, self.again = QComboBox(), QPushButton("Again")
        self.one.setAccessibleName("One of the readings")
        self.again.setAccessibleName("Measure this one again")
        self.again.setToolTip("Forgets this reading alone; what is missing is measured next.")
        self.again.clicked.connect(self._drop_one)
        self.accept.hide()
        self.go.setProperty("role", "main")
        outer.addWidget(scrolled(page, whole=True), 1)
        one = QHBoxLayout()
        one.addWidget(self.one, 1)
        one.addWidget(self.again)
        outer.addLayout(one)
        outer.addWidget(self.accept)
        row = QHBoxLayout()
        row.addWidget(self.drop)
        row.addWidget(self.go, 1)
        outer.addLayout(row)
        for button in (self.accept, self.drop, self.go, self.one, self.again):
            tall(button)
        self.show_readings(())
        return frame, fields

    def show_readings(self, readings: Sequence[KeptReading]) -> None:
        """Those that are kept, one of which may be dropped while nothing is measured; the last one is offered first."""
        words = [each.words for each in readings]
        self._readings = list(readings)
        if words != [self.one.itemText(k) for k in range(self.one.count())]:
            self.one.clear()
            self.one.addItems(words)
            self.one.setCurrentIndex(len(words) - 1)
        for widget in (self.one, self.again):
            widget.setVisible(bool(words) and not self.procedure.running)

    def _drop_one(self) -> None:
        """What is missing is measured next, by the button that the focus goes to."""
        self._readings[self.one.currentIndex()].drop()
        self.refresh()
        self.go.setFocus()

    @property
    def asked(self) -> QWidget | None:
        """What waits for the person now: the edit that was found, where there is one."""
        return self.accept if self.accept.isVisible() else None

    def offer(self, edit: Mapping[Address, Value], words: Callable[[Value], str]) -> None:
        """An edit of one value that was found, until it is taken. words: what its button says."""
        machine = self._session.machine
        self.accept.show_edit({where: value for where, value in edit.items() if machine[where] != value})
        for value in edit.values():
            self.accept.setText(words(value))

    def begun(self, why: str) -> None:
        """Says why it could not begin, if it could not."""
        if why:
            self._session.tell("warn", why)

    def _ended(self, result: Result) -> None:
        if result.end is Ending.FAILED:
            self._session.tell("warn", result.words)
