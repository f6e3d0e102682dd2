"""What the controller switches: a row for each output with its role, what it does now, and a button that tries it."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from idler.core.machine import Address
from idler.core.profile.terminals import LEVEL_OUTPUTS
from idler.core.spindle.interlocks import try_obstacle
from idler.core.values.roles import OutputRole
from idler.core.wiring import Output, outputs
from idler.link.events import Asked, PanelState
from idler.procedures.dead_man import DeadMan
from idler.session.session import Session

from ...bridge import follow
from ...pictures.terminals import Screw
from ...widgets.cards import BAR, label, scrolled, turn_over
from ...widgets.fields import Field, field_for
from ...widgets.machinebutton import HoldButton
from .fields import HEIGHT, OutputRoleField

ROW, ROLE = 42, 126
TRY_LEVEL = 200  # ‰: what a level output gives while it is tried


def does(out: Output, panel: PanelState, level: int) -> str:
    """What an output does now, as the controller reports it."""
    if out.kind.level:
        return f"{float(out.own_volts) * level / 1000:.1f} V" if out.own_volts else f"{level / 10:.0f} %"
    return "on" if panel.is_energised(out.slot) else "off"


class OutputRow(QWidget):
    touched = Signal(int)

    def __init__(self, session: Session, dead_man: DeadMan, slot: int) -> None:
        super().__init__()
        self._session, self._dead_man, self.slot = session, dead_man, slot
        self.setFixedHeight(ROW)
        out = outputs(session.machine)[slot]
        self.screw = Screw(out.name)
        self.role = OutputRoleField(session, slot, ROLE)
        self.role.setFixedWidth(ROLE)
        self.state = label("", "small")
        self.state.setToolTip(f"{out.kind.label}; what the controller reports")
        words = f"hold: {float(out.own_volts) * TRY_LEVEL / 1000:.1f} V" if out.kind.level else "hold to try"
        self.button = HoldButton(session, words, self._press, dead_man.let_go)
        self.button.setFixedSize(92, 40)
        self.button.setAccessibleName(f"Hold to try output {out.name}")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(self.screw)
        row.addWidget(self.role)
        row.addWidget(self.state, 1)
        row.addWidget(self.button)

    def focus_within(self, on: bool) -> None:
        if on:
            self.touched.emit(self.slot)

    def mousePressEvent(self, _: object) -> None:
        self.touched.emit(self.slot)

    def _press(self) -> None:
        self.touched.emit(self.slot)
        if not self._session.connected:
            self._session.tell("warn", "No controller is connected: nothing can be tried.")
            return
        why = self._session.unsent(
            (Address(self.slot, "output.role"), Address(self.slot, "output.inverted"))
        ) or try_obstacle(
            self._session.machine, self.slot, self._session.panel.conditions, powered=self._session.powered
        )
        if why:
            self._session.tell("warn", why)
            return
        self._dead_man.hold(Asked(tried=self.slot + 1, tried_level=TRY_LEVEL))

    def show_state(self, panel: PanelState | None, level: int) -> None:
        out = outputs(self._session.machine)[self.slot]
        words = "—" if panel is None else does(out, panel, level)
        if self.state.text() != words:
            self.state.setText(words)
        self.screw.light(panel is not None and panel.is_energised(self.slot))


class OutputsPage(QWidget):
    def __init__(self, session: Session, dead_man: DeadMan) -> None:
        super().__init__()
        self._session, self._dead_man = session, dead_man
        self.rows: list[OutputRow] = []
        self._count = -1
        self._slot = 0
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._scroll = scrolled(QWidget(), whole=True, rows=True)
        column.addWidget(self._scroll, 1)
        self._load_title = label("", "heading")
        column.addWidget(self._load_title)
        self._load = QGridLayout()
        self._load.setHorizontalSpacing(8)
        self._load.setVerticalSpacing(2)
        column.addLayout(self._load)
        self._fields: list[Field] = []
        follow(session.changed, self.refresh)
        self.refresh()

    @property
    def free(self) -> QWidget | None:
        """Where the first output that has no role yet is given one."""
        roles = (row.role for row in self.rows if outputs(self._session.machine)[row.slot].role is OutputRole.NONE)
        return next((role.focusProxy() for role in roles), None)

    def refresh(self) -> None:
        if self._count != self._session.machine.outputs:
            self._build()
        if self._fields:
            out = outputs(self._session.machine)[self._slot]
            self._load_title.setText(f"What hangs on {out.name}, a {out.kind.label}")

    def _build(self) -> None:
        self._count = self._session.machine.outputs
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, BAR, 0)
        column.setSpacing(0)
        self.rows = [OutputRow(self._session, self._dead_man, slot) for slot in range(self._count)]
        for row in self.rows:
            row.touched.connect(self.show_load)
            column.addWidget(row)
        column.addStretch(1)
        turn_over(self._scroll, page)
        for field in self._fields:
            field.deleteLater()
        self._fields = []
        if self._count:
            for place, (key, words, width) in enumerate(
                (("output.load", "load", 138), ("output.load_volts", "at", 76), ("output.load_amps", "takes", 76))
            ):
                field = field_for(self._session, Address(0, key), width=width, label=words)
                field._frame.setFixedHeight(HEIGHT)
                field.setFixedWidth(width)
                self._load.addWidget(field, 0, place)
                self._fields.append(field)
            turned = field_for(
                self._session, Address(0, "output.inverted"), width=200, label="energised while its role is off"
            )
            turned._frame.setFixedHeight(HEIGHT)
            self._load.addWidget(turned, 1, 0, 1, 3)
            self._fields.append(turned)

    def show_load(self, slot: int) -> None:
        """The load of one output below the list."""
        self._slot = slot
        for field in self._fields:
            field.address = Address(slot, field.address.key)
            field.refresh()
        self.refresh()

    def show_motion(self, panel: PanelState | None) -> None:
        place = 0
        for row in self.rows:
            level = 0
            if outputs(self._session.machine)[row.slot].kind.level:
                level = panel.levels[place] if panel is not None and place < LEVEL_OUTPUTS else 0
                place += 1
            row.show_state(panel, level)
