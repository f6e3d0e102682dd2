"""The instruments of the bench: held to an axis, the bed, marks on it, a square, or what turns; set to zero and read."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from itertools import combinations
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from idler.procedures.geometry.level import HANGS
from idler.procedures.geometry.tailstock import AT_BENCH, CENTRES

from .. import theme
from ..pictures.picture import Picture
from ..widgets.cards import card, figures, label, tall
from .hands import BenchHands

MARKS = 4  # on the bed, of which the next one is made in turn
RADIUS = 50.0  # mm: of the arm that a dial is held to on an axis that turns
DIAL = "dial"
LENGTHS = ("rule", "tape", "trammel", "caliper")  # between two marks

Request = Mapping[str, Any]


@dataclass(frozen=True)
class Place:
    """Where an instrument is held. words: what it is called; offered: instruments by key; read: what the hands are asked for;
    zeroed: whether it is set to zero there; axis: the one whose way it follows along a rule, where it does."""

    words: str
    offered: tuple[str, ...]
    read: Request
    zeroed: bool = True
    axis: str = ""


@dataclass(frozen=True)
class Deed:
    """Something that hands do: its words, what they are asked for, and what is said once it is done."""

    words: str
    ask: Request
    said: str


def places(rig: Mapping[str, Any]) -> Iterator[Place]:
    """Of a rig as its `look` describes it."""
    for axis in rig["axes"]:
        name = axis["name"]
        yield Place(name, tuple(item["name"] for item in axis["instruments"]), {"axis": name}, axis=name)
        if axis["rotary"]:
            yield Place(
                f"an arm on {name}, {RADIUS:g} mm out", (DIAL,), {"axis": name, "over": "arm", "radius": RADIUS}
            )
            yield Place(f"the bar in {name}", (DIAL,), {"axis": name, "over": "bar"})
            yield Place(f"the bar in {name}, gauge 0.1", (DIAL,), {"axis": name, "over": "bar", "feeler": 0.1})
    if _has_bed(rig):
        yield Place("the bed, from the spindle", (DIAL,), {"over": "bed"})
        if rig["laid"]:
            for leg in ("stock", "blade"):
                yield Place(f"the {leg} of the square", (DIAL,), {"over": leg})
    for one, other in combinations(rig["marks"], 2):
        yield Place(f"mark {one} to mark {other}", LENGTHS, {"do": "between", "marks": [one, other]}, zeroed=False)
    if rig["kind"] == "lathe":
        for at in AT_BENCH.values():
            ask = {"do": "diameter", "at": at, "centres": CENTRES}
            yield Place(f"bar between centres, at {at} mm", ("micrometer",), ask, zeroed=False)


def deeds(rig: Mapping[str, Any]) -> Iterator[Deed]:
    """What hands may do beside reading."""
    if not _has_bed(rig):
        return
    mark = str(len(rig["marks"]) % MARKS + 1)
    yield Deed(f"mark {mark} under the tool", {"do": "mark", "name": mark}, f"Mark {mark} is made.")
    for words, turned in (("lay the square", False), ("lay it turned over", True)):
        yield Deed(words, {"do": "lay", "turned": turned}, "It lies with its corner under the tool, along X and Y.")
    yield Deed(
        "put a touch probe in",
        {"do": "probe", "over": HANGS},
        f"Its ball hangs {HANGS:g} mm over the bed.",
    )


def _has_bed(rig: Mapping[str, Any]) -> bool:
    return rig["kind"] != "lathe" and {"X", "Y", "Z"} <= {axis["name"] for axis in rig["axes"]}


class RulePicture(Picture):
    """A rule lying along the axis, with the mark of its zero and the edge of the carriage."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(64)
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


class InstrumentCard(QFrame):
    def __init__(self, hands: BenchHands) -> None:
        super().__init__()
        self._hands = hands
        self._axes: dict[str, dict[str, Any]] = {}
        self._places: list[Place] = []
        self._deeds: list[Deed] = []
        self._zeros: dict[str, float] = {}
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        frame, column = card((10, 6, 10, 8), 4)
        whole.addWidget(frame)
        self.place, self.instrument, self.deed = QComboBox(), QComboBox(), QComboBox()
        self.place.setAccessibleName("Where to hold it")
        self.place.currentIndexChanged.connect(self._chosen)
        self.instrument.setAccessibleName("Instrument")
        self.deed.setAccessibleName("What hands do")
        self.do_button = QPushButton("Do it")
        self.do_button.clicked.connect(self._do)
        column.addLayout(_row(label("Hold to", "soft"), self.place))
        self.zero_button, self.read_button = QPushButton("Zero"), QPushButton("Read")
        self.zero_button.clicked.connect(self._zero)
        self.read_button.setProperty("role", "main")
        self.read_button.clicked.connect(self._read)
        column.addLayout(_row(None, self.instrument, self.zero_button, self.read_button))
        self.reading = figures("not read yet", 17)
        column.addWidget(self.reading)
        self.rule = RulePicture()
        column.addWidget(self.rule)
        self._note = label("Set to zero, jog, then read: does the machine do what the screen says?", "small", wrap=True)
        column.addWidget(self._note)
        self._hands_name = label("Hands", "soft")
        column.addLayout(_row(self._hands_name, self.deed, self.do_button))
        for widget in (self.place, self.instrument, self.deed, self.zero_button, self.read_button, self.do_button):
            tall(widget)

    def say(self, words: str) -> None:
        self._note.setText(words)

    def show_rig(self, rig: Mapping[str, Any]) -> None:
        """As `look` describes it. What is chosen stays chosen while it is there."""
        self._axes = {axis["name"]: axis for axis in rig["axes"]}
        self._deeds = list(deeds(rig))
        found = list(places(rig))
        if found != self._places:
            self._places = found
            _offer(self.place, [each.words for each in found])
        _offer(self.deed, [each.words for each in self._deeds])
        for widget in (self._hands_name, self.deed, self.do_button):
            widget.setVisible(bool(self._deeds))
        self._show_rule()

    @property
    def _at(self) -> Place | None:
        at = self.place.currentIndex()
        return self._places[at] if 0 <= at < len(self._places) else None

    def _chosen(self) -> None:
        place = self._at
        if place is None:
            return
        axis = self._axes.get(place.axis)
        listed = {item["name"]: item["resolution"] for item in axis["instruments"]} if axis is not None else {}
        unit = "°" if axis is not None and axis["rotary"] else " mm"
        self.instrument.clear()
        for key in place.offered:
            self.instrument.addItem(f"{key}, {listed[key]:g}{unit}" if key in listed else key, key)
        self.zero_button.setEnabled(place.zeroed)
        self.reading.setText("not read yet")
        self._show_rule()

    def _show_rule(self) -> None:
        place = self._at
        axis = self._axes.get(place.axis) if place is not None else None
        self.rule.setVisible(axis is not None)
        if axis is not None:
            zero = self._zeros.get(axis["name"], axis["at"])
            turns, travel = axis["rotary"], axis["travel"] or 360.0
            at, zero = (each % 360 if turns else each for each in (axis["at"], zero))
            self.rule.show_rule(axis["name"], travel, at, zero, "°" if turns else "mm")

    def _ask(self, what: Request, done: Callable[[dict[str, Any]], None]) -> None:
        def answered(reply: dict[str, Any]) -> None:
            if reply["ok"]:
                done(reply)
            else:
                self.say(reply["error"])

        self._hands.ask(answered, **what)

    def _zero(self) -> None:
        place = self._at
        if place is None:
            return
        axis = self._axes.get(place.axis)

        def done(_: dict[str, Any]) -> None:
            if axis is not None:
                self._zeros[axis["name"]] = axis["at"]
            self.reading.setText("zero")
            self._show_rule()

        self._ask({"do": "zero", "instrument": self.instrument.currentData(), **place.read}, done)

    def _read(self) -> None:
        def done(reply: dict[str, Any]) -> None:
            division = reply["resolution"]
            places = max(0, len(f"{division:g}".partition(".")[2]))
            unit = "°" if reply["unit"] == "deg" else " mm"
            self.reading.setText(f"{reply['value']:+.{places}f}{unit}")
            self.say(f"One division is {division:g}{unit}: the last figure may be off by one.")

        if (place := self._at) is not None:
            self._ask({"do": "read", "instrument": self.instrument.currentData(), **place.read}, done)

    def _do(self) -> None:
        at = self.deed.currentIndex()
        if 0 <= at < len(self._deeds):
            deed = self._deeds[at]
            self._ask(deed.ask, lambda _: self.say(deed.said))


def _row(name: QLabel | None, wide: QComboBox, *buttons: QPushButton) -> QHBoxLayout:
    """A box that takes the room, its name before it, its buttons after it."""
    row = QHBoxLayout()
    row.setSpacing(4)
    if name is not None:
        row.addWidget(name)
    wide.setMinimumContentsLength(6)
    wide.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    row.addWidget(wide, 1)
    for button in buttons:
        row.addWidget(button)
    return row


def _offer(box: QComboBox, words: list[str]) -> None:
    """What is chosen stays so while it is offered; what stands in its place is chosen else."""
    if words != [box.itemText(k) for k in range(box.count())]:
        chosen, place = box.currentText(), box.currentIndex()
        box.clear()
        box.addItems(words)
        box.setCurrentIndex(words.index(chosen) if chosen in words else min(max(place, 0), len(words) - 1))
