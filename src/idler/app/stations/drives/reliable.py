"""The page of the reliable pace: how fast the axis really goes without losing steps, and the proof of its pace."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from idler.core.mechanics.reliable import Search, shift_allowed
from idler.core.proof.claims import pace_claim
from idler.core.values.measures import Measures
from idler.procedures.drives.pace import TIMES, Doing, HardRun
from idler.procedures.engine import Result
from idler.session.session import Session

from ...bridge import follow
from ...pictures.proof import claim_head
from ...pictures.ruler import TrialPicture
from ...widgets.cards import card, label, tall
from ...widgets.lengthedit import LengthEdit
from ...widgets.machinebutton import MachineButton


class ReliablePage(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.slot = 0
        self._length = Fraction(60)
        self._searched: dict[str, Search] = {}
        self._lower: dict[str, tuple[Fraction, Fraction]] = {}  # of paces that lost steps when they were to be proven
        self.run = HardRun(session)
        follow(self.run.changed, self.refresh)
        follow(self.run.ended, self._take_lower)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        frame, column = card((12, 4, 12, 4), 2)
        self.picture = TrialPicture()
        column.addWidget(self.picture, 1)
        row.addWidget(frame, 1)
        row.addWidget(self._side(), 1)

    def _side(self) -> QWidget:
        frame, column = card((14, 6, 14, 8), 5)
        self.title, self.mark = claim_head(column)
        self.words = label("", "", wrap=True)
        column.addWidget(self.words)
        column.addStretch(1)
        line = QHBoxLayout()
        line.addWidget(label("to and fro over", "soft"))
        self.length = LengthEdit(self._session, "length of the runs", low=Fraction(1), high=Fraction(5000))
        self.length.taken.connect(self._take_length)
        line.addWidget(self.length)
        line.addStretch(1)
        column.addLayout(line)
        buttons = QHBoxLayout()
        self.search, self.prove = (
            MachineButton(self._session, words) for words in ("Find it", "Prove the pace as it is")
        )
        self.take, self.halt = (QPushButton(words) for words in ("Take this pace", "Stop the runs"))
        self.take.setProperty("role", "main")
        self.search.clicked.connect(self._find)
        self.take.clicked.connect(self._take)
        self.prove.clicked.connect(self._prove)
        self.halt.clicked.connect(self._session.stop)
        for button in (self.search, self.take, self.prove, self.halt):
            tall(button)
            buttons.addWidget(button)
        buttons.addStretch(1)
        column.addLayout(buttons)
        return frame

    # -- doing ----------------------------------------------------------------------------------------------------

    def show_axis(self, slot: int) -> None:
        if slot != self.slot:
            self._length = self.run.usual_length(slot)
        self.slot = slot
        self.refresh()

    def leave(self) -> None:
        if self.run.doing is not Doing.NOTHING:
            self._session.stop()

    def show_motion(self) -> None:
        """The runs have a clock of their own."""

    def _take_length(self, length: Fraction) -> None:
        self._length = length
        self.refresh()

    def _say(self, why: str) -> None:
        if why:
            self._session.refuse("Nothing was run.", why)

    def _find(self) -> None:
        self._say(self.run.find(self.slot, float(self._length), TIMES))

    def _prove(self) -> None:
        self._say(self._session.proof_obstacle(pace_claim(self._session.machine, self.slot)) or
                  self.run.prove(self.slot, float(self._length), 2 * TIMES))  # fmt: skip

    def _take_lower(self, _result: Result) -> None:
        """What a run that lost steps proposes."""
        if self.run.lower is not None:
            self._lower[self._session.machine.names[self.run.slot]] = self.run.lower
            self.refresh()

    def _take(self) -> None:
        proposal = self._proposal()
        if proposal is None:
            return
        speed, rise = proposal
        self._lower.pop(self._session.machine.names[self.slot], None)
        self._session.set_values(
            self.run.edit_for(self.slot, speed, rise), f"reliable pace of {self._session.machine.names[self.slot]}"
        )

    def _proposal(self) -> tuple[Fraction, Fraction] | None:
        """What the last runs propose for the axis on the page: a lower pace where steps were lost, else what was found."""
        name = self._session.machine.names[self.slot]
        search = self._searched.get(name)
        return self._lower.get(name) or (search.proposal if search is not None else None)

    # -- showing --------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        machine = self._session.machine
        if self.slot >= len(machine.names):
            return
        axis = machine.axis(self.slot)
        reads = axis.reads
        doing = self.run.doing
        if doing is Doing.SEARCH and self.run.search is not None:
            self._searched[axis.name] = self.run.search
            self._lower.pop(axis.name, None)
        search = self._searched.get(axis.name)
        self.picture.show_search(search, reads)
        self.length.show_length(reads, self._length)
        idle = doing is Doing.NOTHING
        proposal = self._proposal() if idle else None
        self.search.setVisible(idle)
        self.prove.setVisible(idle)
        self.take.setVisible(proposal is not None)
        self.halt.setVisible(not idle)
        self.length.setEnabled(idle)
        title = f"How fast {axis.name} can be trusted to go"
        words = (
            f"{axis.name} touches its switch, runs to and fro ever harder, and touches it again. Where the switch is found "
            f"more than {reads.length(shift_allowed(machine, self.slot), trim=True)} from its place, steps were lost."
        )
        if not idle:
            title = (
                f"Run {len(search.trials) + 1}" if doing is Doing.SEARCH and search is not None else "Proving the pace"
            )
            words = self.run.words
        elif proposal is not None and axis.name in self._lower:
            title = f"Try {self._pace_words(reads, proposal)}"
            words = self.run.words or "The pace lost steps when it was to be proven."
        elif proposal is not None and search is not None and search.failed_at_once:
            title = f"{self._pace_words(reads, proposal)} can be trusted"
            words = "The pace as it is lost steps. A quarter is kept as margin below what held. Take it, send, and prove it."
        elif proposal is not None and search is not None:
            title = f"{self._pace_words(reads, proposal)} can be trusted"
            words = f"{self._bound(search, reads)} A quarter is kept as margin. Take it, send, and prove it."
        elif self.run.words:
            words = self.run.words
        self.title.setText(title)
        self.words.setText(words)
        self.mark.show_claim(machine, pace_claim(machine, self.slot), self._session.proofs)

    @staticmethod
    def _pace_words(reads: Measures, pace: tuple[Fraction, Fraction]) -> str:
        return f"{reads.speed(pace[0], trim=True)} and {reads.acceleration(pace[1], trim=True)}"

    def _bound(self, search: Search, reads: Measures) -> str:
        lost = search.speed.lost
        if lost is None:
            speed = f"{reads.speed(search.speed.held, 0)}, the most that controller and motor allow, held."
        else:
            speed = f"{reads.speed(search.speed.held, 0)} held, {reads.speed(lost)} lost steps."
        rise = search.acceleration
        held = f"{reads.acceleration(rise.held, 0)} held"
        return (
            f"{speed} {held}, {reads.acceleration(rise.lost)} did not." if rise.lost is not None else f"{speed} {held}."
        )
