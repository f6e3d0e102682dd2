"""The session's side of a spindle drive on Modbus: its description, kept on the shelf, and the talk with it."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import TYPE_CHECKING

from idler.core.errors import IdlerError
from idler.core.spindle import is_on_bus, ranges, told_range
from idler.core.spindle.registers import Registers
from idler.link.events import Asked
from idler.shelf.shelf import Shelf

from .topic import Topic

if TYPE_CHECKING:
    from idler.link.modbus import BusDrive, DriveState

    from .session import Session


AT_SPEED, STALLED = 0.1, 0.5  # share by which the motor may be off before a path begins, and on its way


class SpindleBus:
    """The drive is spoken to between `open` and `leave`; what is asked of the spindle is then said to it as well."""

    def __init__(self, session: Session, shelf: Shelf, name: str) -> None:
        self.changed: Topic[()] = Topic()
        self._session, self._shelf, self._name = session, shelf, name
        self._drive: BusDrive | None = None
        self._saying = threading.Lock()
        self._said = Asked()  # what the drive was told last
        self._talk = 0  # counts the drives that were spoken to, so that a late word of an earlier one is known
        self.state: DriveState | None = None
        self.registers, self.trouble = Registers(), ""
        try:
            self.registers = shelf.drive(name)
        except IdlerError as why:
            self.trouble = why.sentence

    @property
    def opened(self) -> bool:
        return self._drive is not None

    @property
    def answers(self) -> bool:
        return self.state is not None and self.state.answers

    def keep(self, found: Registers) -> None:
        """Another description, on the disk at once; a drive that is spoken to is spoken to anew. A locked set-up keeps its
        own."""
        if self._session.refuses_change():
            self.changed.publish()
            return
        self.registers = found
        try:
            self._shelf.save_drive(self._name, found)
        except IdlerError as why:
            self._session.refuse("The description of the drive is not on the disk yet.", why.sentence)
        if self.opened:
            self.open()
        self.changed.publish()

    def open(self) -> None:
        from idler.link.modbus import BusDrive  # the Modbus package loads when a drive is there to be spoken to

        self.leave()
        self._talk += 1
        talk, call = self._talk, self._session.loop.call
        self._drive = BusDrive(self.registers, lambda state: call(lambda: self._take(talk, state)))
        self.changed.publish()

    def leave(self) -> None:
        """The motor is stopped first; nobody waits for a drive that does not answer."""
        if self._drive is not None:
            self._drive.leave()
            self._drive, self.state = None, None
            self.changed.publish()

    def close(self) -> None:
        """At the end of the application: the stop has been said to the drive when this returns."""
        if self._drive is not None:
            self._drive.close()
            self._drive, self.state = None, None

    def reset(self) -> None:
        if self._drive is not None:
            self._drive.reset()

    def obstacle(self) -> str:
        """Why a spindle on this bus cannot be run, or an empty text; empty for any other kind of spindle."""
        if not is_on_bus(self._session.machine):
            return ""
        if not self.opened:
            return "The spindle's drive is not spoken to. Open its bus at the Spindle station."
        if self.state is None or not self.state.answers:
            return (
                self.state.why
                if self.state is not None and self.state.why
                else "The spindle's drive has not answered yet."
            )
        return f"The spindle's drive reports fault {self.state.fault}. Reset it first." if self.state.fault else ""

    def follow(self, asked: Asked) -> None:
        """Says way and speed of the motor that belong to what is asked of the spindle. From any thread."""
        with self._saying:
            self._say(asked)

    def _say(self, asked: Asked) -> None:
        self._said = asked
        if self._drive is not None:
            self._drive.command(asked.run, self._motor(asked))

    def _motor(self, asked: Asked) -> float:
        """rpm of the motor."""
        machine = self._session.machine
        found = ranges(machine)[told_range(machine)]
        return min(max(float(asked.speed), found.low), found.high) / found.ratio if asked.run else 0.0

    # -- on the way of a path, on the link's thread -----------------------------------------------------------------

    def turns(self, asked: Asked, wanted: Callable[[], bool]) -> bool:
        """A drive that does not tell its speed is believed: motion waits for the time to speed alone."""
        with self._saying:  # whoever ends it makes it unwanted first, and says so to the drive after this
            if not wanted():
                return False
            if asked != self._said:
                self._say(asked)
        return not asked.run or self._off_by(asked) <= AT_SPEED

    def stalled(self, asked: Asked) -> str:
        drive = self._drive
        if drive is None or not drive.state.answers:
            return "its drive does not answer"
        if drive.state.fault:
            return f"its drive reports fault {drive.state.fault}"
        if asked.run and self._off_by(asked) > STALLED:
            return f"its drive says {abs(drive.state.rpm):.0f} rpm of {self._motor(asked):.0f}"
        return ""

    def _off_by(self, asked: Asked) -> float:
        """The share by which the motor is slower or faster than it was asked to be, as its drive says it."""
        drive = self._drive
        if drive is None or not drive.state.answers:
            return 1.0
        if "measured" not in self.registers.registers:
            return 0.0
        wanted = self._motor(asked)
        return abs(abs(drive.state.rpm) - wanted) / wanted if wanted else 0.0

    def _take(self, talk: int, state: DriveState) -> None:
        if talk != self._talk or self._drive is None:
            return  # that one was left meanwhile
        self.state = state
        self.changed.publish()
