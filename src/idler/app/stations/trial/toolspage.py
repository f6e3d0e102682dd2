"""Tools by the numbers that programs call their lengths by, and the radii at which feeds of axes that turn are meant."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QSpinBox, QVBoxLayout, QWidget

from idler.core.errors import Refusal
from idler.core.program.tools import LONGEST, WIDEST
from idler.core.values.toolnumber import TOOLS
from idler.session.session import Session

from ...bridge import follow
from ...widgets.cards import card, emptied, label, scrolled, tall
from ...widgets.lengthedit import LengthEdit
from ..workbench import Workbench

HEADS = ("tool", "longer than the tool of the work zero", "name", "")


class ToolsPage(Workbench):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._built: tuple[object, ...] = ()
        self._proposed: tuple[object, ...] = ()
        self.lengths: dict[int, LengthEdit] = {}
        self.titles: dict[int, QLineEdit] = {}
        self.removes: dict[int, QPushButton] = {}
        self.radii: dict[str, LengthEdit] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        frame, inner = card((14, 10, 14, 10), 8)
        inner.addWidget(
            label(
                "A program that takes a tool by its length (G43 and H) counts Z from so much higher. Take the work zero with "
                "one tool; type by how much each other is longer, or measure it at Touch. None of them is part of a revision.",
                "soft", wrap=True,
            )
        )  # fmt: skip
        self._table = QWidget()
        self._grid = QGridLayout(self._table)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(14)
        self._grid.setVerticalSpacing(6)
        inner.addWidget(self._adding())
        inner.addWidget(scrolled(self._table, whole=True, rows=True), 1)
        self._turning = QWidget()
        self._rims = QHBoxLayout(self._turning)
        self._rims.setContentsMargins(0, 0, 0, 0)
        inner.addWidget(self._turning)
        column.addWidget(frame)
        for topic in (session.changed, session.tools.changed, session.program.settled):
            follow(topic, self.refresh)
        self.refresh()

    def _adding(self) -> QWidget:
        """A number, and a length that adds its tool as soon as it is typed."""
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        self.number = QSpinBox()
        self.number.setRange(1, TOOLS - 1)
        self.number.setPrefix("H")
        self.number.setAccessibleName("Number of a tool that is added")
        self.length = self._length_edit("length of the tool that is added")
        self.length.taken.connect(lambda length: self._put(self.number.value(), length))
        for widget in (label("Another tool", "soft"), self.number, label("is longer by", "soft"), self.length):
            row.addWidget(widget)
        for widget in (self.number, self.length):
            tall(widget)
        row.addStretch(1)
        return made

    def _length_edit(self, part: str) -> LengthEdit:
        most = Fraction(int(LONGEST))
        edit = LengthEdit(self._session, part, low=Fraction(0), high=most, signed=True, width=104)
        edit.setAlignment(Qt.AlignmentFlag.AlignRight)
        return edit

    # -- doing ------------------------------------------------------------------------------------------------------

    def _take(self, work: Callable[[], None]) -> None:
        """What cannot be taken is told, and what was there is shown again."""
        try:
            work()
        except Refusal as why:
            self._session.tell("warn", why.sentence)
            self.refresh()

    def _put(self, number: int, length: Fraction) -> None:
        self._take(lambda: self._session.tools.put(number, float(length)))

    def _title(self, number: int) -> None:
        edit = self.titles[number]
        if edit.isModified():
            edit.setModified(False)
            self._take(lambda: self._session.tools.name(number, edit.text()))

    def _turn(self, axis: str, radius: Fraction) -> None:
        self._take(lambda: self._session.tools.turning(axis, float(radius)))

    # -- showing ----------------------------------------------------------------------------------------------------

    def _build(self) -> None:
        """Rows anew, for other tools or axes."""
        for layout in (self._grid, self._rims):
            emptied(layout)
        self.lengths, self.titles, self.removes, self.radii = {}, {}, {}, {}
        tools = sorted(self._session.tools.set.tools)
        for column, words in enumerate(HEADS if tools else ()):
            self._grid.addWidget(label(words, "heading"), 0, column)
        for row, number in enumerate(tools, start=1):
            length, title, remove = self._length_edit(f"length of H{number}"), QLineEdit(), QPushButton("Remove")
            length.taken.connect(partial(self._put, number))
            title.setPlaceholderText("name")
            title.setFixedWidth(220)
            title.setAccessibleName(f"Name of H{number}")
            title.editingFinished.connect(partial(self._title, number))
            remove.setAccessibleName(f"Remove H{number}")
            remove.clicked.connect(partial(self._session.tools.remove, number))
            for column, widget in enumerate((label(f"H{number}", "bold"), length, title, remove)):
                self._grid.addWidget(widget, row, column, Qt.AlignmentFlag.AlignLeft)
            self.lengths[number], self.titles[number], self.removes[number] = length, title, remove
        self._grid.setColumnStretch(len(HEADS), 1)
        self._grid.setRowStretch(len(tools) + 1, 1)
        for axis in self._session.machine.axes:
            if axis.rotary:
                edit = LengthEdit(
                    self._session, f"radius of {axis.name}", low=Fraction(0), high=Fraction(int(WIDEST)), width=104
                )
                edit.taken.connect(partial(self._turn, axis.name))
                edit.setPlaceholderText("in °/min")
                self._rims.addWidget(label(f"Feeds of {axis.name} alone are meant at a radius of", "soft"))
                self._rims.addWidget(edit)
                self.radii[axis.name] = edit
        self._rims.addStretch(1)

    def refresh(self) -> None:
        session = self._session
        tools, reads = session.tools, session.machine.reads
        turning = tuple(axis.name for axis in session.machine.axes if axis.rotary)
        if (built := (turning, tuple(sorted(tools.set.tools)))) != self._built:
            self._built = built
            self._build()
            self.laid_anew.emit()
        for number, edit in self.lengths.items():
            stale = tools.is_stale(number)
            edit.setToolTip("measured with another scale of Z: measure it anew" if stale else "")
            edit.setPlaceholderText("stale" if stale else "—")
            if stale:
                edit.show_nothing(reads)
            else:
                edit.show_length(reads, Fraction(tools.set.tools[number].length).limit_denominator(10**6))
            if not self.titles[number].isModified():
                self.titles[number].setText(tools.set.tools[number].name)
        for axis, edit in self.radii.items():
            if axis in tools.set.radii:
                edit.show_length(reads, Fraction(tools.set.radii[axis]).limit_denominator(10**6))
            else:
                edit.show_nothing(reads)
        self.length.show_nothing(reads)
        self._propose(built)

    def _propose(self, built: tuple[object, ...]) -> None:
        """The tool that the program in hand lacks, else the lowest number without one."""
        judged = self._session.program.judged
        lacks = judged.verdict.program.tool_unknown if judged is not None else None
        if (wanted := (*built, lacks)) != self._proposed:
            self._proposed = wanted
            self.number.setValue(lacks or self._session.tools.set.free or 1)
