"""What a procedure asks, with what answers it: a button where something was done, a line where something was read."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from idler.core.errors import Refusal
from idler.procedures.engine import Ending, Procedure
from idler.procedures.questions import Question, QuestionKind
from idler.session.session import Session

from ..bridge import follow
from .cards import label, tall
from .searchline import SearchLine

BY_BUTTONS = (
    "figure.flats",
    "action.ask",
    "index.seen",
    "spindle.way",
    "cutter.on",
    "cutter.off",
)  # questions whose answers are buttons here; others have pictures of their own
COLUMNS = {1: 4, 2: 8, 4: 24}  # in which so many answers stand at most; more are a list in which one is looked for
FOUND = 120  # pixels of that list
AtBench = Callable[[Question[Any]], dict[str, Any] | None]


class Asking(QWidget):
    """at_bench: what the hands of the bench do to read what is asked for; None where they cannot."""

    def __init__(self, session: Session, procedure: Procedure, at_bench: AtBench) -> None:
        super().__init__()
        self._session, self._procedure, self._at_bench = session, procedure, at_bench
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.words = label("", "heading", wrap=True)
        self.words.setMinimumHeight(36)
        column.addWidget(self.words)
        row = QHBoxLayout()
        self.done = QPushButton("It is done")
        self.done.setProperty("role", "main")
        self.done.clicked.connect(lambda: self._answer(""))
        self.reading = QLineEdit()
        self.reading.setPlaceholderText("what it says")
        self.reading.setAccessibleName("Reading of the instrument")
        self.reading.setFixedWidth(150)
        self.reading.returnPressed.connect(self._add)
        self.add = QPushButton("Add this reading")
        self.add.clicked.connect(self._add)
        self.from_bench = QPushButton("Read it at the bench")
        self.from_bench.clicked.connect(self._read_bench)
        for widget in (self.done, self.reading, self.add, self.from_bench):
            tall(widget)
            row.addWidget(widget)
        row.addStretch(1)
        column.addLayout(row)
        self.answers: dict[str, QPushButton] = {}  # of what is asked now, by their keys
        self.choices = QWidget()
        self._choices = QGridLayout(self.choices)
        self._choices.setContentsMargins(0, 0, 0, 0)
        self._choices.setSpacing(4)
        column.addWidget(self.choices)
        self.found = QListWidget()
        self.found.setFixedHeight(FOUND)
        self.looked_for = SearchLine(self.found, "its number or name, and Return")
        self.looked_for.textChanged.connect(self._find)
        self.looked_for.taken.connect(self._take_found)
        for each in (self.looked_for, self.found):
            column.addWidget(each)
            each.hide()
        self._shown: Question[Any] | None = None
        follow(procedure.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        question = self._procedure.question
        kind = question.kind if question is not None else None
        self.words.setText(question.text if question is not None else self._procedure.words if self._unjudged else "")
        self.done.setVisible(kind is QuestionKind.DONE)
        reads = kind is QuestionKind.READING
        for widget in (self.reading, self.add):
            widget.setVisible(reads)
        by_bench = (
            question is not None and self._session.bench_hands is not None and self._at_bench(question) is not None
        )
        self.from_bench.setVisible(reads and by_bench)
        if question is not self._shown:
            self._shown = question
            self.reading.clear()
            self._offer(question if question is not None and question.key in BY_BUTTONS else None)
            if reads:
                self.reading.setFocus()

    def _offer(self, question: Question[Any] | None) -> None:
        """A button for each answer that may be chosen; None takes them away."""
        self.answers = {}
        while item := self._choices.takeAt(0):
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        listed = question.choices if question is not None else ()
        columns = next((columns for columns, most in COLUMNS.items() if len(listed) <= most), 0)
        for each in (self.looked_for, self.found):
            each.setVisible(not columns)
        if not columns:
            self.looked_for.clear()
            self._find("")
            self.looked_for.setFocus()
            self.choices.hide()
            return
        for place, option in enumerate(listed):
            self.answers[option.key] = button = QPushButton(option.text)
            button.clicked.connect(partial(self._answer, option.key))
            tall(button)
            self._choices.addWidget(button, place // columns, place % columns)
        self.choices.setVisible(question is not None)

    def _find(self, typed: str) -> None:
        """Answers with what is typed in them, those that begin with it first."""
        question, words = self._procedure.question, typed.strip().casefold()
        listed = (
            [option for option in question.choices if words in option.text.casefold()] if question is not None else []
        )
        listed.sort(key=lambda option: not option.text.casefold().startswith(words))
        self.found.clear()
        for option in listed:
            item = QListWidgetItem(option.text, self.found)
            item.setData(Qt.ItemDataRole.UserRole, option.key)
        self.found.setCurrentRow(0)

    def _take_found(self) -> None:
        if (item := self.found.currentItem()) is not None:
            self._answer(item.data(Qt.ItemDataRole.UserRole))

    @property
    def _unjudged(self) -> bool:
        """Whether its words say what goes on, or why it ended early; what was found is the page's to say."""
        result = self._procedure.result
        return self._procedure.running or (result is not None and result.end in (Ending.FAILED, Ending.STOPPED))

    def _add(self) -> None:
        self._answer(self.reading.text())

    def _answer(self, typed: str) -> None:
        """What is no answer is said, and asked for still; what was typed stays."""
        if self._procedure.question is None:
            return
        try:
            self._procedure.answer(typed)
        except Refusal as why:
            self._session.tell("warn", why.sentence)

    def _read_bench(self) -> None:
        hands, question = self._session.bench_hands, self._procedure.question
        wanted = self._at_bench(question) if question is not None else None
        if hands is None or question is None or wanted is None:
            return

        def answered(reply: dict[str, Any]) -> None:
            if reply["ok"]:
                self.reading.setText(f"{reply['value']:.6g} mm")
            else:
                self._session.tell("warn", reply["error"])

        hands.ask(answered, **wanted)
