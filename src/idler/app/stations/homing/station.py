"""The page of the Homing station: turns on a time line, the head of the travel, the values, and how the last run went."""

from __future__ import annotations

from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from idler.core.homing import Rehearsal, by_stop, homing_keys, met_at
from idler.core.homing.outcome import answered, causes, measured
from idler.core.machine import Address
from idler.core.profile.homing import HomingResult, Phase
from idler.core.proof.claims import home_claim
from idler.core.table.sheets import HOMING
from idler.core.values.parameter import Value
from idler.core.wiring import home_switch, inputs
from idler.core.words import capital
from idler.procedures.homing.record import Record
from idler.procedures.homing.repeat import TOUCHES, RepeatRun
from idler.procedures.homing.run import HomingRun
from idler.session.session import Session

from ...bridge import follow, follow_calmly
from ...pictures.head import HeadPicture, head_scene
from ...pictures.proof import claim_head
from ...pictures.runtrace import RunTraceScene
from ...pictures.timeline import TimeLine, TimeRow
from ...widgets.cards import card, scrolled
from ...widgets.machinebutton import MachineButton
from .. import Host
from ..workbench import AxisWorkbench
from .outcome import OutcomeView

RIGHT = 316
NOT_HOMED = (
    " Until it is homed it can only be jogged: soft limits do not hold, and its ends, its parking place and a work zero cannot "
    "be had."
)


class HomingStation(AxisWorkbench):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.run = HomingRun(session)
        self.repeats = RepeatRun(session)
        follow(self.repeats.changed, self.refresh)
        self.run.scatters = self.repeats.spreads
        column = self.page_column()
        column.addLayout(self._head())
        row = QHBoxLayout()
        row.setSpacing(8)
        left = QVBoxLayout()
        left.setSpacing(6)
        self._turns, inner = card((8, 6, 8, 4), 2)
        self.line = TimeLine()
        self.line.chosen.connect(self._choose_row)
        inner.addWidget(self.line, 1)
        left.addWidget(self._turns, 4)
        frame, inner = card((8, 4, 8, 4), 2)
        self.head = HeadPicture()
        inner.addWidget(self.head, 1)
        left.addWidget(frame, 5)
        left.addWidget(self._below())
        row.addLayout(left, 1)
        row.addWidget(self._side())
        column.addLayout(row, 1)
        follow(self.run.changed, self.refresh)
        follow_calmly(self.run.progressed, self.refresh)
        follow(self.run.judged, self.show_axis)
        follow(self.run.ended, lambda _: self.refresh(), self)
        self.follow()

    # -- pieces ---------------------------------------------------------------------------------------------------

    def _head(self) -> QHBoxLayout:
        self.one, self.all = MachineButton(self._session), MachineButton(self._session, "Home all, in turns")
        self.all.setProperty("role", "main")
        self.again = MachineButton(self._session, f"Repeat {TOUCHES} times")
        self.again.clicked.connect(self._repeat)
        self.one.clicked.connect(lambda: self._begin((self.slot,)))
        self.all.clicked.connect(lambda: self._begin(None))
        return self.axis_row(self.again, self.one, self.all)

    def _below(self) -> QFrame:
        frame, column = card((12, 6, 10, 8), 4)
        self.title, self.mark = claim_head(column)
        self.outcome = OutcomeView(self._session)
        self.outcome.mend.connect(self._session.mend)
        self.outcome.clear_asked.connect(self._move_clear)
        self.outcome.answered.connect(self._answer)
        column.addWidget(self.outcome)
        return frame

    def _side(self) -> QFrame:
        frame, column = card((12, 6, 10, 8), 4)
        frame.setFixedWidth(RIGHT)
        self.sheet = self.sheet_of(HOMING, width=130)
        column.addWidget(scrolled(self.sheet, whole=True), 1)
        return frame

    # -- doing ----------------------------------------------------------------------------------------------------

    def control_of(self, key: str, address: Address | None) -> QWidget | None:
        """Of one axis, of its scatter, or of all; first what the last homing waits for: a reason why a home was found
        elsewhere, the way off a switch, or the edit of its likeliest cause."""
        kind, _, of = key.partition(".")
        buttons = {"repeat": self.again, "home": self.all if of == "all" else self.one, "overtravel": self.one}
        if kind not in buttons:
            return super().control_of(key, address)
        unsaid = [slot for slot in self.run.doubts if slot not in self.run.answers]
        if unsaid and (self.slot not in unsaid):
            self.show_axis(unsaid[0])
        record = self.run.records.get(self.slot)
        failed = record is not None and record.result not in (HomingResult.NONE, HomingResult.FOUND)
        first = (
            (bool(unsaid), self.outcome.answers[0]),
            (self._on_a_switch, self.outcome.clear),
            (failed, self.outcome.fix),
        )
        return next((button for wanted, button in first if wanted and button.isVisible()), buttons[kind])

    def _choose_row(self, place: int) -> None:
        self.show_axis(self._order()[place])

    def _begin(self, slots: tuple[int, ...] | None) -> None:
        if why := self.run.home(slots):
            self._session.refuse("Nothing was homed.", why)

    def _repeat(self) -> None:
        if why := self.repeats.repeat(self.slot, TOUCHES):
            self._session.refuse("Nothing was repeated.", why)
        else:
            self.run.records = {}

    def left(self) -> None:
        if self.repeats.running:
            self._session.stop()

    def _answer(self, key: str) -> None:
        """Why the home was found elsewhere; what that changes goes into the draft, and homing again settles it."""
        found = self.run.doubts.get(self.slot)
        if found is not None:
            self.run.explain(self.slot, key)
            self._session.mend(answered(self._session.machine, self.slot, found, key))

    def _move_clear(self) -> None:
        if why := self.run.clear(self.slot):
            self._session.refuse("Nothing was moved.", why)

    # -- showing --------------------------------------------------------------------------------------------------

    def _order(self) -> list[int]:
        """Slots in the order of the time line: by turns; those that take no part come last."""
        machine = self._session.machine
        return sorted(range(len(machine.names)), key=lambda slot: (machine.axis(slot).whole("homing.turn") or 99, slot))

    @property
    def _on_a_switch(self) -> bool:
        """Whether the axis on the page stands on a switch of its own now."""
        axes = self._session.axes
        if self.slot >= len(axes):
            return False
        return axes[self.slot].home_made or axes[self.slot].unwatched or bool(axes[self.slot].limit_made)

    def refresh(self) -> None:
        machine = self._session.machine
        running = self.run.running
        rehearsed = self.run.said if self.run.records else {item.slot: item for item in self.run.rehearsed()}
        order = self._order()
        self.line.show_rows(tuple(self._time_row(slot, rehearsed.get(slot)) for slot in order), order.index(self.slot))
        axis = machine.axis(self.slot)
        mine, record = rehearsed.get(self.slot), self.run.records.get(self.slot)
        ran = tuple(record.places(met_at(axis))) if record is not None and mine is not None and mine.legs else ()
        self.head.show_scene(head_scene(machine, self.slot, mine.legs if mine is not None else (), ran))
        self.one.setText(f"Home {axis.name}")
        for button in (self.again, self.one, self.all):
            button.setEnabled(not running and not self.repeats.running)
        self.sheet.show_keys(homing_keys(machine, self.slot))
        towards_iron = by_stop(axis)
        self.sheet.fields["homing.approach"].name_it("back-off and leaving speed" if towards_iron else "approach speed")
        self.sheet.fields["homing.touch"].name_it("speed towards the stop" if towards_iron else "touch speed")
        self._show_words(record)
        self.mark.show_claim(machine, home_claim(machine, self.slot), self._session.proofs)

    def _time_row(self, slot: int, item: Rehearsal | None) -> TimeRow:
        axis, record = self._session.machine.axis(slot), self.run.records.get(slot)
        ran: tuple[tuple[Phase, float, float], ...] = ()
        if record is not None and record.phases:
            alone = item.begin - record.begin if item is not None and len(self.run.records) == 1 else 0.0
            end = (record.end or record.points[-1][0]) + alone
            starts = [begin + alone for _, begin in record.phases]
            ran = tuple(
                (phase, begin, stop)
                for (phase, _), begin, stop in zip(record.phases, starts, [*starts[1:], end], strict=True)
            )
        failed = record is not None and record.result not in (HomingResult.NONE, HomingResult.FOUND)
        words = "takes no part: turn 0" if not axis.whole("homing.turn") else "home is where it stands"
        return TimeRow(axis.name, axis.whole("homing.turn"), item.begin if item else 0.0, item.legs if item else (),
                       ran, failed, words)  # fmt: skip

    def _show_words(self, record: Record | None) -> None:
        machine = self._session.machine
        axis = machine.axis(self.slot)
        result = record.result if record is not None else HomingResult.NONE
        scatter = self.repeats.scatters.get(self.slot) if record is None else None
        self.outcome.scatter.show_scatter(scatter, axis.reads)
        if scatter is not None:
            said, edit = self.repeats.advised(self.slot)
            title = (
                f"{axis.name}: ± {axis.reads.length(2 * scatter.standard, 4)} over {len(scatter.deviations)} touches"
            )
            words = (
                self.repeats.words if self.repeats.running else f"Range {axis.reads.length(scatter.range, 4)}. {said}"
            )
            sides = self.repeats.sides.get(self.slot)
            if sides is not None:
                lies = f"{axis.reads.length(sides.mean, sign=True)} ± {axis.reads.length(2 * sides.standard)}"
                words = f"{words} The second side's switch lies {lies} from the first's."
            self.outcome.show_words(words, {} if self.repeats.running else edit)
        elif record is None:
            title = f"{axis.name}, rehearsed"
            homed = self._session.homes.known(self.slot)
            start = "where it stands" if homed else "the far stop"
            why = self.run.unproven(self.slot)
            slow = f" Because {why}, it approaches at its touch speed." if why else ""
            if by_stop(axis):
                touch = axis.reads.speed(axis.number("homing.touch"), trim=True)
                slow = f" Towards its stop it never goes faster than {touch}."
            self.outcome.show_words(f"Drawn from {start}. Nothing has moved.{slow}{'' if homed else NOT_HOMED}")
        elif result is HomingResult.NONE:
            title = f"{axis.name}: {record.phases[-1][0].words if record.phases else 'begins'}"
            reason = self.run.slow.get(self.slot)
            self.outcome.show_words(f"It goes slowly because {reason}. Esc stops it." if reason else "Esc stops it.")
        elif (in_doubt := self.run.doubts.get(self.slot)) is not None:
            title = f"{axis.name} found its home elsewhere"
            said = self.run.answers.get(self.slot, "")
            then = " Send it, then home again." if said == "moved" else f" Home {axis.name} again." if said else ""
            self.outcome.show_doubt(in_doubt, said, then)
        elif result is HomingResult.FOUND:
            title = f"{axis.name} has its home"
            self.outcome.show_words(*self._found_words(record), axis.reads)
        else:
            title = f"{axis.name}: {result.words}"
            self.outcome.show_failure(
                causes(record.machine, self.slot, self.run.seen(self.slot)), self._trace(record), self._on_a_switch
            )
        self.title.setText(title)
        if (
            self._turns.isHidden() is not self.outcome.explains
        ):  # who asks why wants the room more than the order of turns
            self._turns.setHidden(self.outcome.explains)
            self.laid_anew.emit()

    def _trace(self, record: Record) -> RunTraceScene:
        machine = self._session.machine
        number = home_switch(machine, record.slot)
        terminal = f"terminal {inputs(machine)[number].name}" if number is not None else "switch"
        marks, reads = tuple(begin for _, begin in record.phases), machine.axis(record.slot).reads
        return RunTraceScene(tuple(record.points), marks, terminal, reads, True)

    def _found_words(self, record: Record) -> tuple[str, dict[Address, Value], float | None]:
        """How long it took, what was measured on the way, and an edit that this proposes."""
        seen = self.run.seen(self.slot)
        said, edit = measured(self._session.machine, self.slot, seen)
        took = self.run.took(record)
        return " ".join((f"{capital(took)}. The dashed line is what it did.", *said)), edit, seen.sides

    @property
    def live(self) -> bool:  # type: ignore[override]
        """Only a terminal that is watched changes while the machine rests."""
        return self.outcome.watching

    def show_motion(self) -> None:
        self.outcome.show_motion()


def make(host: Host) -> HomingStation:
    return HomingStation(host.session)
