"""The last seconds of an incident: traces around the stop, what came first and what followed, causes, the next step."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from idler.core.errors import IdlerError
from idler.core.incident import title
from idler.core.incident.diagnosis import Account, StopCause, account, resolution
from idler.core.incident.happenings import Happening
from idler.core.machine import Machine
from idler.core.profile.flight import Flag, FlightRecord, unpack_flight
from idler.core.profile.terminals import Condition
from idler.core.table import POSITION_STEP, SPEED_STEP
from idler.core.values.units import Dimension
from idler.core.wiring import inputs
from idler.session.session import Session
from idler.shelf.incidents import KeptIncident

from ...pictures.flight import FlightPicture, FlightScene, TraceCurve
from ...widgets.cards import card, label, scrolled, turn_over
from ..workbench import Workbench

SIDE = 372
SPANS = (("5 s", -4.0, 1.0), ("1 s", -0.5, 0.5), ("0.1 s", -0.05, 0.05))
NEAR = 1.0  # s around the stop in which what happened is listed
MOST_CURVES, MOST_LEVELS, MOST_LISTED = 3, 6, 12


class IncidentPage(Workbench):
    """One incident at a time; every one that is kept can be chosen."""

    opened = Signal(object, str)  # Station and page of the next step
    left_for = Signal()  # back to the work
    report = Signal(str)  # a report of a problem is wanted, with this incident

    def __init__(self, session: Session, told_above: Callable[[], str] = lambda: "") -> None:
        """told_above: the incident whose title the strip over the stage shows, for it need not be read twice."""
        super().__init__()
        self._session, self._told_above = session, told_above
        self.account: Account | None = None
        self.step_buttons: list[QPushButton] = []
        self._choice = QComboBox()
        self._choice.setAccessibleName("Incidents of this machine")
        self._choice.activated.connect(lambda _: self.choose(self._choice.currentData()))
        self._title = label("", "title", wrap=True)
        self._heard = label("", "soft", wrap=True)
        self.picture = FlightPicture()
        self.span_buttons: dict[str, QPushButton] = {}
        self.back_button, self.report_button = QPushButton("Back to work"), QPushButton("Report of a problem…")
        self.back_button.clicked.connect(self.left_for)
        self.report_button.clicked.connect(lambda: self.report.emit(self._choice.currentData() or ""))
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 10, 6)
        row.setSpacing(8)
        row.addWidget(self._left(), 1)
        row.addWidget(self._right())

    def show_motion(self) -> None:
        name = self._choice.currentData()
        self._title.setVisible(not name or name != self._told_above())

    def _left(self) -> QWidget:
        frame, column = card((10, 6, 10, 4), 4)
        column.addWidget(self._title)
        column.addWidget(self._heard)
        bar = QHBoxLayout()
        bar.addWidget(label("around the stop", "soft"))
        for words, first, last in SPANS:
            button = QPushButton(words)
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setProperty("role", "segment")
            button.clicked.connect(lambda _=False, first=first, last=last: self.picture.show_span(first, last))
            self.span_buttons[words] = button
            bar.addWidget(button)
        self.span_buttons["1 s"].setChecked(True)
        bar.addStretch(1)
        bar.addWidget(self._choice)
        column.addLayout(bar)
        column.addWidget(self.picture, 1)
        return frame

    def _right(self) -> QWidget:
        frame, column = card((10, 6, 10, 8), 6)
        frame.setFixedWidth(SIDE)
        self._story = scrolled(QWidget())
        column.addWidget(self._story, 1)
        below = QHBoxLayout()
        below.addWidget(self.report_button)
        below.addStretch(1)
        below.addWidget(self.back_button)
        column.addLayout(below)
        return frame

    # -- choosing -------------------------------------------------------------------------------------------------

    def show_newest(self) -> bool:
        """False where no incident is kept."""
        names = self._session.incidents.names()
        self._choice.clear()
        for name in names:
            self._choice.addItem(_day(name), name)
        if not names:
            self._title.setText("Nothing has stopped this machine yet.")
            return False
        self.choose(names[0])
        return True

    def choose(self, name: str) -> None:
        self._choice.setCurrentIndex(self._choice.findData(name))
        try:
            self._show(self._session.incidents.load(name))
        except (IdlerError, ValueError) as why:
            self._title.setText(f"This incident cannot be shown. {why}")
            self.picture.show_scene(None)

    def _show(self, kept: KeptIncident) -> None:
        record = unpack_flight(kept.flight)
        self.account = found = account(kept.machine, record, kept.incident.axis)
        self._title.setText(title(kept.machine, kept.incident))
        self._heard.setText(resolution(record))
        self._heard.setVisible(bool(self._heard.text()))
        listed = _listed(found)
        self.picture.show_scene(_scene(kept.machine, record, found, [item.at for item in listed]))
        self._tell(found, listed)

    # -- words ----------------------------------------------------------------------------------------------------

    def _tell(self, found: Account, listed: list[Happening]) -> None:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 6, 0)
        column.setSpacing(4)
        self.step_buttons = []
        if found.causes:
            column.addWidget(label("Likely causes", "title"))
        for number, cause in enumerate(found.causes):
            self._cause(column, cause, likeliest=not number)
        column.addWidget(label("What came first" if found.first else "What the record shows", "title"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(2, 1)
        for row, item in enumerate(listed):
            if row == 1 and found.first is not None:
                grid.addWidget(label("and what only followed", "soft"), row, 0, 1, 3)
            shown = row + (row >= 1 and found.first is not None)
            at = label(f"{1000 * item.at:+.0f} ms".replace("-", "−").replace("+0 ms", "0 ms"), "soft")
            grid.addWidget(label(str(row + 1), "soft"), shown, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(at, shown, 1, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label(item.words, wrap=True), shown, 2)
        column.addLayout(grid)
        column.addStretch(1)
        turn_over(self._story, page)

    def _cause(self, column: QVBoxLayout, cause: StopCause, *, likeliest: bool) -> None:
        column.addWidget(label(cause.words, "heading" if likeliest else "", wrap=True))
        column.addWidget(label(cause.evidence, "small", wrap=True))
        button = QPushButton(f"{cause.step}: {cause.station.label}")
        if likeliest:
            button.setProperty("role", "main")
        button.clicked.connect(lambda: self.opened.emit(cause.station, cause.page))
        self.step_buttons.append(button)
        column.addWidget(button, alignment=Qt.AlignmentFlag.AlignLeft)
        column.addSpacing(6)


def _day(name: str) -> str:
    """A name of the folder as a day and a time."""
    day, _, rest = name.partition("T")
    clock, number = rest[:8].replace("-", ":"), rest[8:]
    return time.strftime("%-d %b %Y", time.strptime(day, "%Y-%m-%d")) + f", {clock}{number}"


def _listed(found: Account) -> list[Happening]:
    """What gets a number: the first, then what followed near the stop."""
    near = [item for item in found.followed if abs(item.at) <= NEAR]
    return [*([found.first] if found.first else []), *near][:MOST_LISTED]


def _scene(machine: Machine, record: FlightRecord, found: Account, marks: list[float]) -> FlightScene:
    samples = record.samples
    times = (np.arange(len(samples)) - record.moment) * record.period
    touched = [item for item in (found.first, *found.followed) if item is not None]
    traces = [*_curves(machine, record, _axes(record, touched)), *_levels(machine, record, found, touched)]
    return FlightScene(times, traces, marks)


def _axes(record: FlightRecord, touched: Iterable[Happening]) -> list[int]:
    """Axes that the incident is about, then those that moved."""
    named = [item.axis for item in touched if item.axis is not None]
    reach = round(NEAR / record.period)
    near = record.samples["flags"][max(0, record.moment - reach) : record.moment + reach]
    moved = [slot for slot in range(record.axes) if np.any(near[:, slot] & int(Flag.MOVING))]
    order = [slot for slot in dict.fromkeys((*named, *moved)) if slot in moved]
    return order[:MOST_CURVES]


def _curves(machine: Machine, record: FlightRecord, slots: list[int]) -> Iterable[TraceCurve]:
    for place, slot in enumerate(slots):
        axis = machine.axis(slot)
        one = axis.reads.scale
        unit, per_minute = axis.reads.symbol, axis.reads.unit(Dimension.SPEED).symbol
        speed = record.samples["velocity"][:, slot] * float(SPEED_STEP) * one
        yield TraceCurve(f"{axis.name} velocity", per_minute, speed, level=False, loud=not place)
        if not place:
            yield TraceCurve(
                f"{axis.name} position", unit, record.samples["position"][:, slot] * float(POSITION_STEP) * one, False
            )
        if axis.flag("loop.measured"):
            yield TraceCurve(
                f"{axis.name} following error", unit, record.samples["lag"][:, slot] / 1000 * one, level=False
            )
    if np.any(record.samples["spindle"]):
        yield TraceCurve("spindle", "rpm", record.samples["spindle"], level=False)


def _levels(machine: Machine, record: FlightRecord, found: Account, touched: list[Happening]) -> Iterable[TraceCurve]:
    """Inputs that changed, the first one on top and drawn so that up is not the level of rest; then power and spindle."""
    samples, wired = record.samples, inputs(machine)
    slots = dict.fromkeys(item.input for item in touched if item.input is not None)
    for place, slot in enumerate(list(slots)[:MOST_LEVELS]):
        item = wired[slot]
        closed = (samples["closed"] >> np.uint32(slot) & 1).astype(bool)
        made = closed != item.low_when_closed if item.low_when_closed else closed
        first = found.first is not None and found.first.input == slot and not place
        yield TraceCurve(f"{item.name}: {item.duty.label}", "", made, level=True, loud=first)
    yield TraceCurve("drives powered", "", np.any(samples["flags"] & int(Flag.POWERED), axis=1), level=True)
    told = samples["conditions"] & int(Condition.SPINDLE) != 0
    if np.any(told):
        yield TraceCurve("spindle told to turn", "", told, level=True)
