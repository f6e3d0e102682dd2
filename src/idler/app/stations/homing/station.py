"""The page of the Homing station: turns on a time line, the head of the travel, the values, and how the last run went."""

from __future__ import annotations

from typing import cast

from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from idler.core.errors import Refusal
from idler.core.homing import Rehearsal, distance_to_switch, explain, moves, rehearse_all
from idler.core.machine import Address
from idler.core.parameter import Value
from idler.core.proofs import home_claim, repeat_claim
from idler.core.repeat import advice
from idler.core.senses import sense
from idler.core.wire.homing import Result

from ...desk import Desk
from ...fields import Field, field_for
from ...parts import AxisPicker, card, label
from ...pictures.head import HeadPicture, head_scene
from ...pictures.proof import ProofMark
from ...pictures.scatter import ScatterPicture
from ...pictures.timeline import TimeLine, TimeRow
from ..workbench import Workbench
from .repeat import RepeatRun
from .run import HomingRun, Record

RIGHT = 316
TIMES = 8
CLEAR = 3.0  # mm or °: back from a switch on which an axis stands
_KEYS = (
    ("homing.method", "method"), ("homing.towards", "home lies towards"), ("homing.turn", "turn"),
    ("homing.coordinate", "coordinate at the switch"), ("homing.approach", "approach speed"), ("homing.touch", "touch speed"),
    ("homing.acceleration", "acceleration"), ("homing.back_off", "back-off"), ("homing.leave", "leave the switch by"),
    ("homing.search", "search distance"), ("homing.index_within", "index mark within"),
)  # fmt: skip


class HomingStation(Workbench):
    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.slot = 0
        self._names = desk.machine.names
        self.run = HomingRun(desk)
        self.repeats = RepeatRun(desk)
        self.repeats.changed.connect(self.refresh)
        self.repeats.finished.connect(self._repeated)
        self._said: dict[int, Rehearsal] = {}  # what was rehearsed for the last run
        self._fix: dict[Address, Value] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 12, 6)
        column.setSpacing(6)
        column.addLayout(self._head())
        row = QHBoxLayout()
        row.setSpacing(8)
        left = QVBoxLayout()
        left.setSpacing(6)
        frame, inner = card((8, 6, 8, 4), 2)
        self.line = TimeLine()
        self.line.chosen.connect(self._choose_row)
        inner.addWidget(self.line, 1)
        left.addWidget(frame, 4)
        frame, inner = card((8, 4, 8, 4), 2)
        self.head = HeadPicture()
        inner.addWidget(self.head, 1)
        left.addWidget(frame, 5)
        row.addLayout(left, 1)
        row.addWidget(self._side())
        column.addLayout(row, 1)
        self.run.changed.connect(self.refresh)
        self.run.ended.connect(self._ended)
        desk.changed.connect(self.refresh)
        desk.held.connect(self.refresh)
        desk.proved.connect(self.refresh)
        self.show_axis(0)

    # -- pieces ---------------------------------------------------------------------------------------------------

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self._picker = AxisPicker(self._names)
        self._picker.chosen.connect(self.show_axis)
        self.one, self.all = QPushButton(), QPushButton("Home all, in turns")
        self.all.setProperty("role", "main")
        self.again = QPushButton(f"Repeat {TIMES} times")
        self.again.clicked.connect(self._repeat)
        self.one.clicked.connect(lambda: self._begin((self.slot,)))
        self.all.clicked.connect(lambda: self._begin(None))
        row.addWidget(self._picker)
        row.addStretch(1)
        for button in (self.again, self.one, self.all):
            button.setMinimumHeight(36)
            row.addWidget(button)
        return row

    def _side(self) -> QFrame:
        frame, column = card((12, 6, 10, 8), 4)
        frame.setFixedWidth(RIGHT)
        head = QHBoxLayout()
        self.title = label("", "title", wrap=True)
        self.mark = ProofMark()
        head.addWidget(self.title, 1)
        head.addWidget(self.mark)
        column.addLayout(head)
        self.words = label("", "small", wrap=True)
        column.addWidget(self.words)
        self.scatter = ScatterPicture()
        column.addWidget(self.scatter)
        buttons = QHBoxLayout()
        self.fix, self.clear = QPushButton(), QPushButton("Move clear")
        self.fix.setProperty("role", "main")
        self.fix.clicked.connect(self._take_fix)
        self.clear.clicked.connect(self._move_clear)
        for button in (self.fix, self.clear):
            buttons.addWidget(button)
        buttons.addStretch(1)
        column.addLayout(buttons)
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 4, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(3)
        self._fields: list[Field] = []
        for place, (key, words) in enumerate(_KEYS):
            field = field_for(self._desk, Address(0, key), width=130, label=words)
            self._fields.append(field)
            grid.addWidget(field, place // 2, place % 2)
        grid.setRowStretch(len(_KEYS), 1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setStyleSheet("QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; }")
        scroll.setWidget(page)
        column.addWidget(scroll, 1)
        return frame

    # -- doing ----------------------------------------------------------------------------------------------------

    def show_axis(self, slot: int) -> None:
        self.slot = slot
        self._picker.show_names(self._desk.machine.names)
        self._picker.choose(slot)
        for field in self._fields:
            field.set_axis(slot)
        self.refresh()

    def _choose_row(self, place: int) -> None:
        self.show_axis(self._order()[place])

    def _begin(self, slots: tuple[int, ...] | None) -> None:
        self._said = {item.slot: item for item in self._rehearsed()}
        if why := self.run.home(slots):
            self._desk.told.emit("warn", f"Nothing was homed. {why}")

    def _repeat(self) -> None:
        name, axes = self._desk.machine.names[self.slot], self._desk.axes
        why = self.run.obstacle((self.slot,))
        if not why and not (moves(self._desk.machine.axis(self.slot)) and axes[self.slot].homed):
            why = f"{name} is not homed by a switch yet. Home it once first."
        if why:
            self._desk.told.emit("warn", f"Nothing was repeated. {why}")
            return
        self.run.records = {}
        self.repeats.repeat(self.slot, TIMES)

    def _repeated(self, slot: int) -> None:
        """Keeps the scatter as a proof."""
        claim, scatter = repeat_claim(self._desk.machine, slot), self.repeats.scatters[slot]
        if not self._desk.proof_obstacle(claim):
            unit = "°" if self._desk.machine.axis(slot).rotary else "mm"
            spread = f"standard deviation {scatter.standard:.4f} {unit}, range {scatter.range:.4f}"
            words = f"{len(scatter.deviations)} touches, {spread}"
            self._desk.prove(claim, scatter.good, words)

    def left(self) -> None:
        if self.repeats.running:
            self._desk.stop()

    def _ended(self) -> None:
        """Keeps what was found as a proof, and shows the axis that failed."""
        for slot, record in self.run.records.items():
            claim = home_claim(self._desk.machine, slot)
            if record.result is Result.STOPPED or self._desk.proof_obstacle(claim):
                continue
            found = record.result is Result.FOUND
            self._desk.prove(claim, found, self._took(record) if found else record.result.words)
            if not found:
                self.show_axis(slot)

    def _took(self, record: Record) -> str:
        said = self._said.get(record.slot)
        if said is None or not said.legs:
            return "home was taken where it stands"
        near = (
            abs(record.seconds - said.seconds) < said.seconds / 2
        )  # it began where the rehearsal said, at the room's clock
        return f"found in {record.seconds:.1f} s" + (f", rehearsed {said.seconds:.1f} s" if near else "")

    def _take_fix(self) -> None:
        try:
            self._desk.set_values(self._fix)
        except Refusal as why:
            self._desk.told.emit("warn", why.sentence)

    def _move_clear(self) -> None:
        """Back from the switch on which the axis stands."""
        axis = self._desk.machine.axis(self.slot)
        if why := self.run.obstacle((self.slot,)):
            self._desk.told.emit("warn", f"Nothing was moved. {why}")
            return
        way = -1.0 if axis.choice("homing.towards") == "high" else 1.0
        self._desk.link.jog_step(self.slot, way * CLEAR, float(axis.number("homing.approach")))

    # -- showing --------------------------------------------------------------------------------------------------

    def _order(self) -> list[int]:
        """Slots in the order of the time line: by turns; those that take no part come last."""
        machine = self._desk.machine
        return sorted(range(len(machine.names)), key=lambda slot: (machine.axis(slot).whole("homing.turn") or 99, slot))

    def _rehearsed(self) -> list[Rehearsal]:
        machine, axes = self._desk.machine, self._desk.axes
        places = {slot: axis.position if axis.homed else None for slot, axis in enumerate(axes)}
        names = range(len(machine.names))
        return rehearse_all(machine, {slot: distance_to_switch(machine, slot, places.get(slot)) for slot in names})

    def refresh(self) -> None:
        machine = self._desk.machine
        if self._names != machine.names:
            self._names = machine.names
            self.show_axis(min(self.slot, len(machine.names) - 1))
            return
        running = self.run.running
        rehearsed = self._said if self.run.records else {item.slot: item for item in self._rehearsed()}
        order = self._order()
        self.line.show_rows(tuple(self._time_row(slot, rehearsed.get(slot)) for slot in order), order.index(self.slot))
        axis = machine.axis(self.slot)
        mine, record = rehearsed.get(self.slot), self.run.records.get(self.slot)
        ran = (
            tuple(place for _, place in record.points) if record is not None and mine is not None and mine.legs else ()
        )
        seen = sense(machine, self.slot)
        side = "+" if axis.choice("homing.towards") == "high" else "−"
        caption = f"{axis.name} homes towards {side}; on + {seen.thing} goes {seen.plus}"
        self.head.show_scene(head_scene(axis, mine.legs if mine is not None else (), caption, ran))
        self.one.setText(f"Home {axis.name}")
        for button in (self.again, self.one, self.all):
            button.setEnabled(not running and not self.repeats.running)
        self._show_words(record)
        self.mark.show_claim(machine, home_claim(machine, self.slot), self._desk.proofs)

    def _time_row(self, slot: int, item: Rehearsal | None) -> TimeRow:
        axis, record = self._desk.machine.axis(slot), self.run.records.get(slot)
        ran = ()
        if record is not None and record.phases:
            end = record.end or record.points[-1][0]
            starts = [begin for _, begin in record.phases]
            ran = tuple(
                (phase, begin, stop) for (phase, begin), stop in zip(record.phases, [*starts[1:], end], strict=True)
            )
        failed = record is not None and record.result not in (Result.NONE, Result.FOUND)
        words = "takes no part: turn 0" if not axis.whole("homing.turn") else "home is where it stands"
        if axis.whole("homing.turn") and not moves(axis) and axis.choice("homing.method") != "here":
            words = "by hard stop: the controller does not do this yet"
        return TimeRow(axis.name, axis.whole("homing.turn"), item.begin if item else 0.0, item.legs if item else (),
                       cast("tuple", ran), failed, words)  # fmt: skip

    def _show_words(self, record: Record | None) -> None:
        name = self._desk.machine.names[self.slot]
        self._fix = {}
        title, words = (
            f"{name}, rehearsed",
            "Drawn from where it stands, or from the far stop while it is not homed. Nothing has moved.",
        )
        result = record.result if record is not None else Result.NONE
        if record is not None and result is Result.NONE:
            phase = record.phases[-1][0].words if record.phases else "begins"
            title, words = f"{name}: {phase}", "Esc stops it."
        elif record is not None and result is Result.FOUND:
            title, words = (
                f"{name} has its home",
                f"{self._took(record)[0].upper()}{self._took(record)[1:]}. The blue line is what it did.",
            )
        elif result is not Result.NONE:
            seen, words, edit = explain(self._desk.machine, self.slot, result)
            title, self._fix = seen, cast("dict[Address, Value]", edit)
        scatter = self.repeats.scatters.get(self.slot) if record is None else None
        self.scatter.show_scatter(scatter, "°" if self._desk.machine.axis(self.slot).rotary else "mm")
        if scatter is not None:
            said, slower = advice(self._desk.machine, self.slot, scatter)
            title = f"{name}: ± {2 * scatter.standard:.4f} over {len(scatter.deviations)} touches"
            words = self.repeats.words if self.repeats.running else f"Range {scatter.range:.4f}. {said}"
            if slower is not None and not self.repeats.running:
                self._fix = {Address(self.slot, "homing.touch"): slower}
        self.title.setText(title)
        self.words.setText(words)
        self.fix.setVisible(bool(self._fix))
        if self._fix:
            (address, value), *_ = self._fix.items()
            row = address.row
            shown = row.show(value, rotary=self._desk.machine.is_rotary(address), inch=self._desk.machine.inch)
            self.fix.setText(f"Set {row.label}: {shown}")
        self.clear.setVisible(result is Result.PRESSED)
