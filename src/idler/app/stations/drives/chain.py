"""The train drawn as mechanics and edited in place: motor, stages, final element, and what they come to."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from idler.core.errors import Refusal
from idler.core.machine import Address, Axis
from idler.core.mechanics.chain import Chain
from idler.core.table import AXIS, used_with
from idler.core.values.stage import Stage, parse_stages
from idler.core.values.units import figure
from idler.core.words import word
from idler.session.session import Session

from ... import theme
from ...pictures.chain import FinalPicture, MotorPicture, PartPicture, StagePicture
from ...widgets.cards import turn_over
from ...widgets.fields import Field, field_for

# Least width in pixels and the short caption of each value, which stands below the part that it belongs to.
_CAPTIONS = {
    "chain.motor": (84, word("motor")), "chain.full_steps": (62, "full steps"), "chain.microsteps": (56, word("microsteps")),
    "chain.motor_counts": (96, "counts per turn"), "chain.final": (92, "final element"), "chain.pitch": (96, word("pitch")),
    "chain.starts": (46, word("starts")), "chain.module": (92, word("module")), "chain.pinion_teeth": (56, word("teeth")),
    "chain.belt_pitch": (92, "belt pitch"), "chain.pulley_teeth": (56, word("teeth")),
    "chain.worm_starts": (52, word("starts")), "chain.wheel_teeth": (62, "wheel teeth"),
    "chain.turn_travel": (110, "travel per turn"),
}  # fmt: skip

RESULT, RESULT_MARGIN = 206, 14  # pixels: the card of what the train comes to


def _fit(line: QLabel, words: str, sizes: tuple[int, ...], *, bold: bool = False) -> None:
    """In the largest of these sizes, in pixels, in which it is whole."""
    for size in sizes:
        font = theme.figure_font(size, bold=bold)
        if QFontMetrics(font).horizontalAdvance(words) <= RESULT - 2 * RESULT_MARGIN:
            break
    line.setFont(font)
    line.setText(words)


class StageField(Field):
    """One stage of the train as text, "20 to 40 teeth" or "3 : 1", with a button that takes it out."""

    def __init__(self, session: Session, slot: int, place: int) -> None:
        super().__init__(session, Address(slot, "chain.stages"), label=f"stage {place + 1}")
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
        return list(self._session.machine.axis(self.address.slot).stages)

    def refresh(self) -> None:
        stages = self._stages()
        if self._place < len(stages):  # else the train is about to be drawn anew without this one
            self._show_text(self.editor, str(stages[self._place]))
        self._show_standing()

    def _commit(self) -> None:
        if not self.editor.isModified():
            return
        stages = self._stages()
        part = f"{self._session.machine.part(self.address)}, stage {self._place + 1}"
        try:
            stages[self._place : self._place + 1] = parse_stages(self.editor.text(), part)
        except Refusal as why:
            self._set_bad(True)
            self._session.tell("warn", why.sentence)
            return
        self.editor.setModified(False)
        self._session.set_values({self.address: tuple(stages)})

    def _remove(self) -> None:
        stages = self._stages()
        del stages[self._place]
        self._session.set_values({self.address: tuple(stages)})


class ChainCard(QFrame):
    """Motor, stages and final element side by side, each with its fields below; built anew when the train's form changes."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setProperty("role", "card")
        self._session = session
        self._slot = 0
        self._form: object = None
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(12, 6, 10, 6)
        self._row.setSpacing(0)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setProperty("role", "clear")
        self._row.addWidget(self._scroll, 1)
        self._row.addSpacing(12)
        self._row.addWidget(self._result())
        self.setFixedHeight(150)

    def _result(self) -> QFrame:
        dark = QFrame()
        dark.setProperty("role", "dark")
        dark.setFixedWidth(RESULT)
        column = QVBoxLayout(dark)
        column.setContentsMargins(RESULT_MARGIN, 9, RESULT_MARGIN, 9)
        column.setSpacing(3)
        self._unit_words, self._counts, self._derivation, self._resolution = QLabel(), QLabel(), QLabel(), QLabel()
        for line in (self._unit_words, self._counts, self._derivation, self._resolution):
            line.setAlignment(Qt.AlignmentFlag.AlignRight)
            column.addWidget(line)
        self._unit_words.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self._turns = QLabel()
        self._turns.setAlignment(Qt.AlignmentFlag.AlignRight)
        column.addWidget(self._turns)
        column.addStretch(1)
        self._derivation.setWordWrap(True)
        return dark

    def show_axis(self, slot: int) -> None:
        self._slot = slot
        self.refresh()

    def refresh(self) -> None:
        axis = self._session.machine.axis(self._slot)
        chain_keys = tuple(value for key, value in axis.values.items() if key.startswith("chain."))
        form = (self._slot, axis.choice("chain.motor"), axis.choice("chain.final"), axis.stages, theme.is_night(),
                axis.choice("axis.moves"), chain_keys, self._session.standing(Address(self._slot, "chain.stages")))  # fmt: skip
        if form != self._form:
            self._rebuild(axis, same_fields=self._form is not None and form[:4] == self._form[:4])  # type: ignore[index]
            self._form = form
        chain = Chain.of(axis)
        self._show_result(chain)

    def _show_result(self, chain: Chain) -> None:
        self._unit_words.setText(f"counts per {chain.reads.name}")
        _fit(self._counts, figure(chain.counts_shown, 4), (30, 28, 26, 24, 21, 18, 15), bold=True)
        _fit(self._derivation, "= " + chain.derivation, (12, 11))
        _fit(self._resolution, f"one count moves {chain.resolution_text}", (13, 12, 11, 10))
        self._turns.setText("the stages turn it round" if chain.reverses else "")

    def _rebuild(self, axis: Axis, *, same_fields: bool) -> None:
        if same_fields:  # only the pictures follow the values
            for final in self._scroll.findChildren(FinalPicture):
                final._axis = axis
            for part in self._scroll.findChildren(PartPicture):
                part.update()
            return
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        way = -1 if Chain.of(axis).reverses else 1
        row.addWidget(self._part(MotorPicture(way), self._motor_fields(axis)))
        for place, stage in enumerate(axis.stages):
            way = -way if stage.reverses else way
            row.addWidget(self._part(StagePicture(stage, way), [StageField(self._session, self._slot, place)]))
        row.addWidget(self._part(FinalPicture(axis), self._final_fields(axis)), 1)
        turn_over(self._scroll, page)

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
        return field_for(self._session, Address(self._slot, key), width=width, label=caption)

    def _motor_fields(self, axis: Axis) -> list[QWidget]:
        return self._choice_and_its_fields("chain.motor", axis)

    def _final_fields(self, axis: Axis) -> list[QWidget]:
        return self._choice_and_its_fields("chain.final", axis)

    def _choice_and_its_fields(self, key: str, axis: Axis) -> list[QWidget]:
        """The choice of motor or final element, and the values that come into use with it."""
        keys = [key, *(row.key for row in used_with(key, axis.choice(key)))]
        return [self._field(key, *_CAPTIONS.get(key, (92, AXIS[key].label))) for key in keys]

    def add(self, text: str) -> None:
        """One more stage, next to the final element."""
        address = Address(self._slot, "chain.stages")
        self._session.set_values({address: (*self._session.machine.axis(self._slot).stages, *parse_stages(text))})
