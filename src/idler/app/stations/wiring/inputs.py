"""What reaches the controller: a row for each input with its role, trace, edges, contact, filter, and what it says now."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.values.roles import InputRole
from idler.core.wiring import inputs
from idler.core.wiring.filterstudy import study
from idler.link.trace import Edges
from idler.session.session import Session

from ... import growth
from ...bridge import follow
from ...pictures.terminals import SPAN_US, Screw, TraceColumn
from ...tools.reports import DiagramDialog
from ...widgets.cards import card, figures, label, turn_over
from ...widgets.fields import QuantityField
from .fields import HEIGHT, InputRoleField, RestField

ROW = 31
GAP = 5
# Widths of the columns, and what stands above them.
_SCREW, _ROLE, _EDGES, _REST, _FILTER, _SAYS = 40, 134, 36, 80, 64, 60
_LEAST_TRACE = 50


class InputRow(QWidget):
    """One input. The trace is drawn over the gap in the middle by the column of all traces."""

    touched = Signal(int)

    def __init__(self, session: Session, slot: int) -> None:
        super().__init__()
        self.slot = slot
        self._session = session
        self.setFixedHeight(ROW)
        item = inputs(session.machine)[slot]
        self.screw = Screw(item.name)
        self.role = InputRoleField(session, slot, _ROLE)
        self.rest = RestField(session, slot, _REST)
        self.filter = QuantityField(session, Address(slot, "input.filter"), width=_FILTER, label="", height=HEIGHT)
        self.edges = figures("0", 12)
        self.edges.setFixedWidth(_EDGES)
        self.edges.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.says = QLabel()
        self.says.setFixedWidth(_SAYS)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(GAP)
        row.addWidget(self.screw)
        row.addWidget(self.role)
        self.gap = QWidget()
        self.gap.setMinimumWidth(_LEAST_TRACE)
        row.addWidget(self.gap, 1)
        for widget in (self.edges, self.rest, self.filter, self.says):
            row.addWidget(widget)
        for field in (self.role, self.rest, self.filter):
            field.setFixedWidth(field._frame.minimumWidth())
        self._words = ("", False)

    def focus_within(self, on: bool) -> None:
        if on:
            self.touched.emit(self.slot)

    def mousePressEvent(self, _: object) -> None:
        self.touched.emit(self.slot)
        self._session.set_focus(Address(self.slot, "input.role"))

    def show_level(self, closed: bool | None, edges: int) -> None:
        item = inputs(self._session.machine)[self.slot]
        words = "—" if closed is None else item.says(closed)
        made = closed is not None and item.role is not InputRole.NONE and item.made(closed)
        if (words, made) != self._words:
            self._words = (words, made)
            self.says.setText(f"<b>{words}</b>" if made else words)
            self.screw.light(made)
        count = f"{edges}" if edges < 100_000 else f"{edges // 1000} k"
        if self.edges.text() != count:
            self.edges.setText(count)


class InputsCard(QFrame):
    """All inputs; `chosen` is the slot of the row that was touched last."""

    chose = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        frame, column = card((12, 6, 8, 6), 2)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(frame)
        head = QHBoxLayout()
        head.addWidget(label("What reaches the controller", "title"))
        head.addStretch(1)
        self.diagram_button = QPushButton("Diagram…")
        self.diagram_button.setToolTip("What is wired where, as a drawing to print and hang in the cabinet.")
        self.diagram_button.clicked.connect(lambda: DiagramDialog(self, session).open())
        self.diagram_button.setProperty("role", "quiet")
        head.addWidget(self.diagram_button)
        column.addLayout(head)
        column.addLayout(self._heads())
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setProperty("role", "clear")
        self._scroll.setMinimumHeight(5 * ROW)
        column.addWidget(self._scroll, 1)
        self._line = label("", "small")
        self._line.setFixedHeight(17)
        column.addWidget(self._line)
        self.chosen = 0
        self._count = -1
        self.rows: list[InputRow] = []
        follow(session.changed, self.refresh)
        follow(session.held, self.refresh)
        self.refresh()

    def _heads(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(GAP)
        for words, width in (
            ("", _SCREW), ("role", _ROLE), ("last 5 s", 0), ("edges", _EDGES), ("at rest", _REST),
            ("filter", _FILTER), ("says", _SAYS),
        ):  # fmt: skip
            made = label(words, "small")
            if width:
                made.setFixedWidth(width)
            else:
                made.setMinimumWidth(_LEAST_TRACE)
            if words == "edges":
                made.setAlignment(Qt.AlignmentFlag.AlignRight)
            row.addWidget(made, 0 if width else 1)
        return row

    def refresh(self) -> None:
        if self._count != self._session.machine.inputs:
            self._build()
        self._rest = np.array([item.low_when_closed for item in inputs(self._session.machine)], np.uint8)

    def _build(self) -> None:
        self._count = self._session.machine.inputs
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.rows = [InputRow(self._session, slot) for slot in range(self._count)]
        for row in self.rows:
            row.touched.connect(self._choose)
            column.addWidget(row)
        if not self.rows:
            words = "This machine's file has no terminals yet. Connect to its controller: it says what it has."
            column.addWidget(label(words, "soft", wrap=True))
        column.addStretch(1)
        self.traces = TraceColumn(ROW)
        self.traces.setParent(page)
        if self.rows:
            self.rows[0].gap.installEventFilter(self)
        turn_over(self._scroll, page)
        self.chosen = min(self.chosen, max(0, self._count - 1))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The traces lie over the gaps of the rows, however wide these are."""
        if event.type() in (QEvent.Type.Resize, QEvent.Type.Move) and isinstance(watched, QWidget):
            self.traces.setGeometry(watched.x(), 0, watched.width(), growth.px(ROW) * self._count)
        return super().eventFilter(watched, event)

    def _choose(self, slot: int) -> None:
        self.chosen = slot
        self.chose.emit(slot)

    def show_motion(self, edges: Edges | None, counts: list[int]) -> None:
        """The newest edges, and how many each input has had."""
        known = edges is not None and len(edges.levels) == len(self.rows)
        if known:
            self.traces.show_edges(edges, self._rest)
        for row in self.rows:
            closed = bool(edges.levels[row.slot]) if known and edges is not None else None
            row.show_level(closed, counts[row.slot] if row.slot < len(counts) else 0)

    def describe(self, edges: Edges | None) -> None:
        """One line about the chosen input. Called a few times a second."""
        if not self.rows:
            self._line.setText("")
            return
        item = inputs(self._session.machine)[self.chosen]
        begin = f"Input {item.name}, {item.duty.label}"
        if edges is None or len(edges.levels) != len(self.rows):
            self._line.setText(f"{begin}: not read yet")
            return
        closed = bool(edges.levels[self.chosen])
        mine = edges.inputs == self.chosen
        seen = study(edges.times[mine].tolist(), edges.closed[mine].tolist(), int(item.closed_at_rest),
                     edges.now - SPAN_US, edges.now)  # fmt: skip
        pulses = (
            f"{len(seen.widths)} short pulses in 5 s, {seen.shortest / 1000:.3g} to {seen.longest / 1000:.3g} ms"
            if seen.widths else "no short pulse in 5 s"
        )  # fmt: skip
        self._line.setText(f"{begin}: {'closed' if closed else 'open'} now, {pulses}")
