"""The page of the Geometry station: what a dial, a rule and a square tell of the machine itself."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.report.agenda import pages_for
from idler.core.table.stations import Station, Tab
from idler.session.session import Session

from ...bridge import follow
from ...widgets.cards import Segments
from .. import Host
from ..workbench import AxisWorkbench, Workbench
from .bladepage import BladePage
from .comebackpage import ComebackPage
from .frame import Measuring
from .keptpage import KeptPage
from .levelpage import LevelPage
from .playpage import PlayPage
from .runoutpage import RunoutPage
from .squarepage import SquarePage
from .tailpage import TailPage


class GeometryStation(Workbench):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.play, self.comeback = PlayPage(session), ComebackPage(session)
        self.square, self.blade, self.level = SquarePage(session), BladePage(session), LevelPage(session)
        self.kept, self.runout, self.tail = KeptPage(session), RunoutPage(session), TailPage(session)
        self._pages: dict[str, Workbench] = {
            Tab.PLAY: self.play,
            Tab.COMES_BACK: self.comeback,
            Tab.STEPS_KEPT: self.kept,
            Tab.SQUARE: self.square,
            Tab.BY_A_SQUARE: self.blade,
            Tab.LEVEL: self.level,
            Tab.RUNOUT: self.runout,
            Tab.TAILSTOCK: self.tail,
        }
        self.pages = Segments(dict(self._pages))
        for page in self._pages.values():
            page.laid_anew.connect(self.laid_anew)
        self.pages.turned.connect(lambda _: self.laid_anew.emit())
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 12, 6)
        column.addWidget(self.pages)
        self._session = session
        follow(session.changed, self._show_pages)
        self._show_pages()

    def _show_pages(self) -> None:
        """A mill has no tailstock, and a lathe no bed."""
        self.pages.offer(pages_for(self._session.machine, Station.GEOMETRY) or {Tab.PLAY})

    def turn_to(self, name: str) -> None:
        self.pages.turn_to(name)

    def control_of(self, key: str, address: Address | None) -> QWidget | None:
        """What a measurement came to, before it is made again; of a right angle on the page of its axes."""
        kind, _, names = key.partition(".")
        if kind == "square":
            self.blade.choose_axes(names)
        page = list(self._pages.values())[self.pages.place]
        asked = page.asked if isinstance(page, Measuring) else None
        return asked or super().control_of(key, address)

    @property
    def axis(self) -> int | None:
        """That which is measured on the page in front; None where it takes more than one."""
        page = list(self._pages.values())[self.pages.place]
        return page.slot if isinstance(page, AxisWorkbench) else None


def make(host: Host) -> GeometryStation:
    return GeometryStation(host.session)
