"""The hard runs of the reliable pace: touch the switch, run to and fro, touch it again. Every move has an end of its own.

Trial values are written to the controller without being stored, and put back after each run, after STOP, and on leaving.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from enum import Enum
from fractions import Fraction

from PySide6.QtCore import QObject, QTimer, Signal

from idler.core.machine import Address
from idler.core.reliable import Search, ceiling_of, shift_allowed
from idler.core.table import axis_index
from idler.core.wire import cia402 as c
from idler.core.wire.cia402 import fault_text
from idler.core.wire.codec import Place, Raw, encode, place
from idler.core.wiring import home_switch
from idler.link.events import Read

from ...desk import Desk

BACK = 3.0  # mm or °: back from the switch before it is touched again
LOOK_MS = 20
TOUCH_SPEED = 60.0  # mm/min or °/min
ARRIVED = 0.1  # s at rest where it should be
NEVER_STARTS = 2.0  # s without motion after it was asked for
_TRIED = ("pace.top_speed", "pace.acceleration", "pace.deceleration")


class Doing(Enum):
    NOTHING = "nothing"
    SEARCH = "search"
    PROOF = "proof"


class Trouble(Exception):
    """A sentence on why the run ends."""


class HardRun(QObject):
    """`changed` at every step. The steps of a run stand one below the other in `_script`; each yields what it waits for."""

    changed = Signal()
    proven = Signal(bool, str)  # whether the pace held, and in words how far it was tried

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.doing = Doing.NOTHING
        self.words = ""
        self.search: Search | None = None
        self._slot = 0
        self._script: Iterator[Callable[[], bool]] | None = None
        self._ready: Callable[[], bool] = lambda: True
        self._read: dict[Place, Raw] | None = None
        self._written = False
        self._spoilt: dict[Place, Raw] = {}  # what must be put back
        self._place = self._shift = 0.0
        self._touched = False
        self._way = 1.0
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self._look)
        desk.halted.connect(lambda: self.stop("It was stopped."))
        desk.stopped.connect(lambda incident: self.stop(f"The machine stopped: {fault_text(incident.code)}."))
        desk.held.connect(self._held)
        desk.read.connect(self._take)
        desk.done.connect(self._done)
        desk.failed.connect(lambda _: self.stop("The controller refused a step of it."))

    # -- asking ---------------------------------------------------------------------------------------------------

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
        if home_switch(machine, slot) is None:
            return f"{machine.names[slot]} has no home switch or index mark that could tell lost steps. Wire and learn one."
        wiring = [Address(home_switch(machine, slot), f"input.{key}") for key in ("role", "axis", "rest", "filter")]
        train = [a for a in machine.addresses() if a.axis == slot and a.row.group in ("axis", "chain", "pace")]
        if why := self._desk.unsent([*wiring, *train]):
            return why
        return "" if self._desk.powered else "The drives are off. Power them first."

    def find(self, slot: int, length: float, times: int) -> str:
        """Looks for the fastest pace that loses nothing; a sentence where it cannot begin."""
        if why := self.obstacle(slot, length):
            return why
        axis = self._desk.machine.axis(slot)
        speed, rise = (float(axis.number(key)) for key in _TRIED[:2])
        self.search = Search.of(speed, rise, ceiling_of(self._desk.machine, slot))
        self._begin(Doing.SEARCH, slot, self._searching(length, times))
        return ""

    def prove(self, slot: int, length: float, times: int) -> str:
        """Runs the pace as it is, and tells by `proven` whether it held."""
        if why := self.obstacle(slot, length):
            return why
        self._begin(Doing.PROOF, slot, self._proving(length, times))
        return ""

    def stop(self, why: str) -> None:
        """Ends the run; what was tried is put back as soon as the axis rests."""
        if self.doing is Doing.NOTHING:
            return
        self.doing, self._script, self.words = Doing.NOTHING, None, why
        self.changed.emit()

    def _held(self) -> None:
        if not self._desk.connected:
            self._spoilt.clear()  # the values of a controller that is gone are read anew when it is back
            self.stop("The link was lost.")

    # -- the machinery --------------------------------------------------------------------------------------------

    def _begin(self, doing: Doing, slot: int, script: Iterator[Callable[[], bool]]) -> None:
        self.doing, self._slot, self._script, self._ready = doing, slot, script, lambda: True
        self.words = "It begins at the switch."
        self._touched = False
        self._timer.start()
        self.changed.emit()

    def _look(self) -> None:
        """Goes on where the step has ended."""
        if self._script is None:
            self._put_back_when_at_rest()
            if not self._spoilt:
                self._timer.stop()
            return
        if self._slot >= len(self._desk.axes):
            return
        try:
            if self._ready():
                self._ready = next(self._script)
        except StopIteration:
            self.doing, self._script = Doing.NOTHING, None
            self.changed.emit()
        except Trouble as why:
            self.stop(str(why))

    def _put_back_when_at_rest(self) -> None:
        if self._spoilt and self._desk.connected and not self._desk.moving:
            values, self._spoilt = self._spoilt, {}
            self._desk.link.try_values(values)

    def _take(self, event: Read) -> None:
        self._read = dict(event.raws)

    def _done(self, what: str) -> None:
        if what == "try":
            self._written = True

    def _say(self, words: str) -> None:
        self.words = words
        self.changed.emit()

    # -- steps ----------------------------------------------------------------------------------------------------

    def _move(self, distance: float, speed: float, *, seek: bool = False) -> Callable[[], bool]:
        """A move; ready when the axis has come to rest."""
        link, slot = self._desk.link, self._slot
        since, started, rest = time.monotonic(), False, time.monotonic()
        stood = self._desk.axes[slot].position
        link.jog_step(slot, distance, speed, seek=seek)

        def ready() -> bool:
            nonlocal started, rest
            now = time.monotonic()
            axis = self._desk.axes[slot]
            started = started or axis.moving or axis.position != stood  # a quick move may be over between two reports
            if axis.moving:
                rest = now
            elif not started and now - since > NEVER_STARTS:
                raise Trouble("The axis did not start.")
            return started and now - rest > ARRIVED

        return ready

    def _ask(self, *places: Place) -> Callable[[], bool]:
        self._read = None
        self._desk.link.ask_for(places)
        return lambda: self._read is not None and set(places) <= set(self._read)

    def _try(self, values: dict[str, float | bool]) -> Callable[[], bool]:
        """Values of the axis that the controller is to use for a while."""
        holding = self._desk.holding
        assert holding is not None
        raws: dict[Place, Raw] = {}
        for key, value in values.items():
            address = Address(self._slot, key)
            made = value if isinstance(value, bool) else Fraction(value).limit_denominator(1000)
            raws[place(address)] = encode(address.row, made)
            self._spoilt.setdefault(place(address), holding.raws[place(address)])
        self._written = False
        self._desk.link.try_values(raws)
        return lambda: self._written

    def _put_back(self) -> Callable[[], bool]:
        values, self._spoilt = self._spoilt, {}
        self._written = False
        self._desk.link.try_values(values)
        return lambda: self._written

    def _touch(self) -> Iterator[Callable[[], bool]]:
        """To the switch, back, and slowly to it again; its place is then in self._place."""
        machine, slot = self._desk.machine, self._slot
        axis = machine.axis(slot)
        way = 1.0 if axis.choice("homing.towards") == "high" else -1.0
        approach = float(axis.number("homing.approach")) or TOUCH_SPEED
        room = float(axis.number("travel.stop_high") - axis.number("travel.stop_low"))
        reach = 400.0 if axis.rotary else 1.1 * abs(room) + 50
        yield self._try({"travel.limits_on": False})
        for _ in range(4):
            if not self._desk.axes[slot].home_made:
                break
            yield self._move(-way * BACK, approach)
        count, latched = Place(axis_index(c.LATCHES, slot), 0), Place(axis_index(c.LATCHED, slot), 0)
        for distance, speed in ((reach, approach), (2 * BACK, TOUCH_SPEED)):
            yield self._ask(count)
            assert self._read is not None
            before = self._read[count]
            yield self._move(way * distance, speed, seek=True)
            yield self._ask(count, latched)
            if self._read[count] == before:
                raise Trouble(f"The switch of {axis.name} was not found within {distance:g}.")
            yield self._move(-way * BACK, approach)
        self._place = c.position_from(int(self._read[latched]))
        self._way = way
        self._touched = True

    def _hard(self, speed: float, rise: float, length: float, times: int) -> Iterator[Callable[[], bool]]:
        """Hard away from the switch and gently back, then gently away and hard back; each time the switch must be where it was.

        Hard both ways at once would hide what is lost there behind what is lost back. The larger shift is then in self._shift.
        """
        axis = self._desk.machine.axis(self._slot)
        gentle = tuple(float(axis.number(key)) / 2 for key in _TRIED[:2])
        shifts = []
        if not self._touched:
            yield from self._touch()
        for hard_way in (-self._way, self._way):
            first = self._place
            for _ in range(times):
                for way in (-self._way, self._way):
                    pace = (speed, rise) if way == hard_way else gentle
                    yield self._try(dict(zip(_TRIED, (*pace, pace[1]), strict=True)))
                    yield self._move(way * length, pace[0])
            yield self._put_back()
            yield from self._touch()
            yield self._put_back()
            turn = 360.0 if axis.wraps else 0.0
            shift = self._place - first
            shifts.append((shift + turn / 2) % turn - turn / 2 if turn else shift)
        self._shift = max(shifts, key=abs)

    def _searching(self, length: float, times: int) -> Iterator[Callable[[], bool]]:
        allowed, unit = shift_allowed(self._desk.machine, self._slot), self._unit
        assert self.search is not None
        while (asked := self.search.next) is not None:
            self._say(f"Trying {asked[0]:.0f} {unit}/min at {asked[1]:.0f} {unit}/s². Esc stops it.")
            yield from self._hard(*asked, length, times)
            self.search = self.search.after(self._shift, held=abs(self._shift) < allowed)
            self.changed.emit()
        failed = self.search.failed_at_once
        self._say("The pace that it has now loses steps already: lower it first." if failed else "Found.")

    def _proving(self, length: float, times: int) -> Iterator[Callable[[], bool]]:
        axis, unit = self._desk.machine.axis(self._slot), self._unit
        speed, rise = (float(axis.number(key)) for key in _TRIED[:2])
        self._say(f"Running {times} times to and fro over {length:g} {unit} at the pace as it is.")
        yield from self._hard(speed, rise, length, times)
        held = abs(self._shift) < shift_allowed(self._desk.machine, self._slot)
        seen = f"the switch was found {abs(self._shift):.3f} {unit} from where it was"
        result = f"{times} times {length:g} {unit} to and fro; {seen}"
        self._say("It held." if held else "Steps were lost.")
        self.proven.emit(held, result)

    @property
    def _unit(self) -> str:
        return "°" if self._desk.machine.axis(self._slot).rotary else "mm"
