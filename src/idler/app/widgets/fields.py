"""Fields for values of the table. A field shows the value with its unit and its standing, and gives the focus to the margin.

What is typed is taken on Enter or when the field is left. What cannot be taken stays in the field, with the reason.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QFrame, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from idler.core.controller.standing import Standing
from idler.core.errors import Refusal
from idler.core.machine import Address
from idler.core.mechanics.entry import became
from idler.core.values.parameter import Kind
from idler.core.wiring.tool import tool_of
from idler.session.session import Session

from .. import theme
from ..bridge import follow

HEIGHT = 34  # of a field's frame


def restyle(widget: QWidget, *, deep: bool = False) -> None:
    """Applies the style sheet anew after a property that it asks for has changed; deep: to what is in it as well."""
    for each in (widget, *(widget.findChildren(QWidget) if deep else ())):
        each.style().unpolish(each)
        each.style().polish(each)


NOTHING_THERE = "—"  # in place of a value that is not to be had with this controller


class Field(QWidget):
    """One value: its name, and below it a frame with the editor. `address` may be changed to another axis."""

    def __init__(
        self, session: Session, address: Address, *, width: int = 96, label: str | None = None, height: int = HEIGHT
    ) -> None:
        super().__init__()
        self._session = session
        self.address = address
        self._shown = ""
        self._facts: tuple[object, ...] = ()
        self._frame = QFrame()
        self._frame.setObjectName("field")
        self._frame.setFixedHeight(height)
        self._frame.setMinimumWidth(width)
        self._inside = QHBoxLayout(self._frame)
        self._inside.setContentsMargins(6, 0, 6, 0)
        self._inside.setSpacing(3)
        self._label = label if label is not None else address.row.label
        self._caption = QLabel(self._label)
        self._caption.setProperty("role", "small")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(1 if label != "" else 0)
        outer.addWidget(self._caption)
        outer.addWidget(self._frame)
        if label == "":
            self._caption.hide()
        follow(session.changed, self._follow)
        follow(session.held, self._follow)

    @property
    def also(self) -> tuple[Address, ...]:
        """Other values that this field shows too."""
        return ()

    def _follow(self) -> None:
        """An axis that is gone is shown no more, until the field is given another one. What shows nothing else is left alone,
        but where the set-up is locked: then the editor may show what was not taken."""
        session, machine = self._session, self._session.machine
        if not machine.shape.has(self.address):
            return
        shown = [(where, machine[where], session.standing(where)) for where in (self.address, *self.also)]
        facts = (*shown, machine.names, machine.inch, machine.is_rotary(self.address))
        if facts != self._facts or session.lock.closed:
            self._facts = facts
            self.refresh()

    def name_it(self, words: str) -> None:
        """Another name for the value, where what it does depends on another value."""
        self._caption.setText(words)

    def set_axis(self, slot: int) -> None:
        """Shows the same value of another axis."""
        self.address = Address(slot, self.address.key)
        self.refresh()

    def _watch(self, editor: QWidget) -> None:
        editor.setAccessibleName(self.address.row.label)
        self.setFocusProxy(editor)

    def focus_within(self, on: bool) -> None:
        if on:
            self._session.set_focus(self.address)
        self._frame.setProperty("lit", on)
        restyle(self._frame)

    def _show_standing(self, words: str = "") -> None:
        """words: said first in the tip."""
        standings = [self._session.standing(address) for address in (self.address, *self.also)]
        standing = next((s for s in (Standing.EDITED, Standing.WAITING) if s in standings), standings[0])
        if self._frame.property("standing") != standing.key:
            self._frame.setProperty("standing", standing.key)
            restyle(self._frame)
        row = self.address.row
        self._frame.setEnabled(standing is not Standing.ABSENT)
        words = words or self._session.home_words(self.address)
        mark = " · waits for restart" if standing is Standing.WAITING else ""
        begin = f"{words}.\n" if words else ""
        what = self._session.machine.reads.said(row.what)
        self._frame.setToolTip(f"{begin}{self._session.machine.part(self.address)}: {standing.words}.\n{what}{mark}")
        self._frame.setAccessibleDescription(standing.words)

    def _show_text(self, editor: QLineEdit, text: str) -> None:
        """Shows a value anew, but leaves alone what is being typed while the value has not changed under it."""
        if self._session.standing(self.address) is Standing.ABSENT:
            text = NOTHING_THERE
        if text != self._shown or not editor.isModified():
            self._shown = text
            editor.setText(text)
            self._set_bad(False)

    def _set_bad(self, bad: bool) -> None:
        if bool(self._frame.property("bad")) != bad:
            self._frame.setProperty("bad", bad)
            restyle(self._frame)

    def refresh(self) -> None:
        raise NotImplementedError

    def _name(self) -> None:
        """What is called after a spindle is called after what cuts here."""
        if "spindle" in self._label:
            self._caption.setText(tool_of(self._session.machine).worded(self._label))


class QuantityField(Field):
    """A number with its unit, or a text."""

    def __init__(
        self, session: Session, address: Address, *, width: int = 96, label: str | None = None, height: int = HEIGHT
    ) -> None:
        super().__init__(session, address, width=width, label=label, height=height)
        self.editor = QLineEdit()
        self.editor.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.editor.setFont(theme.figure_font(14 if height == HEIGHT else 13))
        self._unit = QLabel()
        self._inside.addWidget(self.editor)
        self._inside.addWidget(self._unit)
        self._watch(self.editor)
        self.editor.editingFinished.connect(self._commit)
        self.refresh()

    def refresh(self) -> None:
        machine, row = self._session.machine, self.address.row
        self._name()
        text = machine.show(self.address, unit=False)
        unit = row.dimension.screen_unit(machine.is_rotary(self.address), machine.inch)
        self._unit.setText(unit.symbol)
        self._unit.setVisible(bool(unit.symbol))
        self._show_text(self.editor, text)
        self._show_standing()

    def _commit(self) -> None:
        text = self.editor.text()
        if not self.editor.isModified() or text == self._shown:
            return
        if not text.strip():
            self.editor.setText(self._shown)
            self._set_bad(False)
            return
        try:
            self._session.edit(self.address, text)
        except Refusal as why:
            if self._session.lock.closed:
                self.editor.setText(self._shown)
            self._set_bad(not self._session.lock.closed)
            self._session.tell(
                "warn", why.sentence.before(f"The value stays {self._session.machine.show(self.address)}.")
            )
            return
        self.editor.setModified(False)
        self._shown = ""
        self.refresh()
        if words := became(self._session.machine, self.address, text):
            self._session.tell("plain", words)


class ChoiceField(Field):
    """One of a few choices."""

    def __init__(self, session: Session, address: Address, *, width: int = 120, label: str | None = None) -> None:
        super().__init__(session, address, width=width, label=label)
        self.editor = QComboBox()
        for choice in address.row.choices:
            self.editor.addItem(choice.label, choice.key)
        self._inside.addWidget(self.editor, 1)
        self._inside.addWidget(QLabel("▾"))
        self._watch(self.editor)
        self.editor.activated.connect(self._commit)
        self.refresh()

    def refresh(self) -> None:
        self._name()
        at = self.editor.findData(self._session.machine[self.address])
        if at != self.editor.currentIndex():
            self.editor.setCurrentIndex(at)
        self._show_standing()

    def _commit(self) -> None:
        self._session.set_values({self.address: self.editor.currentData()})


class FlagField(Field):
    """On or off."""

    def __init__(self, session: Session, address: Address, *, text: str, width: int = 120) -> None:
        super().__init__(session, address, width=width, label="")
        self.editor = QCheckBox(text)
        self._inside.addWidget(self.editor)
        self._watch(self.editor)
        self.editor.clicked.connect(lambda on: self._session.set_values({self.address: bool(on)}))
        self.refresh()

    def refresh(self) -> None:
        self.editor.setChecked(bool(self._session.machine[self.address]))
        self._show_standing()


def field_for(session: Session, address: Address, *, width: int = 96, label: str | None = None) -> Field:
    """The field that suits the kind of a value."""
    makers: dict[Kind, Callable[[], Field]] = {
        Kind.CHOICE: lambda: ChoiceField(session, address, width=width, label=label),
        Kind.FLAG: lambda: FlagField(session, address, text=label or address.row.label, width=width),
    }
    return makers.get(address.row.kind, lambda: QuantityField(session, address, width=width, label=label))()
