"""Travel: ends taken from where an axis stands, how far it runs on after a switch, and what the ends must leave room for."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from .finding import Finding, Severity, at_axis
from .homing import filter_of
from .machine import Address, Axis, Machine
from .parameter import Value
from .units import figure
from .wiring import home_switch

BEYOND = 20.0  # mm (°): how far past an end a proof asks, to see that the controller holds it


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

    @property
    def span(self) -> tuple[float, float]:
        """From the lowest to the highest of its marks."""
        marks = [
            mark for mark in (self.low, self.high, *(self.stops or ()), self.switch, self.park) if mark is not None
        ]
        return (min(marks), max(marks)) if max(marks) > min(marks) else (-50.0, 50.0)


def ends_of(machine: Machine, slot: int) -> Ends:
    axis = machine.axis(slot)
    low, high, stop_low, stop_high = (
        float(axis.number(f"travel.{key}")) for key in ("low", "high", "stop_low", "stop_high")
    )
    searches = axis.choice("homing.method") in ("switch", "switch_index")
    coordinate = float(axis.number("homing.coordinate"))
    way = 1 if axis.choice("homing.towards") == "high" else -1
    home = coordinate - way * float(axis.number("homing.leave")) if searches else None
    return Ends(
        axis.name, low, high, axis.flag("travel.limits_on"), (stop_low, stop_high) if stop_low < stop_high else None,
        coordinate if searches and home_switch(machine, slot) is not None else None, home,
        float(axis.number("travel.cushion")), float(axis.number("travel.park")) if axis.flag("travel.parks") else None,
    )  # fmt: skip


def taken(machine: Machine, slot: int, end: str, position: float, margin: float) -> dict[Address, Value]:
    """ "This is the end": the coordinate for the low or high end, with a margin (mm or °, not below 0) kept inside.

    The limits are turned on, for an end that is taken is meant to hold.
    """
    inside = position + margin if end == "low" else position - margin
    value = Fraction(round(inside * 10_000), 10_000)
    return {Address(slot, f"travel.{end}"): value, Address(slot, "travel.limits_on"): True}


def overtravel(machine: Machine, slot: int, speed: float) -> float:
    """How far an axis runs on after its switch at a speed (mm/min or °/min): the filter, then braking as hard as STOP."""
    v = speed / 60
    rate = float(machine.axis(slot).number("pace.stop_deceleration"))
    return v * filter_of(machine, slot) + v * v / (2 * rate)


def room_after_switch(machine: Machine, slot: int) -> float | None:
    """From the switch to the hard stop behind it, or None where one of them is not known."""
    ends = ends_of(machine, slot)
    if ends.switch is None or ends.stops is None or machine.axis(slot).rotary:
        return None
    high = machine.axis(slot).choice("homing.towards") == "high"
    return (ends.stops[1] - ends.switch) if high else (ends.switch - ends.stops[0])


def travel_rules(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """An approach that would meet iron, and a parking place outside the travel."""
    room = room_after_switch(machine, axis.slot)
    if room is not None:
        approach = float(axis.number("homing.approach"))
        on = overtravel(machine, axis.slot, approach)
        if on > room:
            text = (
                f"{axis.name} runs on by {figure(on, 2)} mm after its switch at the approach speed, and its hard stop is "
                f"{figure(max(0.0, room), 2)} mm behind it. Approach more slowly, or move the switch."
            )
            yield at_axis(machine, axis, "homing.approach", "approach_meets_stop", Severity.WARNING, text)
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


def open_ends(machine: Machine) -> tuple[str, ...]:
    """Letters of the linear axes whose soft limits are off, so that motion ends at iron only."""
    return tuple(
        axis.name for axis in machine.axes
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
