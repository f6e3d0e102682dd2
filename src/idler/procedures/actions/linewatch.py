"""Lines that pick index stops, where plain terminals have them: Idler watches, and its own procedure goes."""

from __future__ import annotations

from idler.core.machine import Axis
from idler.core.values.roles import InputRole
from idler.core.wiring import Duty, input_of
from idler.core.wiring.indexing import by_lines, indexed, lines
from idler.core.wiring.linewatch import LineWatch
from idler.session.session import Session

from ..engine import Ending, Result
from .indexing import IndexRun

LOOKS = 0.02  # s between two looks: as often as plain terminals are asked
LEAST = 0.04  # s: a state that was seen twice


class LinesOfParts:
    """What they pick while the axis is under way is gone to afterwards, the last of it."""

    def __init__(self, session: Session, run: IndexRun) -> None:
        self._session, self._run = session, run
        self._watches: dict[int, LineWatch] = {}
        self._of: object = None  # the machine that they were made for
        self._waits: tuple[int, int] | None = None  # slot and number
        self._timer = session.loop.timer(LOOKS, self._look)
        session.held.subscribe(self._begin)
        session.changed.subscribe(self._begin)
        run.ended.subscribe(self._ended)
        self._begin()

    def _begin(self) -> None:
        session = self._session
        machine = session.in_force
        if not (session.connected and machine.made_of_parts):
            self._watches, self._of = {}, None
            self._timer.stop()
            return
        if machine is not self._of:
            self._of = machine
            self._watches = {
                axis.slot: LineWatch(
                    max(LEAST, float(axis.number("index.settle")) / 1000), axis.choice("index.pick") == "gray"
                )
                for axis in indexed(machine)
                if by_lines(axis) and lines(machine, axis)
            }
        if self._watches:
            self._timer.start()
        else:
            self._timer.stop()

    def _look(self) -> None:
        session, now = self._session, self._session.loop.now()
        for slot, watch in self._watches.items():
            axis = session.in_force.axis(slot)
            told = lines(session.in_force, axis)
            state = sum(item.made(session.panel.is_closed(item.slot)) << bit for bit, item in told.items())
            number = watch.take(state, now, self._strobe(axis))
            if watch.number is not None:
                self._run.lines_say[slot] = watch.number
            if number:
                self._pick(slot, number)

    def _strobe(self, axis: Axis) -> bool | None:
        item = input_of(self._session.in_force, Duty(InputRole.STOP_STROBE, axis.name))
        return None if item is None else item.made(self._session.panel.is_closed(item.slot))

    def _pick(self, slot: int, number: int) -> None:
        if self._run.running:
            self._waits = slot, number
        elif why := self._run.go(slot, number):
            name = self._session.machine.names[slot]
            self._session.tell("warn", f"The lines of {name} ask for stop {number}, and it stays. {why}")

    def _ended(self, result: Result) -> None:
        waits, self._waits = self._waits, None
        if waits is not None and result.end is Ending.DONE:  # after a STOP nothing goes by itself
            self._pick(*waits)
