"""The revisions as a line from the newest to the first: number, date, note, and in words what each changed."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from idler.core.errors import IdlerError
from idler.core.machine.changes import differences
from idler.session.session import Session
from idler.shelf.dates import moment

from ... import theme
from ...pictures.picture import Picture
from ...widgets.cards import label, scrolled, turn_over

if TYPE_CHECKING:
    from idler.shelf.trail import Revision

MOST_CHANGES = 4
SHOWN = 40  # of the newest; older ones are in the repository


class _Node(Picture):
    """A stretch of the line with its knot: full for a revision, open for a controller as it was found."""

    def __init__(self, found: bool, first: bool, last: bool) -> None:
        super().__init__()
        self._found, self._first, self._last = found, first, last
        self.setFixedWidth(26)

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        x, y = 12.0, 12.0
        p.setPen(QPen(theme.color("soft"), 1.6))
        p.drawLine(QPointF(x, y if self._first else 0), QPointF(x, y if self._last else self.high))
        p.setPen(QPen(theme.color("brass"), 2))
        p.setBrush(theme.color("panel") if self._found else theme.color("brass"))
        p.drawEllipse(QPointF(x, y), 6, 6)


class RevisionLine(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.texts: list[str] = []
        self.back_buttons: dict[int, QPushButton] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self._scroll = scrolled(QWidget())
        column.addWidget(self._scroll, 1)

    def refresh(self) -> None:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 4, 0)
        column.setSpacing(0)
        self.texts, self.back_buttons = [], {}
        listed = self._session.history.all()[:SHOWN]
        for place, revision in enumerate(listed):
            row = QHBoxLayout()
            row.setSpacing(4)
            row.addWidget(_Node(revision.as_found, place == 0, place == len(listed) - 1))
            row.addLayout(self._entry(revision, listed), 1)
            column.addLayout(row)
        if not listed:
            reading = self._session.history.being_read
            column.addWidget(label("The revisions are being read…" if reading else "No revision is kept yet.", "soft"))
        column.addStretch(1)
        turn_over(self._scroll, page)

    def _entry(self, revision: Revision, listed: list[Revision]) -> QVBoxLayout:
        lines = QVBoxLayout()
        lines.setSpacing(1)
        lines.setContentsMargins(0, 3, 0, 10)
        when = moment(revision.when)
        head = QHBoxLayout()
        head.addWidget(
            label(f"{'As found' if revision.as_found else f'Revision {revision.number}'}  ·  {when}", "heading"), 1
        )
        back = QPushButton("Go back to it")
        back.setProperty("role", "quiet")
        back.setToolTip("Takes its values into the draft as one step of undo; nothing is sent.")
        back.clicked.connect(partial(self._go_back, revision))
        self.back_buttons[revision.number] = back
        head.addWidget(back, 0, Qt.AlignmentFlag.AlignTop)
        lines.addLayout(head)
        lines.addWidget(label(revision.note, wrap=True))
        words = self._changed(revision, listed)
        if words:
            lines.addWidget(label(words, "small", wrap=True))
        self.texts.append(f"{revision.note}; {words}")
        return lines

    def _changed(self, revision: Revision, listed: list[Revision]) -> str:
        """What it changed against the one before it in the same file, in words."""
        older = next((r for r in listed if r.number < revision.number and r.path == revision.path), None)
        if older is None:
            return ""
        try:
            did = differences(self._session.history.at(older), self._session.history.at(revision))
        except IdlerError as why:
            return why.sentence
        more = f"; and {len(did) - MOST_CHANGES} more" if len(did) > MOST_CHANGES else ""
        return "; ".join(str(each) for each in did[:MOST_CHANGES]) + more if did else "no value changed"

    def _go_back(self, revision: Revision) -> None:
        try:
            self._session.history.go_back(revision)
        except IdlerError as why:
            self._session.tell("warn", why.sentence)
            return
        self._session.tell(
            "plain", f"The draft holds the values of revision {revision.number}. Undo takes you back; nothing was sent."
        )
