"""Small dialogs: what will be sent, keeping a revision, names, the PIN. None of them hides the notice or STOP."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QTextCursor
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from idler.core.errors import IdlerError
from idler.core.machine import Machine
from idler.core.machine.changes import Difference, axes_changed, differences
from idler.core.proof.claims import staled
from idler.core.table import MACHINE
from idler.procedures.registry import help_pages
from idler.session.session import Session

from ..widgets.trouble import Trouble
from ..widgets.values import ValuePanel
from .helpdialog import HelpDialog

MOST_STALE = 6  # proofs that are named


class PlainDialog(QDialog):
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

    def trouble_line(self) -> Trouble:
        """Where it is said what stands in the way."""
        line = Trouble()
        line.explained.connect(self.explain)
        self.column.addWidget(line)
        return line

    def explain(self, key: str) -> None:
        """A page of the help, beside this dialog."""
        help_ = self.findChild(HelpDialog) or HelpDialog(self, help_pages())
        help_.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        help_.show_page(key)
        help_.show()

    def buttons(self, words: str, *, at_once: bool = False) -> QPushButton:
        """The main button, which this returns. at_once: what is done here is done already, so nothing is to be left undone."""
        row = QHBoxLayout()
        row.addStretch(1)
        cancel = QPushButton("Not now")
        cancel.clicked.connect(self.reject)
        if at_once:
            cancel.hide()
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


class SendDialog(PlainDialog):
    """What will be sent, before it is. machine: where it is not the draft as a whole."""

    def __init__(self, parent: QWidget, session: Session, machine: Machine | None = None) -> None:
        super().__init__(parent, "Send to the controller")
        self.resize(560, 420)
        self._session, self._machine = session, machine
        wanted = machine or session.machine
        changes = differences(session.in_controller, wanted)
        restart = sum(change.address.row.restart for change in changes)
        words = "Each value is written and read back, then all are stored. If one fails, the old values are put back."
        if restart:
            words += f" {restart} of them take effect after a restart of the controller."
        if other := axes_changed(session.in_controller, wanted):
            words = f"{other} The controller takes them up when it is restarted, and gives no power until then. {words}"
        self.say(words)
        self.column.addWidget(change_table(changes), 1)
        obstacle = session.send_obstacle(machine)
        if obstacle:
            self.say(f"This cannot be sent yet. {obstacle}", "warn")
        stale = [claim.label for claim in staled(session.in_controller, wanted, session.proofs)]
        if stale:
            more = f" and {len(stale) - MOST_STALE} more" if len(stale) > MOST_STALE else ""
            self.say(f"To prove again afterwards: {', '.join(stale[:MOST_STALE])}{more}.", "warn")
        self.restart = QCheckBox("Then restart the controller, and verify that all is in force")
        self.restart.setToolTip("The drives lose their power and the axes their home.")
        if restart or other:
            self.column.addWidget(self.restart)
            self.restart.setChecked(not any(axis.homed for axis in session.axes))
        self.send_button = self.buttons(f"Send {len(changes)}")
        self.send_button.setEnabled(not obstacle)
        self.send_button.clicked.connect(self._send)

    def _send(self) -> None:
        self._session.send(self._machine, restart=self.restart.isChecked())
        self.accept()


class KeepDialog(PlainDialog):
    """A note, and what this revision changes."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, "Keep revision")
        self.resize(560, 380)
        self._session = session
        changes = differences(session.base, session.machine)
        other = axes_changed(session.base, session.machine)
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
            str(c) for c in differences(self._session.base, self._session.machine)[:3]
        )
        try:
            revision = self._session.history.keep(note or "No change")
        except IdlerError as why:
            self._session.refuse("The revision was not kept; your edits are still here.", why.sentence)
            return
        self._session.tell("plain", f"Kept as revision {revision.number}.")
        self.accept()


class NamesDialog(PlainDialog):
    """Names and kind of the machine, and the unit of the screen. Fields take effect at once; undo works as everywhere."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, "Name, kind and unit")
        rows = [row for row in MACHINE.values() if row.group in ("names", "build")]
        self.panel = ValuePanel(session, rows, columns=1)
        self.column.addWidget(self.panel)
        self.buttons("Done", at_once=True).clicked.connect(self.accept)


class PinDialog(PlainDialog):
    """Opens the lock of the set-up, or makes one: then the PIN is asked for twice."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        self._lock = session.lock
        making = not session.lock.closed
        super().__init__(parent, "Lock the set-up with a PIN" if making else "Unlock the set-up")
        self.say(
            "Nobody changes a value by accident then; reading, jogging, homing and stopping stay free. A forgotten PIN "
            "can be taken away with “idler unlock”, which leaves a mark in the revisions."
            if making
            else "It stays unlocked until you lock it again, or until Idler ends."
        )
        self.pin, self.again = QLineEdit(), QLineEdit()
        for field, words in ((self.pin, "PIN"), (self.again, "the same again")):
            field.setEchoMode(QLineEdit.EchoMode.Password)
            field.setPlaceholderText(words)
            field.setAccessibleName(words)
            self.column.addWidget(field)
        self.again.setVisible(making)
        self.trouble = self.trouble_line()
        self.main_button = self.buttons("Lock" if making else "Unlock")
        self.main_button.clicked.connect(self._make if making else self._open)
        self.pin.setFocus()

    def _make(self) -> None:
        if self.pin.text() != self.again.text():
            self.trouble.setText("The two are not the same. Type both again.")
            return
        try:
            self._lock.set_pin(self.pin.text())
        except IdlerError as why:
            self.trouble.setText(why.sentence)
            return
        self.accept()

    def _open(self) -> None:
        try:
            opened = self._lock.open(self.pin.text())
        except IdlerError as why:
            self.trouble.setText(why.sentence)
            return
        if opened:
            self.accept()
        else:
            self.trouble.setText("This is not the PIN. Try again; nothing was changed.")
            self.pin.selectAll()


class LogDialog(PlainDialog):
    """The end of the log, as it was when this was opened."""

    def __init__(self, parent: QWidget, file: Path, text: str) -> None:
        super().__init__(parent, "Log")
        self.resize(820, 520)
        self.say(f"The end of {file}")
        self.text = QPlainTextEdit(text or "Nothing is in the log yet.")
        self.text.setReadOnly(True)
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.text.setAccessibleName("Log")
        self.column.addWidget(self.text, 1)
        self.text.moveCursor(QTextCursor.MoveOperation.End)
        self.buttons("Done", at_once=True).clicked.connect(self.accept)


class FactoryDialog(PlainDialog):
    """Before a controller forgets everything: what that means, and what is kept of it."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, "Factory values")
        self._session = session
        found = next((revision for revision in session.history.whole() if revision.as_found), None)
        kept = f"revision {found.number}, as found" if found is not None else "no revision yet: read it again first"
        self.say(
            "The controller forgets this machine: counts, speeds, switches and limits become those that it was delivered "
            "with, it restarts, and stores them. Axes may then run the wrong way or without limits."
        )
        self.say(f"What it held at first contact is kept: {kept}. Your draft stays as it is, and can be sent again.")
        obstacle = session.lock.obstacle or ("The machine is moving. Stop it first." if session.moving else "")
        if obstacle:
            self.say(obstacle, "warn")
        self.main_button = self.buttons("Restore factory values")
        self.main_button.setEnabled(not obstacle and found is not None)
        self.main_button.clicked.connect(self._restore)

    def _restore(self) -> None:
        self._session.restore_factory()
        self.accept()
