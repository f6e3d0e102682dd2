"""The bench window: the rig as it truly is, an instrument to hold to it, and the emergency stop. A person's hands and eyes."""

from __future__ import annotations

import time
from typing import Any

from PySide6.QtCore import QPointF, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from .. import theme
from ..pictures.lathe import LatheScene
from ..pictures.machine import MachinePicture, Scene
from ..pictures.span import Span
from ..widgets.cards import figures, label, scrolled, tall
from .hands import BenchHands
from .instruments import InstrumentCard
from .paper import PaperRow
from .pendant import PendantRow
from .spindle import SpindleRow

LOOK_MS = 50
WIDTH = 300  # pixels: about that of the margin, so that it lies over it
FINGER = 0.3  # s that a finger stays on a switch at least
TARGET, STOP_SIZE = 40, 68
SHORT = 12  # letters of a name of which three stand beside each other
_NO_FINGER = ("trouble", "pulse", "belt", "ready")  # what no finger reaches
STOP, GUARD = "emergency stop", "guard"  # as rigs name them


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
        wide = any(len(each) > SHORT for each in (*self.buttons, name))
        self.buttons[name] = button
        for place, each in enumerate(self.buttons.values()):
            self._grid.addWidget(each, *divmod(place, 2 if wide else 3))

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
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 8, 10, 8)
        column.setSpacing(6)
        head = QHBoxLayout()
        self._title = label("The machine itself", "title")
        named = QVBoxLayout()
        named.addStretch(1)
        named.addWidget(self._title)
        named.addWidget(label("What your eyes see and your hands reach.", "small", wrap=True))
        named.addStretch(1)
        head.addLayout(named, 1)
        self.stop = StopButton()
        self.stop.clicked.connect(self._hit)
        head.addWidget(self.stop)
        column.addLayout(head)
        below = QWidget()  # what a low screen has no room for scrolls; the stop is always there
        column.addWidget(scrolled(below), 1)
        column = QVBoxLayout(below)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.picture = MachinePicture()
        column.addWidget(self.picture, 1)
        self.touch = TouchRow(hands)
        column.addWidget(self.touch)
        self.spindle = SpindleRow(hands)
        column.addWidget(self.spindle)
        self.instruments = InstrumentCard(hands)
        column.addWidget(self.instruments)
        self.paper = PaperRow(hands)
        column.addWidget(self.paper)
        self.pendant = PendantRow()
        column.addWidget(self.pendant)
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self._look)
        hands.lost.connect(lambda: self.instruments.say("The bench has ended."))
        theme.dress(self)

    # -- hands ----------------------------------------------------------------------------------------------------

    def showEvent(self, event: object) -> None:
        self._timer.start()
        super().showEvent(event)  # type: ignore[arg-type]

    def closeEvent(self, event: QCloseEvent) -> None:
        self._timer.stop()
        self.pendant.pull_out()
        super().closeEvent(event)

    def _look(self) -> None:
        if self.hands.waiting < 2:
            self.hands.ask(self._seen, do="look")

    def _seen(self, reply: dict[str, Any]) -> None:
        if not reply["ok"]:
            self.instruments.say(reply["error"])
            return
        axes = reply["axes"]
        self._title.setText(reply["rig"])
        self.instruments.show_rig(reply)
        self.touch.show_switches(reply["switches"], reply["spindle"])
        self.spindle.show_spindle(reply)
        stop = next((switch for switch in reply["switches"] if switch["name"] == STOP), None)
        self.stop.setVisible(stop is not None)
        self.stop.setChecked(stop is not None and stop["made"])
        self.paper.setVisible(reply["kind"] != "lathe" and {"X", "Y", "Z"} <= {axis["name"] for axis in axes})
        self.picture.show_scene(_scene(reply["kind"], {axis["name"]: axis for axis in axes}))

    def _hit(self) -> None:
        self.hands.ask(lambda _: None, do="press" if self.stop.isChecked() else "release", switch=STOP)
