"""A machine that nobody has described yet: a handful of questions, and the drawing that follows from each answer."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from idler.core.errors import IdlerError, Refusal
from idler.core.machine import Machine
from idler.core.machine import file as machinefile
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.describing import Asked, described, doubts, questions, usual_words
from idler.core.travel import ends_of
from idler.core.words import capital

from .. import growth
from ..pictures.answers import HIGH, WIDE, answer_icon
from ..pictures.envelope import EnvelopePicture, EnvelopeScene, views_of
from ..pictures.machine import MachinePicture, scene_of
from ..widgets.cards import label, turn_over
from .dialogs import PlainDialog

MOST_BESIDE = 4  # choices in one line


def _button(asked: Asked, key: str, words: str) -> QAbstractButton:
    """With its picture above the words, where it has one."""
    icon = answer_icon(asked.key.rpartition(".")[2], key)
    if icon is None:
        plain = QPushButton(words)
        plain.setAutoDefault(False)
        plain.setProperty("role", "segment")
        plain.setMinimumHeight(40)
        return plain
    made = QToolButton()
    made.setObjectName(key)
    made.setText(words)
    made.setIcon(icon)
    made.setIconSize(QSize(round(WIDE * growth.factor()), round(HIGH * growth.factor())))
    made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
    made.setProperty("role", "picture")
    made.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
    made.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    return made


class DescribeDialog(PlainDialog):
    """make: puts a machine onto the shelf by its name, the text of its file and a note; raises IdlerError."""

    def __init__(self, parent: QWidget, make: Callable[[str, str, str], None]) -> None:
        super().__init__(parent, "Describe a new machine")
        self.resize(1200, 690)
        self._make = make
        self.answers: dict[str, str] = {}
        self.editors: dict[str, QWidget] = {}
        self.made = ""
        self._asked: list[Asked] = []
        row = QHBoxLayout()
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        row.addWidget(self._scroll, 6)
        row.addLayout(self._drawing(), 4)
        self.column.addLayout(row, 1)
        self.sure = QCheckBox("Yes, that is meant.")
        self.sure.hide()
        self.column.addWidget(self.sure)
        self.trouble = self.trouble_line()
        line = QHBoxLayout()
        self.name = QLineEdit()
        self.name.setPlaceholderText("its name on the shelf: small letters, figures, hyphens")
        self.name.setAccessibleName("Name of the new machine on the shelf")
        line.addWidget(label("name", "soft"))
        line.addWidget(self.name, 1)
        self.column.addLayout(line)
        self.make_button = self.buttons("Make it")
        self.make_button.clicked.connect(self._take)
        for button in self.findChildren(QPushButton):  # Return ends an answer, and not the questions
            button.setDefault(False)
            button.setAutoDefault(False)
        self._ask()

    def _drawing(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.drawn = QStackedWidget()
        self.whole, self.picture = (
            MachinePicture(),
            EnvelopePicture(),
        )  # the envelope, where there is no drawing of such axes
        self.drawn.addWidget(self.whole)
        self.drawn.addWidget(self.picture)
        column.addWidget(self.drawn, 1)
        self.trains = label("", wrap=True)
        self.usual = label("", "soft", wrap=True)
        column.addWidget(self.trains)
        column.addWidget(self.usual)
        return column

    # -- asking ---------------------------------------------------------------------------------------------------

    def _ask(self) -> None:
        """The questions that are asked with these answers; those that stay keep what is typed in them."""
        focus = next((key for key, editor in self.editors.items() if editor.hasFocus()), "")
        asked = questions(self.answers)
        if [(each.key, each.choices) for each in asked] != [(each.key, each.choices) for each in self._asked]:
            at = self._scroll.verticalScrollBar().value()
            self._asked = asked
            turn_over(self._scroll, self._form(asked))
            self._scroll.verticalScrollBar().setValue(at)
            if focus in self.editors:
                self.editors[focus].setFocus()
        self._draw()

    def _form(self, asked: list[Asked]) -> QWidget:
        form = QWidget()
        grid = QGridLayout(form)
        grid.setContentsMargins(0, 0, 16, 0)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        self.editors = {}
        for line, each in enumerate(asked):
            words = label(each.text, wrap=True)
            words.setFixedWidth(170)
            grid.addWidget(words, line, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(self._choice(each) if each.choices else self._typed(each), line, 1)
        return form

    def _choice(self, asked: Asked) -> QWidget:
        """Buttons, for they show what there is."""
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        group = QButtonGroup(box)
        chosen = self.answers.get(asked.key, asked.usual)
        lines = -(-len(asked.choices) // MOST_BESIDE)
        beside = -(-len(asked.choices) // lines)
        for place, (key, words) in enumerate(asked.choices):
            button = _button(asked, key, words)
            button.setCheckable(True)
            button.setAccessibleName(f"{asked.text} {words}")
            button.setChecked(key == chosen)
            button.clicked.connect(partial(self._answer, asked.key, key))
            group.addButton(button)
            grid.addWidget(button, place // beside, place % beside)
            if key == chosen:
                self.editors[asked.key] = button
        return box

    def _typed(self, asked: Asked) -> QLineEdit:
        editor = QLineEdit(self.answers.get(asked.key, ""))
        editor.setPlaceholderText(asked.usual)
        editor.setAccessibleName(asked.text)
        editor.setMinimumHeight(34)
        editor.editingFinished.connect(lambda: self._answer(asked.key, editor.text().strip()))
        self.editors[asked.key] = editor
        return editor

    def _answer(self, key: str, answer: str) -> None:
        """A question that is not asked any more takes its answer along: whoever comes back to it finds it there."""
        if self.answers.get(key, "") != answer:
            self.answers[key] = answer
            self.sure.setChecked(False)
            self._ask()

    @property
    def counted(self) -> dict[str, str]:
        """The answers to what is asked now."""
        return {each.key: self.answers[each.key] for each in self._asked if self.answers.get(each.key)}

    # -- showing --------------------------------------------------------------------------------------------------

    def _machine(self) -> Machine | None:
        try:
            machine = described(self.counted, "")
        except Refusal as why:
            self.trouble.setText(why.sentence)
            return None
        self.trouble.setText("")
        return machine

    def _draw(self) -> None:
        machine = self._machine()
        self.make_button.setEnabled(machine is not None)
        if machine is None:
            return
        scene = scene_of(machine, {}, known=False)
        self.whole.show_scene(scene)
        self.drawn.setCurrentIndex(0 if scene is not None else 1)
        ends = {axis.name: ends_of(machine, axis.slot) for axis in machine.axes if not axis.rotary}
        self.picture.show_scene(EnvelopeScene(views_of(ends), machine.names[0], {}, (), machine.reads))
        self.trains.setText("\n".join(
            f"{axis.name}: {chain.counts_text} = {chain.derivation}; one count moves {chain.resolution_text}"
            for axis in machine.axes for chain in [Chain.of(axis)]
        ))  # fmt: skip
        left = doubts(machine, self.counted)
        self.usual.setText(f"{capital(usual_words(self.counted))}. All of it can be changed later, at its station.")
        self.sure.setVisible(bool(left))
        if left:
            self.trouble.setText("\n".join(doubt.text for doubt in left))

    def _take(self) -> None:
        machine = self._machine()
        if machine is None:
            return
        left = doubts(machine, self.counted)
        if left and not self.sure.isChecked():
            self.trouble.setText(
                "\n".join([*(doubt.text for doubt in left), "Say that it is meant, or change the answer."])
            )
            self.sure.setFocus()
            return
        name = self.name.text().strip()
        try:
            self._make(
                name, machinefile.write(described(self.counted, name)), f"Described; {usual_words(self.counted)}"
            )
        except IdlerError as why:
            self.trouble.setText(why.sentence)
            self.name.setFocus()
            return
        self.made = name
        self.accept()
