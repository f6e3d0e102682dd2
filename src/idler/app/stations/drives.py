"""The Drives station: the train drawn and edited in place, the pace with its ceilings, and one move."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import Qt
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from idler.core.chain import Chain
from idler.core.errors import Refusal
from idler.core.machine import Address, Axis
from idler.core.pace import Move, Pace
from idler.core.stage import MOST_STAGES, Stage
from idler.core.standing import Standing
from idler.core.table import used_with
from idler.core.units import Dimension, figure, parse

from .. import theme
from ..desk import Desk
from ..fields import Field, field_for
from ..parts import AxisPicker, card, figures, label
from ..pictures.chain import FinalPicture, MotorPicture, PartPicture, StagePicture
from ..pictures.move import MovePicture
from ..pictures.pacemap import Ceiling, PaceMap, PaceScene
from .workbench import Workbench

# Least width in pixels and the short caption of each value, which stands below the part that it belongs to.
_CAPTIONS = {
    "chain.motor": (84, "motor"), "chain.full_steps": (62, "full steps"), "chain.microsteps": (56, "microsteps"),
    "chain.motor_counts": (96, "counts per turn"), "chain.final": (92, "final element"), "chain.pitch": (96, "pitch"),
    "chain.starts": (46, "starts"), "chain.module": (92, "module"), "chain.pinion_teeth": (56, "teeth"),
    "chain.belt_pitch": (92, "belt pitch"), "chain.pulley_teeth": (56, "teeth"), "chain.worm_starts": (52, "starts"),
    "chain.wheel_teeth": (62, "wheel teeth"), "chain.turn_travel": (110, "travel per turn"),
}  # fmt: skip


class StageField(Field):
    """One stage of the train as text, "20 to 40 teeth" or "3 : 1", with a button that takes it out."""

    def __init__(self, desk: Desk, slot: int, place: int) -> None:
        super().__init__(desk, Address(slot, "chain.stages"), label=f"stage {place + 1}")
        self._place = place
        self.editor = QLineEdit()
        self.editor.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.editor.setFont(theme.figure_font(13))
        self.editor.setToolTip("Teeth of driver and driven wheel, “20 to 40 teeth”, or a reduction, “3 : 1”.")
        remove = QPushButton("×")
        remove.setAccessibleName(f"Take stage {place + 1} out")
        remove.setToolTip(f"Take stage {place + 1} out of the train")
        remove.clicked.connect(self._remove)
        self._inside.addWidget(self.editor)
        self._inside.addWidget(remove)
        self._watch(self.editor)
        self.editor.setAccessibleName(f"stage {place + 1}")
        self.editor.editingFinished.connect(self._commit)
        self.refresh()

    def _stages(self) -> list[Stage]:
        assert self.address.slot is not None
        return list(self._desk.machine.axis(self.address.slot).stages)

    def refresh(self) -> None:
        stages = self._stages()
        if self._place < len(stages):  # else the train is about to be drawn anew without this one
            self._show_text(self.editor, str(stages[self._place]))
        self._show_standing()

    def _commit(self) -> None:
        if not self.editor.isModified():
            return
        stages = self._stages()
        part = f"{self._desk.machine.part(self.address)}, stage {self._place + 1}"
        try:
            stages[self._place] = Stage.parse(self.editor.text(), part)
        except Refusal as why:
            self._set_bad(True)
            self._desk.told.emit("warn", why.sentence)
            return
        self.editor.setModified(False)
        self._desk.set_values({self.address: tuple(stages)})

    def _remove(self) -> None:
        stages = self._stages()
        del stages[self._place]
        self._desk.set_values({self.address: tuple(stages)})


class ChainCard(QFrame):
    """Motor, stages and final element side by side, each with its fields below; built anew when the train's form changes."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setProperty("role", "card")
        self._desk = desk
        self._slot = 0
        self._form: object = None
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(12, 6, 10, 6)
        self._row.setSpacing(0)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setStyleSheet("QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; }")
        self._row.addWidget(self._scroll, 1)
        self._row.addSpacing(12)
        self._row.addWidget(self._result())
        self.setFixedHeight(150)

    def _result(self) -> QFrame:
        self._dark = QFrame()
        self._dark.setFixedWidth(206)
        column = QVBoxLayout(self._dark)
        column.setContentsMargins(14, 9, 14, 9)
        column.setSpacing(3)
        self._unit_words, self._counts, self._derivation, self._resolution = QLabel(), QLabel(), QLabel(), QLabel()
        for line in (self._unit_words, self._counts, self._derivation, self._resolution):
            line.setAlignment(Qt.AlignmentFlag.AlignRight)
            column.addWidget(line)
        self._unit_words.setAlignment(Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)
        self._derivation.setWordWrap(True)
        return self._dark

    def show_axis(self, slot: int) -> None:
        self._slot = slot
        self.refresh()

    def refresh(self) -> None:
        axis = self._desk.machine.axis(self._slot)
        chain_keys = tuple(value for key, value in axis.values.items() if key.startswith("chain."))
        form = (self._slot, axis.choice("chain.motor"), axis.choice("chain.final"), axis.stages, theme.is_night(),
                axis.choice("axis.moves"), chain_keys, self._desk.standing(Address(self._slot, "chain.stages")))  # fmt: skip
        if form != self._form:
            self._rebuild(axis, same_fields=self._form is not None and form[:4] == self._form[:4])  # type: ignore[index]
            self._form = form
        chain = Chain.of(axis)
        self._show_result(chain)

    def _show_result(self, chain: Chain) -> None:
        tokens = theme.tokens()
        self._dark.setStyleSheet(
            f"QFrame {{ background: {tokens.header}; border-radius: 5px; }} QLabel {{ color: {tokens.on_header}; }}"
        )
        self._unit_words.setText(f"counts per {'degree' if chain.unit == '°' else 'mm'}")
        self._counts.setFont(theme.figure_font(30, bold=True))
        counts = figure(chain.counts_per_unit, 4)
        whole, _, rest = counts.partition(".")
        self._counts.setText(f"{whole}.{rest}")
        font = theme.figure_font(12)
        self._derivation.setFont(font)
        self._derivation.setText("= " + chain.derivation)
        wide = QFontMetrics(font).horizontalAdvance(self._derivation.text()) > 188
        self._derivation.setFont(theme.figure_font(11 if wide else 12))
        self._resolution.setText(f"one count moves {chain.resolution_text}")

    def _rebuild(self, axis: Axis, *, same_fields: bool) -> None:
        if same_fields:  # only the pictures follow the values
            for picture in self._scroll.widget().findChildren(FinalPicture):
                picture._axis = axis
            for picture in self._scroll.widget().findChildren(PartPicture):
                picture.update()
            return
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self._part(MotorPicture(), self._motor_fields(axis)))
        for place, stage in enumerate(axis.stages):
            row.addWidget(self._part(StagePicture(stage), [StageField(self._desk, self._slot, place)]))
        row.addWidget(self._part(FinalPicture(axis), self._final_fields(axis)), 1)
        self._scroll.setWidget(page)

    def _part(self, picture: QWidget, fields: list[QWidget]) -> QWidget:
        part = QWidget()
        column = QVBoxLayout(part)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(picture)
        row = QHBoxLayout()
        row.setContentsMargins(4, 0, 4, 0)
        row.setSpacing(6)
        for field in fields:
            row.addWidget(field)
        column.addLayout(row)
        column.addStretch(1)
        return part

    def _field(self, key: str, width: int, caption: str) -> Field:
        return field_for(self._desk, Address(self._slot, key), width=width, label=caption)

    def _motor_fields(self, axis: Axis) -> list[QWidget]:
        return self._choice_and_its_fields("chain.motor", axis)

    def _final_fields(self, axis: Axis) -> list[QWidget]:
        return self._choice_and_its_fields("chain.final", axis)

    def _choice_and_its_fields(self, key: str, axis: Axis) -> list[QWidget]:
        """The choice of motor or final element, and the values that come into use with it."""
        keys = [key, *(row.key for row in used_with(key, axis.choice(key)))]
        return [self._field(key, *_CAPTIONS[key]) for key in keys]

    def add(self, text: str) -> None:
        """One more stage, next to the final element."""
        address = Address(self._slot, "chain.stages")
        self._desk.set_values({address: (*self._desk.machine.axis(self._slot).stages, Stage.parse(text))})


class DrivesStation(Workbench):
    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.slot = 0
        self._length = Fraction(25)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 14, 6)
        column.setSpacing(6)
        self._axis_row = QHBoxLayout()
        self._axis_row.setSpacing(6)
        column.addLayout(self._axis_row)
        self._picker = AxisPicker(desk.machine.names)
        self._axis_fields: list[Field] = []
        self.chain = ChainCard(desk)
        column.addWidget(self.chain)
        below = QHBoxLayout()
        below.setSpacing(10)
        below.addWidget(self._pace_card(), 1)
        below.addWidget(self._move_card(), 1)
        column.addLayout(below, 1)
        self._build_axes()
        desk.changed.connect(self.refresh)
        desk.held.connect(self.refresh)
        self.show_axis(0)

    # -- pieces ---------------------------------------------------------------------------------------------------

    def _build_axes(self) -> None:
        while (item := self._axis_row.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        self._picker = AxisPicker(self._desk.machine.names)
        self._picker.chosen.connect(self.show_axis)
        self._axis_row.addWidget(self._picker)
        self._axis_row.addSpacing(8)
        address = Address(0, "axis.moves")
        moves = field_for(self._desk, address, width=104, label="")
        reversed_ = field_for(self._desk, Address(0, "axis.reversed"), width=150, label="direction reversed")
        self._axis_fields = [moves, reversed_]
        words = label("moves", "soft")
        self._sign_words = label("", "soft")
        self._sign_words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        for widget in (moves, words, reversed_, self._sign_words):
            self._axis_row.addWidget(widget)
        self._axis_row.setStretch(self._axis_row.count() - 1, 1)
        self._add_stage = QPushButton("+ gear or belt stage")
        self._add_stage.setProperty("role", "quiet")
        menu = QMenu(self._add_stage)
        for text in ("20 to 40 teeth", "20 to 20 teeth", "3 : 1"):
            menu.addAction(text, lambda text=text: self.chain.add(text))
        self._add_stage.setMenu(menu)
        self._axis_row.addWidget(self._add_stage)

    def _pace_card(self) -> QFrame:
        frame, column = card((12, 5, 10, 5), 2)
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(label("Pace", "title"))
        head.addWidget(label("drag the point, or type", "soft"))
        head.addStretch(1)
        column.addLayout(head)
        self.pace_map = PaceMap()
        self.pace_map.dragged.connect(self._drag)
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.pace_map, 1)
        column.addLayout(row, 1)
        side = QVBoxLayout()
        side.setSpacing(3)
        row.addLayout(side)
        self._pace_fields = [
            field_for(self._desk, Address(0, key), width=width, label=label)
            for key, width, label in (
                ("pace.top_speed", 124, "top speed"), ("pace.acceleration", 124, "acceleration"),
                ("pace.deceleration", 124, "deceleration"),
            )
        ]  # fmt: skip
        for field in self._pace_fields:
            field.setFixedWidth(124)
            side.addWidget(field)
        side.addStretch(1)
        return frame

    def _move_card(self) -> QFrame:
        frame, column = card((12, 5, 10, 5), 2)
        head = QHBoxLayout()
        head.setSpacing(6)
        head.addWidget(label("A move of", "title"))
        self.length = QLineEdit("25")
        self.length.setFixedWidth(66)
        self.length.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.length.setAccessibleName("Length of the move")
        self.length.editingFinished.connect(self._take_length)
        head.addWidget(self.length)
        self._takes = QLabel()
        head.addWidget(self._takes)
        head.addStretch(1)
        column.addLayout(head)
        self._move = MovePicture()
        row = QHBoxLayout()
        row.setSpacing(8)
        left = QVBoxLayout()
        left.setSpacing(2)
        left.addWidget(self._move, 1)
        row.addLayout(left, 1)
        column.addLayout(row, 1)
        side = QVBoxLayout()
        side.setSpacing(3)
        row.addLayout(side)
        grid = QGridLayout()
        grid.setVerticalSpacing(0)
        grid.setColumnStretch(0, 1)
        self._figures: list[QLabel] = []
        for line, name in enumerate(("to top speed", "to a stop", "at top speed")):
            value = figures("")
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label(name, "soft"), line, 0)
            grid.addWidget(value, line, 1)
            self._figures.append(value)
        left.addLayout(grid)
        self._shape_fields = [
            field_for(self._desk, Address(0, key), width=width, label=label)
            for key, width, label in (
                ("pace.shape", 176, "shape of the velocity"), ("pace.jerk", 176, "jerk"),
                ("pace.motor_speed", 176, "highest motor speed"),
            )
        ]  # fmt: skip
        for field in self._shape_fields:
            field.setFixedWidth(176)
            side.addWidget(field)
        side.addStretch(1)
        return frame

    # -- doing ----------------------------------------------------------------------------------------------------

    def show_axis(self, slot: int) -> None:
        self.slot = slot
        self._picker.choose(slot)
        for field in (*self._axis_fields, *self._pace_fields, *self._shape_fields):
            field.set_axis(slot)
        self.chain.show_axis(slot)
        focus = self._desk.focus
        if focus is not None and focus.slot is not None:
            self._desk.set_focus(Address(slot, focus.key))
        self.refresh()

    def _drag(self, speed: float, acceleration: float, last: bool) -> None:
        """While the point moves the draft follows; all of one drag is one step of undo."""
        speed_at, acceleration_at = Address(self.slot, "pace.top_speed"), Address(self.slot, "pace.acceleration")
        values: dict[Address, Fraction] = {
            speed_at: Fraction(speed).limit_denominator(1000),
            acceleration_at: Fraction(acceleration).limit_denominator(1000),
        }
        decelerate = Address(self.slot, "pace.deceleration")
        if self._desk.machine[decelerate] == self._desk.machine[acceleration_at]:
            values[decelerate] = values[acceleration_at]
        try:
            self._desk.drag_values(values, f"pace of {self._desk.machine.names[self.slot]}", last=last)
        except Refusal as why:
            self._desk.told.emit("warn", why.sentence)

    def _take_length(self) -> None:
        axis = self._desk.machine.axis(self.slot)
        unit = Dimension.TRAVEL.unit(axis.rotary)
        screen = Dimension.TRAVEL.screen_unit(axis.rotary, self._desk.machine.inch)
        try:
            length = parse(self.length.text(), unit, bare=screen, part="length of the move")
            if not 0 < length <= 100_000:
                raise Refusal(
                    "length of the move", self.length.text(), "cannot be shown", f"above 0, up to 100 000 {unit}"
                )
        except Refusal as why:
            self._desk.told.emit("warn", why.sentence)
            return
        self._length = length
        self.refresh()

    def refresh(self) -> None:
        if self._picker.count != len(self._desk.machine.names):
            self._build_axes()
        axis = self._desk.machine.axis(self.slot)
        self.chain.refresh()
        self._sign_words.setText(
            "on + the table goes to −" if axis.choice("axis.moves") == "work" else "on + the tool goes to +"
        )
        self._sign_words.setToolTip(
            "+ is counted as the tool goes over the work (ISO 841), whichever of the two moves."
        )
        self._add_stage.setEnabled(len(axis.stages) < MOST_STAGES)
        self._refresh_pace(axis)
        self._refresh_move(axis)

    def _before(self) -> Axis | None:
        """The same axis as it is in force, where there is one."""
        old = self._desk.in_force
        return old.axis(self.slot) if self.slot < len(old.names) else None

    def _edited(self, *keys: str) -> bool:
        standings = [self._desk.standing(Address(self.slot, key)) for key in keys]
        return Standing.EDITED in standings

    def _refresh_pace(self, axis: Axis) -> None:
        machine, chain = self._desk.machine, Chain.of(axis)
        before = self._before() or axis
        ceilings = (
            Ceiling(float(chain.speed_at_step_rate(machine.step_rate)),
                    f"{figure(machine.step_rate / 1000, 1, trim=True)} kHz of steps", True),
            Ceiling(float(chain.speed_at_rpm(axis.number("pace.motor_speed"))),
                    f"motor at {figure(axis.number('pace.motor_speed'), 0)} rpm", False),
        )  # fmt: skip
        speed, acceleration = axis.number("pace.top_speed"), axis.number("pace.acceleration")
        if not speed or not acceleration:
            self.pace_map.show_scene(None)
            return
        self.pace_map.show_scene(
            PaceScene(
                float(speed), float(acceleration), float(before.number("pace.top_speed")),
                float(before.number("pace.acceleration")), ceilings, "°" if axis.rotary else "mm",
                self._edited("pace.top_speed", "pace.acceleration"),
            )
        )  # fmt: skip

    def _refresh_move(self, axis: Axis) -> None:
        pace = Pace.of(axis)
        unit = "°" if axis.rotary else "mm"
        before = self._before()
        old_pace = Pace.of(before) if before is not None else None
        new = pace.move(float(self._length)) if pace else None
        old: Move | None = old_pace.move(float(self._length)) if old_pace and old_pace != pace else None
        self._move.show_moves(new, old, unit)
        if pace is None or new is None:
            self._takes.setText(f"{unit}: never ends, for a speed or an acceleration is zero")
            for shown in self._figures:
                shown.setText("—")
            return
        reach = "" if new.reaches_speed else ", never at top speed"
        self._takes.setText(f"{unit} takes {new.duration:.3f} s{reach}")
        chain, top = Chain.of(axis), axis.number("pace.top_speed")
        up, down = pace.ramp(pace.acceleration), pace.ramp(pace.deceleration)
        self._figures[0].setText(f"{up[0]:.3f} s, {up[1]:.2f} {unit}")
        self._figures[1].setText(f"{down[0]:.3f} s, {down[1]:.2f} {unit}")
        rpm, rate = chain.motor_rpm(top), chain.step_rate(top) / 1000
        self._figures[2].setText(f"{figure(rpm, 0)} rpm, {figure(rate, 1)} kHz of steps")
