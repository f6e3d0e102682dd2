"""Bus: the description of the drive on Modbus, each register with its number, type and step; and what the drive says."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import QComboBox, QFileDialog, QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QWidget

from idler.core.errors import IdlerError, Refusal
from idler.core.spindle import registers as r
from idler.core.spindle.registers import DUTIES, MUST, Register, Registers
from idler.core.values.quantity import parse
from idler.core.values.units import RPM, figure
from idler.core.words import capital
from idler.session.session import Session
from idler.shelf.files import read_text, write_text

from ...bridge import follow
from ...widgets.cards import figures, label
from .pages import Page


class RegisterRow:
    """The editors of one register, in one row of a grid."""

    def __init__(self, grid: QGridLayout, row: int, duty: str, edited: Callable[[str], None]) -> None:
        self.duty = duty
        self.number, self.step = QLineEdit(), QLineEdit()
        self.type = QComboBox()
        self.type.setProperty("role", "row")
        for key in r.TYPES:
            self.type.addItem(key, key)
        for widget, name, wide in ((self.number, "register", 62), (self.type, "type", 58), (self.step, "one step", 70)):
            widget.setAccessibleName(f"{DUTIES[duty]}, {name}")
            widget.setFixedWidth(wide)
        self.number.editingFinished.connect(lambda: edited(duty))
        self.step.editingFinished.connect(lambda: edited(duty))
        self.type.activated.connect(lambda _: edited(duty))
        grid.addWidget(label(DUTIES[duty], "small"), row, 0)
        grid.addWidget(self.number, row, 1)
        grid.addWidget(self.type, row, 2)
        grid.addWidget(self.step, row, 3)

    def show(self, register: Register | None) -> None:
        self.number.setText(f"{register.number:04X}h" if register is not None else "")
        self.type.setCurrentIndex(self.type.findData(register.type if register is not None else "u16"))
        self.type.setEnabled(register is not None)
        self.step.setEnabled(register is not None and self.duty != "fault")
        self.step.setText("" if register is None else _step_text(self.duty, register))

    def read(self, before: Register | None) -> Register | None:
        """What was typed. Raises Refusal. An empty number takes the register out."""
        text = self.number.text().strip()
        if not text:
            return None
        made = replace(before or r.usual(self.duty), number=r.number_of(text), type=str(self.type.currentData()))
        if r.is_speed(self.duty) and self.step.text().strip():
            rpm = float(parse(self.step.text(), RPM, part="one step"))
            if rpm <= 0:
                raise Refusal("one step", self.step.text(), "is not above zero")
            return replace(made, rpm=rpm)
        if made.values and self.step.text().strip():
            words = self.step.text().replace(",", " ").split()
            if len(words) != len(made.values) or not all(word.isdecimal() for word in words):
                raise Refusal(DUTIES[self.duty], self.step.text(), "are not its values",
                              way_out=f"write whole numbers for {', '.join(made.values)}")  # fmt: skip
            return replace(made, values=dict(zip(made.values, (int(word) for word in words), strict=True)))
        return made


def _step_text(duty: str, register: Register) -> str:
    if r.is_speed(duty):
        return f"{register.rpm:g} rpm"
    return " ".join(str(value) for value in register.values.values())


class BusPage(Page):
    wide = True

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        head = QHBoxLayout()
        self.says = figures("", 15)
        head.addWidget(label("The drive on its bus", "title"))
        head.addStretch(1)
        head.addWidget(self.says)
        self.column.addLayout(head)
        row = QHBoxLayout()
        self.port = QLineEdit()
        self.port.setAccessibleName("Port of the drive")
        self.port.editingFinished.connect(self._line)
        self.unit = QLineEdit()
        self.unit.setFixedWidth(40)
        self.unit.setAccessibleName("Unit number of the drive")
        self.unit.editingFinished.connect(self._line)
        self.open = QPushButton("Speak")
        self.open.clicked.connect(self._toggle)
        row.addWidget(self.port, 1)
        row.addWidget(label("unit", "small"))
        row.addWidget(self.unit)
        row.addWidget(self.open)
        self.rate, self.parity = QComboBox(), QComboBox()
        for rate in r.RATES:
            self.rate.addItem(f"{rate} bit/s", rate)
        for parity in r.PARITIES:
            self.parity.addItem(f"{parity} parity" if parity != "none" else "no parity", parity)
        for box, name in ((self.rate, "Bit rate"), (self.parity, "Parity")):
            box.setAccessibleName(name)
            box.activated.connect(lambda _: self._line())
            row.addWidget(box)
        self.column.addLayout(row)
        self.words = label("", "small", wrap=True)
        self.words.setMinimumWidth(420)
        self.column.addWidget(self.words)
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 4, 0)
        grid.setHorizontalSpacing(4)
        grid.setVerticalSpacing(1)
        grid.setColumnMinimumWidth(0, 170)
        grid.setColumnStretch(4, 1)
        for column, words in enumerate(("", "register", "type", "step, or values")):
            grid.addWidget(label(words, "tiny"), 0, column)
        self.rows = {duty: RegisterRow(grid, place, duty, self._edit) for place, duty in enumerate(DUTIES, start=1)}
        grid.setRowStretch(len(DUTIES) + 1, 1)
        self.column.addWidget(page, 1)
        below = QHBoxLayout()
        below.setSpacing(2)
        self.reset = QPushButton("Reset its fault")
        self.reset.clicked.connect(session.bus.reset)
        self.load, self.save = QPushButton("From a file…"), QPushButton("To a file…")
        self.load.clicked.connect(self._load)
        self.save.clicked.connect(self._save)
        for button in (self.reset, self.load, self.save):
            below.addWidget(button)
        self.column.addLayout(below)
        follow(session.bus.changed, self.refresh)

    @property
    def next(self) -> QWidget:
        """What the hand goes to: the port that the drive hangs on, then what opens it."""
        return self.open if self.port.text() else self.port

    # -- doing ----------------------------------------------------------------------------------------------------

    def _take(self, work: Callable[[], Registers]) -> None:
        """Keeps another description; what cannot be taken is said, and the old one shown again."""
        try:
            found = work()
        except IdlerError as why:
            self.say(why.sentence)
            self.refresh()
            return
        if found != self._session.bus.registers:
            self._session.bus.keep(found)

    def _line(self) -> None:
        def made() -> Registers:
            return replace(
                self._session.bus.registers, port=r.port_of(self.port.text()), unit=r.unit_of(self.unit.text()),
                rate=self.rate.currentData(), parity=self.parity.currentData(),
            )  # fmt: skip

        self._take(made)

    def _edit(self, duty: str) -> None:
        before = self._session.bus.registers
        self._take(lambda: before.with_register(duty, self.rows[duty].read(before.registers.get(duty))))

    def _toggle(self) -> None:
        bus = self._session.bus
        if bus.opened:
            bus.leave()
        else:
            bus.open()

    def _load(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Description of a drive", "", "Descriptions (*.toml)")
        if name:
            self.load_from(Path(name))

    def load_from(self, path: Path) -> None:
        self._take(lambda: r.read(read_text(path)))

    def _save(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Description of a drive", "drive.toml", "Descriptions (*.toml)")
        if name:
            try:
                write_text(Path(name), r.write(self._session.bus.registers))
            except IdlerError as why:
                self.say(why.sentence)

    # -- showing --------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        bus = self._session.bus
        found = bus.registers
        for editor, text in ((self.port, found.port), (self.unit, str(found.unit))):
            if not editor.hasFocus():
                editor.setText(text)
        self.rate.setCurrentIndex(self.rate.findData(found.rate))
        self.parity.setCurrentIndex(self.parity.findData(found.parity))
        for box in (self.rate, self.parity):
            box.setVisible(not found.port.startswith("tcp"))
        for duty, row in self.rows.items():
            if not (row.number.hasFocus() or row.step.hasFocus()):
                row.show(found.registers.get(duty))
        self.open.setText("Leave it" if bus.opened else "Speak")
        state = bus.state
        self.reset.setEnabled(state is not None and bool(state.fault))
        if not bus.opened or state is None:
            self.says.setText("not spoken to" if not bus.opened else "…")
        elif state.answers:
            fault = f", fault {state.fault}" if state.fault else ""
            self.says.setText(f"motor {figure(state.rpm, 0)} rpm{fault}")
        else:
            self.says.setText("no answer")
        needed = " and ".join(DUTIES[duty] for duty in MUST)
        usual = f"Registers count from 0, as 2000h or 8192. {capital(needed)} must be there."
        self.words.setText(state.why if state is not None and state.why else bus.trouble or usual)
