"""The rails at the bottom: one to-scale rail for each axis with jogging at its ends, and the jog bar above them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QGuiApplication, QHideEvent, QKeyEvent, QResizeEvent, QTouchEvent
from PySide6.QtWidgets import (
    QApplication,
    QButtonGroup,
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

from idler.core.errors import Refusal
from idler.core.mechanics.axis_directions import shown_per_travel
from idler.core.values.units import INCH_MIN, MM_MIN, convert, figure
from idler.procedures.jog import Jog
from idler.session.session import Session

from .. import growth, theme
from ..bridge import follow
from ..pictures.figure import FigureView
from ..pictures.rail import RailView
from ..tools.keys import Bindings, key_text
from ..widgets.cards import label
from ..widgets.fields import restyle
from ..widgets.machinebutton import MachineButton

ROW, BAR, SHOWN = 42, 44, 4
LEGEND_FROM = 1330  # pixels of the window's width
TARGET = 40  # pixels: what a gloved finger hits


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
        self.view.show_axis(axis, self._zero)
        self._shown = self._shown_work = ""

    def _if_sure(self, work: Callable[[int], None]) -> None:
        """Only where the letter here is that of the controller."""
        if self._session.connected and (why := self._session.axes_obstacle):
            self._session.tell("warn", f"Nothing was done. {why}")
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
        words = "homed" if state.homed else "not homed"
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
        for fast, words in ((False, "slow"), (True, "fast")):
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
            button = QPushButton(step or "hold")
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
        self._scroll.setWidget(page)
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


_APPEARS = (QEvent.Type.Show, QEvent.Type.WindowActivate)
_ASIDE = (Qt.WindowType.Popup, Qt.WindowType.Dialog, Qt.WindowType.Tool)


class JogKeys(QObject):
    """The armed keyboard: the keys that are bound, wherever the focus is, in the main window only. Shift goes fast.

    A held key is let go by its release, whatever else is pressed and whichever window gets it; and by anything that could take
    that release away: a menu, a list, a dialog.
    """

    def __init__(self, session: Session, jog: Jog, bindings: Bindings, window: QWidget) -> None:
        super().__init__(window)
        self._session, self._jog, self._bindings, self._window = session, jog, bindings, window
        self._held: int | None = None
        follow(jog.changed, self._follow)

    def _follow(self) -> None:
        self.listen(self._jog.armed)

    def listen(self, on: bool) -> None:
        """Only while the keyboard is armed does it see the events of the application: there are many."""
        app = QApplication.instance()
        assert app is not None
        app.removeEventFilter(self)
        if on:
            app.installEventFilter(self)
        else:
            self._held = None

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not self._jog.armed:
            return False
        if event.type() in _APPEARS and isinstance(watched, QWidget) and watched.isWindow():
            if watched is not self._window and watched.windowType() in _ASIDE:
                self._jog.arm(False)
            return False
        if not isinstance(event, QKeyEvent) or event.isAutoRepeat():
            return self._is_ours(watched, event) if isinstance(event, QKeyEvent) else False
        if event.type() == QEvent.Type.KeyRelease and event.key() == self._held:
            self._held = None
            self._jog.let_go()
            return True
        if not self._is_ours(watched, event):
            return False
        event.accept()
        if event.type() == QEvent.Type.KeyPress:
            bound = self._bindings.way_of(Qt.Key(event.key()))
            assert bound is not None
            fast = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._held = event.key()
            self._jog.press(self._session.machine.names.index(bound[0]), bound[1], fast=fast)
        return True

    def _is_ours(self, watched: QObject, event: QKeyEvent) -> bool:
        """Whether it is a key that jogs, in the main window, with nothing but Shift."""
        if not isinstance(watched, QWidget) or watched.window() is not self._window:
            return False
        bound = self._bindings.way_of(Qt.Key(event.key()))
        others = event.modifiers() & ~(Qt.KeyboardModifier.KeypadModifier | Qt.KeyboardModifier.ShiftModifier)
        return bound is not None and bound[0] in self._session.machine.names and not others
