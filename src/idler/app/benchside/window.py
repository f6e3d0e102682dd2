"""The bench window: the rig as it truly is, an instrument to hold to it, and the emergency stop. A person's hands and eyes."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from .. import theme
from ..pictures.lathe import LatheScene
from ..pictures.machine import MachinePicture, Scene
from ..pictures.picture import Picture
from ..pictures.span import Span
from ..widgets.cards import card, figures, label, tall
from .hands import BenchHands
from .paper import PaperRow
from .spindle import SpindleRow

LOOK_MS = 50
WIDTH = 300  # pixels: about that of the margin, so that it lies over it
FINGER = 0.3  # s that a finger stays on a switch at least
TARGET, STOP_SIZE = 40, 68
_NO_FINGER = ("trouble", "pulse", "belt", "ready")  # what no finger reaches
STOP, GUARD = "emergency stop", "guard"  # as rigs name them


class RulePicture(Picture):
    """A rule lying along the axis, with the mark of its zero and the edge of the carriage."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(74)
        self._travel, self._at, self._zero, self._unit, self._name = 1.0, 0.0, 0.0, "mm", "X"

    def show_rule(self, name: str, travel: float, at: float, zero: float, unit: str) -> None:
        state = (name, travel, at, zero, unit)
        if state != (self._name, self._travel, self._at, self._zero, self._unit):
            self._name, self._travel, self._at, self._zero, self._unit = state
            self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        p = self.painter()
        box = QRectF(8, 26, self.wide - 16, 34)
        p.setPen(QPen(theme.color("soft"), 1))
        p.setBrush(theme.color("pale_brass"))
        p.drawRoundedRect(box, 2, 2)
        k = box.width() / self._travel
        p.setPen(QPen(theme.color("ink"), 1))
        p.setFont(theme.figure_font(10))
        step = 10 if k * 2 < 4 else 2
        every = 50 if 50 * k > 34 else 100 if 100 * k > 34 else 200
        first = -int(self._zero // step) * step
        for value in range(first, int(self._travel - self._zero) + 1, step):
            x = box.left() + (self._zero + value) * k
            if not box.left() <= x <= box.right():
                continue
            long = value % every == 0
            p.drawLine(QPointF(x, box.top()), QPointF(x, box.top() + (14 if long else 9 if value % 10 == 0 else 5)))
            if long and box.left() + 14 < x < box.right() - 14:
                p.drawText(QRectF(x - 24, box.top() + 15, 48, 14), Qt.AlignmentFlag.AlignCenter, str(value))
        for place, name, words in ((self._zero, "soft", "zero"), (self._at, "petrol", self._name)):
            x = box.left() + min(max(place, 0.0), self._travel) * k
            p.setPen(QPen(theme.color(name), 2))
            p.setBrush(theme.color(name))
            p.drawPolygon(QPolygonF([QPointF(x - 5, 16), QPointF(x + 5, 16), QPointF(x, 26)]))
            if name == "soft" and abs(self._at - self._zero) * k < 30:
                continue
            p.setFont(theme.text_font(11, bold=True))
            p.drawText(QRectF(x - 30, 0, 60, 15), Qt.AlignmentFlag.AlignCenter, words)


class StopButton(QPushButton):
    """The rig's own emergency stop: pushed in it stays, a turn frees it. A mushroom, drawn."""

    def __init__(self) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setFixedSize(STOP_SIZE, STOP_SIZE)
        self.setAccessibleName("Emergency stop of the machine: press to hit, press again to free")
        self.setToolTip("The machine's own emergency stop. Press to hit it; press again to free it.")

    def paintEvent(self, _: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle, whole = QPointF(self.rect().center()), self.width() / 2
        p.setPen(QPen(theme.color("ink"), 1.5))
        p.setBrush(theme.color("pale_brass"))
        p.drawEllipse(middle, 0.94 * whole, 0.94 * whole)
        p.setBrush(theme.color("vermilion"))
        radius = (0.62 if self.isChecked() else 0.74) * whole
        p.drawEllipse(middle, radius, radius)
        p.setPen(QPen(theme.color("on_vermilion"), 1.6))
        p.setFont(theme.text_font(12, bold=True))
        p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "hit" if self.isChecked() else "stop")
        if self.hasFocus():
            p.setPen(QPen(theme.color("petrol"), 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawEllipse(middle, 0.97 * whole, 0.97 * whole)


def _scene(kind: str, axes: dict[str, dict[str, Any]]) -> Scene | LatheScene | None:
    """The rig as it stands; None where nothing can be drawn of it."""

    def span(name: str, shift: float = 0.0) -> Span:
        a = axes[name]
        low, high = -shift, a["travel"] - shift
        return Span(low, high, low, high, a["at"] - shift, a["moves"] == "tool")

    turning = [a["at"] for a in axes.values() if a["rotary"]]
    turn = turning[0] if turning else None
    if kind == "lathe" and {"X", "Z"} <= axes.keys():
        return LatheScene(span("X", axes["X"]["travel"] * 0.05), span("Z"), True, turn)
    if not {"X", "Y", "Z"} <= axes.keys():
        return None
    skew = axes["Y2"]["at"] - axes["Y"]["at"] if "Y2" in axes else 0.0
    return Scene(span("X"), span("Y"), span("Z"), turn, True, kind == "router", skew)


class TouchRow(QWidget):
    """What a finger can reach: a button for each switch, made while it is held, and for as long as a finger needs at least;
    doors stay as they are left."""

    def __init__(self, hands: BenchHands) -> None:
        super().__init__()
        self._hands = hands
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(label("Touch", "heading"))
        head.addStretch(1)
        self.buttons: dict[str, QPushButton] = {}
        self._spindle = figures("")
        head.addWidget(self._spindle)
        column.addLayout(head)
        self._grid = QGridLayout()
        self._grid.setSpacing(4)
        column.addLayout(self._grid)
        self._since: dict[str, float] = {}  # when a finger came down, time.monotonic

    def show_switches(self, switches: list[dict[str, Any]], spindle: float) -> None:
        for switch in switches:
            name = switch["name"]
            if name != STOP and switch["source"] not in _NO_FINGER and name not in self.buttons:
                self._add(name)
            if name in self.buttons:
                self.buttons[name].setProperty("made", switch["made"])
                if name == GUARD:
                    self.buttons[name].setChecked(switch["held"])
        self._spindle.setText(f"spindle {spindle:.0f} rpm")

    def _add(self, name: str) -> None:
        button = QPushButton(name)
        button.setProperty("role", "touch")
        button.setAccessibleName(f"Touch {name}")
        if name == GUARD:
            button.setCheckable(True)
            button.setToolTip("Press to open the guard; press again to close it.")
            button.clicked.connect(lambda on: self._do("press" if on else "release", name))
        else:
            button.setToolTip(f"Hold to press {name} with a finger.")
            button.pressed.connect(lambda: self._press(name))
            button.released.connect(lambda: self._release(name))
        tall(button)
        self._grid.addWidget(button, *divmod(len(self.buttons), 2))
        self.buttons[name] = button

    def _press(self, name: str) -> None:
        self._since[name] = time.monotonic()
        self._do("press", name)

    def _release(self, name: str) -> None:
        """A finger stays for a moment: a click that made and broke a contact at once would teach nobody anything."""
        pressed = self._since.get(name, 0.0)
        rest = max(0.0, pressed + FINGER - time.monotonic())

        def let_go() -> None:
            if self._since.get(name) == pressed:  # else it was pressed again meanwhile
                self._do("release", name)

        QTimer.singleShot(round(1000 * rest), self, let_go)

    def _do(self, what: str, name: str) -> None:
        self._hands.ask(lambda _: None, do=what, switch=name)


class BenchWindow(QWidget):
    def __init__(self, hands: BenchHands) -> None:
        super().__init__(None, Qt.WindowType.Window | Qt.WindowType.WindowStaysOnTopHint)
        self.hands = hands
        self.setObjectName("stage")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setWindowTitle("Bench: the machine itself")
        self.resize(WIDTH, 780)
        self._axes: list[dict[str, Any]] = []
        self._zeros: dict[str, float] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 8, 10, 8)
        column.setSpacing(6)
        head = QHBoxLayout()
        self._title = label("The machine itself", "title")
        head.addWidget(self._title)
        head.addStretch(1)
        self.stop = StopButton()
        self.stop.clicked.connect(self._hit)
        head.addWidget(self.stop)
        column.addLayout(head)
        column.addWidget(label("What your eyes see and your hands reach.", "small", wrap=True))
        self.picture = MachinePicture()
        column.addWidget(self.picture, 1)
        self.touch = TouchRow(hands)
        column.addWidget(self.touch)
        self.spindle = SpindleRow(hands)
        column.addWidget(self.spindle)
        self.paper = PaperRow(hands)
        column.addWidget(self.paper)
        column.addWidget(self._instrument())
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self._look)
        hands.lost.connect(lambda: self._say("The bench has ended."))
        theme.dress(self)

    def _instrument(self) -> QFrame:
        frame, column = card((10, 6, 10, 8), 4)
        top = QHBoxLayout()
        self.axis = QComboBox()
        self.axis.setAccessibleName("Axis to measure")
        self.axis.currentIndexChanged.connect(self._axis_chosen)
        self.instrument = QComboBox()
        self.instrument.setAccessibleName("Instrument")
        top.addWidget(QLabel("Hold to"))
        top.addWidget(self.axis)
        top.addWidget(self.instrument, 1)
        column.addLayout(top)
        self.rule = RulePicture()
        column.addWidget(self.rule)
        buttons = QHBoxLayout()
        self.zero_button = QPushButton("Zero here")
        self.zero_button.clicked.connect(self._zero)
        self.read_button = QPushButton("Read")
        self.read_button.setProperty("role", "main")
        self.read_button.clicked.connect(self._read)
        self.reading = figures("not read yet", 17)
        for widget in (self.zero_button, self.read_button):
            tall(widget)
            buttons.addWidget(widget)
        buttons.addStretch(1)
        buttons.addWidget(self.reading)
        column.addLayout(buttons)
        self._note = label("Set to zero, jog, then read: does the machine do what the screen says?", "small", wrap=True)
        column.addWidget(self._note)
        return frame

    # -- hands ----------------------------------------------------------------------------------------------------

    def showEvent(self, event: object) -> None:
        self._timer.start()
        super().showEvent(event)  # type: ignore[arg-type]

    def closeEvent(self, event: QCloseEvent) -> None:
        self._timer.stop()
        super().closeEvent(event)

    def _look(self) -> None:
        if self.hands.waiting < 2:
            self.hands.ask(self._seen, do="look")

    def _seen(self, reply: dict[str, Any]) -> None:
        if not reply["ok"]:
            self._say(reply["error"])
            return
        self._axes = reply["axes"]
        self._title.setText(reply["rig"])
        if self.axis.count() != len(self._axes):
            self.axis.clear()
            self.axis.addItems([axis["name"] for axis in self._axes])
        self.touch.show_switches(reply["switches"], reply["spindle"])
        self.spindle.show_spindle(reply)
        stop = next((switch for switch in reply["switches"] if switch["name"] == STOP), None)
        self.stop.setVisible(stop is not None)
        self.stop.setChecked(stop is not None and stop["made"])
        self.paper.setVisible(reply["kind"] != "lathe" and {"X", "Y", "Z"} <= {axis["name"] for axis in self._axes})
        self.picture.show_scene(_scene(reply["kind"], {axis["name"]: axis for axis in self._axes}))
        self._show_rule()

    def _chosen(self) -> dict[str, Any] | None:
        at = self.axis.currentIndex()
        return self._axes[at] if 0 <= at < len(self._axes) else None

    def _axis_chosen(self) -> None:
        axis = self._chosen()
        if axis is None:
            return
        self.instrument.clear()
        unit = "°" if axis["rotary"] else " mm"
        for item in axis["instruments"]:
            self.instrument.addItem(f"{item['name']}, {item['resolution']:g}{unit}", item["name"])
        self.reading.setText("not read yet")
        self._show_rule()

    def _show_rule(self) -> None:
        axis = self._chosen()
        if axis is not None:
            zero = self._zeros.get(axis["name"], axis["at"])
            travel = axis["travel"] or 360.0
            at = axis["at"] % 360 if axis["rotary"] else axis["at"]
            self.rule.show_rule(
                axis["name"], travel, at, zero % 360 if axis["rotary"] else zero, "°" if axis["rotary"] else "mm"
            )

    def _hold_instrument(self, what: str, done: Callable[[dict[str, Any], dict[str, Any]], None]) -> None:
        """Asks for `what` with the chosen instrument at the chosen axis; `done` gets the axis and the answer."""
        axis = self._chosen()
        if axis is None:
            return

        def answered(reply: dict[str, Any]) -> None:
            if reply["ok"]:
                done(axis, reply)
            else:
                self._say(reply["error"])

        self.hands.ask(answered, do=what, axis=axis["name"], instrument=self.instrument.currentData())

    def _zero(self) -> None:
        def done(axis: dict[str, Any], _: dict[str, Any]) -> None:
            self._zeros[axis["name"]] = axis["at"]
            self.reading.setText("zero")
            self._show_rule()

        self._hold_instrument("zero", done)

    def _read(self) -> None:
        def done(_: dict[str, Any], reply: dict[str, Any]) -> None:
            places = max(0, len(f"{reply['resolution']:g}".partition(".")[2]))
            unit = "°" if reply["unit"] == "deg" else " mm"
            self.reading.setText(f"{reply['value']:+.{places}f}{unit}")
            self._say(f"One division is {reply['resolution']:g}{unit}: the last figure may be off by one.")

        self._hold_instrument("read", done)

    def _hit(self) -> None:
        self.hands.ask(lambda _: None, do="press" if self.stop.isChecked() else "release", switch=STOP)

    def _say(self, words: str) -> None:
        self._note.setText(words)
