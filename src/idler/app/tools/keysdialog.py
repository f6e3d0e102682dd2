"""Dialogs in which keys are given: to jogging, beside its speeds and steps, and to the commands of the menu."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QEvent, QKeyCombination, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QGridLayout, QPushButton, QWidget

from idler.core.errors import IdlerError
from idler.core.table import MACHINE
from idler.session.session import Session

from ..widgets.cards import label, scrolled
from ..widgets.values import ValuePanel
from .commands import COMMANDS
from .dialogs import PlainDialog
from .keys import Bindings, Way, key_text, keys_text

_HELD = (Qt.Key.Key_Control, Qt.Key.Key_Shift, Qt.Key.Key_Alt, Qt.Key.Key_Meta, Qt.Key.Key_AltGr)


def _key_shown(bindings: Bindings, way: Way) -> str:
    return key_text(key) if (key := bindings.key_of(way)) is not None else ""


def _bind(bindings: Bindings, way: Way, pressed: QKeyCombination | None) -> None:
    bindings.bind(way, pressed.key() if pressed is not None else None)


def _keys_shown(bindings: Bindings, name: str) -> str:
    return keys_text(bindings.keys_of(name)).replace(";", " or")


def _bind_command(bindings: Bindings, name: str, pressed: QKeyCombination | None) -> None:
    bindings.bind_command(name, QKeySequence(pressed) if pressed is not None else None)


class KeyButton(QPushButton):
    """Shows the keys of one thing; pressed, it takes the next ones. Delete leaves it without."""

    def __init__(self, session: Session, bindings: Bindings, name: str, shown: Callable[[], str],
                 bind: Callable[[QKeyCombination | None], None]) -> None:  # fmt: skip
        super().__init__()
        self._session, self._shown, self._bind = session, shown, bind
        self._waiting = False
        self.setMinimumSize(112, 40)
        self.setAutoDefault(False)
        self.setAccessibleName(name)
        self.clicked.connect(self._ask)
        bindings.changed.connect(self._show)
        self._show()

    def _ask(self) -> None:
        self._waiting = True
        self.setText("press a key")

    def _show(self) -> None:
        self._waiting = False
        self.setText(self._shown() or "none")

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._show()
        super().focusOutEvent(event)

    def event(self, event: QEvent) -> bool:
        if self._waiting and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # what the keys usually do is not meant now
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self._waiting or event.key() == Qt.Key.Key_Escape:
            super().keyPressEvent(event)
            return
        if event.key() in _HELD:
            return
        pressed = event.keyCombination()
        try:
            self._bind(None if pressed.key() == Qt.Key.Key_Delete else pressed)
        except IdlerError as why:
            self._session.tell("warn", why.sentence)
            self._show()


class JogDialog(PlainDialog):
    """Speeds and steps of jogging, which belong to the machine, and the keys, which belong to the person."""

    def __init__(self, parent: QWidget, session: Session, bindings: Bindings) -> None:
        super().__init__(parent, "Jogging and its keys")
        rows = [row for row in MACHINE.values() if row.group == "jog"]
        self.panel = ValuePanel(session, rows, columns=1)
        self.column.addWidget(self.panel)
        arms = bindings.text_of("arm")
        self.say(
            f"Keys, once the keyboard is armed{f' with {arms}' if arms else ''}. Press a button, then the key; Delete "
            "leaves it without one."
        )
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        self.keys: dict[Way, KeyButton] = {}
        for line, name in enumerate(session.machine.names):
            grid.addWidget(label(name), line, 0)
            for column, sign in ((1, -1), (2, 1)):
                way = name, sign
                button = KeyButton(
                    session, bindings, f"Key for {name} {'plus' if sign > 0 else 'minus'}",
                    partial(_key_shown, bindings, way), partial(_bind, bindings, way),
                )  # fmt: skip
                grid.addWidget(label("−" if sign < 0 else "+"), line, 2 * column - 1)
                grid.addWidget(button, line, 2 * column)
                self.keys[way] = button
        grid.setColumnStretch(5, 1)
        self.column.addLayout(grid)
        usual = QPushButton("The usual keys")
        usual.setAutoDefault(False)
        usual.clicked.connect(bindings.usual_ways)
        self.column.addWidget(usual, alignment=Qt.AlignmentFlag.AlignLeft)
        self.buttons("Done", at_once=True).clicked.connect(self.accept)


class CommandKeysDialog(PlainDialog):
    """The keys of every command. They belong to the person, not to the machine."""

    def __init__(self, parent: QWidget, session: Session, bindings: Bindings) -> None:
        super().__init__(parent, "Keys of the menu")
        self.resize(540, 600)
        self.say(
            "Press a button, then the keys: one of F1 to F12, or a key with Ctrl or Alt. Delete leaves the command "
            "without. What reaches the controller or ends the work is never on a single key, and Esc is STOP."
        )
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 8, 0)
        grid.setColumnStretch(0, 1)
        self.keys: dict[str, KeyButton] = {}
        for line, (name, command) in enumerate(COMMANDS.items()):
            button = KeyButton(
                session, bindings, f"Keys for {command.words}",
                partial(_keys_shown, bindings, name), partial(_bind_command, bindings, name),
            )  # fmt: skip
            button.setMinimumWidth(200)
            grid.addWidget(label(command.words), line, 0)
            grid.addWidget(button, line, 1)
            self.keys[name] = button
        self.column.addWidget(scrolled(page), 1)
        usual = QPushButton("The usual keys")
        usual.setAutoDefault(False)
        usual.clicked.connect(bindings.usual_keys)
        self.column.addWidget(usual, alignment=Qt.AlignmentFlag.AlignLeft)
        self.buttons("Done", at_once=True).clicked.connect(self.accept)
