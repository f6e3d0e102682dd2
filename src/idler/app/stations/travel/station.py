"""The page of the Travel station: the envelope, the ends of one axis, and what proves them."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QFrame, QHBoxLayout, QPushButton

from idler.core.machine import Address
from idler.core.proof.claims import ends_claim
from idler.core.table.sheets import TRAVEL
from idler.core.travel import after_a_limit, ends_of, room_after_switch, run_on, taken
from idler.core.travel.ends import EndsVerdict
from idler.core.values.parameter import Value
from idler.procedures.travel.run import TravelRun
from idler.session.session import Session

from ...bridge import follow, follow_calmly
from ...pictures.envelope import EnvelopePicture, EnvelopeScene, views_of
from ...pictures.proof import claim_head
from ...widgets.cards import card, label, scrolled, tall
from ...widgets.edits import edit_words
from ...widgets.lengthedit import LengthEdit
from ...widgets.machinebutton import MachineButton
from .. import Host
from ..workbench import AxisWorkbench, Beside

USUAL, LOW = Beside(336, 2), Beside(576, 4)
BELOW = 792  # pixels of a window in which two columns of fields would not be seen whole


class TravelStation(AxisWorkbench):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._margin: Fraction | None = None  # where none was typed, 2 mm or about as much that is round on the screen
        self._edits: dict[int, dict[Address, Value]] = {}  # by axis, what would mend its ends
        self.run = TravelRun(session)
        follow(self.run.changed, self.refresh)
        follow_calmly(self.run.progressed, self.refresh)
        follow(self.run.proven, self._keep)
        column = self.page_column()
        column.addLayout(self._head())
        row = QHBoxLayout()
        row.setSpacing(8)
        frame, inner = card((6, 4, 6, 4), 2)
        self.picture = EnvelopePicture()
        inner.addWidget(self.picture, 1)
        row.addWidget(frame, 1)
        self._card = self._side()
        row.addWidget(self._card)
        column.addLayout(row, 1)
        self.follow()

    # -- pieces ---------------------------------------------------------------------------------------------------

    def _head(self) -> QHBoxLayout:
        self.prove, self.round, self.park = (
            MachineButton(self._session, words) for words in ("", "Run round it slowly", "Park")
        )
        self.prove.setProperty("role", "main")
        self.prove.clicked.connect(lambda: self._say(self.run.prove(self.slot)))
        self.round.clicked.connect(self._go_round)
        self.park.clicked.connect(lambda: self._say(self.run.park()))
        return self.axis_row(self.prove, self.round, self.park)

    def _side(self) -> QFrame:
        frame, column = card((12, 6, 12, 8), 3)
        frame.setFixedWidth(USUAL.width)
        self.title, self.mark = claim_head(column)
        self.words = label("", "small", wrap=True)
        column.addWidget(self.words)
        self.mend = QPushButton()
        self.mend.setProperty("role", "main")
        self.mend.clicked.connect(self._mend)
        column.addWidget(self.mend)
        here = QHBoxLayout()
        here.setSpacing(4)
        self._taking = QBoxLayout(QBoxLayout.Direction.TopToBottom)
        self._taking.setSpacing(3)
        self._taking.addLayout(here)
        self.low, self.high = QPushButton("This is the low end"), QPushButton("This is the high end")
        self.low.clicked.connect(lambda: self._take("low"))
        self.high.clicked.connect(lambda: self._take("high"))
        for button in (self.low, self.high):
            tall(button)
            here.addWidget(button)
        column.addLayout(self._taking)
        line = QHBoxLayout()
        line.addWidget(label("with a margin of", "soft"))
        self.margin = LengthEdit(self._session, "margin inside the end", low=Fraction(0), high=Fraction(1000))
        self.margin.taken.connect(self._take_margin)
        line.addWidget(self.margin)
        line.addStretch(1)
        self._taking.addLayout(line)
        column.addWidget(scrolled(self.sheet_of(TRAVEL, width=120), whole=True), 1)
        return frame

    def resizeEvent(self, event: QResizeEvent) -> None:
        """In a low window the fields stand in four columns, and what is taken in one line."""
        super().resizeEvent(event)
        low = self.beside(self._card, usual=USUAL, low=LOW, below=BELOW)
        ways = QBoxLayout.Direction
        self._taking.setDirection(ways.LeftToRight if low else ways.TopToBottom)

    # -- doing ----------------------------------------------------------------------------------------------------

    def _say(self, why: str) -> None:
        if why:
            self._session.refuse("Nothing was moved.", why)

    def _take(self, end: str) -> None:
        """The end is where the axis stands, less the margin."""
        name = self._session.machine.names[self.slot]
        axes = self._session.axes
        if self.slot >= len(axes) or not axes[self.slot].homed:
            self._session.tell("warn", f"{name} is not homed: its position cannot be taken as an end. Home it first.")
            return
        values = taken(self._session.machine, self.slot, end, axes[self.slot].position, float(self.margin_inside))
        self._session.mend(values, f"{end} end of {name} taken")

    @property
    def margin_inside(self) -> Fraction:
        """How far inside of where the axis stands its end is taken, in mm (°)."""
        return self._session.machine.axis(self.slot).reads.tidy(Fraction(2)) if self._margin is None else self._margin

    def _take_margin(self, margin: Fraction) -> None:
        self._margin = margin
        self.refresh()

    def _go_round(self) -> None:
        self._say(self.run.go_round())

    def _keep(self, slot: int, verdict: EndsVerdict) -> None:
        self._edits[slot] = verdict.edit
        self.refresh()

    def _mend(self) -> None:
        """Takes what the last drive to the ends has shown of the travel."""
        edit = self._edits.pop(self.slot, {})
        self._session.mend(edit, f"travel of {self._session.machine.names[self.slot]} as it was met")
        self.refresh()

    def left(self) -> None:
        if self.run.running:
            self._session.stop()

    # -- showing --------------------------------------------------------------------------------------------------

    def show_motion(self) -> None:
        self._draw()

    def _draw(self) -> None:
        machine, axes = self._session.machine, self._session.axes
        at = {name: axis.position for name, axis in zip(machine.names, axes, strict=False) if axis.homed}
        ends = {
            name: ends_of(machine, slot) for slot, name in enumerate(machine.names) if not machine.axis(slot).rotary
        }
        chosen = machine.names[self.slot]
        self.picture.show_scene(EnvelopeScene(views_of(ends), chosen, at, tuple(self.run.trail), machine.reads))

    def refresh(self) -> None:
        machine = self._session.machine
        axis = machine.axis(self.slot)
        running = self.run.running
        self.prove.setText(f"Prove both ends of {axis.name}")
        for button in (self.prove, self.round, self.park):
            button.setEnabled(not running)
        self.margin.show_length(axis.reads, self.margin_inside)
        self.title.setText(f"Ends of {axis.name}")
        self.words.setText(self.run.words if running or self.run.words else self._overtravel())
        edit = {a: v for a, v in self._edits.get(self.slot, {}).items() if machine[a] != v}
        self.mend.setVisible(bool(edit) and not running)
        if edit:
            self.mend.setText(edit_words(machine, edit))
        self.mark.show_claim(machine, ends_claim(machine, self.slot), self._session.proofs)
        self._draw()

    def _overtravel(self) -> str:
        """How far it runs on after a switch, while homing and from top speed, against the room that there is."""
        machine = self._session.machine
        axis, room = machine.axis(self.slot), room_after_switch(machine, self.slot)
        reads = axis.reads
        homing, limit = run_on(machine, self.slot), after_a_limit(machine, self.slot)
        on = f"{reads.length(homing, 2)} while homing, by {reads.length(limit, 2)} from top speed"
        words = f"After its switch it runs on by {on}"
        return f"{words}; the hard stop is {reads.length(room, 2)} behind it." if room is not None else f"{words}."


def make(host: Host) -> TravelStation:
    return TravelStation(host.session)
