"""The six work zeros: one row each, with a place for every axis."""

from __future__ import annotations

from fractions import Fraction
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from idler.core.errors import Refusal
from idler.core.proof.workzero import CODES, COUNT
from idler.procedures.engine import Result
from idler.procedures.trial.zero import GoToZero
from idler.session.session import Session
from idler.session.workzero import FURTHEST

from ...bridge import follow
from ...widgets.asking import Asking
from ...widgets.cards import card, emptied, label, scrolled, tall
from ...widgets.lengthedit import LengthEdit
from ...widgets.machinebutton import MachineButton
from ..workbench import Workbench

NAMED = 3  # columns before those of the axes


class ZerosPage(Workbench):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.procedure = GoToZero(session)
        self._names: tuple[str, ...] = ()
        self.shown: list[QRadioButton] = []
        self.titles: list[QLineEdit] = []
        self.places: dict[tuple[int, str], LengthEdit] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        frame, inner = card((14, 10, 14, 10), 8)
        inner.addWidget(
            label(
                "Where jobs begin, in machine coordinates. The one that is chosen counts on the rails, in the pictures and "
                "where a program is opened; none of them is part of a revision.", "soft", wrap=True,
            )
        )  # fmt: skip
        self._table = QWidget()
        self._grid = QGridLayout(self._table)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(6)
        inner.addWidget(scrolled(self._table, whole=True, rows=True), 1)
        inner.addWidget(self._shifting())
        inner.addWidget(self._buttons())
        self.asking = Asking(session, self.procedure, lambda _: None)
        inner.addWidget(self.asking)
        column.addWidget(frame)
        for topic in (session.changed, session.held, session.work.changed, self.procedure.changed):
            follow(topic, self.refresh)
        follow(self.procedure.ended, self._ended)
        self.refresh()

    def _buttons(self) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        self.take = QPushButton("Take it where the axes stand")
        self.take.clicked.connect(self._take)
        self.more = QPushButton("More")
        self.more.setMenu(QMenu(self.more))
        self.more.menu().aboutToShow.connect(self._fill)
        self.over = MachineButton(self._session, "Go over it")
        self.over.clicked.connect(lambda: self._go(down=False))
        self.down = MachineButton(self._session, "Go to it, Z last")
        self.down.clicked.connect(lambda: self._go(down=True))
        for button in (self.take, self.more, self.over, self.down):
            tall(button)
            row.addWidget(button)
        row.addStretch(1)
        return made

    def _shifting(self) -> QWidget:
        """The one that is shown, further by what is typed."""
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        self.shift_words = label("", "soft")
        self.shift_axis = QComboBox()
        self.shift_axis.setAccessibleName("Axis of the work zero that is shifted")
        self.shift_by = LengthEdit(
            self._session,
            "shift of the work zero",
            low=Fraction(0),
            high=Fraction(int(FURTHEST)),
            signed=True,
            width=104,
        )
        self.shift_by.taken.connect(self._shift_typed)
        self._by = Fraction(0)
        self.shift = QPushButton("Shift it")
        self.shift.clicked.connect(self._shift)
        for widget in (self.shift_words, self.shift_axis, self.shift_by, self.shift):
            row.addWidget(widget)
        for widget in (self.shift_axis, self.shift):
            tall(widget)
        row.addStretch(1)
        return made

    # -- doing ------------------------------------------------------------------------------------------------------

    def _shift_typed(self, by: Fraction) -> None:
        self._by = by
        self.refresh()

    def _shift(self) -> None:
        slot = self.shift_axis.currentIndex()
        try:
            self._session.work.shift(slot, float(self._by))
        except Refusal as why:
            self._session.tell("warn", why.sentence)

    def _take(self) -> None:
        for axis in self._session.machine.axes:
            if axis.whole("axis.output") and not axis.rotary:
                self._session.work.take(axis.slot)

    def _fill(self) -> None:
        work, menu = self._session.work, self.more.menu()
        menu.clear()
        for axis in self._session.machine.axes:
            menu.addAction(f"Take {axis.name} where it stands", partial(work.take, axis.slot))
        menu.addSeparator()
        shown = work.set.shown
        for number in range(COUNT):
            if number != shown:
                menu.addAction(f"Copy it to {work.set.title(number)}", partial(work.copy, shown, number))
        menu.addSeparator()
        menu.addAction(f"Clear all of {work.set.title(shown)}", partial(work.clear_all, shown))

    def _go(self, *, down: bool) -> None:
        if why := self.procedure.go(down=down):
            self._session.tell("warn", why)

    def _ended(self, result: Result) -> None:
        self._session.tell("plain", result.words)

    def _typed(self, number: int, name: str, value: Fraction) -> None:
        try:
            self._session.work.place(self._session.machine.names.index(name), float(value), number)
        except Refusal as why:
            self._session.tell("warn", why.sentence)
            self.refresh()

    def _title(self, number: int) -> None:
        edit = self.titles[number]
        if edit.isModified():
            edit.setModified(False)
            try:
                self._session.work.name(number, edit.text())
            except Refusal as why:
                self._session.tell("warn", why.sentence)
                self.refresh()

    # -- showing ----------------------------------------------------------------------------------------------------

    def _build(self) -> None:
        """Rows and columns anew, for other axes."""
        emptied(self._grid)
        self.shown, self.titles, self.places = [], [], {}
        for column, name in enumerate(self._names, start=NAMED):
            self._grid.addWidget(label(name, "heading"), 0, column)
        for number in range(COUNT):
            chosen = QRadioButton(CODES[number])
            chosen.clicked.connect(partial(self._session.work.show, number))
            title = QLineEdit()
            title.setPlaceholderText("name")
            title.setFixedWidth(150)
            title.setAccessibleName(f"Name of {CODES[number]}")
            title.editingFinished.connect(partial(self._title, number))
            self.shown.append(chosen)
            self.titles.append(title)
            self._grid.addWidget(chosen, number + 1, 0)
            self._grid.addWidget(title, number + 1, 1)
            for column, name in enumerate(self._names, start=NAMED):
                edit = LengthEdit(
                    self._session, f"{CODES[number]} of {name}", low=Fraction(0), high=Fraction(int(FURTHEST)), signed=True,
                    width=104,
                )  # fmt: skip
                edit.setAlignment(Qt.AlignmentFlag.AlignRight)
                edit.taken.connect(partial(self._typed, number, name))
                self.places[number, name] = edit
                self._grid.addWidget(edit, number + 1, column)
        self._grid.setColumnStretch(NAMED + len(self._names), 1)
        self._grid.setRowStretch(COUNT + 1, 1)

    def refresh(self) -> None:
        machine, work = self._session.machine, self._session.work
        if machine.names != self._names:
            self._names = machine.names
            self._build()
            self.shift_axis.clear()
            self.shift_axis.addItems(list(machine.names))
        for number in range(COUNT):
            self.shown[number].setChecked(number == work.set.shown)
            if not self.titles[number].isModified():
                self.titles[number].setText(work.set.names.get(number, ""))
        for (number, name), edit in self.places.items():
            at, reads = work.of(name, number), machine.axis(machine.names.index(name)).reads
            stale = work.is_stale(name, number)
            edit.setToolTip("taken with another home or train: take it anew" if stale else "")
            edit.setPlaceholderText("stale" if stale else "—")
            if at is None:
                edit.show_nothing(reads)
            else:
                edit.show_length(reads, Fraction(at).limit_denominator(10**6))
        runs = self.procedure.running
        shown = work.set.title(work.set.shown)
        self.shift_words.setText(f"Shift {shown} along")
        self.shift_by.show_length(machine.reads, self._by)
        self.shift.setEnabled(bool(self._by) and not runs)
        self.over.setText(f"Go over {shown}")
        self.over.setEnabled(not runs)
        self.down.setEnabled(not runs)
        self.asking.setVisible(runs)
