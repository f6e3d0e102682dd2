"""The Trial station: a program, a figure or a run along either, and the six work zeros."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.table.stations import Tab
from idler.core.trial.figures import PROVING
from idler.core.trial.touching import over_a_bed

from ...bridge import follow
from ...widgets.cards import Segments
from .. import Host
from ..workbench import Workbench
from .actionspage import ActionsPage
from .figurespage import FiguresPage
from .indexpage import IndexPage
from .programpage import ProgramPage
from .runpage import RunPage
from .toolspage import ToolsPage
from .touchpage import TouchPage
from .zerospage import ZerosPage

OF_A_BED = (Tab.FIGURES, Tab.TOOLS, Tab.TOUCH)


class TrialStation(Workbench):
    def __init__(self, host: Host) -> None:
        super().__init__()
        self._session = session = host.session
        self.program, self.run = ProgramPage(session), RunPage(host, self.turn_to)
        self.figures, self.zeros = FiguresPage(session, lambda: self.turn_to(Tab.RUN)), ZerosPage(session)
        self.touch, self.own, self.index = TouchPage(session), ActionsPage(session), IndexPage(session)
        self.tools = ToolsPage(session)
        self._pages: dict[str, Workbench] = {
            Tab.PROGRAM: self.program,
            Tab.FIGURES: self.figures,
            Tab.RUN: self.run,
            Tab.WORK_ZEROS: self.zeros,
            Tab.TOOLS: self.tools,
            Tab.TOUCH: self.touch,
            Tab.ACTIONS: self.own,
            Tab.INDEX_STOPS: self.index,
        }
        self.pages = Segments(dict(self._pages))
        for page in self._pages.values():
            page.laid_anew.connect(self.laid_anew)
        self.pages.turned.connect(lambda _: self.laid_anew.emit())
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 12, 6)
        column.addWidget(self.pages)
        follow(session.changed, self._show_pages)
        self._show_pages()

    def _show_pages(self) -> None:
        none = () if over_a_bed(self._session.machine) else OF_A_BED
        self.pages.offer([name for name in self._pages if name not in none])

    def control_of(self, key: str, address: Address | None) -> QWidget | None:
        """A figure is taken to the run first, and a program opened; then the hand goes to what the run waits for."""
        program, of = self._session.program, key.partition(".")[0]
        if of == "figure" and (program.figure is None or program.figure.kind != PROVING):
            self.turn_to(Tab.FIGURES)
            return self.figures.control_for(PROVING)
        if of == "trial" and program.opened is None:
            self.turn_to(Tab.PROGRAM)
            return self.program.choose
        if of in ("figure", "trial"):
            missing = self.run.missing
            leads: dict[str, QWidget] = {
                Tab.PROGRAM: self.program.problems,
                Tab.WORK_ZEROS: self.zeros.take,
                Tab.TOOLS: self.tools.length,
            }
            self.turn_to(Tab.RUN if missing is None or not missing.page else missing.page)
            at = leads.get(missing.page) if missing is not None else None
            return at or self.run.next_for(drawing=of == "figure")
        return super().control_of(key, address)

    def turn_to(self, name: str) -> None:
        self.pages.turn_to(name)

    def left(self) -> None:
        self.index.left()

    def show_motion(self) -> None:
        list(self._pages.values())[self.pages.place].show_motion()


def make(host: Host) -> TrialStation:
    return TrialStation(host)
