"""Fields of terminals: the role, chosen from a menu, and the contact at rest, which a click turns over."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QMenu, QPushButton

from idler.core.controller.standing import Standing
from idler.core.machine import Address
from idler.core.values.roles import AxisNeed, InputRole, OutputRole
from idler.core.wiring import Duty, given_duty, inputs, outputs
from idler.core.wiring.tool import tool_of
from idler.core.words import capital
from idler.session.session import Session

from ... import theme
from ...pictures.terminals import draw_contact
from ...widgets.fields import Field

HEIGHT = 26


def duty_menu(menu: QMenu, session: Session, choose: Callable[[Duty], object], first: list[Duty] | None = None) -> None:
    """Fills a menu with every duty of an input; those that another input has already say so."""
    taken = {item.duty: item.name for item in inputs(session.machine) if item.role is not InputRole.NONE}

    def add(to: QMenu, duty: Duty) -> None:
        words = capital(duty.label)
        words += f"   (on input {taken[duty]})" if duty in taken else ""
        to.addAction(words, lambda: choose(duty))

    for duty in first or []:
        add(menu, duty)
    if first:
        menu.addSeparator()
    for role in InputRole:
        if role.axis is AxisNeed.NO:
            add(menu, Duty(role))
    for name in session.machine.names:
        of_axis = menu.addMenu(f"of {name}")
        for role in InputRole:
            if role.axis is not AxisNeed.NO:
                add(of_axis, Duty(role, name))
    add(menu, Duty(InputRole.TROUBLE))


class _ButtonField(Field):
    """A field whose editor is a flat button."""

    def __init__(self, session: Session, address: Address, width: int) -> None:
        super().__init__(session, address, width=width, label="", height=HEIGHT)
        self.editor = QPushButton()
        self.editor.setProperty("role", "cell")
        self._inside.setContentsMargins(5, 0, 2, 0)
        self._inside.addWidget(self.editor, 1)
        self._watch(self.editor)

    def _elide(self, words: str) -> str:
        """Shows the words as far as they fit; gives them back where they do not, for the tip."""
        fitting = self.editor.fontMetrics().elidedText(
            words, Qt.TextElideMode.ElideRight, self._frame.minimumWidth() - 12
        )
        self.editor.setText(fitting)
        return "" if fitting == words else words


class InputRoleField(_ButtonField):
    def __init__(self, session: Session, slot: int, width: int) -> None:
        super().__init__(session, Address(slot, "input.role"), width)
        self._slot = slot
        self._menu = QMenu(self.editor)
        self._menu.aboutToShow.connect(self._fill)
        self.editor.setMenu(self._menu)
        self.refresh()

    def _fill(self) -> None:
        self._menu.clear()
        duty_menu(self._menu, self._session, self._choose)

    def _choose(self, duty: Duty) -> None:
        name = inputs(self._session.machine)[self._slot].name
        self._session.set_values(given_duty(self._slot, duty), f"input {name}: {duty.label}")

    def refresh(self) -> None:
        item = inputs(self._session.machine)[self._slot]
        free = item.role is InputRole.NONE
        words = "— free —" if free else capital(item.duty.label)
        self.editor.setAccessibleName(f"Role of input {item.name}: {words}")
        self._show_standing(self._elide(words))

    @property
    def also(self) -> tuple[Address, ...]:
        return (Address(self._slot, "input.axis"),)


class OutputRoleField(_ButtonField):
    def __init__(self, session: Session, slot: int, width: int) -> None:
        super().__init__(session, Address(slot, "output.role"), width)
        self._slot = slot
        self._menu = QMenu(self.editor)
        self._menu.aboutToShow.connect(self._fill)
        self.editor.setMenu(self._menu)
        self.refresh()

    def _fill(self) -> None:
        """Only what this terminal can be: a level for a level output, on and off for the others."""
        self._menu.clear()
        level = outputs(self._session.machine)[self._slot].kind.level
        taken = {out.role: out.name for out in outputs(self._session.machine)}
        for role in OutputRole:
            if role is OutputRole.NONE or (role is OutputRole.SPINDLE_LEVEL) == level:
                words = capital(tool_of(self._session.machine).worded(role.label))
                words += f"   (on output {taken[role]})" if role in taken and role is not OutputRole.NONE else ""
                self._menu.addAction(words, partial(self._session.set_values, {self.address: role.key}))

    def refresh(self) -> None:
        out = outputs(self._session.machine)[self._slot]
        free = out.role is OutputRole.NONE
        self.editor.setAccessibleName(f"Role of output {out.name}: {out.label}")
        self._show_standing(self._elide("— free —" if free else capital(out.label)))


class RestButton(QPushButton):
    """The contact at rest, drawn and in a word."""

    turned = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.closed = True
        self.edited = False
        self.unused = False
        self.setProperty("role", "cell")
        self.clicked.connect(self.turned)

    def sizeHint(self) -> QSize:
        return QSize(78, HEIGHT - 3)

    def paintEvent(self, _: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(theme.color("indigo" if self.edited else "soft" if self.unused else "ink"), 1.4))
        if self.unused:
            p.drawText(QRectF(0, 0, 30, self.height()), Qt.AlignmentFlag.AlignCenter, "—")
            return
        draw_contact(p, QRectF(0, 0, 30, self.height()), self.closed)
        p.setFont(theme.text_font(12))
        words = "closed" if self.closed else "open"
        p.drawText(QRectF(35, 0, 46, self.height()), Qt.AlignmentFlag.AlignVCenter, words)


class RestField(Field):
    def __init__(self, session: Session, slot: int, width: int) -> None:
        super().__init__(session, Address(slot, "input.rest"), width=width, label="", height=HEIGHT)
        self._inside.setContentsMargins(4, 0, 2, 0)
        self.editor = RestButton()
        self._inside.addWidget(self.editor, 1)
        self._watch(self.editor)
        self.editor.turned.connect(self._turn)
        self.refresh()

    def _turn(self) -> None:
        self._session.set_values({self.address: "open" if self.editor.closed else "closed"})

    def refresh(self) -> None:
        self.editor.closed = self._session.machine[self.address] == "closed"
        self.editor.unused = inputs(self._session.machine)[self.address.slot or 0].role is InputRole.NONE
        self.editor.edited = self._session.standing(self.address) is Standing.EDITED
        words = "closed" if self.editor.closed else "open"
        self.editor.setAccessibleName(f"{self._session.machine.part(self.address)}: {words}")
        self._show_standing()
        self.editor.update()

    @property
    def also(self) -> tuple[Address, ...]:
        return (Address(self.address.slot, "input.role"),)
