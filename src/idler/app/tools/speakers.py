"""Who speaks on the bus, how much of it is taken, and what is wrong with it."""

from __future__ import annotations

import time

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from idler.core.profile.busload import NOBODY, Talker, share
from idler.link.bus.wire import health_of
from idler.session.session import Session

from ..widgets.cards import label

LOOK_MS, SPAN = 1000, 5.0  # s of frames that are looked at
_FIGURES = (1, 2)  # places of them
_HEADS = ("who", "of the bus", "frames a second", "heartbeats", "what it sends")


class Speakers(QWidget):
    """Of the last five seconds, anew each second while it is seen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.words = label("", "heading", wrap=True)
        self.troubles = label("", "warn", wrap=True)
        self.table = QTableWidget(0, len(_HEADS))
        self.table.setHorizontalHeaderLabels(_HEADS)
        self.table.setAccessibleName("Who speaks on the bus")
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.horizontalHeader().setSectionResizeMode(len(_HEADS) - 1, QHeaderView.ResizeMode.Stretch)
        for widget in (self.words, self.troubles):
            column.addWidget(widget)
        column.addWidget(self.table, 1)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._timer.start(LOOK_MS)
        self.look()

    def hideEvent(self, event: QHideEvent) -> None:
        self._timer.stop()
        super().hideEvent(event)

    def look(self) -> None:
        first = time.time() - SPAN
        frames = [frame for frame in self._session.frames.since(0) if frame.when > first]
        if len(frames) < 2:
            self.words.setText(
                "Nothing goes over the bus." if self._session.connected else "No controller is connected."
            )
            self.troubles.hide()
            self.table.setRowCount(0)
            return
        seconds, rate = frames[-1].when - frames[0].when, self._session.bit_rate
        found = health_of(frames, seconds, rate, self._session.frames.faulty, self._session.own_node)
        self.words.setText(
            f"{100 * found.load:.1f} % of the bus are taken at most, at {rate // 1000} kbit/s: {len(frames)} frames in "
            f"{seconds:.1f} s."
        )
        self.troubles.setText("\n".join(found.troubles))
        self.troubles.setVisible(bool(found.troubles))
        spoke = [self._told(each, seconds, rate) for each in found.talkers if each.spoke]
        silent = [each for each in found.talkers if not each.spoke]
        self._show(spoke + ([self._of_silent(silent, seconds, rate)] if silent else []))

    def _show(self, rows: list[tuple[str, ...]]) -> None:
        """Columns get their width once, of all rows: made to fit whatever comes, each cell measured every other anew, and a bus
        on which every number had been asked held the window, and STOP, up for seconds."""
        self.table.setRowCount(len(rows))
        for row, told in enumerate(rows):
            for place, words in enumerate(told):
                item = self.table.item(row, place)
                if item is None:
                    item = QTableWidgetItem()
                    if place in _FIGURES:
                        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                    self.table.setItem(row, place, item)
                if item.text() != words:
                    item.setText(words)
        for place in range(len(_HEADS) - 1):
            self.table.resizeColumnToContents(place)

    def _told(self, each: Talker, seconds: float, rate: int) -> tuple[str, ...]:
        beats = f"every {1000 * each.usual:.0f} ms, at most {1000 * each.widest:.0f}" if each.gaps else "none"
        what = ", ".join(f"{count} {service}" for service, count in each.services.items())
        load = f"{100 * share(each.bits, seconds, rate):.1f} %"
        return self._who(each), load, f"{each.frames / seconds:.0f}", beats, what

    @staticmethod
    def _of_silent(silent: list[Talker], seconds: float, rate: int) -> tuple[str, ...]:
        """Numbers that Idler asked whether anybody has them, in one row."""
        who = f"{silent[0].node}" if len(silent) == 1 else f"{len(silent)} other numbers"
        load = f"{100 * sum(share(each.bits, seconds, rate) for each in silent):.1f} %"
        return who, load, f"{sum(each.frames for each in silent) / seconds:.0f}", "none", "asked, and silent"

    def _who(self, each: Talker) -> str:
        """By its number, and what is known of it. What Idler asks of a node counts with that node."""
        if each.node == NOBODY:
            return "to all"
        name = self._session.node_name(each.node)
        return f"{each.node}, {name}" if name else f"{each.node}"
