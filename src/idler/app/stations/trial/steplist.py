"""One own action as a list that is edited in place: its head, its steps, and the fields of the step that is chosen."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QKeySequenceEdit,
    QLineEdit,
    QMenu,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from idler.core.actions.edits import (
    Place,
    Steps,
    put_for,
    put_in,
    renamed,
    shifted,
    side_words,
    sides,
    step_at,
    taken_out,
    with_one,
)
from idler.core.actions.fields import EVENTS, KINDS, Field, fields_of, filled, fresh, headed, named_by
from idler.core.actions.steps import Action
from idler.core.actions.text import step_text
from idler.core.errors import Refusal
from idler.core.machine import Machine
from idler.core.rules.actions import actions_of, named_on, wrong_with_step
from idler.core.words import capital

from ... import theme
from ...widgets.cards import emptied, label, tall

COLUMNS = 6  # fields beside one another
LEAST = 64  # pixels of the list
EMPTY_ACROSS = 2  # columns of a field that says in words what it means that it is empty
SHORT = 20  # letters of what is seen whole where it is chosen
WHOLE = 140  # pixels of a choice at most that is asked for, so that it is seen whole
NARROW = 64  # pixels of a field at least
_PLACE = Qt.ItemDataRole.UserRole  # of a step, or of a side of a branch


class StepList(QWidget):
    """edited: all actions of the machine after a change, and the name of the chosen one. refused: why there was none."""

    edited = Signal(object, str)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._machine: Machine | None = None
        self._action: Action | None = None
        self._shown: object = None
        self._at: Place = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(self._head())
        self.steps = QTreeWidget()
        self.steps.setHeaderHidden(True)
        self.steps.setAccessibleName("Steps of the action")
        self.steps.setMinimumHeight(LEAST)
        self.steps.setRootIsDecorated(False)
        self.steps.currentItemChanged.connect(lambda item, _: self._choose(item))
        column.addWidget(self.steps, 1)
        self._fields = QGridLayout()
        self._fields.setSpacing(4)
        self.editors: dict[str, QWidget] = {}
        column.addLayout(self._fields)
        self.wrong = label("", "warn", wrap=True)
        column.addWidget(self.wrong)
        column.addLayout(self._buttons())

    def _head(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setSpacing(4)
        self.name, self.starts, self.key = QLineEdit(), QComboBox(), QKeySequenceEdit()
        self.starts.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for words, what in EVENTS:
            self.starts.addItem(capital(what), words)
        self.key.setMaximumSequenceLength(1)
        self.key.setClearButtonEnabled(True)
        named = (("Name", self.name), ("What starts it", self.starts), ("Key, with Ctrl or Alt", self.key))
        for place, (words, widget) in enumerate(named):
            grid.addWidget(label(words, "small"), 0, place)
            grid.addWidget(widget, 1, place)
            widget.setAccessibleName(words)
            tall(widget)
        for inside in self.key.findChildren(QLineEdit):
            tall(inside)
        grid.setColumnStretch(0, 2)
        grid.setColumnStretch(1, 2)
        grid.setColumnStretch(2, 1)
        self.name.editingFinished.connect(self._rename)
        self.starts.activated.connect(lambda _: self._head_anew(event=self.starts.currentData()))
        self.key.editingFinished.connect(
            lambda: self._head_anew(key=self.key.keySequence().toString(QKeySequence.SequenceFormat.PortableText))
        )
        return grid

    def _buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.add = QPushButton("Add a step")
        menu = QMenu(self.add)
        for kind, words in KINDS.items():
            menu.addAction(words, partial(self.add_step, kind))
        self.add.setMenu(menu)
        self.up, self.down, self.out = QPushButton("Up"), QPushButton("Down"), QPushButton("Take it out")
        tall(self.add)
        row.addWidget(self.add)
        acts: tuple[tuple[QPushButton, Callable[[], None], QKeySequence, str], ...] = (
            (self.up, partial(self._shift, -1), QKeySequence("Alt+Up"), "Alt+Up; out of a branch, too"),
            (self.down, partial(self._shift, 1), QKeySequence("Alt+Down"), "Alt+Down; into a branch, too"),
            (self.out, self._take_out, QKeySequence("Del"), "Delete; with all that lies in it"),
        )  # fmt: skip
        for button, act, keys, tip in acts:
            button.clicked.connect(act)
            button.setToolTip(tip)
            QShortcut(keys, self.steps, act, context=Qt.ShortcutContext.WidgetShortcut)
            tall(button)
            row.addWidget(button)
        row.addStretch(1)
        return row

    # -- what is shown ------------------------------------------------------------------------------------------------

    def show_action(self, machine: Machine, action: Action | None) -> None:
        """None: there is none to show."""
        if (machine, action) == (self._machine, self._action):
            return
        same = self._action is not None and action is not None and self._action.name == action.name
        self._machine, self._action = machine, action
        self._at = self._at if same else ()
        for widget in (self.name, self.starts, self.key, self.add):
            widget.setEnabled(action is not None)
        if action is None or not self.name.isModified() or not same:
            self.name.setText(action.name if action is not None else "")
        with QSignalBlocker(self.key):
            self.key.setKeySequence(QKeySequence(action.key if action is not None else ""))
        self.starts.setCurrentIndex(max(0, self.starts.findData(action.event.words if action is not None else "")))
        self._list()

    def _list(self) -> None:
        with QSignalBlocker(self.steps):
            self.steps.clear()
            if self._action is not None:
                self._rows(self._action.steps, self.steps.invisibleRootItem(), ())
            self.steps.expandAll()
            chosen = self._item(self._at) or self.steps.topLevelItem(0)  # or what is left round it
            if chosen is not None:
                self.steps.setCurrentItem(chosen)
        self._choose(chosen)

    def _rows(self, steps: Steps, under: QTreeWidgetItem, above: Place) -> None:
        assert self._machine is not None
        for number, step in enumerate(steps):
            place = (*above, number)
            row = QTreeWidgetItem(under, [step_text(step)])
            row.setData(0, _PLACE, place)
            if why := "; ".join(wrong_with_step(self._machine, step)):
                row.setForeground(0, theme.color("vermilion"))
                row.setToolTip(0, f"{capital(why)}.")
            for side, block in enumerate(sides(step)):
                words = QTreeWidgetItem(row, [f"{side_words(step)[side]}:"])
                words.setData(0, _PLACE, (*place, side))
                self._rows(block, words, (*place, side))

    def _item(self, place: Place) -> QTreeWidgetItem | None:
        """The row of a step or of a side; where it is gone, of what it lay in. None where that is the action itself."""
        row: QTreeWidgetItem | None = None
        for number in place:
            under = row or self.steps.invisibleRootItem()
            if number >= under.childCount():
                break
            row = under.child(number)
        return row

    @property
    def _step_chosen(self) -> bool:
        """Whether a step is chosen, and not the side of a branch."""
        return len(self._at) % 2 == 1

    def _choose(self, item: QTreeWidgetItem | None) -> None:
        self._at = tuple(item.data(0, _PLACE)) if item is not None else ()
        for button in (self.up, self.down, self.out):
            button.setEnabled(self._step_chosen)
        fields: tuple[Field, ...] = ()
        why = ""
        if self._machine is not None and self._action is not None and self._step_chosen:
            step = step_at(self._action.steps, self._at)
            fields = fields_of(step, named_on(self._machine, self._action.name))
            why = "; ".join(wrong_with_step(self._machine, step))
        self.wrong.setText(f"{capital(why)}." if why else "")
        self.wrong.setVisible(bool(why))
        self._show_fields(fields)

    def _show_fields(self, fields: tuple[Field, ...]) -> None:
        """Editors that are of the same fields stay, and what is typed in one with it."""
        made = [(self._at, field.key, field.name, field.offers) for field in fields]
        if made != self._shown:
            focus = next((key for key, widget in self.editors.items() if widget.hasFocus()), "")
            self._shown, self.editors = made, {}
            emptied(self._fields)
            for place, field in enumerate(fields):
                row, col = divmod(place, COLUMNS)
                self.editors[field.key] = editor = self._editor(field)
                name = label(field.name, "small")
                self._fields.addWidget(name, 2 * row, col)
                across = COLUMNS if field.long else EMPTY_ACROSS if field.empty else 1
                self._fields.addWidget(editor, 2 * row + 1, col, 1, min(across, COLUMNS - col))
                for widget in (name, editor):
                    widget.show()
            if focus in self.editors:
                self.editors[focus].setFocus()
        for field in fields:
            editor = self.editors[field.key]
            if isinstance(editor, QComboBox):
                editor.setCurrentIndex(max(0, editor.findData(field.text)))
            elif isinstance(editor, QLineEdit) and not editor.isModified():
                editor.setText(field.text)

    def _editor(self, field: Field) -> QWidget:
        if field.offers:
            chosen = QComboBox()
            for key, words in field.offers:
                chosen.addItem(words, key)
            policy = QComboBox.SizeAdjustPolicy
            short = max(len(words) for _, words in field.offers) < SHORT
            chosen.setSizeAdjustPolicy(
                policy.AdjustToContents if short else policy.AdjustToMinimumContentsLengthWithIcon
            )
            chosen.activated.connect(lambda _: self._fill(field.key, chosen.currentData()))
            made: QWidget = chosen
        else:
            typed = QLineEdit(field.text)
            typed.setPlaceholderText(field.empty)
            typed.editingFinished.connect(lambda: self._fill_typed(field.key, typed))
            made = typed
        made.setAccessibleName(field.name)
        made.setMinimumWidth(max(NARROW, min(made.sizeHint().width(), WHOLE) if field.offers else 0))
        tall(made)
        return made

    # -- what is done -------------------------------------------------------------------------------------------------

    def _fill_typed(self, key: str, editor: QLineEdit) -> None:
        """What cannot be taken stays as it was typed, and it is said why."""
        if editor.isModified() and self._fill(key, editor.text()):
            editor.setModified(False)
            self._list()

    def _fill(self, key: str, text: str) -> bool:
        action, machine = self._action, self._machine
        if action is None or machine is None:
            return False
        try:
            step = filled(step_at(action.steps, self._at), key, text, named_on(machine, action.name))
        except Refusal as why:
            self.refused.emit(why.sentence)
            return False
        self._change(put_for(action.steps, self._at, step), self._at)
        return True

    def _change(self, steps: Steps, at: Place) -> None:
        assert self._action is not None and self._machine is not None
        self._at = at
        if steps != self._action.steps:
            action = Action(self._action.name, steps, self._action.event, self._action.key)
            self.edited.emit(with_one(actions_of(self._machine), action), action.name)

    def add_step(self, kind: str) -> None:
        """Behind the step that is chosen, or first in the side of a branch that is."""
        if self._action is None or self._machine is None:
            return
        try:
            step = fresh(kind, named_on(self._machine, self._action.name))
        except Refusal as why:
            self.refused.emit(why.sentence)
            return
        at = (*self._at[:-1], self._at[-1] + 1) if self._step_chosen else (*self._at, 0)
        self._change(put_in(self._action.steps, at, step), at)
        if self.editors:
            next(iter(self.editors.values())).setFocus()

    def _shift(self, by: int) -> None:
        if self._action is not None and self._step_chosen:
            self._change(*shifted(self._action.steps, self._at, by))

    def _take_out(self) -> None:
        if self._action is not None and self._step_chosen:
            at = (*self._at[:-1], max(0, self._at[-1] - 1))
            self._change(taken_out(self._action.steps, self._at), at)

    def _rename(self) -> None:
        if self._action is None or self._machine is None or not self.name.isModified():
            return
        try:
            name = named_by(self.name.text())
            actions = renamed(actions_of(self._machine), self._action.name, name)
        except Refusal as why:
            self.refused.emit(why.sentence)
            return
        self.name.setModified(False)
        if name != self._action.name:
            self.edited.emit(actions, name)

    def _head_anew(self, *, event: str | None = None, key: str | None = None) -> None:
        if self._action is None or self._machine is None:
            return
        try:
            action = headed(self._action, event=event, key=key)
        except Refusal as why:
            self.refused.emit(why.sentence)
            return
        if action != self._action:
            self.edited.emit(with_one(actions_of(self._machine), action), action.name)
