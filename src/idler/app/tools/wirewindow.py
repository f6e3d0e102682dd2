"""The wire: every frame in words, with times and filters; one object read or written by hand; a recording."""

from __future__ import annotations

import re
import time
from pathlib import Path

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, QTimer
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from idler.core.controller.sending import labels
from idler.core.errors import IdlerError
from idler.core.machine import Machine, Shape
from idler.core.profile.codec import Place, decode, encode
from idler.core.profile.objects import Entry, entries
from idler.core.profile.pdo import PdoMap
from idler.core.profile.words import Known, Reader, Said, Sort
from idler.core.values.parameter import WireType
from idler.core.values.units import several
from idler.link.bus.wire import Capture, Frame, write_capture
from idler.link.events import Read
from idler.session.session import Session

from .. import theme
from ..bridge import follow
from ..widgets.cards import Segments, label
from .speakers import Speakers

LOOK_MS = 100
SHOWN = 4000
_HEADS = ("time", "", "id", "bytes", "in words")
_QUIET = (Sort.HEARTBEAT, Sort.PROCESS)  # they come all the time: not shown until they are asked for

Index = QModelIndex | QPersistentModelIndex


class _Frames(QAbstractTableModel):
    def __init__(self) -> None:
        super().__init__()
        self.rows: list[tuple[Frame, Said]] = []

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index | None = None) -> int:
        return len(_HEADS)

    def headerData(self, section: int, side: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        across = side == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole
        return _HEADS[section] if across else None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        frame, words = self.rows[index.row()]
        if role == Qt.ItemDataRole.FontRole and index.column() < 4:
            return theme.figure_font(12)
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return None
        match index.column():
            case 0:
                return time.strftime("%H:%M:%S", time.localtime(frame.when)) + f"{frame.when % 1:.4f}"[1:]
            case 1:
                return "→" if frame.sent else "←"
            case 2:
                return f"{frame.identifier:03X}"
            case 3:
                return frame.data.hex(" ").upper()
        return words.words

    def show(self, rows: list[tuple[Frame, Said]]) -> None:
        self.beginResetModel()
        self.rows = rows[-SHOWN:]
        self.endResetModel()

    def add(self, rows: list[tuple[Frame, Said]]) -> None:
        if not rows:
            return
        if len(self.rows) + len(rows) > SHOWN:
            self.show([*self.rows, *rows])
            return
        self.beginInsertRows(QModelIndex(), len(self.rows), len(self.rows) + len(rows) - 1)
        self.rows += rows
        self.endInsertRows()


class WireWindow(QDialog):
    """A window of its own, so that it can stand beside the work. Esc stops the machine and closes it."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("On the wire")
        self.resize(980, 600)
        self._session = session
        self._all: list[tuple[Frame, Said]] = []
        self._last = 0
        self._capture: Capture | None = None
        self._learnt: tuple[int, tuple[tuple[int, str], ...], Shape] | None = None
        self._entries: dict[Place, Entry] = {}
        self._known = Known(PdoMap.usual(0, 0), 0, (), {}, {})
        self._reader = Reader(self._known)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 12)
        column.setSpacing(8)
        frames = QWidget()
        self.speakers = Speakers(session)
        self.pages = Segments({"Frames": frames, "Who speaks": self.speakers})
        column.addWidget(self.pages, 1)
        whole, column = column, QVBoxLayout(frames)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(self._filters())
        self.model = _Frames()
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(22)
        self.table.setShowGrid(False)
        self.table.setSelectionBehavior(QTableView.SelectionBehavior.SelectRows)
        for place, width in enumerate((118, 26, 44, 176)):
            self.table.setColumnWidth(place, width)
        self.table.horizontalHeader().setSectionResizeMode(4, QHeaderView.ResizeMode.Stretch)
        column.addWidget(self.table, 1)
        whole.addLayout(self._by_hand())
        self._learn()
        follow(session.held, self._learn)
        follow(session.read, self._take)
        follow(session.failed, self._refused)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self._timer.start(LOOK_MS)
        self._look()

    def _filters(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.text = QLineEdit()
        self.text.setPlaceholderText("only frames with these words, for example “pitch” or “emergency”")
        self.text.setClearButtonEnabled(True)
        self.text.textChanged.connect(self._filter)
        row.addWidget(self.text, 1)
        self.sorts: dict[Sort, QCheckBox] = {}
        for sort in (Sort.SDO, Sort.PROCESS, Sort.HEARTBEAT):
            box = QCheckBox(sort.value)
            box.setChecked(sort not in _QUIET)
            box.toggled.connect(self._filter)
            self.sorts[sort] = box
            row.addWidget(box)
        self.pause = QPushButton("Hold")
        self.pause.setCheckable(True)
        self.pause.setToolTip("The list stands still; nothing is lost meanwhile.")
        self.save_button = QPushButton("Save recording…")
        self.save_button.setToolTip("The last frames, up to 20 000, whatever the filters show.")
        self.save_button.clicked.connect(self._ask_save)
        self.record_button = QPushButton("Record…")
        self.record_button.setToolTip("Every frame from now on, into a file, until it is pressed again.")
        self.record_button.setMinimumWidth(120)
        self.record_button.clicked.connect(self._ask_record)
        for button in (self.pause, self.save_button, self.record_button):
            row.addWidget(button)
        return row

    def _by_hand(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.object, self.value = QLineEdit(), QLineEdit()
        self.object.setPlaceholderText("6092h:01")
        self.object.setAccessibleName("Object, index and sub-index")
        self.object.setFixedWidth(104)
        self.object.returnPressed.connect(self.read)
        self.value.setPlaceholderText("raw value or with its unit")
        self.value.setAccessibleName("Value to write")
        self.value.setFixedWidth(180)
        self.read_button, self.write_button = QPushButton("Read"), QPushButton("Write")
        self.read_button.clicked.connect(self.read)
        self.write_button.clicked.connect(self.write)
        self.answer = label(
            "One object by hand. What is written is not stored until you send or store.", "soft", wrap=True
        )
        for widget in (label("Object", "soft"), self.object, self.read_button, self.value, self.write_button):
            row.addWidget(widget)
        row.addWidget(self.answer, 1)
        return row

    # -- frames ---------------------------------------------------------------------------------------------------

    def _learn(self) -> None:
        """What frames are read against: the controller that is there, anew where it is another one or has other axes."""
        identity, holding = self._session.identity, self._session.holding
        if identity is None or holding is None or (identity.serial, identity.roles, holding.shape) == self._learnt:
            return
        self._learnt = identity.serial, identity.roles, holding.shape
        machine = Machine.shaped(holding.shape)
        self._entries = {entry.place: entry for entry in entries(holding.shape)}
        names = {place: ", ".join(dict.fromkeys((e.title, e.name))) for place, e in self._entries.items()}
        words, roles = names | labels(machine), dict(identity.roles)
        self._known = Known(identity.map, identity.own_node, identity.axes, words, self._entries, roles)
        self._reader = Reader(self._known)
        self._all, self._last = [], 0
        self.model.show([])

    def _look(self) -> None:
        self._keep_recording()
        if self.pause.isChecked():
            return
        new = self._session.frames.since(self._last)[-SHOWN:]  # older ones are in a recording, not in the list
        fresh = [(frame, self._reader.said(frame.identifier, frame.data)) for frame in new]
        if not fresh:
            return
        self._last = fresh[-1][0].number
        self._all = [*self._all, *fresh][-SHOWN:]
        bar = self.table.verticalScrollBar()
        at_end = bar.value() >= bar.maximum() - 2
        self.model.add([row for row in fresh if self._wanted(row[1])])
        if at_end:
            self.table.scrollToBottom()

    def _wanted(self, words: Said) -> bool:
        box = self.sorts.get(words.sort)
        return (box is None or box.isChecked()) and self.text.text().lower() in words.words.lower()

    def _filter(self) -> None:
        self.model.show([row for row in self._all if self._wanted(row[1])])
        self.table.scrollToBottom()

    # -- recordings -----------------------------------------------------------------------------------------------

    def _ask_record(self) -> None:
        if self._capture is not None:
            self.end_recording()
            return
        name, _ = QFileDialog.getSaveFileName(self, "Recording", "wire.log", "Recordings (*.log)")
        if name:
            self.record(Path(name))

    def record(self, path: Path) -> None:
        """Every frame from now on, until `end_recording`, or until the window is closed."""
        last = self._session.frames.since(0)[-1:]
        try:
            self._capture = Capture(path, after=last[0].number if last else 0)
        except OSError as why:
            self._not_written(path, why)
        self._keep_recording()

    def end_recording(self) -> None:
        self._keep_recording()
        if (made := self._capture) is None:
            return
        self._capture = None
        self.record_button.setText("Record…")
        try:
            made.close()
        except OSError as why:
            self._not_written(made.path, why)
            return
        self.answer.setText(f"{several(made.count, 'frame')} in {made.path.name}.")

    def _keep_recording(self) -> None:
        """Called at least ten times a second: frames wait for it far longer than that."""
        if (made := self._capture) is None:
            return
        try:
            made.add(self._session.frames.since(made.last))
        except OSError as why:
            self._capture = None
            self._not_written(made.path, why)
            self.record_button.setText("Record…")
            return
        self.record_button.setText(f"End, {made.count}")

    def _not_written(self, path: Path, why: OSError) -> None:
        self._session.tell("warn", f"{path}: cannot be written ({(why.strerror or str(why)).lower()}).")

    def closeEvent(self, event: QCloseEvent) -> None:
        self.end_recording()
        super().closeEvent(event)

    def done(self, result: int) -> None:
        """Esc comes here, and not to closeEvent."""
        self.end_recording()
        super().done(result)

    def _ask_save(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Recording", "wire.log", "Recordings (*.log)")
        if name:
            self.save(Path(name))

    def save(self, path: Path) -> None:
        """Every frame that is still known, whatever the filters show."""
        frames = self._session.frames.since(0)
        try:
            write_capture(path, frames)
        except OSError as why:
            self._not_written(path, why)
            return
        self.answer.setText(f"{several(len(frames), 'frame')} in {path.name}.")

    # -- one object -----------------------------------------------------------------------------------------------

    def _typed(self) -> Place | None:
        """The object that is named, or None where that is no object."""
        found = re.fullmatch(
            r"\s*(?:0x)?([0-9a-fA-F]{4})h?(?:[:.\s]+(?:0x)?([0-9a-fA-F]{1,2})h?)?\s*", self.object.text()
        )
        return Place(int(found[1], 16), int(found[2] or "0", 16)) if found else None

    def _place(self) -> Place | None:
        """The same where the controller has it; else the answer says what to write."""
        place = self._typed()
        if place is None:
            self.answer.setText(
                "Write the index with four hexadecimal figures, and the sub-index behind a colon: 6092h:01."
            )
        elif place not in self._entries:
            self.answer.setText(f"{place}: there is no such object in this profile.")
            return None
        return place

    def read(self) -> None:
        if (place := self._place()) is None:
            return
        if self._entries[place].type is WireType.DOMAIN:
            self.answer.setText(f"{place} {self._known.labels.get(place, '')} is read as a block, by Idler itself.")
            return
        self._session.ask_for([place])

    def write(self) -> None:
        """A raw whole number, or for a value of the table what a field would take."""
        if (place := self._place()) is None:
            return
        if self._session.lock.closed:
            self.answer.setText(self._session.lock.obstacle)
            return
        entry, text = self._entries[place], self.value.text().strip()
        try:
            raw: int | str = int(text, 0) if entry.type.bits else text
        except ValueError:
            try:
                if entry.row is None:
                    raise IdlerError(f"{place}: “{text}” is no whole number.") from None
                raw = encode(entry.row, entry.row.read(text))
            except IdlerError as why:
                self.answer.setText(why.sentence)
                return
        if entry.type.bits and isinstance(raw, int) and not entry.type.lowest <= raw <= entry.type.highest:
            self.answer.setText(f"{place}: {raw} does not fit: {entry.type.lowest} to {entry.type.highest}.")
            return
        self._session.write_object(place, raw)

    def _refused(self, what: str) -> None:
        if what in ("object", "read"):
            self.answer.setText(self._session.refusal)

    def _take(self, event: Read) -> None:
        for place, raw in event.raws.items():
            entry = self._entries.get(place)
            if entry is None or self._typed() != place:
                continue
            shown = f" = {entry.row.show(decode(entry.row, raw))}" if entry.row is not None else ""
            self.answer.setText(f"{place} {self._known.labels.get(place, '')}: {raw}{shown}")
