"""What is wrong or doubtful about one axis: pure functions from machine and axis to findings."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction

from .chain import Chain
from .finding import Finding, Severity, at_axis
from .machine import Address, Axis, Machine
from .units import figure
from .wire.codec import counts_on_wire, derived

ROUNDING_ALLOWED = Fraction(1, 10_000)
LONGEST_WINDOW = Fraction(1, 2)  # s: how long a controller of this profile can spread a change of acceleration


def step_rate_exceeded(machine: Machine, axis: Axis) -> Iterator[Finding]:
    chain, top = Chain.of(axis), axis.number("pace.top_speed")
    rate = chain.step_rate(top)
    if rate > machine.step_rate:
        reach = chain.speed_at_step_rate(machine.step_rate)
        shown = _speed_floor(reach)
        text = (
            f"{axis.name} would need {figure(rate / 1000, 1)} kHz of steps at its top speed; the controller makes "
            f"{figure(machine.step_rate / 1000, 1, trim=True)} kHz. It can reach {figure(shown, 1, trim=True)} "
            f"{_per_minute(axis)}."
        )
        yield at_axis(machine, axis, "pace.top_speed", "step_rate_exceeded", Severity.ERROR, text, shown)


def motor_speed_exceeded(machine: Machine, axis: Axis) -> Iterator[Finding]:
    chain, top, most = Chain.of(axis), axis.number("pace.top_speed"), axis.number("pace.motor_speed")
    rpm = chain.motor_rpm(top)
    if rpm > most:
        shown = _speed_floor(chain.speed_at_rpm(most))
        text = (
            f"{axis.name} would turn its motor at {figure(rpm, 0)} rpm; {figure(most, 0)} rpm is its highest. "
            f"That is {figure(shown, 1, trim=True)} {_per_minute(axis)}."
        )
        yield at_axis(machine, axis, "pace.top_speed", "motor_speed_exceeded", Severity.WARNING, text, shown)


def does_not_move(machine: Machine, axis: Axis) -> Iterator[Finding]:
    for key, code in (
        ("pace.top_speed", "top_speed_zero"),
        ("pace.acceleration", "acceleration_zero"),
        ("pace.deceleration", "deceleration_zero"),
    ):
        if not axis.number(key):
            label = Address(axis.slot, key).row.label
            yield at_axis(machine, axis, key, code, Severity.ERROR, f"{axis.name} has no {label}: it would never move.")


def empty_travel(machine: Machine, axis: Axis) -> Iterator[Finding]:
    if axis.flag("travel.limits_on") and axis.number("travel.low") >= axis.number("travel.high"):
        low, high = (machine.show(Address(axis.slot, key)) for key in ("travel.low", "travel.high"))
        text = (
            f"{axis.name} has soft limits on and no travel between {low} and {high}: it could not move at all. "
            "Type both ends, or turn the limits off."
        )
        yield at_axis(machine, axis, "travel.high", "travel_empty", Severity.ERROR, text)


def limits_off(machine: Machine, axis: Axis) -> Iterator[Finding]:
    if not axis.flag("travel.limits_on") and axis.number("travel.low") < axis.number("travel.high"):
        text = f"{axis.name} has ends of travel, and its soft limits are off: it can drive into its stops."
        yield at_axis(machine, axis, "travel.limits_on", "limits_off", Severity.WARNING, text, True)


def limits_beyond_stops(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """A soft limit outside the hard stops protects nothing. Axes whose stops were not entered are left alone."""
    stops = axis.number("travel.stop_low"), axis.number("travel.stop_high")
    if axis.rotary or not axis.flag("travel.limits_on") or stops[0] >= stops[1]:
        return
    for key, stop, way in (("travel.low", stops[0], -1), ("travel.high", stops[1], 1)):
        limit = axis.number(key)
        if (limit - stop) * way > 0:
            row = Address(axis.slot, key).row
            shown, iron = (row.show(value, inch=machine.inch) for value in (limit, stop))
            text = f"{axis.name} may go to {shown}, and its hard stop is at {iron}: it would meet iron first."
            yield at_axis(machine, axis, key, "limit_beyond_stop", Severity.WARNING, text)


def shape_not_storable(machine: Machine, axis: Axis) -> Iterator[Finding]:
    if axis.choice("pace.shape") == "constant":
        return
    jerk = axis.number("pace.jerk")
    steepest = max(axis.number("pace.acceleration"), axis.number("pace.deceleration"))
    least = steepest / LONGEST_WINDOW
    if jerk >= least or not steepest:
        return
    unit = Address(axis.slot, "pace.jerk").row.unit(axis.rotary).symbol
    what = "no jerk" if not jerk else f"a jerk of {figure(jerk, 0)} {unit}"
    text = (
        f"{axis.name} limits its jerk but has {what}: the controller spreads a change of acceleration over "
        f"{figure(LONGEST_WINDOW, 1)} s at most, which needs {figure(least, 0)} {unit} or more."
    )
    yield at_axis(machine, axis, "pace.jerk", "shape_not_storable", Severity.ERROR, text, least)


def rounding_on_wire(machine: Machine, axis: Axis) -> Iterator[Finding]:
    exact = Chain.of(axis).counts_per_unit
    sent = counts_on_wire(dict(derived(axis)), axis.slot)
    error = abs(sent / exact - 1)
    if error > ROUNDING_ALLOWED:
        text = (
            f"{axis.name} counts {figure(exact, 4)} per {'degree' if axis.rotary else 'mm'}, and the controller would "
            f"store {figure(sent, 4)}: off by 1 part in {figure(1 / error, 0)}. Check the train for a slip of the pen."
        )
        key = {"screw": "chain.pitch", "rack": "chain.module", "belt": "chain.belt_pitch"}.get(
            axis.choice("chain.final"), "chain.turn_travel"
        )
        yield at_axis(machine, axis, key, "rounding_on_wire", Severity.ERROR, text)


def kinds_disagree(machine: Machine, axis: Axis) -> Iterator[Finding]:
    final = axis.choice("chain.final")
    if axis.rotary and final in ("screw", "rack", "belt"):
        text = f"{axis.name} is rotary, and its last element is a {final}, which moves along a line."
        yield at_axis(machine, axis, "chain.final", "kinds_disagree", Severity.WARNING, text)
    if not axis.rotary and final == "worm":
        text = f"{axis.name} is linear, and its last element is a worm wheel, which turns."
        yield at_axis(machine, axis, "chain.final", "kinds_disagree", Severity.WARNING, text)


AXIS_RULES: tuple[Callable[[Machine, Axis], Iterator[Finding]], ...] = (
    step_rate_exceeded,
    motor_speed_exceeded,
    does_not_move,
    empty_travel,
    limits_off,
    limits_beyond_stops,
    shape_not_storable,
    rounding_on_wire,
    kinds_disagree,
)


def _speed_floor(speed: Fraction) -> Fraction:
    """A speed that a person would write down, not above the given one: three or four leading figures."""
    step = Fraction(10) ** (len(str(int(speed))) - 3) if speed >= 100 else Fraction(1, 10)
    return max(Fraction(0), speed // step * step)


def _per_minute(axis: Axis) -> str:
    return "°/min" if axis.rotary else "mm/min"
