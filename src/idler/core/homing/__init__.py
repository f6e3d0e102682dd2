"""Homing rehearsed: what each axis will do, when and where, before anything moves.

Along the way to the switch, with the switch at 0, an axis that begins D before it reaches it after V/a + (D − V²/2a)/V, or
√(2D/a) where it does not reach the approach speed V. The filter sees it t_f later; braking from v takes v/a and v²/2a.
Towards a hard stop an axis never goes faster than its touch speed, and stands still at once.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

from ..machine import Address, Axis, Machine
from ..mechanics.pace import Pace
from ..profile.homing import Phase
from ..table import AXIS
from ..values.roles import InputRole
from ..wiring import HOMED_BY_INDEX, HOMED_BY_STOP, HOMED_BY_SWITCH, Duty, home_switch, input_of


@dataclass(frozen=True)
class Leg:
    """One phase: seconds from the start of the axis's homing, and machine coordinates in mm (°)."""

    phase: Phase
    begin: float
    end: float
    start: float
    stop: float

    @property
    def seconds(self) -> float:
        return self.end - self.begin


@dataclass(frozen=True)
class Rehearsal:
    """The homing of one axis. begin: seconds after the first turn began."""

    slot: int
    begin: float
    legs: tuple[Leg, ...]

    @property
    def seconds(self) -> float:
        return self.legs[-1].end if self.legs else 0.0

    @property
    def end(self) -> float:
        return self.begin + self.seconds

    def at(self, time: float) -> float:
        """The coordinate at a time after the first turn began, along straight lines between the ends of the phases."""
        t = time - self.begin
        for leg in self.legs:
            if t < leg.end:
                share = (t - leg.begin) / leg.seconds if leg.seconds > 0 else 1.0
                return leg.start + (leg.stop - leg.start) * max(0.0, share)
        return self.legs[-1].stop


def _reach(distance: float, speed: float, rise: float) -> tuple[float, float]:
    """Seconds to cover a distance from rest, and the speed at its end."""
    ramp = speed * speed / (2 * rise)
    if distance <= ramp:
        return math.sqrt(2 * distance / rise), math.sqrt(2 * rise * distance)
    return speed / rise + (distance - ramp) / speed, speed


def possible(axis: Axis) -> bool:
    """Whether the values allow a homing that moves."""
    return all(axis.number(key) > 0 for key in ("homing.approach", "homing.touch", "homing.acceleration"))


def moves(axis: Axis) -> bool:
    """Whether this method looks for a switch or a stop. “Home is here” moves nothing."""
    return axis.choice("homing.method") != "here"


def by_switch(axis: Axis) -> bool:
    return axis.choice("homing.method") in HOMED_BY_SWITCH


def by_stop(axis: Axis) -> bool:
    """Whether an axis finds its home by meeting iron."""
    return axis.choice("homing.method") in HOMED_BY_STOP


def by_index(axis: Axis) -> bool:
    return axis.choice("homing.method") in HOMED_BY_INDEX


def two_sides(machine: Machine, axis: Axis) -> bool:
    """Whether a second motor's side stops on a switch of its own."""
    own = input_of(machine, Duty(InputRole.HOME_SECOND, axis.name))
    return by_switch(axis) and axis.whole("axis.second_output") > 0 and own is not None


def homing_keys(machine: Machine, slot: int) -> tuple[str, ...]:
    """The values that count for the way in which an axis homes, in the order of the table."""
    axis = machine.axis(slot)
    alone = () if two_sides(machine, axis) else ("homing.squaring", "homing.apart")
    return tuple(row.key for row in AXIS.values() if row.group == "homing" and axis.uses(row) and row.key not in alone)


def way(axis: Axis) -> int:
    """+1 where home lies towards the high end, else -1."""
    return 1 if axis.choice("homing.towards") == "high" else -1


def met_at(axis: Axis) -> float:
    """The coordinate at which the switch, or the stop, is met. With an index mark the coordinate of home is the mark's."""
    mark = float(axis.number("homing.mark_distance")) if by_index(axis) else 0.0
    return float(axis.number("homing.coordinate")) + way(axis) * mark


def beside(axis: Axis, touched: float, to_mark: float) -> float:
    """How far a home was found from where it had been, in mm (°); on what turns the shorter way. touched: where the switch (or
    stop) was touched, as counted from the home before. to_mark: from there to the mark, where home is a mark's."""
    home = float(axis.number("homing.coordinate"))
    off = touched - (home + way(axis) * to_mark if by_index(axis) else met_at(axis))
    return (off + 180) % 360 - 180 if axis.wraps or (axis.rotary and by_index(axis)) else off


def stands_at(axis: Axis) -> float:
    """The coordinate at which an axis stands when it has been homed."""
    return met_at(axis) - way(axis) * float(axis.number("homing.leave")) if moves(axis) else met_at(axis)


SEARCH = Fraction(11, 10)  # times the distance between the hard stops: a controller of this profile looks no further
UNTOLD = Fraction(-1), Fraction(1)  # hard stops of an axis that was told none


def stops_of(axis: Axis) -> tuple[Fraction, Fraction] | None:
    """The coordinates of the hard stops of a linear axis; None where they were not told."""
    low, high = axis.number("travel.stop_low"), axis.number("travel.stop_high")
    return (low, high) if not axis.rotary and low < high and (low, high) != UNTOLD else None


def extent_of(axis: Axis) -> tuple[Fraction, Fraction] | None:
    """The coordinates between which a linear axis can go, as far as they were told: its hard stops, else its soft limits. None
    where it was told neither."""
    low, high = axis.number("travel.low"), axis.number("travel.high")
    return stops_of(axis) or ((low, high) if not axis.rotary and low < high else None)


def search_of(axis: Axis) -> Fraction:
    """How far an axis looks for its home, in mm (°): as far as it was told, and no further than its travel goes."""
    stops = stops_of(axis)
    told = axis.number("homing.search")
    return min(told, SEARCH * (stops[1] - stops[0])) if stops is not None else told


def rehearse(machine: Machine, slot: int, distance: float, begin: float = 0.0) -> Rehearsal:
    """The homing of an axis that stands `distance` (mm or °, above zero) before its switch or stop."""
    axis = machine.axis(slot)
    if not moves(axis) or not possible(axis):
        return Rehearsal(slot, begin, ())
    ahead, met = way(axis), met_at(axis)
    top = float(axis.number("pace.top_speed")) / 60 or math.inf
    fast, slow = (min(top, float(axis.number(key)) / 60) for key in ("homing.approach", "homing.touch"))
    rise = float(axis.number("homing.acceleration"))
    back, leave = (float(axis.number(key)) for key in ("homing.back_off", "homing.leave"))
    stop = by_stop(axis)
    late = 0.0 if stop else filter_of(machine, slot)
    squaring = float(axis.number("homing.squaring")) if two_sides(machine, axis) else 0.0
    legs: list[Leg] = []
    time, place = 0.0, -distance

    def leg(phase: Phase, seconds: float, to: float) -> None:
        nonlocal time, place
        legs.append(Leg(phase, time, time + seconds, met + ahead * place, met + ahead * to))
        time, place = time + seconds, to

    def go(phase: Phase, to: float) -> None:
        far = abs(to - place)
        leg(phase, Pace(fast, rise, rise).move(far).duration if far else 0.0, to)

    seconds, speed = _reach(distance, slow if stop else fast, rise)
    first = speed * late
    leg(Phase.APPROACH, seconds + late, first)
    if not stop:
        leg(Phase.HALT, speed / rise, first + speed * speed / (2 * rise))
    if machine.made_of_parts:  # what a plain drive does at the switch is its own, and nobody promises it
        return Rehearsal(slot, begin, tuple(legs))
    go(Phase.BACK_OFF, first - back)
    edge = max(0.0, -place)
    seconds, speed = _reach(edge + abs(squaring), slow, rise) if edge or squaring else (0.0, 0.0)
    leg(Phase.TOUCH, seconds + late, speed * late)
    touched = place
    if not stop and not squaring:
        leg(Phase.HALT_AT_TOUCH, speed / rise, place + speed * speed / (2 * rise))
    if squaring:  # the first side stands still meanwhile
        leg(Phase.SQUARE, Pace(slow, rise, rise).move(abs(squaring)).duration, place)
    if by_index(axis):  # where in its turn the mark sits is not known before it was measured
        within = float(axis.number("homing.mark_distance") or axis.number("homing.index_within") / 2)
        within = max(0.0, within + place - touched)
        seconds, speed = _reach(within, slow, rise) if within else (0.0, 0.0)
        leg(Phase.INDEX, seconds, place - within)
        leg(Phase.HALT_AT_INDEX, speed / rise, place - speed * speed / (2 * rise))
    go(Phase.LEAVE, touched - leave)
    return Rehearsal(slot, begin, tuple(legs))


def filter_of(machine: Machine, slot: int) -> float:
    """Filter time of the home switch of an axis, in seconds."""
    number = home_switch(machine, slot)
    if number is None:
        return 0.0
    value = machine[Address(number, "input.filter")]
    return float(value) / 1000  # type: ignore[arg-type]


def turns(machine: Machine) -> list[tuple[int, ...]]:
    """The axes that home together, in their order; those with turn 0, or without a motor, are left out."""
    found: dict[int, list[int]] = {}
    for axis in machine.axes:
        if axis.whole("homing.turn") and axis.whole("axis.output"):
            found.setdefault(axis.whole("homing.turn"), []).append(axis.slot)
    return [tuple(found[turn]) for turn in sorted(found)]


def rehearse_all(machine: Machine, distances: Mapping[int, float]) -> list[Rehearsal]:
    """Every axis in its turn; distances to the switches by slot."""
    found, begin = [], 0.0
    for group in turns(machine):
        made = [rehearse(machine, slot, distances.get(slot, 0.0), begin) for slot in group]
        found += made
        begin = max([begin, *(item.end for item in made)])
    return found


def distance_to_switch(machine: Machine, slot: int, position: float | None) -> float:
    """From a coordinate to the switch or stop, along the way of homing; from the far end of the travel where it is not known.

    A rotary axis meets its switch once in a turn.
    """
    axis = machine.axis(slot)
    if position is None and axis.rotary:
        return 360.0
    if position is None:
        low, high = extent_of(axis) or UNTOLD
        position = float(low if way(axis) > 0 else high)
    distance = (met_at(axis) - position) * way(axis)
    return distance % 360 or 360.0 if axis.rotary else max(0.01, distance)
