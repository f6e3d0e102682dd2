"""The plain parts of a controller: who they are, and what their makers' data sheets say beside the parts."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QPlainTextEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QWidget,
)

from idler.core.controller.parts import SPINDLE, PartCondition, PartFacts
from idler.core.errors import IdlerError
from idler.core.values.units import several
from idler.session.session import Session

from ..bridge import follow
from .dialogs import PlainDialog

NO_SHEET = "none"
LOOK_MS = 500
_HEADS = ("node", "what it is", "calls itself", "maker and kind", "serial number", "data sheet")


class PartsDialog(PlainDialog):
    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, "Parts of this controller")
        self._session = session
        self.resize(880, 560)
        self.say(
            "The data sheet of a part (its maker's .eds file) says how far its values may go. What the part itself says wins."
        )
        self.table = QTreeWidget()
        self.table.setColumnCount(len(_HEADS))
        self.table.setHeaderLabels(_HEADS)
        self.table.setRootIsDecorated(False)
        self.table.setAccessibleName("Parts")
        self.table.header().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.currentItemChanged.connect(lambda *_: self._choose_anew())
        self.column.addWidget(self.table, 3)
        self.now = self.say("")
        self.words = QPlainTextEdit()
        self.words.setReadOnly(True)
        self.words.setAccessibleName("What its data sheet says")
        self.column.addWidget(self.words, 3)
        self.trouble = self.trouble_line()
        row = QHBoxLayout()
        self.file_button, self.ask_button = QPushButton("Take a file…"), QPushButton("Ask the part for its own")
        self.ask_button.setToolTip("Some parts keep their data sheet themselves (object 1021h). It takes some seconds.")
        self.file_button.clicked.connect(self._choose)
        self.ask_button.clicked.connect(self._ask)
        for button in (self.file_button, self.ask_button):
            button.setAutoDefault(False)
            row.addWidget(button)
        row.addStretch(1)
        self.column.addLayout(row)
        self.buttons("Close", at_once=True).clicked.connect(self.accept)
        follow(session.sheets.changed, self._came)
        follow(session.failed, self._failed)
        follow(session.sheets.now, self._is_now)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._timer.start(LOOK_MS)

    def hideEvent(self, event: QHideEvent) -> None:
        self._timer.stop()
        super().hideEvent(event)

    @property
    def chosen(self) -> PartFacts | None:
        item = self.table.currentItem()
        node = item.data(0, Qt.ItemDataRole.UserRole) if item is not None else 0
        return next((part for part in self._session.sheets.parts if part.identity.node == node), None)

    def _choose_anew(self) -> None:
        self.now.setText("")
        self._look()
        self._tell()

    def _look(self) -> None:
        """How the chosen part is at this moment; terminals and encoders have nothing to say of that."""
        part = self.chosen
        drives = part is not None and (part.slot is not None or part.role == SPINDLE)
        if part is None or not drives:
            self.now.setText("")
        elif self.isVisible() and self._session.connected:
            self._session.sheets.ask_now(part.identity.node)

    def _is_now(self, node: int, condition: PartCondition) -> None:
        part, machine = self.chosen, self._session.machine
        if part is not None and part.identity.node == node:
            known = part.slot is not None and part.slot < len(machine.names)
            self.now.setText(condition.words(machine.axis(part.slot) if known and part.slot is not None else None))

    def _came(self) -> None:
        self.trouble.setText("")
        self.refresh()

    def refresh(self) -> None:
        """The table anew; the same part stays chosen."""
        before = self.chosen
        self.table.clear()
        names = self._session.machine.names
        for part in self._session.sheets.parts:
            who, sheet = part.identity, self._session.sheets.of.get(part.identity.node)
            what = f"axis {names[part.slot]}" if part.slot is not None and part.slot < len(names) else part.role
            told = sheet.title or "without a name" if sheet is not None else NO_SHEET
            if sheet is not None and sheet.faults:
                told += f", {several(len(sheet.faults), 'error')}"
            cells = [str(who.node), what, who.name, f"{who.vendor:X}h, {who.product:X}h", str(who.serial), told]
            item = QTreeWidgetItem(cells)
            item.setData(0, Qt.ItemDataRole.UserRole, who.node)
            self.table.addTopLevelItem(item)
            if before is not None and before.identity.node == who.node:
                self.table.setCurrentItem(item)
        if self.table.currentItem() is None and (first := self.table.topLevelItem(0)) is not None:
            self.table.setCurrentItem(first)
        self._tell()

    def _tell(self) -> None:
        part = self.chosen
        for button in (self.file_button, self.ask_button):
            button.setEnabled(part is not None)
        sheet = self._session.sheets.of.get(part.identity.node) if part is not None else None
        if part is None:
            self.words.setPlainText("No controller that is made of plain parts is connected.")
            return
        if sheet is None:
            self.words.setPlainText("Nothing is known of it but what it says itself.")
            return
        differ = self._session.sheets.differences(part)
        described = sheet.objects.values()
        bounded = sum(each.low is not None or each.high is not None for each in described)
        of = "".join(
            (f", of {sheet.maker}" if sheet.maker else "", f", revision {sheet.revision:X}h" if sheet.revision else "")
        )
        lines = [
            f"{sheet.title or 'A part'}{of}: {len(described)} objects, {bounded} with bounds, "
            f"{sum(each.mappable for each in described)} that can be mapped.",
            *(["", "The part is not as its file has it; the part counts:", *differ] if differ else []),
            *(["", "The file has errors, which were left out:", *sheet.faults] if sheet.faults else []),
        ]
        self.words.setPlainText("\n".join(lines))

    def _choose(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Data sheet of a part", "", "Data sheets (*.eds *.EDS);;All files (*)"
        )
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """A file for the chosen part, and for all of its kind."""
        part = self.chosen
        if part is None:
            return
        try:
            self._session.sheets.take_file(part.identity.node, path)
            self.trouble.setText("")
        except IdlerError as why:
            self.trouble.setText(why.sentence)

    def _ask(self) -> None:
        part = self.chosen
        if part is not None:
            self.trouble.setText("Reading it…")
            self._session.sheets.ask(part.identity.node)

    def _failed(self, what: str) -> None:
        if what == "sheet":
            self.trouble.setText(self._session.refusal)
