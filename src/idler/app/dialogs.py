"""Small dialogs: what will be sent, keeping a revision, the line of revisions. None of them hides the notice or STOP."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from idler.core.changes import Difference, axes_changed, differences
from idler.core.errors import IdlerError
from idler.core.machine import Machine
from idler.core.stations import Station
from idler.core.table import MACHINE

from .desk import Desk
from .keys import Bindings, Way, key_text
from .values import ValuePanel

if TYPE_CHECKING:
    from idler.shelf.history import Revision


class _Dialog(QDialog):
    """Not modal to the machine: STOP stays reachable, and Esc stops and closes."""

    def __init__(self, parent: QWidget, title: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(16, 14, 16, 14)
        self.column.setSpacing(8)
        head = QLabel(title)
        head.setProperty("role", "title")
        self.column.addWidget(head)

    def say(self, words: str, role: str = "soft") -> QLabel:
        label = QLabel(words)
        label.setProperty("role", role)
        label.setWordWrap(True)
        self.column.addWidget(label)
        return label

    def buttons(self, words: str) -> QPushButton:
        row = QHBoxLayout()
        row.addStretch(1)
        cancel = QPushButton("Not now")
        cancel.clicked.connect(self.reject)
        main = QPushButton(words)
        main.setProperty("role", "main")
        main.setDefault(True)
        row.addWidget(cancel)
        row.addWidget(main)
        self.column.addLayout(row)
        return main


def change_table(changes: list[Difference]) -> QTreeWidget:
    """Values with before and after."""
    table = QTreeWidget()
    table.setColumnCount(3)
    table.setHeaderLabels(["value", "before", "after"])
    table.setRootIsDecorated(False)
    table.setSelectionMode(QTreeWidget.SelectionMode.NoSelection)
    table.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    table.headerItem().setTextAlignment(1, Qt.AlignmentFlag.AlignRight)
    table.headerItem().setTextAlignment(2, Qt.AlignmentFlag.AlignRight)
    for change in changes:
        item = QTreeWidgetItem([change.label, change.before, change.after])
        for column in (1, 2):
            item.setTextAlignment(column, Qt.AlignmentFlag.AlignRight)
        table.addTopLevelItem(item)
    table.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
    table.header().setStretchLastSection(False)
    for column in (1, 2):
        table.header().setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
    return table


class SendDialog(_Dialog):
    """What will be sent, before it is."""

    def __init__(self, parent: QWidget, desk: Desk) -> None:
        super().__init__(parent, "Send to the controller")
        self.resize(560, 420)
        self._desk = desk
        changes = differences(desk.in_force, desk.machine)
        restart = sum(change.address.row.restart for change in changes)
        words = "Each value is written and read back, then all are stored. If one fails, the old values are put back."
        if restart:
            words += f" {restart} of them take effect after a restart of the controller."
        if other := axes_changed(desk.in_force, desk.machine):
            words = f"{other} The controller takes them up when it is restarted, and gives no power until then. {words}"
        self.say(words)
        self.column.addWidget(change_table(changes), 1)
        obstacle = desk.send_obstacle()
        if obstacle:
            self.say(f"This cannot be sent yet. {obstacle}", "warn")
        rests = {station for change in changes for station in change.address.row.rests}
        stale = [station.label for station in Station if station in rests]
        if stale:
            self.say(f"To prove again afterwards: {', '.join(stale)}.", "warn")
        self.restart = QCheckBox("Then restart the controller, and verify that all is in force")
        self.restart.setToolTip("The drives lose their power and the axes their home.")
        if restart or other:
            self.column.addWidget(self.restart)
            self.restart.setChecked(not any(axis.homed for axis in desk.axes))
        self.send_button = self.buttons(f"Send {len(changes)}")
        self.send_button.setEnabled(not obstacle)
        self.send_button.clicked.connect(self._send)

    def _send(self) -> None:
        self._desk.send(restart=self.restart.isChecked())
        self.accept()


class KeepDialog(_Dialog):
    """A note, and what this revision changes."""

    def __init__(self, parent: QWidget, desk: Desk) -> None:
        super().__init__(parent, "Keep revision")
        self.resize(560, 380)
        self._desk = desk
        changes = differences(desk.base, desk.machine)
        other = axes_changed(desk.base, desk.machine)
        nothing = "Nothing has changed since the last revision."
        self.say(f"What changed since the last revision: {other}" if changes or other else nothing)
        self.column.addWidget(change_table(changes), 1)
        self.note = QLineEdit()
        self.note.setPlaceholderText("A note for later, for example: measured the screw of X")
        self.note.setAccessibleName("Note")
        self.note.setMaxLength(200)
        self.column.addWidget(self.note)
        self.keep_button = self.buttons("Keep revision")
        self.keep_button.clicked.connect(self._keep)
        self.note.setFocus()

    def _keep(self) -> None:
        note = self.note.text().strip() or "; ".join(
            str(c) for c in differences(self._desk.base, self._desk.machine)[:3]
        )
        try:
            revision = self._desk.keep(note or "No change")
        except IdlerError as why:
            self._desk.told.emit("warn", f"The revision was not kept; your edits are still here. {why.sentence}")
            return
        self._desk.told.emit("plain", f"Kept as revision {revision.number}.")
        self.accept()


class NamesDialog(_Dialog):
    """Names and kind of the machine, and the unit of the screen. Fields take effect at once; undo works as everywhere."""

    def __init__(self, parent: QWidget, desk: Desk) -> None:
        super().__init__(parent, "Name, kind and unit")
        rows = [row for row in MACHINE.values() if row.group in ("names", "build")]
        self.panel = ValuePanel(desk, rows, columns=1)
        self.column.addWidget(self.panel)
        self.buttons("Done").clicked.connect(self.accept)


class KeyButton(QPushButton):
    """Shows the key of one way; pressed, it takes the next key. Delete leaves the way without a key."""

    def __init__(self, desk: Desk, bindings: Bindings, way: Way) -> None:
        super().__init__()
        self._desk, self._bindings, self._way = desk, bindings, way
        self._waiting = False
        self.setMinimumSize(112, 40)
        self.setAutoDefault(False)
        self.setAccessibleName(f"Key for {way[0]}{'plus' if way[1] > 0 else 'minus'}")
        self.clicked.connect(self._ask)
        bindings.changed.connect(self._show)
        self._show()

    def _ask(self) -> None:
        self._waiting = True
        self.setText("press a key")

    def _show(self) -> None:
        self._waiting = False
        key = self._bindings.key_of(self._way)
        self.setText(key_text(key) if key is not None else "none")

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._show()
        super().focusOutEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self._waiting:
            super().keyPressEvent(event)
            return
        key = Qt.Key(event.key())
        try:
            self._bindings.bind(self._way, None if key == Qt.Key.Key_Delete else key)
        except IdlerError as why:
            self._desk.told.emit("warn", why.sentence)
            self._show()


class JogDialog(_Dialog):
    """Speeds and steps of jogging, which belong to the machine, and the keys, which belong to the person."""

    def __init__(self, parent: QWidget, desk: Desk, bindings: Bindings) -> None:
        super().__init__(parent, "Jogging and its keys")
        rows = [row for row in MACHINE.values() if row.group == "jog"]
        self.panel = ValuePanel(desk, rows, columns=1)
        self.column.addWidget(self.panel)
        self.say(
            "Keys, once the keyboard is armed with F6. Press a button, then the key; Delete leaves it without one."
        )
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        self.keys: dict[Way, KeyButton] = {}
        for line, name in enumerate(desk.machine.names):
            grid.addWidget(QLabel(name), line, 0)
            for column, sign in ((1, -1), (2, 1)):
                button = KeyButton(desk, bindings, (name, sign))
                grid.addWidget(QLabel("−" if sign < 0 else "+"), line, 2 * column - 1)
                grid.addWidget(button, line, 2 * column)
                self.keys[name, sign] = button
        grid.setColumnStretch(5, 1)
        self.column.addLayout(grid)
        usual = QPushButton("The usual keys")
        usual.setAutoDefault(False)
        usual.clicked.connect(bindings.usual)
        self.column.addWidget(usual, alignment=Qt.AlignmentFlag.AlignLeft)
        self.buttons("Done").clicked.connect(self.accept)


class RevisionsDialog(_Dialog):
    """The revisions of the machine, what each changed, and the way back to one."""

    def __init__(self, parent: QWidget, desk: Desk) -> None:
        super().__init__(parent, "Revisions")
        self.resize(760, 460)
        self._desk = desk
        self._revisions = desk.revisions()
        row = QHBoxLayout()
        self.list = QListWidget()
        self.list.setAccessibleName("Revisions, newest first")
        self.list.setFixedWidth(300)
        self.list.setWordWrap(True)
        self.list.setSpacing(2)
        for revision in self._revisions:
            when = time.strftime("%-d %b %Y %H:%M", time.localtime(revision.when))
            mark = "found" if revision.as_found else f"{revision.number}"
            self.list.addItem(QListWidgetItem(f"{mark}   {when}\n{revision.note}"))
        row.addWidget(self.list)
        side = QVBoxLayout()
        self._words = QLabel()
        self._words.setWordWrap(True)
        self._words.setProperty("role", "soft")
        side.addWidget(self._words)
        self._table = QVBoxLayout()
        side.addLayout(self._table, 1)
        row.addLayout(side, 1)
        self.column.addLayout(row, 1)
        self.back_button = self.buttons("Take its values into the draft")
        self.back_button.clicked.connect(self._back)
        self.list.currentRowChanged.connect(self._show)
        self.list.setCurrentRow(0)

    def _chosen(self) -> Revision | None:
        at = self.list.currentRow()
        return self._revisions[at] if 0 <= at < len(self._revisions) else None

    def _show(self, _: int) -> None:
        revision = self._chosen()
        while (item := self._table.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        if revision is None:
            return
        try:
            machine: Machine = self._desk.machine_at(revision)
        except IdlerError as why:
            self._words.setText(f"This revision cannot be read. {why.sentence}")
            self.back_button.setEnabled(False)
            return
        changes = differences(self._desk.machine, machine)
        older = [r for r in self._revisions if r.number < revision.number and r.path == revision.path]
        did = [str(c) for c in differences(self._desk.machine_at(older[0]), machine)] if older else []
        changed = f"It changed: {'; '.join(did[:4])}{' and more' if len(did) > 4 else ''}.\n\n" if did else ""
        self.back_button.setEnabled(bool(changes))
        count = f"{len(changes)} values differ" if len(changes) != 1 else "1 value differs"
        differs = f"{count} from what is on the screen:" if changes else "The same as on the screen."
        self._words.setText(f"{revision.note}\n\n{changed}{differs}")
        if changes:
            self._table.addWidget(change_table(changes))
        else:
            self._table.addStretch(1)

    def _back(self) -> None:
        revision = self._chosen()
        if revision is None:
            return
        try:
            self._desk.go_back(revision)
        except IdlerError as why:
            self._desk.told.emit("warn", why.sentence)
            return
        self._desk.told.emit(
            "plain", f"The draft holds the values of revision {revision.number}. Undo takes you back; nothing was sent."
        )
        self.accept()
