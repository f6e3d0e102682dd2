"""One rail: an axis to scale, with its position, its state, and jogging at its ends."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QGuiApplication, QHideEvent, QTouchEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from idler.core.mechanics.axis_directions import shown_per_travel
from idler.procedures.jogging.jog import Jog
from idler.session.session import Session

from .. import theme
from ..pictures.figure import FigureView
from ..pictures.rail import RailView
from ..widgets.cards import label
from ..widgets.machinebutton import MachineButton

ROW = 42


def shift_held() -> bool:
    return bool(QGuiApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)


class JogButton(MachineButton):
    """Press is a step, or hold is motion while held. Losing the focus or the window lets go."""

    def __init__(self, session: Session, jog: Jog, slot: int, sign: int, axis: str) -> None:
        super().__init__(session, "◂  −" if sign < 0 else "+  ▸")
        self._jog = jog
        self.setFixedSize(62, 40)
        self.setFont(theme.text_font(17))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"Jog {axis} to {'minus' if sign < 0 else 'plus'}")
        self.setAttribute(Qt.WidgetAttribute.WA_AcceptTouchEvents)
        self._slot, self._sign = slot, sign
        self.pressed.connect(self._press)
        self.released.connect(jog.let_go)

    def _press(self) -> None:
        self._jog.press(self._slot, self._sign, fast=shift_held())

    def event(self, event: QEvent) -> bool:
        """A finger on a touch screen holds as a mouse button does; no long press, no menu."""
        match event.type():
            case QEvent.Type.TouchBegin:
                self.setDown(True)
                self._press()
            case QEvent.Type.TouchUpdate:
                assert isinstance(event, QTouchEvent)
                if self.isDown() and not any(self.rect().contains(at.position().toPoint()) for at in event.points()):
                    # It slid off: it holds nothing any more, and does not again before it was lifted.
                    self.setDown(False)
                    self._jog.let_go()
            case QEvent.Type.TouchEnd | QEvent.Type.TouchCancel:
                self.setDown(False)
                self._jog.let_go()
            case _:
                return super().event(event)
        event.accept()
        return True

    def focusOutEvent(self, event: object) -> None:
        self._jog.let_go()
        super().focusOutEvent(event)  # type: ignore[arg-type]

    def hideEvent(self, event: QHideEvent) -> None:
        """Rails that fold under a finger let go."""
        if self.isDown():
            self.setDown(False)
            self._jog.let_go()
        super().hideEvent(event)


class AxisRail(QWidget):
    def __init__(self, session: Session, jog: Jog, slot: int) -> None:
        super().__init__()
        self._session, self._jog, self._slot = session, jog, slot
        self.setFixedHeight(ROW)
        name = session.machine.names[slot]
        self._badge = label(name, "badge")
        self._badge.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._badge.setFixedSize(26, 24)
        self._position, self._work = FigureView(), FigureView("brass")
        self._position.show_text("—")
        for figure_view in (self._position, self._work):
            figure_view.setFixedWidth(104)
        self._unit = QLabel()
        self._unit.setProperty("role", "tiny")
        self._unit.setFixedWidth(66)
        self.minus, self.plus = (JogButton(session, jog, slot, sign, name) for sign in (-1, 1))
        self.view = RailView()
        self._state = QPushButton("no link")
        self._state.setFixedWidth(104)
        self._state.setProperty("role", "quiet")
        self._state.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        menu = QMenu(self._state)
        menu.addAction("Work zero is here: the second line counts from this place", lambda: session.work.take(slot))
        menu.addAction("Clear the work zero", lambda: session.work.clear(slot))
        menu.addSeparator()
        menu.addAction(
            "Home is here: this place gets the coordinate at the switch", lambda: self._if_sure(session.home_here)
        )
        menu.addAction(
            "Forget its home: coordinates mean nothing until it is homed",
            lambda: self._if_sure(session.forget_home),
        )
        self._state.setMenu(menu)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 1, 8, 1)
        row.setSpacing(8)
        figures = QVBoxLayout()
        figures.setSpacing(0)
        figures.addWidget(self._position)
        figures.addWidget(self._work)
        row.addWidget(self._badge)
        row.addLayout(figures)
        for widget in (self._unit, self.minus, self.view, self.plus, self._state):
            row.addWidget(widget)
        self._shown = self._shown_work = ""
        self._words = ""
        self.refresh()

    def refresh(self) -> None:
        """After a change of the draft or of the look."""
        axis = self._session.machine.axis(self._slot)
        self._zero = self._session.work.of(axis.name)
        self._position.show_font(theme.figure_font(19 if self._zero is None else 16, bold=True))  # two lines, or one
        self._work.show_font(theme.figure_font(13))
        stale = self._session.work.is_stale(axis.name)
        if stale:
            self._position.show_font(theme.figure_font(16, bold=True))
        self._stale_zero = stale
        self._work.setVisible(self._zero is not None or stale)
        inch = self._session.machine.inch and not axis.rotary
        self._inch = inch
        self._factor = float(shown_per_travel(self._session.machine, self._slot))
        unit = "°" if axis.rotary else "in" if inch else "mm"
        unit = f"{unit}{' ⌀' if self._factor != 1 else ''}"
        self._wraps = axis.wraps
        two_lines = self._zero is not None or stale
        self._unit.setText(f"{unit} machine\nwork" if two_lines else f"{unit}\nmachine")
        diameter = " As a diameter: the slide stands at half of it." if self._factor != 1 else ""
        self._unit.setToolTip(
            f"The machine coordinate: counted from home, and the same whatever the work zero is.{diameter} "
            "The second line, where there is one, counts from the work zero; a stale one was taken with another home or train."
        )
        self.view.show_axis(axis, self._zero, self._session.program.span(axis.name))
        self._shown = self._shown_work = ""

    def _if_sure(self, work: Callable[[int], None]) -> None:
        """Only where the letter here is that of the controller."""
        if self._session.connected and (why := self._session.axes_obstacle):
            self._session.refuse("Nothing was done.", why)
            return
        work(self._slot)

    def show_motion(self) -> None:
        axes = self._session.axes
        if self._slot >= len(axes) or not self._session.connected:
            self._say("—", "—", "not sent" if self._session.connected else "no link")
            self.view.show_carriage(None, None, False)
            return
        state = axes[self._slot]
        text, work = self._figure(state.position), "stale" if self._stale_zero else "—"
        if self._zero is not None and state.homed:
            from_zero = state.position - self._zero
            work = self._figure(from_zero % 360 if self._wraps else from_zero)
        ghost = self._jog.targets.get(self._slot) if state.moving else None
        unsure = self._slot in self._session.homes.unheld
        words = "home unsure" if unsure else "homed" if state.homed else "not homed"
        if state.at_limit:
            words = "at its limit" if self.view.at_limit(state.position) else "limit: refused"
        elif state.unwatched:
            words = "limit chain"
        elif state.limit_made:
            words = f"{state.limit_made} limit"
        elif state.home_made:
            words = "switch made"
        self._say(text, work, words)
        self.view.show_carriage(state.position, ghost, state.homed)

    def _figure(self, value: float) -> str:
        shown = value * self._factor
        text = f"{shown / 25.4:.4f}" if self._inch else f"{shown:.3f}"
        return text.lstrip("-") if float(text) == 0 else text.replace("-", "−")

    def _say(self, position: str, work: str, words: str) -> None:
        if work != self._shown_work:
            self._shown_work = work
            self._work.show_text(work)
        if position != self._shown:
            self._shown = position
            self._position.show_text(position)
        if words != self._words:
            self._words = words
            self._state.setText(words)
