"""What Idler opens with, and the values that the controller is given at each connect."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QCompleter,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QWidget,
)

from idler.core.errors import IdlerError
from idler.core.machine import Address
from idler.core.mechanics.entry import read_field
from idler.core.table.stations import Station
from idler.session.session import Session
from idler.shelf.settings import Settings

from ..widgets.cards import label
from .dialogs import PlainDialog

_KEY = Qt.ItemDataRole.UserRole


class StartDialog(PlainDialog):
    """Kept at once where it says so, by `keep`; values are checked as a field would."""

    def __init__(self, parent: QWidget, session: Session, settings: Settings, keep: Callable[[Settings], None]) -> None:
        super().__init__(parent, "Start-up")
        self.resize(560, 500)
        self._session, self._settings, self._keep = session, settings, keep
        self.machine, self.station = QComboBox(), QComboBox()
        self.machine.addItem("the last one", "")
        for name in (session.name, *session.history.others()):
            self.machine.addItem(name, name)
        for station in Station:
            self.station.addItem(station.label, station.key)
        self.machine.setCurrentIndex(max(0, self.machine.findData(settings.opens)))
        self.station.setCurrentIndex(max(0, self.station.findData(settings.station)))
        self.connects = QCheckBox(f"Connect at once to {settings.address or 'the last controller'}")
        self.connects.setChecked(settings.connects)
        row = QHBoxLayout()
        for words, box in (("Idler opens with", self.machine), ("at", self.station)):
            row.addWidget(label(words, "soft"))
            row.addWidget(box)
        row.addStretch(1)
        self.column.addLayout(row)
        self.column.addWidget(self.connects)
        self.say(
            "Given to the controller at each connect, where it holds another value. It does not store them, and your "
            "draft stays as it is."
        )
        self.list = QListWidget()
        self.list.setAccessibleName("Values for each connect")
        self.column.addWidget(self.list, 1)
        self.column.addLayout(self._adding())
        self.trouble = self.trouble_line()
        self.main_button = self.buttons("Done")
        self.main_button.clicked.connect(self._done)
        self._values = dict(session.controller.startup)
        self._show()

    def _adding(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.which = QComboBox()
        self.which.setEditable(True)
        self.which.setAccessibleName("Value to set")
        machine = self._session.machine
        for address in machine.addresses():
            if not address.row.given:
                self.which.addItem(machine.part(address), address)
        completer = self.which.completer()
        assert completer is not None  # an editable box has one
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setCompletionMode(QCompleter.CompletionMode.PopupCompletion)
        self.text = QLineEdit()
        self.text.setPlaceholderText("value with its unit")
        self.text.setFixedWidth(130)
        self.text.returnPressed.connect(self._add)
        add, remove = QPushButton("Add"), QPushButton("Remove")
        add.clicked.connect(self._add)
        remove.clicked.connect(self._remove)
        for button in (add, remove):
            button.setAutoDefault(False)
        row.addWidget(self.which, 1)
        for widget in (self.text, add, remove):
            row.addWidget(widget)
        return row

    def _show(self) -> None:
        self.list.clear()
        machine = self._session.machine.with_values(self._values)
        for address in self._values:
            item = QListWidgetItem(f"{machine.part(address)}: {machine.show(address)}")
            item.setData(_KEY, address)
            self.list.addItem(item)

    def _add(self) -> None:
        address = self.which.itemData(self.which.findText(self.which.currentText()))
        if not isinstance(address, tuple):
            self.trouble.setText(f"“{self.which.currentText()}” is no value of this machine. Choose one from the list.")
            return
        address = Address(*address)
        try:
            self._values[address] = read_field(self._session.machine, address, self.text.text())
            self._session.machine.with_values(self._values)
        except IdlerError as why:
            self._values.pop(address, None)
            self.trouble.setText(why.sentence)
            return
        self.trouble.setText("")
        self.text.clear()
        self._show()

    def _remove(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self._values.pop(Address(*item.data(_KEY)), None)
            self._show()

    def _done(self) -> None:
        try:
            self._session.controller.keep_startup(self._values)
            self._keep(replace(self._settings, opens=self.machine.currentData(), station=self.station.currentData(),
                               connects=self.connects.isChecked()))  # fmt: skip
        except IdlerError as why:
            self.trouble.setText(why.sentence)
            return
        self.accept()
