"""The page of the Wiring station: the inputs at the left, and at the right what is being done with the wires."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget

from idler.link.trace import Edges

from ...desk import Desk
from ...parts import Segments, card
from ...pictures.terminals import SPAN_US
from ..holder import Holder
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

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.holder = Holder(desk)
        self.inputs = InputsCard(desk)
        self.learn, self.signals = LearnPage(desk), SignalsPage(desk)
        self.outputs, self.study = OutputsPage(desk, self.holder), StudyPage(desk, self.holder)
        self.prove = ProvePage(desk, self.holder)
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
        names = ("Outputs", "Learn", "Filter", "Prove", "Signals")
        self.segments = Segments(dict(zip(names, self._all, strict=True)))
        self.segments.turned.connect(self._turned)
        column.addWidget(self.segments, 1)
        return frame

    def turn_to(self, name: str) -> None:
        """Shows one of the pages at the right."""
        self.segments.turn_to(name)

    def _turned(self, place: int) -> None:
        self._leave_page()
        if self._all[place] is self.learn:
            self.learn.start()

    def _leave_page(self) -> None:
        self.holder.let_go()
        self.study.leave()
        self.prove.leave()
        self.signals.leave()

    def entered(self) -> None:
        self._desk.link.watch(True)
        self.learn.start()

    def left(self) -> None:
        self._leave_page()
        self._desk.link.watch(False)

    def _edges(self) -> Edges | None:
        if not self._desk.connected:
            return None
        trace = self._desk.link.trace
        return trace.since(trace.now - SPAN_US)

    def show_motion(self) -> None:
        edges = self._edges()
        counts = self._desk.link.trace.counts() if edges is not None else []
        self.inputs.show_motion(edges, counts)
        page = self._all[self.segments.place]
        if page is self.outputs:
            self.outputs.show_motion(self._desk.link.panel if self._desk.connected else None)
        elif page is self.learn:
            self.learn.feed(edges)
        elif page is self.prove:
            self.prove.feed(edges)
        self._frames += 1
        if self._frames % DESCRIBE_EVERY == 0:
            self.inputs.describe(edges)
            self._desk.see_edges(counts)
