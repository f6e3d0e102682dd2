"""Running the homing: turn after turn, with what each axis did written down as it goes. STOP ends it anywhere."""

from __future__ import annotations

import time
from dataclasses import dataclass, field

from PySide6.QtCore import QObject, QTimer, Signal

from idler.core.homing import moves, turns
from idler.core.wire.homing import Phase, Result

from ...desk import Desk

LOOK_MS = 20
SETTLED = 0.12  # s after the controller took the command in which its report must have come


@dataclass
class Record:
    """What one axis did. begin: seconds after the run began. points: seconds and coordinate; phases: when each began."""

    slot: int
    begin: float
    points: list[tuple[float, float]] = field(default_factory=list)
    phases: list[tuple[Phase, float]] = field(default_factory=list)
    end: float = 0.0
    result: Result = Result.NONE

    @property
    def seconds(self) -> float:
        return self.end - self.begin


class HomingRun(QObject):
    """`changed` at every step; `ended` when the last turn is over, or one failed."""

    changed = Signal()
    ended = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.records: dict[int, Record] = {}
        self._waiting: list[tuple[int, ...]] = []
        self._now: tuple[int, ...] = ()
        self._began = 0.0
        self._taken = 0.0  # when the controller took the command
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self._look)
        desk.halted.connect(self._halt)
        desk.stopped.connect(lambda _: self._halt())
        desk.done.connect(self._done)
        desk.failed.connect(lambda what: self._halt() if what == "homing" else None)

    @property
    def running(self) -> bool:
        return bool(self._now)

    def obstacle(self, slots: tuple[int, ...]) -> str:
        """Why these cannot be homed now, or an empty text."""
        machine = self._desk.machine
        if why := self._desk.axes_obstacle:
            return why
        for slot in slots:
            if not moves(machine.axis(slot)) and machine.axis(slot).choice("homing.method") != "here":
                return (
                    f"{machine.names[slot]} homes by hard stop, which the controller does not do yet. Choose a switch."
                )
        rests = [a for slot in slots for a in self._desk.values_of(slot, "homing", "chain", "axis")]
        return self._desk.motion_obstacle(rests) or ("The machine is moving." if self._desk.moving else "")

    def home(self, slots: tuple[int, ...] | None = None) -> str:
        """Homes these axes together, or all of them in their turns; a sentence where it cannot begin."""
        groups = [slots] if slots is not None else turns(self._desk.machine)
        if why := self.obstacle(tuple(slot for group in groups for slot in group)):
            return why
        self.records = {}
        self._waiting, self._began = list(groups), time.monotonic()
        self._next()
        return ""

    def _next(self) -> None:
        if not self._waiting:
            self._finish()
            return
        self._now, self._taken = self._waiting.pop(0), 0.0
        for slot in self._now:
            self.records[slot] = Record(slot, time.monotonic() - self._began)
        self._desk.link.home(self._now)
        self._timer.start()
        self.changed.emit()

    def _done(self, what: str) -> None:
        if what == "homing" and self._now:
            self._taken = time.monotonic()

    def _halt(self) -> None:
        if self._now:
            self._look()
            for slot in self._now:
                record = self.records[slot]
                if record.result is Result.NONE:
                    record.result, record.end = Result.STOPPED, time.monotonic() - self._began
            self._waiting = []
            self._finish()

    def _finish(self) -> None:
        self._now = ()
        self._timer.stop()
        self.changed.emit()
        self.ended.emit()

    def _look(self) -> None:
        now, axes = time.monotonic() - self._began, self._desk.axes
        for slot in self._now:
            record = self.records[slot]
            if slot >= len(axes) or record.result is not Result.NONE:
                continue
            axis = axes[slot]
            record.points.append((now, axis.position))
            if axis.homing_phase is not Phase.NONE:
                if not record.phases or record.phases[-1][0] is not axis.homing_phase:
                    record.phases.append((axis.homing_phase, now))
            elif self._taken and time.monotonic() - self._taken > SETTLED:
                record.result, record.end = axis.homing_result, now
                if axis.homed and record.result is Result.NONE:
                    record.result = Result.FOUND  # “home is here” moves nothing
        results = [self.records[slot].result for slot in self._now]
        if results and all(result is not Result.NONE for result in results):
            if any(result is not Result.FOUND for result in results):
                self._waiting = []
            self._next()
        else:
            self.changed.emit()
