"""The page of the Spindle station: the chain above, a picture at the left, and at the right what is being done."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.profile.terminals import Condition
from idler.core.report.agenda import BUS, pages_without
from idler.core.spindle import Meter, chain, has_level, is_on_bus, ranges, ranges_by_input, told_range
from idler.core.spindle.oil import counted, day_in_words, strokes
from idler.core.table.stations import Station, Tab
from idler.core.values.roles import OutputRole
from idler.core.wiring import outputs
from idler.core.wiring.tool import tool_of
from idler.procedures.dead_man import DeadMan
from idler.procedures.spindle.run import SpindleRun
from idler.procedures.spindle.stops import StopRun
from idler.session.session import Session

from ... import growth
from ...bridge import follow
from ...pictures.ladder import LadderPicture
from ...pictures.oilday import OilDayPicture
from ...pictures.runup import RunUpPicture
from ...pictures.speedcurve import CurveScene, SpeedCurvePicture
from ...pictures.spindlechain import SpindleChain
from ...widgets.cards import Segments, card, label, scrolled, tall
from .. import Host
from ..workbench import Workbench
from .bus import BusPage
from .interlocks import InterlocksPage
from .pages import CurvePage, OilPage, Page, SetUpPage, TimesPage
from .switched import SwitchedPage
from .way import WayPage

RIGHT = 344
OF_SPEED = (Tab.CURVE, Tab.TIMES, Tab.WAY)
LOW = 740  # pixels of a window in which the pages at the right are not seen whole below the way from word to speed


class SpindleStation(Workbench):
    live = True
    study = Signal()  # the filter study is wanted, with the spindle running

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.dead_man = DeadMan(session)
        self.run, self.stops = SpindleRun(session), StopRun(session)
        self.curve, self.times = CurvePage(session, self.run), TimesPage(session, self.run)
        self.interlocks, self.way = InterlocksPage(session, self.stops), WayPage(session)
        self.oil, self.set_up = OilPage(session), SetUpPage(session, self.run)
        self.switched, self.bus = SwitchedPage(session, self.dead_man), BusPage(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 12, 6)
        column.setSpacing(6)
        column.addLayout(self._head())
        self.chain = SpindleChain()
        column.addWidget(self.chain)
        row = QHBoxLayout()
        row.setSpacing(8)
        self._drawn, inner = card((6, 4, 6, 4), 2)
        self.pictures = QStackedWidget()
        self.curve_picture, self.run_up = SpeedCurvePicture(), RunUpPicture()
        self.ladder, self.oil_day = LadderPicture(), OilDayPicture()
        for picture in (self.curve_picture, self.run_up, self.ladder, self.oil_day):
            self.pictures.addWidget(picture)
        inner.addWidget(self.pictures, 1)
        row.addWidget(self._drawn, 1)
        row.addWidget(self._right())
        column.addLayout(row, 1)
        for signal in (session.changed, session.held, session.proved, self.run.changed):
            follow(signal, self.refresh)
        for page in self._all:
            page.shown.connect(self._draw)
        self.curve.filter.clicked.connect(self.study)
        self.refresh()

    def control_of(self, key: str, address: Address | None) -> QWidget | None:
        """Of a way that ends the spindle its own button; of a range that is not engaged the button that says that it is."""
        kind, _, last = key.partition(".")
        if kind in ("speed", "times") and int(last) - 1 != told_range(self._session.machine):
            button = self._ranges.button(int(last) - 1)
            if button.isEnabled():  # else inputs say so
                return button
        if kind in ("speed", "times"):
            return self.curve.next if kind == "speed" else self.times.next
        if key == BUS:
            return self.bus.next
        if key in ("spindle.encoder", "spindle.pulses"):
            return self.way.by_hand_next
        if self.segments.shown == Tab.WAY:
            return self.way.next
        return self.interlocks.buttons.get(key.removeprefix("spindle.")) or super().control_of(key, address)

    # -- pieces ---------------------------------------------------------------------------------------------------

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self._range_title = label("Range", "heading")
        row.addWidget(self._range_title)
        self._ranges = QButtonGroup(self)
        self._ranges.idClicked.connect(self._engage)
        self._range_row = QHBoxLayout()
        self._range_row.setSpacing(4)
        row.addLayout(self._range_row)
        row.addStretch(1)
        self.hint = label("", "soft")
        row.addWidget(self.hint)
        return row

    def _right(self) -> QWidget:
        self._frame, column = card((10, 6, 10, 6), 4)
        self._frame.setFixedWidth(RIGHT)
        pages: dict[str, Page] = {
            Tab.CURVE: self.curve,
            Tab.TIMES: self.times,
            Tab.LADDER: self.interlocks,
            Tab.WAY: self.way,
            Tab.OIL: self.oil,
            Tab.TRY: self.switched,
            Tab.BUS: self.bus,
            Tab.SET_UP: self.set_up,
        }
        self._all = list(pages.values())
        self.segments = Segments({name: scrolled(page, whole=True) for name, page in pages.items()})
        self.segments.turned.connect(self._turn_to)
        column.addWidget(self.segments, 1)
        return self._frame

    @property
    def _page(self) -> Page:
        """The page at the right that is shown."""
        return self._all[self.segments.place]

    def turn_to(self, name: str) -> None:
        """Shows one of the pages at the right."""
        self.segments.turn_to(name)

    def _turn_to(self, _: int) -> None:
        self.dead_man.let_go()
        if self._page is not self.way:
            self.way.leave()
        picture = {self.times: self.run_up, self.interlocks: self.ladder, self.way: self.ladder, self.switched: self.ladder,
                   self.oil: self.oil_day}.get(self._page, self.curve_picture)  # fmt: skip
        self.pictures.setCurrentWidget(picture)
        self._drawn.setHidden(self._page.wide)
        growth.fix(self._frame, width=RIGHT, loose=self._page.wide)
        self._make_room()
        self.refresh()
        self.laid_anew.emit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._make_room()

    def _make_room(self) -> None:
        """In a low window a page at the right is not seen whole below the way from word to speed, which it can do without."""
        low = self.window().height() < growth.px(LOW)
        turns = tool_of(self._session.machine).turns
        self.chain.setVisible(turns and (not low or self._page is self.curve))

    # -- coming and going -----------------------------------------------------------------------------------------

    def entered(self) -> None:
        self._session.watch(self, True)
        self.refresh()

    def left(self) -> None:
        self.dead_man.let_go()
        self.way.leave()
        for run in (self.run, self.stops):
            if run.running:
                run.stop("Another station was opened.")
        self._session.watch(self, False)

    def _engage(self, slot: int) -> None:
        self._session.set_values({Address(None, "spindle.engaged"): slot + 1}, "range engaged")

    # -- showing --------------------------------------------------------------------------------------------------

    def show_motion(self) -> None:
        self._draw_chain()
        page = self._page
        if page is self.interlocks:
            self.interlocks.show_now()
        if page is self.way:
            self.way.show_now()
        if self.pictures.currentWidget() is self.ladder:
            self._draw_ladder()
        elif self._turns and self.pictures.currentWidget() is self.curve_picture:
            self._draw()

    @property
    def _turns(self) -> bool:
        return bool(self._session.panel.conditions & Condition.SPINDLE)

    def _show_ranges(self) -> None:
        found = ranges(self._session.machine)
        words = [f"{each.slot + 1}  {each.name}" for each in found]
        if [button.text() for button in self._ranges.buttons()] != words:
            for button in self._ranges.buttons():
                self._ranges.removeButton(button)
                self._range_row.removeWidget(button)
                button.deleteLater()
            for slot, text in enumerate(words):
                button = QPushButton(text)
                button.setCheckable(True)
                tall(button)
                self._ranges.addButton(button, slot)
                self._range_row.addWidget(button)
        self._ranges.button(told_range(self._session.machine)).setChecked(True)
        by_input = ranges_by_input(self._session.machine)
        for button in self._ranges.buttons():
            button.setEnabled(not self.run.running and not by_input)
        self.hint.setText(
            "inputs say which range is engaged"
            if by_input
            else "say here where the belt lies"
            if len(found) > 1
            else ""
        )

    def _show_pages(self) -> None:
        """What has no speed and no direction has no pages for them, nor has what a controller knows nothing of."""
        turns = tool_of(self._session.machine).turns
        none = {
            *pages_without(self._session.machine),
            *(OF_SPEED if not turns else ()),
            *([Tab.BUS] if not is_on_bus(self._session.machine) else []),
        }
        self.segments.offer([name for name in self.segments.buttons if name not in none])
        for widget in (self._range_title, *self._ranges.buttons(), self.hint):
            widget.setVisible(turns)

    def refresh(self) -> None:
        self._show_ranges()
        self._show_pages()
        self._make_room()
        self._page.refresh()
        self.stops.meter = self.run.meter
        self._draw_chain()
        self._draw()

    def _level_now(self) -> float:
        """What the level output gives, in %."""
        listed = [out for out in outputs(self._session.machine) if out.kind.level]
        place = next((k for k, out in enumerate(listed) if out.role is OutputRole.SPINDLE_LEVEL), None)
        levels = self._session.panel.levels
        return levels[place] / 10 if place is not None and place < len(levels) else 0.0

    def _draw_chain(self) -> None:
        machine = self._session.machine
        found = ranges(machine)[told_range(machine)]
        asked = next((run.asked for run in (self.run, self.stops, self.way.run) if run.running), self.dead_man.asked)
        level = self._level_now()
        rpm = float(asked.speed) or (found.speed(level) if self._turns and has_level(machine) else 0.0) or found.high
        measured = self.run.meter.now
        words = (
            f"measured {measured:.0f}"
            if measured == measured and self.run.meter.kind is not Meter.TYPED
            else "not measured"
        )
        self.chain.show_links(chain(machine, found, rpm), found.ratio, words if self._turns else "at rest", self._turns)

    def _draw_ladder(self) -> None:
        measured = self.run.meter.now
        words = f"{measured:.0f} rpm" if measured == measured else "told to"
        self.ladder.show_rungs(self._session.ladder(), self._turns, words, tool_of(self._session.machine))

    def _draw(self) -> None:
        picture = self.pictures.currentWidget()
        if picture is self.curve_picture:
            self._draw_curve()
        elif picture is self.run_up:
            found = self.run.engaged()
            self.run_up.show_traces(self.run.traces.get(found.slot, {}), found.run_up, found.run_down)
        elif picture is self.ladder:
            self._draw_ladder()
        else:
            machine, day = self._session.machine, self.oil.day.currentData()
            kind = Address(None, "oil.of")
            self.oil_day.show_day(
                day, counted(machine, day), strokes(machine, day), machine.show(kind), day_in_words(machine, day)
            )

    def _draw_curve(self) -> None:
        found, run = self.run.engaged(), self.run
        before, after = self.curve.foreseen()
        measured = run.meter.now
        now = (self._level_now(), measured) if self._turns and measured == measured else None
        self.curve_picture.show_scene(
            CurveScene(found, run.samples.get(found.slot, ()), run.curves.get(found.slot), before, after,
                       run.misses.get(found.slot, ()), now, has_level(self._session.machine))
        )  # fmt: skip


def make(host: Host) -> SpindleStation:
    made = SpindleStation(host.session)

    def study_noise() -> None:
        """The filter study, with the spindle running in the range that is engaged."""
        host.open_station(Station.WIRING)
        page = host.page(Station.WIRING)
        page.turn_to(Tab.FILTER)
        page.study.spindle.setChecked(True)  # type: ignore[attr-defined]

    made.study.connect(study_noise)
    return made
