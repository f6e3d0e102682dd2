"""The rails at the bottom: one to-scale rail for each axis, and the jog bar above them."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from idler.core.errors import Refusal
from idler.core.values.units import INCH_MIN, MM_MIN, convert, figure
from idler.core.words import word
from idler.procedures.jogging.jog import Jog
from idler.session.session import Session

from .. import growth
from ..bridge import follow
from ..tools.keys import Bindings, key_text
from ..widgets.cards import turn_over
from ..widgets.fields import restyle
from ..widgets.machinebutton import MachineButton
from .axisrail import ROW, AxisRail

BAR, SHOWN = 44, 4
LEGEND_FROM = 1330  # pixels of the window's width
TARGET = 40  # pixels: what a gloved finger hits


class Rails(QWidget):
    """fold_asked: whether the person wants them folded."""

    fold_asked = Signal(bool)

    def __init__(self, session: Session, jog: Jog, bindings: Bindings) -> None:
        super().__init__()
        self.setObjectName("rails")
        self._session, self.jog, self.bindings = session, jog, bindings
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._rows: list[AxisRail] = []
        self.folded, self._chosen = False, 0
        self._stale_zeros: list[bool] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(0)
        column.addLayout(self._bar())
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column.addWidget(self._scroll)
        self._build_rows()
        follow(session.changed, self.refresh)
        follow(session.work.changed, self.refresh)
        follow(session.program.settled, self.refresh)
        follow(session.held, self._held)
        follow(jog.changed, self._show_jog)
        self._show_jog()
        self._show_keys()
        self._show_power()

    def _bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setContentsMargins(14, 2, 8, 2)
        bar.setSpacing(6)
        title = QLabel("Jog")
        title.setProperty("role", "heading")
        bar.addWidget(title)
        self._steps = QButtonGroup(self)
        self._step_buttons: list[QPushButton] = []
        self._step_row = QHBoxLayout()
        self._step_row.setSpacing(4)
        bar.addLayout(self._step_row)
        self._per = QLabel()
        self._per.setProperty("role", "soft")
        bar.addWidget(self._per)
        self._speeds = QButtonGroup(self)
        self.speed_buttons: dict[bool, QPushButton] = {}
        for fast, words in ((False, word("slow")), (True, word("fast"))):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setFixedHeight(TARGET)
            button.setToolTip("Hold Shift with a jog button or an armed key to go fast just once.")
            button.clicked.connect(lambda _=False, fast=fast: self.jog.set_fast(fast))
            self._speeds.addButton(button)
            self.speed_buttons[fast] = button
            bar.addWidget(button)
        self.speed = QLineEdit()
        self.speed.setFixedSize(64, TARGET - 6)
        self.speed.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.speed.setAccessibleName("Jog speed")
        self.speed.editingFinished.connect(self._take_speed)
        bar.addWidget(self.speed)
        self._speed_unit = QLabel()
        self._speed_unit.setProperty("role", "soft")
        bar.addWidget(self._speed_unit)
        bar.addSpacing(6)
        self.arm_button = QPushButton()
        self.arm_button.setFixedHeight(TARGET)
        self.arm_button.clicked.connect(lambda: self.jog.arm(not self.jog.armed))
        self.bindings.changed.connect(self._show_keys)
        bar.addWidget(self.arm_button)
        self._legend = QLabel("▾ home  ▮ switch  [ ] soft limits  ▒ cushion  × work zero")
        self._legend.setProperty("role", "small")
        self._legend.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._legend.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        bar.addWidget(self._legend, 1)
        self._choice, self._choice_row = QButtonGroup(self), QHBoxLayout()
        self.choices: list[QPushButton] = []
        self._choice_row.setSpacing(4)
        self._choice.idClicked.connect(self.choose)
        bar.addLayout(self._choice_row)
        bar.addStretch(0)
        self.fold_button = QPushButton()
        self.fold_button.setFixedHeight(TARGET)
        self.fold_button.clicked.connect(lambda: self.fold_asked.emit(not self.folded))
        bar.addWidget(self.fold_button)
        self.power = MachineButton(self._session, always=lambda: self._session.powered)
        self.power.setFixedHeight(TARGET)
        self.power.clicked.connect(lambda: self._session.power(not self._session.powered))
        bar.addWidget(self.power)
        return bar

    def _build_steps(self) -> None:
        for button in self._step_buttons:
            self._steps.removeButton(button)
            self._step_row.removeWidget(button)
            button.deleteLater()
        self._step_buttons = []
        for step in ("", *self.jog.steps):
            button = QPushButton(step or word("hold"))
            button.setCheckable(True)
            button.setProperty("role", "touch")
            button.setMinimumWidth(44)
            button.setFixedHeight(TARGET)
            button.setProperty("step", step)
            button.clicked.connect(lambda _=False, step=step: self.jog.set_step(step))
            self._steps.addButton(button)
            self._step_buttons.append(button)
            self._step_row.addWidget(button)

    def _show_keys(self) -> None:
        names = self._session.machine.names
        bound = [
            f"{key_text(key)} {name}{'+' if sign > 0 else '−'}"
            for name in names
            for sign in (1, -1)
            if (key := self.bindings.key_of((name, sign))) is not None
        ]
        keys = ", ".join(bound) or "No key is bound"
        self.arm_button.setToolTip(f"{keys}. Shift goes fast. Disarms by itself after a minute.")
        self._show_armed()

    def _build_rows(self) -> None:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self._built = self._session.machine.names
        self._rows = [AxisRail(self._session, self.jog, slot) for slot in range(len(self._session.machine.names))]
        for row in self._rows:
            column.addWidget(row)
        turn_over(self._scroll, page)
        self._build_choice()
        self._lay()

    def _build_choice(self) -> None:
        """One button for each axis, with where it stands: of a machine whose rails are folded to one line."""
        for button in self.choices:
            self._choice.removeButton(button)
            self._choice_row.removeWidget(button)
            button.deleteLater()
        self.choices = []
        few = len(self._built) <= 4
        self._choice_row.setSpacing(4 if few else 2)
        for slot, name in enumerate(self._built):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setProperty("role", "touch")
            button.setFixedHeight(TARGET)
            button.setFixedWidth(48 if few else 32)
            button.setAccessibleName(f"Rail of {name}")
            self._choice.addButton(button, slot)
            self.choices.append(button)
            self._choice_row.addWidget(button)

    @property
    def unfolded_height(self) -> int:
        """Pixels of the usual size."""
        return BAR + ROW * min(SHOWN, len(self._rows)) + 4

    @property
    def folded_height(self) -> int:
        return BAR + ROW + 4

    def fold(self, on: bool) -> None:
        """To one line, that of the axis that was chosen: jogging stays, and the stage gets the room."""
        if on != self.folded and (len(self._rows) > 1 or not on):
            self.folded = on
            self._lay()

    def choose(self, slot: int) -> None:
        """The axis whose rail is to be seen while they are folded."""
        if slot < len(self._rows) and slot != self._chosen:
            self._chosen = slot
            self._lay()

    def _lay(self) -> None:
        self._chosen = min(self._chosen, len(self._rows) - 1)
        for slot, row in enumerate(self._rows):
            row.setVisible(not self.folded or slot == self._chosen)
        for button in self.choices:
            button.setVisible(self.folded)
        self._choice.button(self._chosen).setChecked(True)
        height = self.folded_height if self.folded else self.unfolded_height
        growth.fix(self._scroll, height=height - BAR - 4)
        growth.fix(self, height=height)
        self.fold_button.setVisible(len(self._rows) > 1)
        self.fold_button.setText("All axes" if self.folded else "One axis")
        self.fold_button.setToolTip(
            "Shows the rail of every axis."
            if self.folded
            else "Folds the rails to one line, and the stage gets the room."
        )
        self._show_legend()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show_legend()

    def _show_legend(self) -> None:
        """The legend goes where there is no room for all of it."""
        self._legend.setVisible(not self.folded and self.width() >= growth.px(LEGEND_FROM))
        self._per.setVisible(not self.folded or self.width() >= growth.px(LEGEND_FROM))

    @property
    def rows(self) -> list[AxisRail]:
        return self._rows

    def refresh(self) -> None:
        if self._built != self._session.machine.names:
            self._build_rows()
            self._show_keys()
        for row in self._rows:
            row.refresh()
        self._show_jog()

    def _held(self) -> None:
        """What is in force may make a work zero stale."""
        stale = [self._session.work.is_stale(name) for name in self._session.machine.names]
        if stale != self._stale_zeros:
            self._stale_zeros = stale
            self.refresh()
        self._show_power()

    def show_motion(self) -> None:
        """Called at the picture's pace."""
        for row in self._rows:
            row.show_motion()
        self._show_power()

    def _take_speed(self) -> None:
        if not self.speed.isModified():
            return
        try:
            self.jog.set_speed(self.speed.text())
        except Refusal as why:
            self._session.tell("warn", why.sentence)
            self._show_jog()

    def _show_jog(self) -> None:
        inch = self._session.machine.inch
        if [button.property("step") for button in self._step_buttons] != ["", *self.jog.steps]:
            self._build_steps()
        for button in self._step_buttons:
            button.setChecked(button.property("step") == self.jog.step)
        self.speed_buttons[self.jog.fast].setChecked(True)
        unit = "in" if inch else "mm"
        self._per.setText(f"{unit} or ° a press," if self.jog.step else "while held,")
        speed = convert(self.jog.speed, MM_MIN, INCH_MIN) if inch else self.jog.speed
        self.speed.setText(figure(speed, 1, trim=True))
        self.speed.setModified(False)
        self._speed_unit.setText(f"{unit}/min")
        self._show_armed()

    def _show_armed(self) -> None:
        armed = self.jog.armed
        key = self.bindings.text_of("arm")
        does = ("keys jog now", "disarms") if armed else ("keys are safe", "arms")
        self.arm_button.setText(f"{does[0]} · {key} {does[1]}" if key else f"{does[0]} · press: {does[1]}")
        role = "armed" if armed else ""
        if self.arm_button.property("role") != role:
            self.arm_button.setProperty("role", role)
            restyle(self.arm_button)

    def _show_power(self) -> None:
        words = "Power off" if self._session.powered else "Power drives"
        if words != self.power.text():
            self.power.setText(words)
            self.power.setProperty("role", "" if self._session.powered else "main")
            restyle(self.power)
        self.power.setEnabled(self._session.connected)
