"""A machine in memory for procedures: iron that does what a fault makes of what it was told, at once and always the same.

It is no bench: no firmware, no wire, no torque. It moves in straight lines, has switches, stops and a spindle, and loses
steps where it is told to; time passes only while somebody waits for it.
"""

from __future__ import annotations

import heapq
import math
import queue
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from idler.core.controller.standing import ControllerImage
from idler.core.homing import by_stop, met_at, way
from idler.core.machine import Address, Machine
from idler.core.profile import cia402 as c
from idler.core.profile import homing as h
from idler.core.profile.codec import Place, Raw, image, machine_from
from idler.core.profile.edges import EdgeBlock
from idler.core.profile.homing import HomingResult, Phase
from idler.core.profile.pdo import PdoMap
from idler.core.profile.terminals import SPINDLE_CHANGED, SPINDLE_LEVEL, SPINDLE_SPEED, Condition
from idler.core.table import axis_index
from idler.core.values.roles import InputRole
from idler.core.wiring import home_switch, inputs
from idler.link.events import (
    Asked,
    AxisState,
    Connected,
    Disconnected,
    Done,
    Emergency,
    Event,
    Identity,
    PanelState,
    Read,
    Speeds,
)
from idler.link.plan import Plan
from idler.link.trace import Trace
from idler.session.loop import PlainLoop

TICK = 0.04  # s
LONGEST = 3000.0  # s of a whole story
OFF, ON = 0x0250, 0x0237
LOST_PRESS = 300  # of a thousand: the effort of an axis that goes freely


class StillLoop(PlainLoop):
    """Time passes only while it is waited for, and then as fast as can be."""

    _time = 100.0

    def now(self) -> float:
        return self._time

    def until(self, condition: Callable[[], object], seconds: float) -> bool:
        deadline = self._time + seconds
        while not condition():
            try:
                self._calls.get_nowait()()
                continue
            except queue.Empty:
                pass
            if not self._due or self._due[0][0] > deadline:
                self._time = deadline
                return False
            when, run, timer = heapq.heappop(self._due)
            self._time = max(self._time, when)
            if self._time > LONGEST:
                raise AssertionError("nobody does anything any more")
            timer.fire(run)
        return True


@dataclass(frozen=True)
class Faults:
    """What is wrong with the iron, by the letter of an axis where that matters.

    turned: goes the other way. long: mm of iron for each mm told. loses: mm at each start of a move faster than so many
    mm/min. iron: a place that something lies at. moved: the switch lies so much further. swapped: two inputs exchanged.
    blind: axes whose drives see no steps. slips: mm that are lost each time that a way from + turns round to -.
    stands: ways that the spindle does not turn. coasts: s in which it comes to rest.
    plays: rpm that it turns faster where it comes from a higher speed. deaf: rpm asked for, below which it does not turn.
    """

    turned: str = ""
    long: Mapping[str, float] = field(default_factory=dict)
    loses: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    iron: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    moved: Mapping[str, float] = field(default_factory=dict)
    swapped: tuple[int, int] | None = None
    spindle_turned: bool = False
    gives_up: str = ""
    blind: str = ""
    slips: Mapping[str, float] = field(default_factory=dict)
    stands: tuple[int, ...] = ()
    coasts: float = 0.0
    plays: float = 0.0
    deaf: float = 0.0


@dataclass
class Body:
    """One axis. at: where it truly is, counted: where the controller has it, in mm (°)."""

    at: float
    counted: float
    low: float
    high: float
    target: float | None = None
    speed: float = 0.0
    seek: bool = False
    homed: bool = False
    limit: bool = False
    pressed: bool = False  # against iron
    phase: Phase = Phase.NONE
    result: HomingResult = HomingResult.NONE
    edges: int = 0
    latched: float = 0.0
    found: dict[Place, float] = field(default_factory=dict)
    gone: float = 0.0  # of a homing
    went: float = 0.0  # the last way of it


class Iron:
    """A kind of controller. told: every command that moves something, in words."""

    def __init__(self, tell: Callable[[Event], None], loop: StillLoop, machine: Machine, faults: Faults) -> None:
        self._tell, self._loop, self.faults, self._wired = tell, loop, faults, machine
        self.holding = ControllerImage(machine.shape, image(machine))
        self._tried: dict[Place, Raw] = {}
        self._act_on()
        self.told: list[str] = []
        self.connected, self.silence, self.starts_anew, self.node_words = False, 0.0, False, ""
        self.lag, self.frames = (), ()
        self.trace, self._edges = Trace(), 0
        self.held, self._came_down = Asked(), False
        self._ran = 0.0, 0.0  # how fast the spindle turned when it was let go, and when that was
        self.pressed: set[int] = set()  # inputs that a hand makes
        self.counts = 0  # of the spindle's encoder
        self.tripped = False  # the emergency stop was pressed; drives wait for power
        self.powered = False
        self._changed = 0
        self.bodies = []
        for axis in machine.axes:
            stops = sorted(float(axis.number(f"travel.stop_{end}")) for end in ("low", "high"))
            low, high = faults.iron.get(axis.name, (-1e9, 1e9) if axis.rotary else (stops[0], stops[1]))
            middle = (max(low, -200) + min(high, 200)) / 2
            self.bodies.append(Body(middle, 0.0, low, high))
        self._at_switch = [home_switch(machine, slot) for slot in range(len(machine.names))]
        self._rests = {item.slot: item.closed_at_rest for item in inputs(machine)}
        self._safety = {
            item.slot: item.role for item in inputs(machine) if item.role in (InputRole.STOP, InputRole.GUARD)
        }
        self._magnet = next((item.slot for item in inputs(machine) if item.role is InputRole.PULSE), None)
        self._passed = 0  # edges of the magnet
        self._by_hand = 0  # turns of it that were not told yet
        self._turned_to = 0.0  # µs up to which the pulses of the spindle were told
        self._seen: tuple[AxisState, ...] | None = None  # of this tick, until something is asked
        self._made = self._switches()
        loop.timer(TICK, self._tick).start()

    # -- what is seen ---------------------------------------------------------------------------------------------

    def _act_on(self) -> None:
        """As the controller acts from now on."""
        self.machine = machine_from({**self.holding.raws, **self._tried}, self.holding.shape)

    @property
    def axes(self) -> tuple[AxisState, ...]:
        if not self.connected:
            return ()
        if self._seen is None:
            self._seen = tuple(self._state(slot, body) for slot, body in enumerate(self.bodies))
        return self._seen

    def _state(self, slot: int, body: Body) -> AxisState:
        moving = body.target is not None or body.phase is not Phase.NONE
        status = (0x0218 if self.tripped else ON if self.powered else OFF) | c.HOMED * body.homed | c.MOVING * moving
        status |= c.TARGET_REACHED * (not moving) | c.INTERNAL_LIMIT * body.limit
        made = c.INPUT_HOME * self._home_made(slot) | c.INPUT_STOP * self._stop_pressed
        bits = made | body.phase.raw << h.PHASE_SHIFT | body.result.raw << h.RESULT_SHIFT
        return AxisState(status, round(body.counted, 4), body.speed * moving, bits)

    @property
    def _stop_pressed(self) -> bool:
        return any(self._safety.get(slot) is InputRole.STOP for slot in self.pressed)

    @property
    def panel(self) -> PanelState:
        closed = sum((rest != (slot in self._made)) << slot for slot, rest in self._rests.items())
        conditions = Condition(0)
        for slot in self.pressed & set(self._safety):
            conditions |= Condition.STOP if self._safety[slot] is InputRole.STOP else Condition.GUARD
        if self._turns:
            conditions |= Condition.SPINDLE
        levels = (self.held.level, 0, 0, 0)[: len(PanelState().levels)]
        return PanelState(closed, int(self._turns) << 1, conditions, levels, self.counts, self.rpm)

    @property
    def _turns(self) -> bool:
        return bool(self.held.run) and self.connected

    @property
    def rpm(self) -> float:
        """Of the spindle, right is +."""
        if self.held.run in self.faults.stands or 0 < self.held.speed < self.faults.deaf:
            return 0.0
        if not self._turns and self.faults.coasts:
            speed, since = self._ran
            return speed * max(0.0, 1 - (self._loop.now() - since) / self.faults.coasts)
        speed = self.held.speed or max(0.0, 30.5 * self.held.level / 10 - 90)
        speed += self.faults.plays if self._came_down else 0.0
        return speed * self.held.run * (-1 if self.faults.spindle_turned else 1) if self._turns else 0.0

    def efforts(self, slot: int, since: float) -> list[float]:
        usual = LOST_PRESS / 1000
        return [usual] * 6 + [0.95 if self.bodies[slot].pressed else usual]

    def effort_places(self, slot: int, since: float) -> list[tuple[float, float]]:
        return [(0.0, share) for share in self.efforts(slot, since)]

    # -- switches -------------------------------------------------------------------------------------------------

    def _home_made(self, slot: int) -> bool:
        return self._at_switch[slot] in self._made

    def _switches(self) -> set[int]:
        """Inputs that are made: by a hand, or by where an axis truly is."""
        made = set(self.pressed)
        for slot, body in enumerate(self.bodies):
            axis, number = self._wired.axis(slot), self._at_switch[slot]
            if number is None:
                continue
            if (body.at - self._place(slot)) * way(axis) >= 0:
                swap = self.faults.swapped
                made.add(swap[1 - swap.index(number)] if swap and number in swap else number)
        return made

    def _place(self, slot: int) -> float:
        """Where the home switch of an axis truly is: shortly before its iron."""
        axis, body = self._wired.axis(slot), self.bodies[slot]
        end = body.high if way(axis) > 0 else body.low
        place = way(axis) * 30.0 if abs(end) > 1e8 else end - way(axis) * 3.0
        return place + self.faults.moved.get(axis.name, 0.0)

    def _counted_at_switch(self, slot: int) -> float:
        """Where the controller had the axis when it passed its switch just now: to the count, not to the tick."""
        name, body = self._wired.names[slot], self.bodies[slot]
        return body.counted - (body.at - self._place(slot)) / self._true(name)

    def _true(self, name: str) -> float:
        """mm of iron for each mm told."""
        return self.faults.long.get(name, 1.0) * (-1 if name in self.faults.turned else 1)

    def _notice(self) -> None:
        """Edges since the last tick go into the trace, and latch places."""
        before, self._made, self._seen = self._made, self._switches(), None
        now, changed = int(self._loop.now() * 1e6), sorted(before ^ self._made)
        closed = [int(self._rests[slot] != (slot in self._made)) for slot in changed]
        if self.trace.begin(len(self._rests)):
            changed, closed = [], []
        pulses = self._pulses(now)
        times = np.array([*pulses, *[now] * len(changed)], np.int64)
        slots, levels = (
            [self._magnet] * len(pulses) + changed,
            [(self._passed + k) % 2 for k in range(len(pulses))] + closed,
        )
        self._passed += len(pulses)
        self.trace.take(
            EdgeBlock(self._edges, now, times, np.array(slots, int), np.array(levels, int)), self.panel.closed
        )
        self._edges += len(times)
        for slot, body in enumerate(self.bodies):
            if self._at_switch[slot] in before ^ self._made:
                body.edges, body.latched = body.edges + 1, self._counted_at_switch(slot)
                if body.seek:
                    body.target = None

    def _pulses(self, now: int) -> list[int]:
        """When the magnet of the spindle came and went since the last tick, in µs."""
        if self._magnet is None or not self.rpm:
            self._turned_to, by_hand, self._by_hand = now, self._by_hand, 0
            return [now - 2 * by_hand + 1 + k for k in range(2 * by_hand)] if self._magnet is not None else []
        half, found = 30e6 / abs(self.rpm), list[int]()
        while self._turned_to + half <= now:
            self._turned_to += half
            found.append(round(self._turned_to))
        return found

    # -- time -----------------------------------------------------------------------------------------------------

    def _tick(self) -> None:
        for slot, body in enumerate(self.bodies):
            if body.phase is not Phase.NONE:
                self._go_home(slot, body)
            elif body.target is not None:
                step = body.speed / 60 * TICK
                left = body.target - body.counted
                self._shift(slot, body, max(-step, min(step, left)))
                if body.target is not None and abs(body.target - body.counted) < 1e-9:
                    body.target = None
        self._notice()

    def _shift(self, slot: int, body: Body, step: float) -> None:
        name = self._wired.names[slot]
        body.counted += step
        if name in self.faults.blind:
            return
        slips = self.faults.slips.get(name, 0.0) if body.went > 0 > step else 0.0
        body.went = step or body.went
        wanted = body.at + (step + slips) * self._true(name)
        body.at = min(max(wanted, body.low), body.high)
        body.pressed = body.at != wanted
        if body.pressed and name in self.faults.gives_up:
            body.target, self._seen = None, None
            self._tell(Emergency(c.DRIVE_TROUBLE, "", self.axes, slot, None))

    def _go_home(self, slot: int, body: Body) -> None:
        """One tick of a homing: to the switch or iron, back, slowly to it again, and clear of it."""
        axis = self.machine.axis(slot)
        ahead, step = way(axis), float(axis.number("homing.touch")) / 60 * TICK
        made = body.pressed if by_stop(axis) else self._home_made(slot)
        if body.phase is Phase.APPROACH:
            if made:
                body.found[h.FIRST_PLACE], body.phase = body.counted, Phase.BACK_OFF
            elif body.gone > min(400.0, float(axis.number("homing.search"))):
                body.phase, body.result = Phase.NONE, HomingResult.NOT_FOUND
            else:
                self._shift(slot, body, ahead * float(axis.number("homing.approach")) / 60 * TICK)
                body.gone += step
        elif body.phase is Phase.BACK_OFF:
            self._shift(slot, body, -ahead * step)
            if not made:
                body.phase = Phase.TOUCH
        elif body.phase is Phase.TOUCH:
            self._shift(slot, body, ahead * step)
            if made:
                where = body.counted if by_stop(axis) else self._counted_at_switch(slot)
                body.found |= {h.TOUCH_PLACE: where, h.RAN_ON: 0.2, h.USUAL_EFFORT: LOST_PRESS / 1000}
                body.counted, body.phase, body.gone = body.counted + met_at(axis) - where, Phase.LEAVE, 0.0
        elif body.gone < float(axis.number("homing.leave")):
            self._shift(slot, body, -ahead * step)
            body.gone += step
        else:
            body.phase, body.result, body.homed = Phase.NONE, HomingResult.FOUND, True

    # -- what is asked of it --------------------------------------------------------------------------------------

    def connect(self, address: str) -> None:
        self._seen = None
        self.connected = True
        names = self.holding.shape.names
        self._tell(Connected(Identity(address, 1, "Iron", "", "", 0, 0, 0, 7, names, PdoMap(1, {}), 2), self.holding))

    def disconnect(self) -> None:
        self._seen = None
        self.connected = False
        self._tell(Disconnected("", False))

    def close(self) -> None:
        self.connected = False

    def stop(self) -> None:
        self._seen = None
        self.told.append("stop")
        self._hold(Asked())
        for body in self.bodies:
            body.target = None
            if body.phase is not Phase.NONE:
                body.phase, body.result = Phase.NONE, HomingResult.STOPPED

    def stop_axis(self, slot: int) -> None:
        self._seen = None
        self.told.append(f"stop {slot}")
        self.bodies[slot].target = None

    def send(self, made: Plan) -> None:
        self.holding = replace(self.holding, raws={**self.holding.raws, **made.wanted})
        self._act_on()
        self._tell(Done("send", self.holding))

    def power(self, on: bool) -> None:
        self._seen = None
        self.told.append(f"power {on}")
        self.powered, self.tripped = on and not self._stop_pressed, self._stop_pressed
        self._tell(Done("power"))

    def press(self, slot: int, on: bool) -> None:
        """A hand at an input."""
        self.pressed = self.pressed | {slot} if on else self.pressed - {slot}
        role = self._safety.get(slot)
        if on and role is not None:
            self._hold(Asked())
            stop = role is InputRole.STOP
            self.tripped, self.powered = self.tripped or stop, self.powered and not stop
            self._tell(Emergency(c.STOP_PRESSED if stop else c.GUARD_OPENED, "", self.axes, None, slot))
        elif role is InputRole.STOP:
            self.tripped = False
        self._notice()

    def jog_step(self, slot: int, distance: float, speed: float, *, seek: bool = False) -> None:
        self._seen = None
        self.told.append(f"jog {slot} {distance:.4g} at {speed:.5g}{' seek' if seek else ''}")
        body, axis = self.bodies[slot], self.machine.axis(slot)
        target, body.limit = body.counted + distance, False
        if body.homed and axis.flag("travel.limits_on"):
            low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
            body.limit = not low <= target <= high
            target = min(max(target, low), high)
        lost = self.faults.loses.get(axis.name)
        if lost is not None and (speed >= lost[0] or float(axis.number("pace.acceleration")) >= lost[0]):
            body.at -= lost[1] * (1 if distance > 0 else -1)
        body.target, body.speed, body.seek, body.pressed = target, speed, seek, False
        self._tell(Done("jog"))

    def home(self, slots: Sequence[int]) -> None:
        self._seen = None
        self.told.append(f"home {list(slots)}")
        for slot in slots:
            body, axis = self.bodies[slot], self.machine.axis(slot)
            body.result, body.gone, body.pressed, body.found = HomingResult.NONE, 0.0, False, {}
            body.phase = Phase.APPROACH if axis.choice("homing.method") != "here" else Phase.NONE
            body.homed = body.phase is Phase.NONE
        self._tell(Done("homing"))

    def home_here(self, slot: int) -> None:
        self._seen = None
        self.bodies[slot].homed = True
        self._tell(Done("home", slot=slot))

    def forget_home(self, slot: int) -> None:
        self._seen = None
        self.told.append(f"forget {slot}")
        self.bodies[slot].homed = False
        self._tell(Done("forget"))

    def try_values(self, values: Mapping[Place, Raw]) -> None:
        self._tried |= values
        self._act_on()
        self._tell(Done("try"))

    def ask_for(self, places: Sequence[Place]) -> None:
        self._tell(Read({where: self._object(where) for where in places}))

    def _object(self, where: Place) -> int:
        known = {SPINDLE_LEVEL: self.held.level, SPINDLE_SPEED: self.held.speed, SPINDLE_CHANGED: self._changed}
        if where in known:
            return known[where]
        for slot, body in enumerate(self.bodies):
            if where == Place(axis_index(c.LATCHES, slot), 0):
                return body.edges
            if where == Place(axis_index(c.LATCHED, slot), 0):
                return c.raw_position(body.latched)
            for place, found in body.found.items():
                if where == Place(axis_index(place.index, slot), place.sub):
                    return round(found * 1000) if place == h.USUAL_EFFORT else c.raw_position(found)
        return 0

    def ask_for_speeds(self) -> None:
        """A spindle that comes to its speed, or to rest, with a time constant of 0.4 s."""
        times = [each / 20 for each in range(80)]
        rises = [1 - math.exp(-at / 0.4) for at in times]
        top = self.rpm or 900.0
        self._tell(
            Speeds(tuple((at, top * (rise if self.rpm else 1 - rise)) for at, rise in zip(times, rises, strict=True)))
        )

    def turn_by_hand(self, turns: int) -> None:
        """The spindle, to the right. Its encoder is wired backwards."""
        backwards = bool(self._wired[Address(None, "spindle.counts_reversed")])
        self.counts += 4 * 1024 * turns * (1 if backwards else -1)
        self._by_hand += turns

    def _hold(self, asked: Asked) -> None:
        if self.held.run and not asked.run:
            self._ran = self.rpm, self._loop.now()
        self._came_down = 0 < asked.speed < self.held.speed or (self._came_down and asked == self.held)
        self.held = asked

    def hold_terminals(self, asked: Asked) -> None:
        self.told.append(f"hold {asked.run} {asked.level} {asked.speed}")
        self._hold(Asked() if self._stop_pressed else asked)
        self._changed = int(self._loop.now() * 1e3)

    def __getattr__(self, name: str) -> Any:
        """What no procedure hangs on it lets be."""
        if name.startswith("__"):
            raise AttributeError(name)
        return lambda *_given, **_named: None
