"""The page of the Drives station: the axis, its train, and below it one of the pages on how it moves."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.table.stations import Tab
from idler.core.values.stage import MOST_STAGES
from idler.session.session import Session

from ...bridge import follow
from ...widgets.cards import AxisPicker, Segments
from .. import Host
from ..workbench import Workbench
from .axes import AxisMenu
from .chain import ChainCard
from .direction import DirectionPage
from .motor import MotorPage
from .pace import PacePage
from .reliable import ReliablePage
from .shape import ShapePage
from .torque import TorquePage

EXAMPLES = ("20 to 40 teeth", "20 to 40 teeth, belt", "3 : 1", "12 : 1 as 4 : 1 and 3 : 1")


_Page = PacePage | DirectionPage | ShapePage | MotorPage | ReliablePage | TorquePage


class DrivesStation(Workbench):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slot = 0
        self._names = session.machine.names
        self.chain = ChainCard(session)
        self.pace, self.direction, self.shape = PacePage(session), DirectionPage(session), ShapePage(session)
        self.motor, self.reliable, self.torque = MotorPage(session), ReliablePage(session), TorquePage(session)
        self._named: dict[str, _Page] = {
            Tab.PACE: self.pace,
            Tab.DIRECTION: self.direction,
            Tab.SHAPE: self.shape,
            Tab.MOTOR: self.motor,
            Tab.RELIABLE: self.reliable,
            Tab.TORQUE: self.torque,
        }
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 4, 14, 4)
        column.setSpacing(4)
        column.addLayout(self._head())
        column.addWidget(self.chain)
        column.addWidget(self.segments, 1)
        follow(session.changed, self.refresh)
        follow(session.held, self.refresh)
        follow(session.proved, self.refresh)
        follow(session.program.settled, self.refresh)
        self.show_axis(0)

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self._picker = AxisPicker(self._session.machine.names)
        self._picker.chosen.connect(self.show_axis)
        self.menu = AxisMenu(self._session)
        self.menu.chose.connect(self.show_axis)
        row.addWidget(self._picker)
        row.addWidget(self.menu)
        row.addSpacing(8)
        self.segments = Segments(self._named, apart=True)
        self.segments.turned.connect(self._turned)
        row.addWidget(self.segments.bar)
        row.addStretch(1)
        self._add_stage = QPushButton("+ stage")
        self._add_stage.setProperty("role", "quiet")
        self._add_stage.setToolTip("One more pair of gears, belt or gearbox between motor and final element")
        menu = QMenu(self._add_stage)
        for text in EXAMPLES:
            menu.addAction(text, partial(self.chain.add, text))
        self._add_stage.setMenu(menu)
        row.addWidget(self._add_stage)
        return row

    @property
    def live(self) -> bool:  # type: ignore[override]
        """Only the trace of the following error moves while the machine rests."""
        return self._page is self.motor

    @property
    def _page(self) -> _Page:
        return list(self._named.values())[self.segments.place]

    # -- doing ----------------------------------------------------------------------------------------------------

    def control_of(self, key: str, address: Address | None) -> QWidget | None:
        """To prove a pace is not to find one."""
        return self.reliable.prove if key.startswith("pace.") else super().control_of(key, address)

    def turn_to(self, name: str) -> None:
        """Shows one of the pages below the train."""
        self.segments.turn_to(name)

    def _turned(self) -> None:
        self._leave_page()
        self._page.show_axis(self.slot)

    def _leave_page(self) -> None:
        for page in self._named.values():
            page.leave()

    def left(self) -> None:
        self._leave_page()

    def show_axis(self, slot: int) -> None:
        self._leave_page()
        self.slot = slot
        self._picker.show_names(self._session.machine.names)
        self._picker.choose(slot)
        self.menu.show_axis(slot)
        self.chain.show_axis(slot)
        focus = self._session.focus
        if focus is not None and focus.axis is not None:
            self._session.set_focus(Address(slot, focus.key))
        self._page.show_axis(self.slot)
        self.refresh()

    def refresh(self) -> None:
        names = self._session.machine.names
        if self._names != names:
            self._names = names
            self.show_axis(min(self.slot, len(names) - 1))
            return
        self.chain.refresh()
        self._add_stage.setEnabled(len(self._session.machine.axis(self.slot).stages) < MOST_STAGES)
        self._page.refresh()

    def show_motion(self) -> None:
        self._page.show_motion()


def make(host: Host) -> DrivesStation:
    return DrivesStation(host.session)
