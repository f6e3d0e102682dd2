"""What every station's page is: a workbench that is told when it comes and goes, and shows what moves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.table.sheets import Group
from idler.session.session import Session

from .. import growth
from ..bridge import follow
from ..widgets.cards import AxisPicker, Segments, tall
from ..widgets.fields import Field
from ..widgets.machinebutton import MachineButton
from ..widgets.sheet import Sheet

TARGET = 40  # pixels: what is used standing at the machine


@dataclass(frozen=True)
class Beside:
    """A card of fields beside a picture: its pixels, and how many fields stand side by side in it."""

    width: int
    columns: int


class Workbench(QWidget):
    """live: whether something on it moves even while the machine rests, so that it wants every frame."""

    live = False
    laid_anew = Signal()  # what it shows may need more room, or less
    explained = Signal(str)  # the code of a finding that somebody wants to read more about

    def entered(self) -> None:
        """It is on the stage now."""

    def left(self) -> None:
        """Another station is on the stage now."""

    def turn_to(self, name: str) -> None:
        """Shows one of its pages, where it has several."""

    def show_motion(self) -> None:
        """Called at the picture's pace while it is on the stage."""

    @property
    def axis(self) -> int | None:
        """The axis that is worked on, where it is one."""
        return None

    def show_axis(self, slot: int) -> None:
        """Shows one axis, where it shows one at a time: that of the page in front, where it has several."""
        for page in self.findChildren(AxisWorkbench):
            if page.isVisibleTo(self):
                page.show_axis(slot)

    def show_value(self, address: Address) -> QWidget | None:
        """Turns to the page that has the field of a value, on its axis; the field's editor, or None where it has none."""
        for segments in self.findChildren(Segments):
            for name, page in segments.pages.items():
                if any(field.address.key == address.key for field in page.findChildren(Field)):
                    segments.turn_to(name)
                    break
        if address.axis is not None:
            self.show_axis(address.axis)
        fields = [field for field in self.findChildren(Field) if field.address == address]
        shown = [field for field in fields if field.isVisibleTo(self)] or fields
        return shown[0].focusProxy() if shown else None

    def control_of(self, key: str, address: Address | None) -> QWidget | None:
        """What the hand goes to first for a step of the agenda: the field of its value, else the button that does what the
        page is for."""
        for field in self.findChildren(Field):
            if field.address == address and field.isVisibleTo(self):
                return field.focusProxy()
        buttons = [each for each in self.findChildren(QPushButton) if each.isVisibleTo(self) and each.isEnabled()]
        main = [each for each in buttons if each.property("role") == "main"]
        return next(iter([*main, *(each for each in buttons if isinstance(each, MachineButton))]), None)

    def height_wanted(self) -> int:
        """Pixels in which nothing of its fields has to scroll."""
        wanted, laid = self.minimumSizeHint().height(), self.layout()
        if laid is not None and laid.hasHeightForWidth():  # words that wrap
            wanted = max(wanted, laid.totalMinimumHeightForWidth(self.width()))
        for scroll in self.findChildren(QScrollArea):
            inside = scroll.widget()
            if inside is None or not scroll.isVisible() or not scroll.property("whole"):
                continue
            layout, width = inside.layout(), scroll.viewport().width()
            high = layout.totalHeightForWidth(width) if layout is not None and layout.hasHeightForWidth() else 0
            more = max(high, inside.sizeHint().height()) - scroll.viewport().height()  # or less, below nought
            wanted = max(wanted, self.height() + more)
        return wanted


class AxisWorkbench(Workbench):
    """A page that shows one axis at a time, and follows axes that come and go.

    A page builds itself in its own __init__ and calls `follow` at the end of it.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slot = 0
        self._names = session.machine.names
        self._sheets: list[Sheet] = []
        self._picker = AxisPicker(self._names)
        self._picker.chosen.connect(self.show_axis)

    @property
    def axis(self) -> int:
        return self.slot

    def page_column(self) -> QVBoxLayout:
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 12, 6)
        column.setSpacing(6)
        return column

    def axis_row(self, *buttons: QPushButton) -> QHBoxLayout:
        """The picker at the left, what can be done at the right."""
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(self._picker)
        row.addStretch(1)
        for button in buttons:
            tall(button)
            row.addWidget(button)
        return row

    def sheet_of(self, groups: Sequence[Group], width: int) -> Sheet:
        """The fields of the axis on the page."""
        made = Sheet(self._session, groups, width=width)
        self._sheets.append(made)
        return made

    def beside(self, card: QFrame, *, usual: Beside, low: Beside, below: int) -> bool:
        """Fits the card at the right with the first sheet in it to the height of the window, in pixels of the usual size: where
        that is less than `below`, which is returned, as `low` says."""
        is_low = self.window().height() < growth.px(below)
        wanted = low if is_low else usual
        growth.fix(card, width=wanted.width)
        self._sheets[0].show_columns(wanted.columns)
        return is_low

    def follow(self) -> None:
        """From here on the page shows what changes."""
        for signal in (self._session.changed, self._session.held, self._session.proved):
            follow(signal, self._follow)
        self.show_axis(0)

    def show_axis(self, slot: int) -> None:
        self.slot = slot
        self._picker.show_names(self._session.machine.names)
        self._picker.choose(slot)
        for sheet in self._sheets:
            sheet.show_axis(slot)
        self.refresh()

    def _follow(self) -> None:
        names = self._session.machine.names
        if self._names != names:
            self._names = names
            self.show_axis(min(self.slot, len(names) - 1))
        else:
            self.refresh()

    def refresh(self) -> None:
        """Shows everything anew."""
        raise NotImplementedError
