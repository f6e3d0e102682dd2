"""Filter: record what an input picks up, see how long the false pulses are, and what a filter costs in distance."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.values.units import figure
from idler.core.wiring import Input, inputs
from idler.core.wiring.filterstudy import Study, cost, milliseconds, proposals
from idler.core.wiring.tool import tool_of
from idler.procedures.engine import Ending
from idler.procedures.wiring.study import FilterStudy
from idler.session.session import Session

from ...bridge import follow
from ...pictures.histogram import Histogram
from ...widgets.asking import Asking
from ...widgets.cards import figures, label
from ...widgets.machinebutton import MachineButton

SECONDS = (5, 10, 30, 60)
ALL = -1

RUNNING = "with the spindle running"
NOTHING_YET = "Record while nobody touches the machine. Run the spindle: its cable is what disturbs most."


class StudyPage(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.run = FilterStudy(session)
        follow(self.run.ended, lambda _: self._show(), self)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(5)
        column.addLayout(self._controls())
        self.asking = Asking(session, self.run, lambda _: None)
        column.addWidget(self.asking)
        self._words = label("", "", wrap=True)
        self.histogram = Histogram()
        column.addWidget(self.histogram, 100)
        column.addWidget(self._words)
        self._table = QGridLayout()
        self._table.setVerticalSpacing(1)
        self._table.setHorizontalSpacing(10)
        column.addLayout(self._table)
        row = QHBoxLayout()
        self.take_button, self.take_all = QPushButton(), QPushButton("Take all")
        self.take_button.setProperty("role", "main")
        self.take_button.clicked.connect(self._take)
        self.take_all.clicked.connect(self._take_all)
        row.addWidget(self.take_button)
        row.addWidget(self.take_all)
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(1)  # before anything was recorded
        follow(self.run.changed, self._show_time)
        follow(session.changed, self.refresh)
        self._show_time()
        self.refresh()

    def _controls(self) -> QVBoxLayout:
        rows = QVBoxLayout()
        rows.setSpacing(5)
        top, below = QHBoxLayout(), QHBoxLayout()
        self.which = QComboBox()
        self.which.setAccessibleName("Input to look at")
        self.which.currentIndexChanged.connect(lambda _: self._show())
        self.seconds = QComboBox()
        self.seconds.setAccessibleName("Time to record")
        for seconds in SECONDS:
            self.seconds.addItem(f"for {seconds} s", seconds)
        self.seconds.setCurrentIndex(1)
        self.spindle = QCheckBox(RUNNING)
        self.record = MachineButton(self._session, "Record", always=lambda: not self.spindle.isChecked())
        self.record.clicked.connect(self.toggle)
        for widget in (self.which, self.seconds):
            top.addWidget(widget)
        top.addStretch(1)
        below.addWidget(self.record)
        below.addWidget(self.spindle)
        below.addStretch(1)
        rows.addLayout(top)
        rows.addLayout(below)
        return rows

    def _item(self) -> Input | None:
        slot = self.which.currentData()
        return None if slot is None or slot == ALL else inputs(self._session.machine)[slot]

    def choose(self, slot: int) -> None:
        """Looks at one input."""
        self.which.setCurrentIndex(max(0, self.which.findData(slot)))

    def refresh(self) -> None:
        self.spindle.setText(tool_of(self._session.machine).worded(RUNNING))
        items = inputs(self._session.machine)
        shown = ["every input", *(f"input {item.name}, {item.duty.label}" for item in items)]
        if [self.which.itemText(k) for k in range(self.which.count())] != shown:
            kept = self.which.currentData()
            self.which.blockSignals(True)
            self.which.clear()
            for slot, words in enumerate(shown, start=ALL):
                self.which.addItem(words, slot)
            self.which.setCurrentIndex(max(0, self.which.findData(kept)))
            self.which.blockSignals(False)
        self._show()

    # -- recording ------------------------------------------------------------------------------------------------

    @property
    def recording(self) -> bool:
        return self.run.running

    @property
    def studies(self) -> dict[int, Study]:
        return self.run.studies

    def toggle(self) -> None:
        if self.recording:
            self.leave()
        elif why := self.run.record(self.seconds.currentData(), spindle=self.spindle.isChecked()):
            self._session.tell("warn", why)

    def _show_time(self) -> None:
        asked, result = self.run.question is not None, self.run.result
        self.record.setText("End" if asked else f"End, {self.run.words}" if self.recording else "Record")
        self.asking.setVisible(asked or (result is not None and result.end is Ending.FAILED))

    def leave(self) -> None:
        """Ends a record when another page is shown."""
        self.run.stop("")

    # -- showing --------------------------------------------------------------------------------------------------

    def _show(self) -> None:
        while (cell := self._table.takeAt(0)) is not None:
            if (widget := cell.widget()) is not None:
                widget.deleteLater()
        item = self._item()
        self.histogram.setVisible(item is not None)
        proposals = self.proposals()
        self.take_all.setVisible(item is None and bool(proposals))
        self.take_button.setVisible(item is not None and item.slot in proposals)
        if item is None:
            self._show_all()
            return
        found = self.studies.get(item.slot)
        self.histogram.show_study(found, item.filter)
        self._words.setText(self._sentence(item, found))
        if item.slot in proposals:
            self.take_button.setText(f"Take {figure(proposals[item.slot], 2, trim=True)} ms")

    def proposals(self) -> dict[int, Fraction]:
        return proposals(self._session.machine, self.studies)

    def _sentence(self, item: Input, found: Study | None) -> str:
        if item.role.pulses:
            return f"Short changes are what the {item.duty.label} is for: the study leaves it out."
        if found is None:
            return tool_of(self._session.machine).worded(NOTHING_YET)
        left_out = f" {found.touches} longer changes were taken for real ones." if found.touches else ""
        if not found.widths:
            return f"No false pulse in {found.seconds:.0f} s; {milliseconds(item.filter)} may stay.{left_out}"
        begin = f"{len(found.widths)} false pulses in {found.seconds:.0f} s, the longest {found.longest / 1000:.2f} ms."
        now = f" {found.passing(item.filter)} of them pass the {milliseconds(item.filter)} that are set"
        proposal = found.proposal
        if proposal is None:
            return f"{begin}{now}. No filter is long enough for them: look for a loose wire."
        if proposal <= item.filter:
            return f"{begin}{now}: the filter is long enough.{left_out}"
        wanted = f"{milliseconds(proposal)}, twice the longest, lets none through"
        return f"{begin}{now}; {wanted}. {self._cost(item, proposal)}{left_out}"

    def _cost(self, item: Input, ms: Fraction) -> str:
        machine = self._session.machine
        if item.duty.axis not in machine.names:
            return ""
        axis = machine.axis(machine.names.index(item.duty.axis))
        approach, touch = (cost(axis.number(f"homing.{name}"), ms) for name in ("approach", "touch"))
        return (
            f"It costs {axis.reads.length(approach, 3)} at the approach speed of {axis.name} and {axis.reads.length(touch, 4)} "
            "at its touch speed."
        )

    def _show_all(self) -> None:
        if not self.studies:
            self._words.setText(tool_of(self._session.machine).worded(NOTHING_YET))
            return
        quiet: list[str] = []
        for column, words in enumerate(("input", "false pulses", "longest", "filter now", "proposed")):
            self._table.addWidget(label(words, "small"), 0, column)
        row = 1
        for item in inputs(self._session.machine):
            found = self.studies.get(item.slot)
            if found is None or not found.widths:
                quiet += [item.name] if found is not None else []
                continue
            proposal = found.proposal
            texts = (
                f"{item.name}  {item.duty.label}", str(len(found.widths)), f"{found.longest / 1000:.2f} ms",
                milliseconds(item.filter), "none is enough" if proposal is None else milliseconds(max(proposal, item.filter)),
            )  # fmt: skip
            for column, words in enumerate(texts):
                self._table.addWidget(figures(words, 12) if column else label(words), row, column)
            row += 1
        seconds = next(iter(self.studies.values())).seconds
        words = f"Recorded for {seconds:.0f} s. Twice the longest false pulse lets none through."
        self._words.setText(words + (f" Quiet: {', '.join(quiet)}." if quiet else ""))

    def _take(self) -> None:
        item = self._item()
        if item is not None:
            self._session.set_values({Address(item.slot, "input.filter"): self.proposals()[item.slot]})

    def _take_all(self) -> None:
        values = {Address(slot, "input.filter"): ms for slot, ms in self.proposals().items()}
        self._session.set_values(values, f"filters of {len(values)} inputs")
