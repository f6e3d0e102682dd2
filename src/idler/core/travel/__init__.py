"""Travel: ends taken from where an axis stands, how far it runs on after a switch, and what the ends must leave room for."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from ..homing import by_stop, by_switch, filter_of, met_at, moves, stands_at, stops_of, way
from ..machine import Address, Axis, Machine
from ..machine.finding import Finding, Severity, at_axis
from ..values.parameter import Value
from ..wiring import home_switch, inputs

CLOSE = 0.9  # of the room behind a switch: what a bounce, a tick and the swing of a rotor may add is left
BEYOND = Fraction(20)  # mm (°), or about as much that is round on the screen


def beyond(axis: Axis) -> float:
    """How far past an end a proof asks, to see that the controller holds it; in mm (°)."""
    return float(axis.reads.tidy(BEYOND))


@dataclass(frozen=True)
class Ends:
    """All that could be met along one linear axis, in machine coordinates (mm). None where it is not known."""

    name: str
    low: float
    high: float
    limits_on: bool
    stops: tuple[float, float] | None
    switch: float | None
    home: float | None
    cushion: float
    park: float | None
    reach: tuple[float, float] | None = None  # of what is drawn with it

    @property
    def span(self) -> tuple[float, float]:
        """From the lowest to the highest of its marks."""
        marks = [
            mark
            for mark in (self.low, self.high, *(self.stops or ()), self.switch, self.park, *(self.reach or ()))
            if mark is not None
        ]
        return (min(marks), max(marks)) if max(marks) > min(marks) else (-50.0, 50.0)


def ends_of(machine: Machine, slot: int) -> Ends:
    axis = machine.axis(slot)
    low, high, stops = float(axis.number("travel.low")), float(axis.number("travel.high")), stops_of(axis)
    switched = by_switch(axis) and home_switch(machine, slot) is not None
    return Ends(
        axis.name, low, high, axis.flag("travel.limits_on"), (float(stops[0]), float(stops[1])) if stops is not None else None,
        met_at(axis) if switched else None, stands_at(axis) if moves(axis) else None,
        float(axis.number("travel.cushion")), float(axis.number("travel.park")) if axis.flag("travel.parks") else None,
    )  # fmt: skip


def taken(machine: Machine, slot: int, end: str, position: float, margin: float) -> dict[Address, Value]:
    """ "This is the end": the coordinate for the low or high end, with a margin (mm or °, not below 0) kept inside.

    The limits are turned on, for an end that is taken is meant to hold.
    """
    inside = position + margin if end == "low" else position - margin
    value = Fraction(round(inside * 10_000), 10_000)
    return {Address(slot, f"travel.{end}"): value, Address(slot, "travel.limits_on"): True}


INSIDE = Fraction(2)  # mm that a soft limit is kept from iron, where nothing nearer is told


def proposed_ends(machine: Machine, slot: int) -> dict[Address, Value]:
    """Soft limits for an axis that has none in force: those that were told, or inside of its hard stops and where it stands
    when it is homed. Empty where its stops are not told, or leave no room."""
    axis, stops = machine.axis(slot), stops_of(machine.axis(slot))
    low, high = axis.number("travel.low"), axis.number("travel.high")
    if low >= high:
        if stops is None:
            return {}
        low, high = (stop + clear * INSIDE for stop, clear in zip(stops, (1, -1), strict=True))
    if moves(axis):
        stands = Fraction(round(stands_at(axis) * 10_000), 10_000)
        low, high = (low, min(high, stands)) if way(axis) > 0 else (max(low, stands), high)
    if low >= high:
        return {}
    return {
        Address(slot, "travel.low"): low,
        Address(slot, "travel.high"): high,
        Address(slot, "travel.limits_on"): True,
    }


def overtravel(machine: Machine, slot: int, speed: Fraction, rate: Fraction) -> float:
    """How far an axis runs on after its switch from a speed (mm/min or °/min) at a deceleration (mm/s² or °/s²), in mm (°).

    The filter sees the switch v·t_f late; braking takes v²/2a.
    """
    v = float(speed) / 60
    return v * filter_of(machine, slot) + (v * v / (2 * float(rate)) if rate > 0 else math.inf)


def run_on(machine: Machine, slot: int) -> float:
    """The same while homing: from the approach speed, braking as homing does."""
    axis = machine.axis(slot)
    return overtravel(machine, slot, axis.number("homing.approach"), axis.number("homing.acceleration"))


def after_a_limit(machine: Machine, slot: int) -> float:
    """The same from top speed, braking as hard as STOP does: what follows when a limit switch is met."""
    axis = machine.axis(slot)
    return overtravel(machine, slot, axis.number("pace.top_speed"), axis.number("pace.stop_deceleration"))


def overtravel_seen(machine: Machine, slot: int, on: float) -> tuple[bool, str]:
    """Of a run that went on by so much (mm) while homing: whether that leaves room, and the words of its proof."""
    axis, room = machine.axis(slot), room_after_switch(machine, slot)
    behind = f", {axis.reads.length(room, 2)} lie behind it" if room is not None else ""
    worked_out = axis.reads.length(run_on(machine, slot), 2)
    return (
        room is None or on <= room,
        f"ran on by {axis.reads.length(on, 2)} at the approach speed, worked out {worked_out}{behind}",
    )


def room_after_switch(machine: Machine, slot: int) -> float | None:
    """From the switch to the hard stop behind it, or None where one of them is not known."""
    ends = ends_of(machine, slot)
    if ends.switch is None or ends.stops is None or machine.axis(slot).rotary:
        return None
    high = way(machine.axis(slot)) > 0
    return (ends.stops[1] - ends.switch) if high else (ends.switch - ends.stops[0])


def travel_rules(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """An approach that would meet iron, and a parking place outside the travel."""
    room = room_after_switch(machine, axis.slot)
    if room is not None:
        on = run_on(machine, axis.slot)
        if on > CLOSE * room:
            text = (
                f"{axis.name} runs on by {axis.reads.length(on, 2)} after its switch at the approach speed, and its hard "
                "stop is "
                f"{axis.reads.length(max(0.0, room), 2)} behind it. Approach more slowly, or move the switch."
            )
            yield at_axis(machine, axis, "homing.approach", "approach_meets_stop", Severity.WARNING, text)
    yield from _ends_met(machine, axis)
    if axis.flag("travel.parks") and axis.rotary and not axis.flag("travel.limits_on"):
        how = "by the nearer way round" if axis.wraps else "straight, for it has no ends"
        text = f"{axis.name} parks {how}."
        yield at_axis(machine, axis, "travel.parks", "parks_without_ends", Severity.NOTE, text)
    if (
        axis.flag("travel.parks")
        and axis.flag("travel.limits_on")
        and axis.number("travel.low") < axis.number("travel.high")
    ):
        park = axis.number("travel.park")
        if not axis.number("travel.low") <= park <= axis.number("travel.high"):
            shown = Address(axis.slot, "travel.park").row.show(park, rotary=axis.rotary, inch=machine.inch)
            text = f"{axis.name} parks at {shown}, outside its travel: it would stop at the end and never get there."
            nearest = axis.number("travel.low") if park < axis.number("travel.low") else axis.number("travel.high")
            yield at_axis(machine, axis, "travel.park", "parking_outside", Severity.ERROR, text, nearest)


def _ends_met(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """What homing finds against what travel was told: a stop at two places, a limit behind a switch, switches turned off."""
    end = "high" if way(axis) > 0 else "low"
    in_use = axis.whole("homing.turn") and axis.whole("axis.output") and not axis.rotary
    told = Address(axis.slot, f"travel.stop_{end}")
    met = Fraction(round(met_at(axis) * 10_000), 10_000)
    if in_use and by_stop(axis) and met != machine[told]:
        text = (
            f"{axis.name} meets its {end} hard stop at {axis.reads.length(met, 3, trim=True)} when it is homed, and "
            "travel has it at "
            f"{axis.reads.length(axis.number(told.key), 3, trim=True)}: one of them is wrong."
        )
        yield at_axis(machine, axis, told.key, "stop_at_two_places", Severity.WARNING, text, met)
    low, high = axis.number("travel.low"), axis.number("travel.high")
    limit, limited = (high if end == "high" else low), low < high and axis.flag("travel.limits_on")
    switched = by_switch(axis) and home_switch(machine, axis.slot) is not None
    within_stop = (axis.number(told.key) - limit) * way(axis) >= 0  # beyond it another rule speaks
    if in_use and switched and limited and within_stop and (limit - met) * way(axis) > 0:
        text = (
            f"The {end} end of {axis.name}, {axis.reads.length(limit, 3, trim=True)}, lies behind its home switch at "
            f"{axis.reads.length(met, 3, trim=True)}: it would stand on its switch before its soft limit holds."
        )
        inside = Fraction(round(stands_at(axis) * 10_000), 10_000)
        yield at_axis(machine, axis, f"travel.{end}", "limit_behind_switch", Severity.WARNING, text, inside)
    wired = any(item.role.limits and item.duty.axis in ("", axis.name) for item in inputs(machine))
    if wired and not axis.flag("travel.switches_on"):
        text = f"The limit switches of {axis.name} are off: it would run over them into its hard stop."
        yield at_axis(machine, axis, "travel.switches_on", "limit_switches_off", Severity.WARNING, text, True)


def open_ends(machine: Machine) -> tuple[str, ...]:
    """Letters of the linear axes whose soft limits are off, so that motion ends at iron only."""
    return tuple(machine.names[slot] for slot in open_linear(machine))


def open_linear(machine: Machine) -> tuple[int, ...]:
    """Slots of the same."""
    return tuple(
        axis.slot for axis in machine.axes
        if not axis.rotary and axis.whole("axis.output") and not axis.flag("travel.limits_on")
    )  # fmt: skip


def parking_order(machine: Machine) -> list[tuple[int, ...]]:
    """Which axes go to their parking places, one group after the other: first what clears the tool from the work."""
    lathe = machine[Address(None, "build.kind")] == "lathe"
    clear = "X" if lathe else "Z"
    parked = [axis for axis in machine.axes if axis.flag("travel.parks") and axis.whole("axis.output")]
    first = tuple(axis.slot for axis in parked if axis.name == clear)
    rest = tuple(axis.slot for axis in parked if axis.name != clear)
    return [group for group in (first, rest) if group]
