"""The hard runs of the reliable pace: touch the switch, run to and fro, touch it again. Every move has an end of its own."""

from __future__ import annotations

from enum import Enum
from fractions import Fraction

from PySide6.QtCore import Signal

from idler.core.homing import way
from idler.core.machine import Address
from idler.core.reliable import Search, ceiling_of, shift_allowed
from idler.core.table import axis_index
from idler.core.wire import cia402 as c
from idler.core.wire.codec import Place
from idler.core.wiring import home_switch

from ...desk import Desk
from ..script import Script, Steps, Trouble

BACK = 3.0  # mm or °: back from the switch before it is touched again
TOUCH_SPEED = 60.0  # mm/min or °/min
_TRIED = ("pace.top_speed", "pace.acceleration", "pace.deceleration")


class Doing(Enum):
    NOTHING = "nothing"
    SEARCH = "search"
    PROOF = "proof"


class HardRun(Script):
    proven = Signal(bool, str)  # whether the pace held, and in words how far it was tried

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._doing = Doing.NOTHING
        self.search: Search | None = None
        self._slot = 0
        self._place = self._shift = 0.0
        self._touched = False
        self._way = 1  # towards home

    @property
    def doing(self) -> Doing:
        return self._doing if self.running else Doing.NOTHING

    def obstacle(self, slot: int, length: float) -> str:
        """Why nothing can be run now over such a length, or an empty text."""
        machine = self._desk.machine
        if why := self._desk.axes_obstacle:
            return why
        axis = machine.axis(slot)
        room = float(axis.number("travel.stop_high") - axis.number("travel.stop_low"))
        if not axis.rotary and length > 0.9 * room - 2 * BACK:
            return (
                f"{axis.name} has {room:g} mm between its hard stops; {length:g} mm is too much to run over. Take less."
            )
        switch = home_switch(machine, slot)
        if switch is None:
            return f"{machine.names[slot]} has no home switch or index mark that could tell lost steps. Wire and learn one."
        wiring = [Address(switch, f"input.{key}") for key in ("role", "axis", "rest", "filter")]
        return self._desk.motion_obstacle([*wiring, *self._desk.values_of(slot, "axis", "chain", "pace")])

    def find(self, slot: int, length: float, times: int) -> str:
        """Looks for the fastest pace that loses nothing; a sentence where it cannot begin."""
        if why := self.obstacle(slot, length):
            return why
        axis = self._desk.machine.axis(slot)
        speed, rise = (float(axis.number(key)) for key in _TRIED[:2])
        self.search = Search.of(speed, rise, ceiling_of(self._desk.machine, slot))
        self._start(Doing.SEARCH, slot, self._searching(length, times))
        return ""

    def prove(self, slot: int, length: float, times: int) -> str:
        """Runs the pace as it is, and tells by `proven` whether it held."""
        if why := self.obstacle(slot, length):
            return why
        self._start(Doing.PROOF, slot, self._proving(length, times))
        return ""

    def _start(self, doing: Doing, slot: int, steps: Steps) -> None:
        self._doing, self._slot, self._touched = doing, slot, False
        self.begin(steps, "It begins at the switch.")

    # -- steps ----------------------------------------------------------------------------------------------------

    def _touch(self) -> Steps:
        """To the switch, back, and slowly to it again; its place is then in self._place."""
        machine, slot = self._desk.machine, self._slot
        axis = machine.axis(slot)
        ahead = way(axis)
        approach = float(axis.number("homing.approach")) or TOUCH_SPEED
        room = float(axis.number("travel.stop_high") - axis.number("travel.stop_low"))
        reach = 400.0 if axis.rotary else 1.1 * abs(room) + 50
        yield self.try_values({Address(slot, "travel.limits_on"): False})
        for _ in range(4):
            if not self._desk.axes[slot].home_made:
                break
            yield self.move(slot, -ahead * BACK, approach)
        count, latched = Place(axis_index(c.LATCHES, slot), 0), Place(axis_index(c.LATCHED, slot), 0)
        for distance, speed in ((reach, approach), (2 * BACK, TOUCH_SPEED)):
            yield self.ask(count)
            before = self.answer(count)
            yield self.move(slot, ahead * distance, speed, seek=True)
            yield self.ask(count, latched)
            if self.answer(count) == before:
                raise Trouble(f"The switch of {axis.name} was not found within {distance:g}.")
            yield self.move(slot, -ahead * BACK, approach)
        self._place = c.position_from(self.answer(latched))
        self._way, self._touched = ahead, True

    def _hard(self, speed: float, rise: float, length: float, times: int) -> Steps:
        """Hard away from the switch and gently back, then gently away and hard back; each time the switch must be where it was.

        Hard both ways at once would hide what is lost there behind what is lost back. The larger shift is then in self._shift.
        """
        slot = self._slot
        axis = self._desk.machine.axis(slot)
        gentle = tuple(float(axis.number(key)) / 2 for key in _TRIED[:2])
        shifts = []
        if not self._touched:
            yield from self._touch()
        for hard_way in (-self._way, self._way):
            first = self._place
            for _ in range(times):
                for side in (-self._way, self._way):
                    pace = (speed, rise) if side == hard_way else gentle
                    told = dict(zip(_TRIED, (*pace, pace[1]), strict=True))
                    yield self.try_values(
                        {Address(slot, key): Fraction(value).limit_denominator(1000) for key, value in told.items()}
                    )
                    yield self.move(slot, side * length, pace[0])
            yield self.put_back()
            yield from self._touch()
            yield self.put_back()
            turn = 360.0 if axis.wraps else 0.0
            shift = self._place - first
            shifts.append((shift + turn / 2) % turn - turn / 2 if turn else shift)
        self._shift = max(shifts, key=abs)
        if abs(self._shift) >= shift_allowed(self._desk.machine, slot):
            self._desk.lose_home(slot, "lost steps")

    def _searching(self, length: float, times: int) -> Steps:
        allowed, unit = shift_allowed(self._desk.machine, self._slot), self._unit
        assert self.search is not None
        while (asked := self.search.next) is not None:
            self.say(f"Trying {asked[0]:.0f} {unit}/min at {asked[1]:.0f} {unit}/s². Esc stops it.")
            yield from self._hard(*asked, length, times)
            self.search = self.search.after(self._shift, held=abs(self._shift) < allowed)
            self.changed.emit()
        failed = self.search.failed_at_once
        self.say("The pace that it has now loses steps already: lower it first." if failed else "Found.")

    def _proving(self, length: float, times: int) -> Steps:
        axis, unit = self._desk.machine.axis(self._slot), self._unit
        speed, rise = (float(axis.number(key)) for key in _TRIED[:2])
        self.say(f"Running {times} times to and fro over {length:g} {unit} at the pace as it is.")
        yield from self._hard(speed, rise, length, times)
        held = abs(self._shift) < shift_allowed(self._desk.machine, self._slot)
        seen = f"the switch was found {abs(self._shift):.3f} {unit} from where it was"
        self.say("It held." if held else "Steps were lost.")
        self.proven.emit(held, f"{times} times {length:g} {unit} to and fro; {seen}")

    @property
    def _unit(self) -> str:
        return self._desk.machine.axis(self._slot).unit
