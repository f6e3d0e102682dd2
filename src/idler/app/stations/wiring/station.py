"""The page of the Wiring station: the inputs at the left, and at the right what is being done with the wires."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget

from idler.core.machine import Address
from idler.core.report.agenda import pages_without
from idler.core.table.stations import Tab
from idler.link.trace import Edges
from idler.procedures.dead_man import DeadMan
from idler.session.session import Session

from ...bridge import follow
from ...pictures.terminals import SPAN_US
from ...widgets.cards import Segments, card
from .. import Host
from ..workbench import Workbench
from .inputs import InputsCard
from .learn import LearnPage
from .outputs import OutputsPage
from .prove import ProvePage
from .signals import SignalsPage
from .study import StudyPage

RIGHT = 344
DESCRIBE_EVERY = 12  # pictures


class WiringStation(Workbench):
    live = True

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.dead_man = DeadMan(session)
        self.inputs = InputsCard(session)
        self.learn, self.signals = LearnPage(session), SignalsPage(session)
        self.outputs, self.study = OutputsPage(session, self.dead_man), StudyPage(session)
        self.prove = ProvePage(session)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 10, 6)
        row.setSpacing(8)
        row.addWidget(self.inputs, 1)
        row.addWidget(self._right())
        self.inputs.chose.connect(self.study.choose)
        self._frames = 0

    def _right(self) -> QWidget:
        frame, column = card((10, 6, 10, 6), 6)
        frame.setFixedWidth(RIGHT)
        self._all = (self.outputs, self.learn, self.study, self.prove, self.signals)
        names = (Tab.OUTPUTS, Tab.LEARN, Tab.FILTER, Tab.PROVE, Tab.SIGNALS)
        self.segments = Segments(dict(zip(names, self._all, strict=True)))
        self.segments.turned.connect(self._turned)
        column.addWidget(self.segments, 1)
        follow(self._session.changed, self._offer)
        self._offer()
        return frame

    def _offer(self) -> None:
        """What a controller knows nothing of has no page."""
        none = pages_without(self._session.machine)
        self.segments.offer([name for name in self.segments.buttons if name not in none])

    def turn_to(self, name: str) -> None:
        """Shows one of the pages at the right."""
        self.segments.turn_to(name)

    def control_of(self, key: str, address: Address | None) -> QWidget | None:
        """Of a proof its own button, or that of the touch round; of what is not wired yet an output that is free."""
        if key.startswith("wiring."):
            return self.prove.begin_buttons.get(key, self.prove.round_button)
        if key == "quiet":
            self.study.spindle.setChecked(True)
            return self.study.record
        if address is not None and self.outputs.isVisible() and address.key != "output.role":
            return self.outputs.free
        return super().control_of(key, address)

    def _turned(self, place: int) -> None:
        self._leave_page()
        if self._all[place] is self.learn:
            self.learn.start()
        self.laid_anew.emit()

    def _leave_page(self) -> None:
        self.dead_man.let_go()
        self.study.leave()
        self.prove.leave()
        self.learn.leave()
        self.signals.leave()

    def entered(self) -> None:
        self._session.watch(self, True)
        self.learn.start()

    def left(self) -> None:
        self._leave_page()
        self._session.watch(self, False)

    def _edges(self) -> Edges | None:
        if not self._session.connected:
            return None
        trace = self._session.trace
        return trace.since(trace.now - SPAN_US)

    def show_motion(self) -> None:
        edges = self._edges()
        counts = self._session.trace.counts() if edges is not None else []
        self.inputs.show_motion(edges, counts)
        page = self._all[self.segments.place]
        if page is self.outputs:
            self.outputs.show_motion(self._session.panel if self._session.connected else None)
        elif page is self.learn:
            self.learn.show_chatter()
        self._frames += 1
        if self._frames % DESCRIBE_EVERY == 0:
            self.inputs.describe(edges)
            self._session.see_edges(counts)


def make(host: Host) -> WiringStation:
    return WiringStation(host.session)
