"""A hand device: which there are, and what each wheel, stick and button does. It is assigned by moving it."""

from __future__ import annotations

from PySide6.QtCore import QFileSystemWatcher
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QListWidget, QPushButton, QWidget

from idler.core.errors import IdlerError
from idler.core.hand.assignment import Assigned, Control, Does
from idler.core.rules.actions import actions_of
from idler.core.words import capital
from idler.link.hand.sources import HandDevice, find, folders
from idler.procedures.jogging.hand import HandDesk, suits
from idler.session.session import Session

from ..bridge import follow
from ..widgets.cards import tall
from .dialogs import PlainDialog

WIDE = 520
_OF_AXIS = (Does.STEP, Does.SPEED, Does.CHOOSE)


class HandDialog(PlainDialog):
    def __init__(self, parent: QWidget, session: Session, desk: HandDesk) -> None:
        super().__init__(parent, "Hand device")
        self._session, self._desk = session, desk
        self._found: list[HandDevice] = []
        self._shown: Control | None = None
        self.setMinimumWidth(WIDE)
        self.say("Any wheel, stick or button of this computer. Nothing moves unless a dead man is assigned, and held.")
        row = QHBoxLayout()
        self.devices = QComboBox()
        self.devices.setAccessibleName("Device")
        self.look, self.connect_button = QPushButton("Look again"), QPushButton("Take it into the hand")
        self.look.clicked.connect(self._look)
        self.connect_button.clicked.connect(self._connect)
        for widget in (self.devices, self.look, self.connect_button):
            tall(widget)
            row.addWidget(widget, widget is self.devices)
        self.column.addLayout(row)
        self.state = self.say("")
        self.moved = self.say("", "heading")
        chosen = QHBoxLayout()
        self.does, self.what = QComboBox(), QComboBox()
        self.does.setAccessibleName("What it does")
        self.what.setAccessibleName("Of which axis, or which action")
        self.does.activated.connect(lambda _: self._offer())
        self.assign = QPushButton("Assign it")
        self.assign.clicked.connect(self._assign)
        for widget in (self.does, self.what, self.assign):
            tall(widget)
            chosen.addWidget(widget, widget is self.does)
        self.column.addLayout(chosen)
        self.list = QListWidget()
        self.list.setAccessibleName("What is assigned")
        self.column.addWidget(self.list)
        self.buttons("Close", at_once=True).clicked.connect(self.accept)
        follow(desk.changed, self.refresh)
        self._look()
        self._watch = QFileSystemWatcher(folders(), self)  # what is plugged in or pulled out meanwhile
        self._watch.directoryChanged.connect(lambda _: self._look())

    def _look(self) -> None:
        self._found, why = find()
        kept = self.devices.currentText()
        self.devices.clear()
        self.devices.addItems([f"{each.name} ({each.vendor:04x}:{each.product:04x})" for each in self._found])
        self.devices.setCurrentIndex(max(0, self.devices.findText(kept)))
        self.connect_button.setEnabled(bool(self._found))
        self.state.setText(why or ("" if self._found else "No device was found. Plug one in, and look again."))
        self.refresh()

    def _connect(self) -> None:
        try:
            self._desk.connect(self._found[self.devices.currentIndex()])
        except IdlerError as why:
            self.state.setText(why.sentence)

    def _offer(self) -> None:
        """What can be named for what is chosen."""
        does = self.does.currentData()
        names = list(self._session.machine.names)
        kept = self.what.currentText()
        self.what.clear()
        if does in _OF_AXIS:
            self.what.addItems([*([] if does is Does.CHOOSE else ["the chosen axis"]), *names])
        elif does is Does.ACTION:
            self.what.addItems([each.name for each in actions_of(self._session.machine)])
        self.what.setCurrentIndex(max(0, self.what.findText(kept)))
        self.what.setVisible(self.what.count() > 0)
        self.assign.setEnabled(self._shown is not None and (does is not Does.ACTION or self.what.count() > 0))

    def _assign(self) -> None:
        does, what = self.does.currentData(), self.what.currentText()
        if self._shown is None or does is None:
            return
        named = does is Does.ACTION or (does in _OF_AXIS and what in self._session.machine.names)
        try:
            self._desk.assign(self._shown, Assigned(does, what if named else ""))
        except IdlerError as why:
            self.state.setText(why.sentence)

    def refresh(self) -> None:
        desk, last = self._desk, self._desk.last
        if desk.device is not None:
            self.state.setText(f"In the hand: {desk.device.name}; {desk.held_words}.")
        self.moved.setText(f"You moved: {last}." if last is not None else "Turn or press what you want to assign.")
        if last != self._shown:
            self._shown = last
            self.does.clear()
            for does in suits(last) if last is not None else ():
                self.does.addItem(capital(does.words), does)
            if last is not None:
                self.does.setCurrentIndex(max(0, self.does.findData(desk.profile.of(last).does)))
            self._offer()
        rows = [
            f"{control}: {each.does.words}{f' ({each.what})' if each.what else ''}"
            for control, each in desk.profile.assigned.items()
        ]
        if rows != [self.list.item(row).text() for row in range(self.list.count())]:
            self.list.clear()
            self.list.addItems(rows)
