"""Index stops: their table, where the axis stands among them, going to one, and what its lines do."""

from __future__ import annotations

from PySide6.QtGui import QFontDatabase, QHideEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QPlainTextEdit, QPushButton, QVBoxLayout

from idler.core.machine import Address, Axis
from idler.core.proof.claims import index_claim
from idler.core.table.sheets import INDEX
from idler.core.values.indexstops import index_stops, index_stops_text, problem_of_stops
from idler.core.values.parameter import Value
from idler.core.values.points import NOTHING
from idler.core.wiring.indexing import by_lines, indexed, lines, passed, stop_at, stops_of_axis, unrest
from idler.procedures.actions.indexing import IndexRun
from idler.procedures.actions.linewatch import LinesOfParts
from idler.procedures.engine import Ending, Result
from idler.session.session import Session

from ...bridge import follow
from ...pictures.dial import DialPicture, DialScene
from ...pictures.linestates import LineScene, LineStates
from ...pictures.proof import claim_head
from ...widgets.asking import Asking
from ...widgets.cards import card, label, scrolled, tall
from ...widgets.edits import edit_words
from ...widgets.machinebutton import MachineButton
from ..workbench import AxisWorkbench, Beside

USUAL, LOW = Beside(372, 2), Beside(536, 3)
BELOW = 760  # pixels of a window in which two columns of fields would not be seen whole
MOST_LINES = 6
MOST_SPANS = 200  # of what its lines said that are drawn


class IndexPage(AxisWorkbench):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.procedure = IndexRun(session)
        self._watch = LinesOfParts(session, self.procedure)
        self._kept: tuple[str, str] | None = None  # axis and text that stand in the editor
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        row.addWidget(self._left(), 1)
        self._card = self._right()
        row.addWidget(self._card)
        follow(self.procedure.changed, self.refresh)
        follow(self.procedure.ended, self._ended)
        self.follow()
        if first := indexed(session.machine):
            self.show_axis(first[0].slot)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.beside(self._card, usual=USUAL, low=LOW, below=BELOW)

    # -- pieces ---------------------------------------------------------------------------------------------------

    def _left(self) -> QFrame:
        frame, column = card((12, 6, 12, 8), 6)
        self.picture = DialPicture()
        column.addWidget(self.picture, 1)
        self.trace = LineStates()
        column.addWidget(self.trace)
        self.state = label("", "heading", wrap=True)
        column.addWidget(self.state)
        self.asking = Asking(self._session, self.procedure, lambda _: None)
        column.addWidget(self.asking)
        going = QHBoxLayout()
        self.stop = QComboBox()
        self.stop.setAccessibleName("Index stop")
        self.go = MachineButton(self._session, "Go to this stop")
        self.go.clicked.connect(self._go)
        self.prove = MachineButton(self._session, "Look at each")
        self.prove.setProperty("role", "main")
        self.prove.clicked.connect(lambda: self._say(self.procedure.prove(self.slot)))
        for widget in (self.stop, self.go, self.prove):
            widget.setMinimumHeight(40)
            going.addWidget(widget, 1)
        column.addLayout(going)
        acting = QHBoxLayout()
        self.as_if = label("as if its lines said", "soft")
        acting.addWidget(self.as_if)
        self.bits = [QPushButton(f"line {bit + 1}") for bit in range(MOST_LINES)]
        for button in self.bits:
            button.setCheckable(True)
            button.setProperty("role", "segment")
            tall(button)
            acting.addWidget(button)
        self.act = MachineButton(self._session, "Act it")
        self.act.clicked.connect(self._act)
        tall(self.act)
        acting.addWidget(self.act)
        acting.addStretch(1)
        column.addLayout(acting)
        return frame

    def _right(self) -> QFrame:
        frame, column = card((14, 8, 14, 10), 6)
        frame.setFixedWidth(USUAL.width)
        column.addWidget(self._picker)
        self.title, self.mark = claim_head(column)
        self.mend = QPushButton()
        self.mend.setProperty("role", "main")
        self.mend.clicked.connect(self._mend)
        tall(self.mend)
        column.addWidget(self.mend)
        column.addWidget(label("A place and its name in each line", "soft"))
        self.text = QPlainTextEdit()
        self.text.setAccessibleName("Table of index stops")
        self.text.setFont(QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont))
        self.text.setTabChangesFocus(True)
        self.text.setMinimumHeight(80)
        self.text.textChanged.connect(self._judge)
        column.addWidget(self.text, 1)
        self.wrong = label("", "warn", wrap=True)
        column.addWidget(self.wrong)
        self._buttons(column)
        column.addWidget(scrolled(self.sheet_of(INDEX, width=120), whole=True), 2)
        return frame

    def _buttons(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        self.take = QPushButton("Take this table")
        self.take.clicked.connect(self._take)
        self.back = QPushButton("Drop what was typed")
        self.back.clicked.connect(self._drop)
        for button in (self.take, self.back):
            tall(button)
            row.addWidget(button)
        column.addLayout(row)

    # -- doing ----------------------------------------------------------------------------------------------------

    @property
    def _axis(self) -> Axis:
        return self._session.machine.axis(self.slot)

    @property
    def _typed(self) -> str:
        """As it is kept, where it makes sense."""
        return (
            "; ".join(line.strip().rstrip(";") for line in self.text.toPlainText().splitlines() if line.strip())
            or NOTHING
        )

    def _take(self) -> None:
        if not problem_of_stops(self._typed):
            text = index_stops_text(index_stops(self._typed))
            self.text.document().setModified(False)
            self._session.edit(Address(self.slot, "index.stops"), text)
            self.refresh()

    def _drop(self) -> None:
        self._kept = None
        self.text.document().setModified(False)
        self.refresh()

    def _say(self, why: str) -> None:
        if why:
            self._session.refuse("Nothing was moved.", why)

    def _go(self) -> None:
        if self.procedure.running:
            self._session.stop()
        else:
            self._say(self.procedure.go(self.slot, self.stop.currentIndex() + 1))

    def _act(self) -> None:
        state = sum(button.isChecked() << bit for bit, button in enumerate(self.bits) if not button.isHidden())
        self._say(self.procedure.act(self.slot, state))

    def _ended(self, result: Result) -> None:
        self._session.tell("plain" if result.end in (Ending.DONE, Ending.PROVEN) else "warn", result.words)
        self.refresh()

    @property
    def _edit(self) -> dict[Address, Value]:
        """What the last look at each stop proposes, where it is not so already."""
        result = self.procedure.result
        proposed = dict(result.edit) if result is not None and not self.procedure.running else {}
        return {where: value for where, value in proposed.items() if self._session.machine[where] != value}

    def _mend(self) -> None:
        self._session.mend(self._edit, f"home of {self._axis.name}, as its stops were seen")

    def left(self) -> None:
        if self.procedure.running:
            self._session.stop()

    # -- showing --------------------------------------------------------------------------------------------------

    def show_axis(self, slot: int) -> None:
        if slot != self.slot:  # what was typed is of the other one
            self.text.document().setModified(False)
        super().show_axis(slot)

    def showEvent(self, event: QShowEvent) -> None:
        """What passes on the lines is seen only while the edges are read."""
        super().showEvent(event)
        self._session.watch(self, True)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._session.watch(self, False)

    def show_motion(self) -> None:
        if stops_of_axis(self._axis):
            self.procedure.look(self.slot)
        self._draw()

    def _draw(self) -> None:
        session, axis = self._session, self._axis
        there = self.slot < len(session.axes) and session.axes[self.slot].homed
        here = session.axes[self.slot].position if there else None
        told = self.procedure.reports.get(self.slot) if session.connected else None
        at = told.at if told is not None else stop_at(axis, here) if here is not None else 0
        goal = told.goal if told is not None and axis.slot < len(session.axes) and session.axes[axis.slot].moving else 0
        blind = self.procedure.question is not None  # who is asked what he sees is not told what to see
        shown = (None, 0, 0) if blind else (here, at, goal)
        self.picture.show_scene(DialScene(axis.name, stops_of_axis(axis), *shown, axis.reads))
        spans = tuple(self.procedure.passing[-MOST_SPANS:]) if by_lines(axis) else ()
        settle, gray = float(axis.number("index.settle")), axis.choice("index.pick") == "gray"
        self.trace.show_scene(LineScene(spans, settle, gray) if len(spans) > 1 and not blind else None)
        words = "" if blind else self._state_words(here is not None)
        if words != self.state.text():
            self.state.setText(words)

    def _state_words(self, known: bool) -> str:
        axis, told = self._axis, self.procedure.reports.get(self.slot)
        stops = stops_of_axis(axis)
        if not stops:
            return ""
        if not self._session.connected:
            return "No controller is connected."
        if not known:
            return f"{axis.name} is not homed: its stops count from home."
        words = "" if told is None else f"{axis.name}: {told.state.words}"
        if told is not None and told.at:
            words = f"{axis.name} stands at stop {stops[told.at - 1].title(told.at)}"
        if by_lines(axis) and told is not None:
            words += f"; its lines say {told.lines}"
        elif axis.choice("index.pick") == "pulses" and told is not None:
            words += f"; pulses counted: {told.count}"
        return f"{words}.{self._passing_words()}"

    def _passing_words(self) -> str:
        """What came past on its lines in the last minute and did nothing."""
        axis = self._axis
        spans, settle = self.procedure.passing, float(axis.number("index.settle"))
        if not (over := passed(spans, settle)):
            return ""
        count = "1 state" if len(over) == 1 else f"{len(over)} states"
        return (
            f" In the last minute {count} came past and did nothing; between two numbers its lines took up to "
            f"{unrest(spans, settle):.0f} ms, and {settle:g} ms are waited for."
        )

    def _judge(self) -> None:
        typed = self.text.document().isModified()
        why = problem_of_stops(self._typed) if typed else ""
        self.wrong.setText(f"The table {why}." if why else "")
        self.wrong.setVisible(bool(why))
        self.take.setEnabled(typed and not why)
        self.back.setEnabled(typed)

    def refresh(self) -> None:
        machine, axis, running = self._session.machine, self._axis, self.procedure.running
        stops = stops_of_axis(axis)
        text = str(machine[Address(self.slot, "index.stops")])
        if self._kept != (axis.name, text) and not self.text.document().isModified():
            self._kept = (axis.name, text)
            self.text.setPlainText("\n".join(index_stops_text(stops).split("; ")) if stops else "")
            self.text.document().setModified(False)
        titles = [stop.title(number) for number, stop in enumerate(stops, start=1)]
        if titles != [self.stop.itemText(row) for row in range(self.stop.count())]:
            before = max(0, self.stop.currentIndex())
            self.stop.clear()
            self.stop.addItems(titles)
            self.stop.setCurrentIndex(min(before, len(titles) - 1))
        self.title.setText(f"Index stops of {axis.name}")
        self.mark.setVisible(bool(stops))
        if stops:
            self.mark.show_claim(machine, index_claim(machine, self.slot), self._session.proofs)
        self.mend.setVisible(bool(self._edit))
        if self._edit:
            self.mend.setText(edit_words(machine, self._edit))
        asked = self.procedure.question is not None
        for widget in (self.stop, self.go, self.prove):
            widget.setVisible(bool(stops) and not asked)
        self.go.setText("Stop it" if running else "Go to this stop")
        self.prove.setEnabled(not running)
        acted = by_lines(axis) and bool(stops) and not asked
        wired = lines(machine, axis)
        for bit, button in enumerate(self.bits):
            button.setVisible(acted and bit in wired)
        for each in (self.as_if, self.act):
            each.setVisible(acted and bool(wired))
        self.act.setEnabled(not running)
        self.trace.setVisible(acted and bool(wired))
        self._judge()
        self._draw()
        self.laid_anew.emit()
