"""Inputs: wires that bounce and pick up noise, and the firmware's filter. Every edge has its time, to the µs.

A contact that changes shuts and opens a few times before it rests; a wire beside a running spindle picks up pulses whose
widths scatter exponentially up to a longest one. The firmware writes every edge into its ring, and takes a level for true
when it has stood still for the filter's time.
"""

from __future__ import annotations

import math

from idler.core.values.roles import InputRole

from ..compiled import compiled
from ..state import (
    AT_REST,
    BARRED,
    BELT,
    CARRIAGE,
    EDGE_RING,
    FINGER,
    MARK,
    MOST_PENDING,
    PLATE,
    PROBES,
    PULSE,
    READY,
    SLOWLY,
    TROUBLE,
    Row,
    Rows,
)

TICK_US = 1000
_STOP, _GUARD, _TROUBLE = InputRole.STOP.raw, InputRole.GUARD.raw, InputRole.TROUBLE.raw
_CHAIN, _INDEX = InputRole.HOME_CHAIN.raw, InputRole.INDEX.raw
_LIMIT_LOW, _LIMIT_HIGH = InputRole.LIMIT_LOW.raw, InputRole.LIMIT_HIGH.raw
_HOME_LIMIT = InputRole.HOME_LIMIT.raw
_LIMIT_CHAIN = InputRole.LIMIT_CHAIN.raw
_PROBE = InputRole.PROBE.raw
_LIMITS = tuple(role.raw for role in InputRole if role.limits and role is not InputRole.LIMIT_CHAIN)
_HOME_SECOND = InputRole.HOME_SECOND.raw
_HOMES = tuple(role.raw for role in InputRole if role.homes and role.raw not in (_CHAIN, _HOME_SECOND))
_CLEAR_TICKS = 50  # that a limit switch is clear before it can be met anew: its contact bounces when it is left, too
_LOOSE_MEAN = 4000.0  # µs
_SHORTEST = 2.0  # µs


@compiled
def _throw(wire: Row) -> float:
    """A number from 0 up to 1 (xorshift of 64 bits; each wire has dice of its own)."""
    x = wire.dice
    x ^= x << 13
    x ^= x >> 7
    x ^= x << 17
    wire.dice = x
    return (x >> 11) / 9007199254740992.0


@compiled
def _spread(wire: Row, mean: float) -> float:
    """An exponentially scattered time."""
    return -mean * math.log(1.0 - _throw(wire))


@compiled
def _push(wire: Row, time: int) -> None:
    if wire.waiting < MOST_PENDING:
        wire.pending[wire.waiting] = time
        wire.waiting += 1


@compiled
def _change(wire: Row, start: int, closed: int) -> None:
    """Edges of a contact that goes to `closed`: it bounces a few times and ends there."""
    wire.waiting = 0
    if wire.level == closed:
        return
    time = start + int(_throw(wire) * TICK_US)
    _push(wire, time)
    if wire.bounce > 0:
        end = time + _spread(wire, wire.bounce)
        while wire.waiting + 2 <= MOST_PENDING:
            away = time + max(_SHORTEST, _spread(wire, wire.bounce / 4))
            back = away + max(_SHORTEST, _spread(wire, wire.bounce / 6))
            if back >= end:
                break
            _push(wire, int(away))
            _push(wire, int(back))
            time = int(back)


@compiled
def _pulse(wire: Row, start: int, mean: float, longest: float) -> None:
    time = start + int(_throw(wire) * TICK_US)
    _push(wire, time)
    _push(wire, time + int(min(longest, max(_SHORTEST, _spread(wire, mean)))))


@compiled
def _bed_height(work: Row, x: float, y: float) -> float:
    """As `BedTruth` has it."""
    crests = math.sin(2 * math.pi * x / work.length) * math.cos(2 * math.pi * y / work.length)
    return (work.along_x * x + work.along_y * y) / 1000 + work.wave * crests


@compiled
def pressed_into(work: Row, plant: Rows) -> float:
    """How deep the tool stands in what lies on the bed, mm; below 0 it does not touch it."""
    if not work.on:
        return -1.0
    if work.on == PROBES:
        return _bed_height(work, plant[work.x].carriage, plant[work.y].carriage) - plant[work.z].carriage + work.reach
    x, y, under = plant[work.x].carriage, plant[work.y].carriage, work.top - plant[work.z].carriage
    if under < 0.0:
        return under
    if work.bore > 0.0:
        off = math.hypot(x - work.bore_x, y - work.bore_y)
        if off < work.bore:
            return min(under, off + work.tool - work.bore)
    across = max(work.left - x, 0.0, x - work.right)
    along = max(work.front - y, 0.0, y - work.back)
    return min(under, work.tool - math.hypot(across, along))


@compiled
def _made(wire: Row, plant: Rows, spindle: Row, touched: int) -> int:
    """Whether the contact is made by a finger or by the machine."""
    if wire.source == READY:  # its drive is ready until a hand trips it
        return 1 if spindle.ready and not wire.held else 0
    if wire.held:
        return 1
    if wire.source == CARRIAGE:
        beyond = (plant[wire.axis].carriage - wire.at) * wire.side
        return 1 if beyond >= 0 else 0 if beyond < -wire.hysteresis else wire.made
    if wire.source == MARK:
        past = (plant[wire.axis].carriage - wire.at) % wire.period
        return 1 if past < wire.hysteresis else 0
    if wire.source == PLATE:
        return touched
    if wire.source == TROUBLE:
        return plant[wire.axis].trouble
    if wire.source == PULSE:  # so often in a turn, half of the way each
        return 1 if (spindle.angle * wire.period) % 1.0 >= 0.5 else 0
    if wire.source == BELT:
        return 1 if spindle.belt == int(wire.at) else 0
    return 0


@compiled
def _mature(item: Row) -> None:
    """The level has stood still for long enough: the role sees it."""
    item.level = item.raw
    item.made = 1 if item.raw != item.closed_at_rest else 0
    if item.made:
        item.reached, item.made_at = 1, item.since


@compiled
def take_edge(item: Row, time: int, closed: bool) -> None:
    """The firmware sees a level at the screw change."""
    if item.raw != item.level and time - item.since >= item.filter:
        _mature(item)
    item.raw, item.since = closed, time
    if closed == item.closed_at_rest:
        item.let_go_at = time


@compiled
def look_again(item: Row, now: int) -> None:
    """What has matured by now."""
    if item.raw != item.level and now - item.since >= item.filter:
        _mature(item)


@compiled
def _write(ring: Rows, controller: Row, first: int, time: int, number: int, closed: bool) -> None:
    """Writes an edge down in order of time among those of this tick, which begin at `first`."""
    at = controller.written
    controller.written += 1
    while at > first and ring[(at - 1) % EDGE_RING].time > time:
        ring[at % EDGE_RING] = ring[(at - 1) % EDGE_RING]
        at -= 1
    ring[at % EDGE_RING].time = time
    ring[at % EDGE_RING].input = number
    ring[at % EDGE_RING].closed = closed


@compiled
def advance_inputs(
    items: Rows,
    wires: Rows,
    plant: Rows,
    spindle: Row,
    controller: Row,
    ring: Rows,
    start: int,
    noise: float,
    work: Row,
) -> None:
    """One tick of all inputs, from `start` µs. noise: how much of its full noise the spindle makes, 0 to 1."""
    first = controller.written
    depth = pressed_into(work, plant)
    work.deepest = max(work.deepest, depth)
    touched = 1 if depth >= 0.0 else 0
    for number in range(len(items)):
        item, wire = items[number], wires[number]
        made = _made(wire, plant, spindle, touched)
        for more in range(len(items), len(wires)):  # contacts in series with it, or beside it
            if wires[more].joins == number:
                wires[more].made = _made(wires[more], plant, spindle, touched)
                made = 1 if wires[more].made else made
        closed = 0 if wire.broken else 1 if made != wire.closed_at_rest else 0
        if wire.source == 0:
            closed = 0
        if made != wire.made or (wire.waiting == 0 and wire.level != closed):
            wire.made = made
            _change(wire, start, closed)
        elif wire.waiting == 0:
            if wire.noise_rate * noise > 0 and _throw(wire) < wire.noise_rate * noise * TICK_US * 1e-6:
                _pulse(wire, start, wire.noise_mean, wire.noise_longest)
            elif wire.loose_rate > 0 and _throw(wire) < wire.loose_rate * TICK_US * 1e-6:
                _pulse(wire, start, _LOOSE_MEAN, 10 * _LOOSE_MEAN)
        done = 0
        while done < wire.waiting and wire.pending[done] < start + TICK_US:
            wire.level = 1 - wire.level
            take_edge(item, wire.pending[done], wire.level)
            _write(ring, controller, first, wire.pending[done], number, wire.level)
            done += 1
        if done:
            for k in range(done, wire.waiting):
                wire.pending[k - done] = wire.pending[k]
            wire.waiting -= done
        look_again(item, start + TICK_US)


@compiled
def judge_inputs(items: Rows, controller: Row, axes: int) -> None:
    """What the roles find: stop, guard and trouble, now and latched."""
    controller.stop = controller.guard = controller.trouble = 0
    everyone = (1 << axes) - 1
    for number in range(len(items)):
        item = items[number]
        if item.made or item.reached:
            of = everyone if item.axis < 0 else 1 << item.axis
            if item.role == _STOP:
                controller.stop = 1
                if not controller.stop_hit:
                    controller.hit_input = number
                controller.stop_hit = 1
            elif item.role == _GUARD:
                controller.guard = 1
                if not controller.guard_hit:
                    controller.guard_input = number
                controller.guard_hit = 1
            elif item.role == _TROUBLE:
                if controller.reset_ticks > 0:
                    continue  # a drive that is being reset may still say it
                controller.trouble |= of
                if of & ~controller.trouble_hit and not controller.stop_hit:
                    controller.hit_input = number
                controller.trouble_hit |= of
        item.reached = 0


@compiled
def _meet(ax: Row) -> None:
    """A limit switch blocks the way in which it was met, whatever it is called; one met at rest that of its name."""
    moves = ax.moving and ax.velocity != 0.0
    way = 1.0 if ax.velocity > 0 else -1.0
    ax.low_new = 1 if ax.limit_low and ax.low_clear >= _CLEAR_TICKS else 0
    ax.high_new = 1 if ax.limit_high and ax.high_clear >= _CLEAR_TICKS else 0
    if ax.low_new:
        ax.low_way = way if moves else -1.0
    if ax.high_new:
        ax.high_way = way if moves else 1.0
    ax.low_clear = 0 if ax.limit_low else min(_CLEAR_TICKS, ax.low_clear + 1)
    ax.high_clear = 0 if ax.limit_high else min(_CLEAR_TICKS, ax.high_clear + 1)


@compiled
def _meet_chain(ax: Row, made: int) -> None:
    """A limit chain does not tell which switch it was: it is taken for the one that an axis went to when it was made."""
    ax.chain_clear = 0 if made else min(_CLEAR_TICKS, ax.chain_clear + 1)
    if ax.chain_clear >= _CLEAR_TICKS:
        ax.limit_chain = 0
    if not made:
        return
    if ax.limit_chain == 0:
        ax.limit_chain = (1 if ax.velocity > 0 else -1) if ax.moving and ax.velocity != 0.0 else AT_REST
    if ax.switches_on and ax.limit_chain == 1:
        ax.limit_high = 1
    elif ax.switches_on and ax.limit_chain == -1:
        ax.limit_low = 1


@compiled
def _watch(firmware: Rows) -> None:
    """A limit chain that is made answers no more: nothing watches the ends of an axis that stood then. Where another axis
    went and made it, that one is to go back first."""
    known = False
    for axis in range(len(firmware)):
        known = known or (firmware[axis].limit_chain != 0 and firmware[axis].limit_chain != AT_REST)
    for axis in range(len(firmware)):
        ax = firmware[axis]
        blind = ax.limit_chain == AT_REST and ax.switches_on and ax.chain_clear == 0
        ax.unwatched = (BARRED if known else SLOWLY) if blind else 0


@compiled
def latch_positions(items: Rows, firmware: Rows) -> None:
    """Keeps the position of an axis at the edges of its home switch and of its index mark, and which switches are made.

    A chain of home switches is that of every axis that moves. An axis without a home switch takes its mark for one.
    """
    homes, seconds, any_made = 0, 0, 0  # axes, by bits
    home_chain, limit_chain = 0, -1
    for number in range(len(items)):
        item = items[number]
        any_made |= item.made
        if item.role == _CHAIN:
            home_chain = 1
        elif item.role == _LIMIT_CHAIN and item.made:
            limit_chain = number
        elif item.axis >= 0 and item.role in _HOMES:
            homes |= 1 << item.axis
        elif item.axis >= 0 and item.role == _HOME_SECOND:
            seconds |= 1 << item.axis
    for axis in range(len(firmware)):
        ax = firmware[axis]
        ax.switch = ax.other_end = ax.own_end = ax.limit_low = ax.limit_high = 0
        ax.switch_second = 0
        ax.home_chain = home_chain
        ax.home_two = 1 if seconds >> axis & 1 and ax.second >= 0 else 0
        own = home_chain or homes >> axis & 1
        if limit_chain >= 0 and ax.limit_chain == 0:
            ax.limit_input = limit_chain
        for number in range(len(items) if any_made else 0):
            item = items[number]
            mine = item.axis == axis
            if not item.made:
                continue  # nothing of what follows is of one that is at rest
            is_home = (mine and item.role in _HOMES) or item.role == _CHAIN
            is_mark = mine and item.role == _INDEX
            rising = item.made and not item.latched
            if item.role == _PROBE and rising and ax.moving:  # whatever looks for a switch ends at the probe, too
                ax.latched = float(ax.steps)
                ax.latches += 1
                if ax.until == 1:
                    ax.until = 2
            if is_home or (is_mark and not own):
                ax.switch = 1 if item.made and is_home else ax.switch
                if rising and (mine or ax.moving):
                    ax.latched = float(ax.steps)
                    ax.latches += 1
                    if ax.until == 1:
                        ax.until = 2
            if mine and item.role == _HOME_SECOND:
                ax.switch_second = item.made
                if rising:
                    ax.second_latched = float(ax.steps)
                    ax.second_latches += 1
            if is_mark and rising:
                ax.marked = float(ax.steps)
                ax.marks += 1
            if mine and item.made and ax.switches_on and item.role in _LIMITS:
                low = item.role == _LIMIT_LOW or (item.role == _HOME_LIMIT and ax.home_way < 0)
                ax.limit_low = 1 if low else ax.limit_low
                ax.limit_high = ax.limit_high if low else 1
                ax.limit_input = number
            far = _LIMIT_LOW if ax.home_way > 0 else _LIMIT_HIGH
            if mine and item.role == far and item.made:
                ax.other_end = 1
            near = _LIMIT_HIGH if ax.home_way > 0 else _LIMIT_LOW
            if mine and item.role == near and item.made:
                ax.own_end = 1
        _meet_chain(ax, limit_chain >= 0)
        if limit_chain >= 0:  # made on the way home it is that end's; made before, the way home may be the way off
            met_now = ax.limit_chain * ax.home_way > 0 and ax.limit_chain != AT_REST
            ax.own_end = 1 if met_now else ax.own_end
            ax.other_end = ax.other_end if met_now else 1
        _meet(ax)
    _watch(firmware)
    for number in range(len(items)):
        items[number].latched = items[number].made


@compiled
def set_input(item: Row, role: int, axis: int, closed_at_rest: int, filter_us: int) -> None:
    """The firmware is told what an input is for; what it sees is judged anew."""
    item.role, item.axis, item.closed_at_rest, item.filter = role, axis, closed_at_rest, filter_us
    item.made = 1 if item.level != closed_at_rest else 0
    item.reached = 0


SOURCES = {
    "finger": FINGER, "carriage": CARRIAGE, "mark": MARK, "trouble": TROUBLE, "pulse": PULSE, "ready": READY, "belt": BELT,
    "plate": PLATE,
}  # fmt: skip
