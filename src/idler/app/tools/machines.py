"""The machines of the shelf: open one, make a new one, give another name, archive."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QWidget,
)

from idler.core.errors import IdlerError
from idler.core.machine import file as machinefile
from idler.session.session import Session
from idler.shelf.dates import moment
from idler.shelf.examples import examples
from idler.shelf.shelf import Shelf

from ..widgets.cards import label
from .describedialog import DescribeDialog
from .dialogs import PlainDialog

_KEY = Qt.ItemDataRole.UserRole


class MachinesDialog(PlainDialog):
    """Everything here acts at once and is a revision; nothing is deleted."""

    chosen = Signal(str)  # a machine is to be opened

    def __init__(self, parent: QWidget, session: Session, shelf: Shelf) -> None:
        super().__init__(parent, "Machines on the shelf")
        self.resize(640, 520)
        self._session, self._shelf = session, shelf
        self.say(f"In {shelf.root}. Each machine is a text file; its revisions are a Git repository beside it.")
        self.list = QListWidget()
        self.list.setAccessibleName("Machines")
        self.list.itemDoubleClicked.connect(lambda _: self.open_chosen())
        self.list.currentRowChanged.connect(lambda _: self._show_buttons())
        self.column.addWidget(self.list, 1)
        self.archived = QCheckBox("archived machines too")
        self.archived.toggled.connect(lambda _: self.refresh())
        row = QHBoxLayout()
        row.addWidget(self.archived)
        row.addStretch(1)
        self.archive_button = QPushButton("Archive")
        self.archive_button.clicked.connect(self._archive)
        row.addWidget(self.archive_button)
        self.column.addLayout(row)
        self.column.addLayout(self._new())
        self.column.addWidget(self.describe_button, 0, Qt.AlignmentFlag.AlignLeft)
        self.trouble = self.trouble_line()
        self.open_button = self.buttons("Open")
        self.open_button.clicked.connect(self.open_chosen)
        self.refresh()

    def _new(self) -> QHBoxLayout:
        """One line of a name: for a new machine, or another name of the one that is chosen."""
        row = QHBoxLayout()
        self.name = QLineEdit()
        self.name.setPlaceholderText("name: small letters, figures, hyphens")
        self.name.setAccessibleName("Name for a new machine, or another name")
        self.source = QComboBox()
        self.source.setAccessibleName("What a new machine begins with")
        self.describe_button = QPushButton("Describe a new one…")
        self.describe_button.setToolTip(
            "A handful of questions: what kind, which axes, what drives them, where home lies."
        )
        self.describe_button.clicked.connect(self.describe)
        self.new_button, self.rename_button = QPushButton("New machine"), QPushButton("Rename")
        self.new_button.clicked.connect(self._make)
        self.rename_button.clicked.connect(self._rename)
        for button in (self.describe_button, self.new_button, self.rename_button):
            button.setAutoDefault(False)
        row.addWidget(self.name, 1)
        row.addWidget(label("from", "soft"))
        row.addWidget(self.source)
        row.addWidget(self.new_button)
        row.addWidget(self.rename_button)
        return row

    def _text_of(self, name: str) -> str:
        return self._shelf.load(name).text

    def _sources(self) -> dict[str, Callable[[], str]]:
        found: dict[str, Callable[[], str]] = {}
        if self._session.connected:
            found["the connected controller"] = lambda: machinefile.write(self._session.in_controller)
        for name in self._shelf.names():
            found[f"machine {name}"] = partial(self._text_of, name)
        for name, text in examples().items():
            found[f"example {name}"] = partial(str, text)
        return found

    # -- the list -------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        chosen = self._chosen()
        self.list.clear()
        for name in self._shelf.names():
            self._add(name, self._words(name), archived=False)
        for name in self._shelf.archived() if self.archived.isChecked() else ():
            self._add(name, f"{name}\narchived", archived=True)
        rows = [self.list.item(row).data(_KEY) for row in range(self.list.count())]
        wanted = (chosen, False) if (chosen, False) in rows else (self._session.name, False)
        self.list.setCurrentRow(rows.index(wanted) if wanted in rows else 0)
        before = self.source.currentText()
        self.source.clear()
        self.source.addItems(list(self._sources()))
        self.source.setCurrentIndex(max(0, self.source.findText(before)))
        self._show_buttons()

    def _add(self, name: str, words: str, *, archived: bool) -> None:
        item = QListWidgetItem(words)
        item.setData(_KEY, (name, archived))
        self.list.addItem(item)

    def _words(self, name: str) -> str:
        try:
            (title, letters), revisions = self._shelf.glance(name), self._shelf.revisions(name)
        except IdlerError as why:
            return f"{name}\n{why.sentence}"
        newest = revisions[0] if revisions else None
        when = f", {moment(newest.when)}" if newest else ""
        here = "   (open)" if name == self._session.name else ""
        return f"{name}: {title}, axes {' '.join(letters)}{here}\n{newest.note if newest else ''}{when}"

    def _item(self) -> tuple[str, bool] | None:
        item = self.list.currentItem()
        chosen: tuple[str, bool] | None = item.data(_KEY) if item is not None else None
        return chosen

    def _chosen(self) -> str:
        item = self._item()
        return item[0] if item is not None else ""

    def _show_buttons(self) -> None:
        item = self._item()
        archived = item is not None and item[1]
        own = item is not None and item[0] == self._session.name
        self.archive_button.setText("Bring back" if archived else "Archive")
        self.archive_button.setEnabled(item is not None and not own)
        self.archive_button.setToolTip("The machine that is open cannot be archived." if own else "")
        self.rename_button.setEnabled(item is not None and not archived and not own)
        self.rename_button.setToolTip(
            "The machine that is open cannot be renamed: open another one first." if own else ""
        )
        self.open_button.setEnabled(item is not None and not archived and not own)

    # -- doing ----------------------------------------------------------------------------------------------------

    def _try(self, work: Callable[[], object]) -> bool:
        try:
            work()
        except IdlerError as why:
            self.trouble.setText(why.sentence)
            return False
        self.trouble.setText("")
        self.name.clear()
        self.refresh()
        return True

    def _make(self) -> None:
        name, source = self.name.text().strip(), self.source.currentText()
        if self._try(lambda: self._shelf.add(name, self._sources()[source](), f"New, from {source}", time.time())):
            row = next(k for k in range(self.list.count()) if self.list.item(k).data(_KEY)[0] == name)
            self.list.setCurrentRow(row)

    def describe(self) -> DescribeDialog:
        """Asks about a machine that nobody has described yet; it is chosen in the list then."""
        dialog = DescribeDialog(self, lambda name, text, note: self._shelf.add(name, text, note, time.time()))

        def made() -> None:
            self.refresh()
            rows = [self.list.item(row).data(_KEY)[0] for row in range(self.list.count())]
            if dialog.made in rows:
                self.list.setCurrentRow(rows.index(dialog.made))

        dialog.accepted.connect(made)
        dialog.finished.connect(dialog.deleteLater)
        dialog.show()
        return dialog

    def _rename(self) -> None:
        old, new = self._chosen(), self.name.text().strip()
        self._try(lambda: self._shelf.rename(old, new, time.time()))

    def _archive(self) -> None:
        item = self._item()
        if item is not None:
            work = self._shelf.bring_back if item[1] else self._shelf.archive
            self._try(lambda: work(item[0], time.time()))

    def open_chosen(self) -> None:
        if self.open_button.isEnabled():
            self.accept()
            self.chosen.emit(self._chosen())
