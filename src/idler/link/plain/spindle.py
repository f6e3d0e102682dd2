"""The spindle of a controller that is made of plain parts: Idler tells its outputs which way and how fast, and keeps its waits.

As a controller of our own profile does it: it is turned the other way only after its time to standstill, and what has ended it
keeps it off until it is asked for anew. Idler is no safety part: what must end a spindle is wired.
"""

from __future__ import annotations

import time
from enum import Enum

from idler.core.machine import Machine
from idler.core.profile import terminals as t
from idler.core.profile.codec import Place
from idler.core.profile.terminals import Condition
from idler.core.spindle import Range, flag, has_level, has_own_drive, quantity, ranges, told_range, whole
from idler.core.values.roles import RANGE_ROLES, InputRole
from idler.core.wiring import inputs

from ..events import Asked
from .encoder import Encoder
from .spindledrive import SpindleDrive
from .terminals import Given, Terminals

PERCENT = 10.0  # ‰
OFF = Given()


class Phase(Enum):
    REST = 0
    UP = 1
    TURNS = 2
    DOWN = 3


class Spindle:
    """given: what the outputs are told, and a drive of its own. changed: time.monotonic since when."""

    def __init__(self, terminals: Terminals, encoder: Encoder | None, drive: SpindleDrive | None = None) -> None:
        self._terminals, self.encoder, self._part = terminals, encoder, drive
        self.asked = Asked()
        self.given = OFF
        self.changed = time.monotonic()
        self._machine: Machine | None = None
        self._ranges: tuple[Range, ...] = ()
        self._phase, self._until, self._engaged = Phase.REST, 0.0, 0
        self._wanted = 0

    def configure(self, machine: Machine) -> None:
        self._machine, self._ranges = machine, ranges(machine)

    def ask(self, asked: Asked) -> None:
        """What is held from here on; `step` tells the outputs."""
        self.asked, self._wanted = asked, asked.run

    # -- what it may ----------------------------------------------------------------------------------------------

    @property
    def drive(self) -> SpindleDrive | None:
        """The part that turns it, where it has one and is told by it."""
        return self._part if self._machine is not None and has_own_drive(self._machine) else None

    def _made(self, role: InputRole) -> bool:
        return self._terminals.made(role)

    def engaged(self) -> int:
        """The slot of the range that is engaged; -1 where its inputs name none, or several."""
        machine = self._machine
        if machine is None:
            return -1
        roles = [item.role for item in inputs(machine) if item.role in RANGE_ROLES]
        if not roles:
            return told_range(machine)
        made = [RANGE_ROLES.index(role) for role in roles if self._made(role)]
        return made[0] if len(made) == 1 and made[0] < len(self._ranges) else -1

    @property
    def conditions(self) -> Condition:
        machine = self._machine
        if machine is None:
            return Condition(0)
        found = Condition.GUARD if self._made(InputRole.GUARD) else Condition(0)
        found |= Condition.STOP if self._made(InputRole.STOP) else Condition(0)
        wired = any(item.role is InputRole.READY for item in inputs(machine))
        found |= Condition.NOT_READY if wired and not self._made(InputRole.READY) else Condition(0)
        found |= Condition.NOT_READY if self.drive is not None and self.drive.tripped else Condition(0)
        found |= Condition.NO_RANGE if self.engaged() < 0 else Condition(0)
        found |= Condition.SPINDLE if self.given.run else Condition(0)
        found |= Condition.TRYING if self.given.tried else Condition(0)
        found |= {Phase.UP: Condition.RUNNING_UP, Phase.DOWN: Condition.RUNNING_DOWN}.get(self._phase, Condition(0))
        return found

    def obstacle(self, *, powered: bool, asked: Asked | None = None, resets: bool = False) -> str:
        """Why it is not switched on now, or an empty text. asked: for what it would be, if not for what is asked already.
        resets: a fault of its drive would be reset first."""
        machine, found = self._machine, self.conditions
        if machine is None:
            return "Nothing is known of this machine yet."
        if found & Condition.GUARD:
            return "The guard is open: the spindle is not started. Close it first."
        if found & Condition.STOP:
            return "The stop contact says that it is pressed: the spindle is not started. Release it first."
        if found & Condition.NOT_READY and not (resets and self.drive is not None and self.drive.tripped):
            return "The drive of the spindle does not say that it is ready: it is not started. Look at its display."
        if found & Condition.NO_RANGE:
            return "The inputs name no speed range, or several: the spindle is not started. Engage one."
        if flag(machine, "needs_drives") and not powered:
            return "This spindle turns only with the drives on. Power them first."
        return self._too_fast(asked or self.asked)

    def _too_fast(self, asked: Asked) -> str:
        motor, drive = self._motor(self.engaged(), asked), self.drive
        if drive is None or not drive.fastest or motor <= drive.fastest + 1:
            return ""
        return (
            f"The drive of the spindle turns its motor with {drive.fastest} rpm at most (6046h, 6080h), and {motor:.0f} rpm "
            "are asked of it. Lower the highest speed of the range, or change it in the drive."
        )

    # -- what it is told ------------------------------------------------------------------------------------------

    def step(self, now: float, *, powered: bool) -> bool:
        """Goes on with what is asked. True where the outputs are to be told something else."""
        if self._wanted and self.obstacle(powered=powered):
            self._wanted = 0  # and it stays so until it is asked for anew
        before, engaged = self.given, self.engaged()
        if self._phase is Phase.UP and now >= self._until:
            self._phase = Phase.TURNS
        elif self._phase is Phase.DOWN and now >= self._until:
            self._phase = Phase.REST
        told = (
            before.run * before.rpm if self.drive is not None else 0.0
        )  # one that is told in another way now must stand
        if self._part is not None and not self._part.follow(told, now):
            self._wanted = 0
        run, level, rpm = before.run, self._level(engaged), self._motor(engaged, self.asked)
        if run and (self._wanted != run or engaged != self._engaged):
            run, self._wanted = 0, self._wanted if engaged == self._engaged else 0
            self._begin(Phase.DOWN, now)
        elif not run and self._wanted and self._phase is Phase.REST and engaged >= 0:
            run, self._engaged = self._wanted, engaged
            self._begin(Phase.UP, now)
        elif run and (abs(level - before.level) > 1 or abs(rpm - before.rpm) > 1):
            self._begin(Phase.UP, now)
        self.given = Given(
            run, level if run else self._rest, self.asked.tried, self.asked.tried_level, rpm if run else 0.0
        )
        return self.given != before

    def _begin(self, phase: Phase, now: float) -> None:
        span = self._ranges[self._engaged] if 0 <= self._engaged < len(self._ranges) else None
        waits = 0.0 if span is None else span.run_up if phase is Phase.UP else span.run_down
        self._phase, self._until, self.changed = phase, now + waits, now
        if self.encoder is not None:
            self.encoder.record_from(now)

    def _level(self, engaged: int) -> float:
        """‰ for what is asked: a speed goes before a level; with neither, the speed of a bare start."""
        speed = self._speed(engaged, self.asked)
        return PERCENT * self._ranges[engaged].level(speed) if speed else float(self.asked.level)

    def _speed(self, engaged: int, asked: Asked) -> float:
        """rpm that is asked for, 0 where a level is."""
        machine = self._machine
        if machine is None or not 0 <= engaged < len(self._ranges):
            return 0.0
        return float(asked.speed or (0 if asked.level else quantity(machine, "spindle.start_speed")))

    def _motor(self, engaged: int, asked: Asked) -> float:
        """rpm that a drive of its own makes of it, within the range."""
        speed = self._speed(engaged, asked) if self.drive is not None else 0.0
        if not speed:
            return 0.0
        span = self._ranges[engaged]
        return min(max(speed, span.low), span.high) / span.ratio

    @property
    def _rest(self) -> float:
        machine = self._machine
        return PERCENT * quantity(machine, "spindle.rest") if machine is not None and has_level(machine) else 0.0

    # -- what is seen of it ---------------------------------------------------------------------------------------

    @property
    def _sign(self) -> int:
        return -1 if self._machine is not None and flag(self._machine, "counts_reversed") else 1

    @property
    def counts(self) -> int:
        return self._sign * self.encoder.counts if self.encoder is not None else 0

    def _rpm(self, rate: float) -> float:
        per_turn = whole(self._machine, "counts") if self._machine is not None else 0
        return self._sign * 60 * rate / per_turn if per_turn else 0.0

    @property
    def speed(self) -> float:
        """rpm, right is +; 0 where nothing counts its turns."""
        return self._rpm(self.encoder.rate) if self.encoder is not None else 0.0

    def record(self) -> list[tuple[float, float]]:
        """Seconds since it was told something else, and rpm."""
        return [(at, self._rpm(rate)) for at, rate in self.encoder.record] if self.encoder is not None else []

    def raws(self, began: float) -> dict[Place, int]:
        """Objects of our own profile that programs read of a spindle. began: when the clock of the edges did."""
        asked = self.asked if self.given.run else Asked()
        return {
            t.SPINDLE_RUN: self.given.run, t.SPINDLE_LEVEL: asked.level, t.SPINDLE_SPEED: asked.speed,
            t.SPINDLE_CHANGED: round(1000 * (self.changed - began)), t.SPINDLE_COUNTS: self.counts,
            t.SPINDLE_MEASURED: round(10 * self.speed), t.ENGAGED: self.engaged() + 1,
        }  # fmt: skip
