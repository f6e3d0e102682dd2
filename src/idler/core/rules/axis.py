"""What is wrong or doubtful about one axis: pure functions from machine and axis to findings."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction

from ..finals import FINALS
from ..finals.base import Motion
from ..geometry.play import WORTH_TAKING_UP
from ..homing import stops_of
from ..machine import Address, Axis, Machine
from ..machine.axes import ROTARY
from ..machine.finding import Finding, Severity, at_axis
from ..mechanics.chain import Chain
from ..mechanics.torque import Muscle
from ..profile.codec import counts_on_wire, derived
from ..values.units import figure

TORQUE_SHARE = 0.7  # of the torque at top speed: the rest is for cutting, cold grease, and a motor below its data sheet
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
            f"{figure(machine.step_rate / 1000, 1, trim=True)} kHz. It can reach "
            f"{axis.reads.speed(shown, 1, trim=True)}."
        )
        yield at_axis(machine, axis, "pace.top_speed", "step_rate_exceeded", Severity.ERROR, text, shown)


def motor_speed_exceeded(machine: Machine, axis: Axis) -> Iterator[Finding]:
    chain, top, most = Chain.of(axis), axis.number("pace.top_speed"), axis.number("pace.motor_speed")
    rpm = chain.motor_rpm(top)
    if rpm > most:
        shown = _speed_floor(chain.speed_at_rpm(most))
        text = (
            f"{axis.name} would turn its motor at {figure(rpm, 0)} rpm; {figure(most, 0)} rpm is its highest. "
            f"That is {axis.reads.speed(shown, 1, trim=True)}."
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
    stops = stops_of(axis)
    if stops is None or not axis.flag("travel.limits_on"):
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
    what = "no jerk" if not jerk else f"a jerk of {axis.reads.jerk(jerk)}"
    text = (
        f"{axis.name} limits its jerk but has {what}: the controller spreads a change of acceleration over "
        f"{figure(LONGEST_WINDOW, 1)} s at most, which needs {axis.reads.jerk(least)} or more."
    )
    yield at_axis(machine, axis, "pace.jerk", "shape_not_storable", Severity.ERROR, text, least)


def rounding_on_wire(machine: Machine, axis: Axis) -> Iterator[Finding]:
    exact = Chain.of(axis).counts_per_unit
    sent = counts_on_wire(dict(derived(axis)), axis.slot)
    error = abs(sent / exact - 1)
    if error > ROUNDING_ALLOWED:
        text = (
            f"{axis.name} counts {figure(axis.reads.per_unit(exact), 4)} per {axis.reads.name}, and the controller "
            f"would store {figure(axis.reads.per_unit(sent), 4)}: off by 1 part in {figure(1 / error, 0)}. Check the "
            "train for a slip of the pen."
        )
        key = FINALS[axis.choice("chain.final")].size
        yield at_axis(machine, axis, key, "rounding_on_wire", Severity.ERROR, text)


def outputs_disagree(machine: Machine, axis: Axis) -> Iterator[Finding]:
    first, second = axis.whole("axis.output"), axis.whole("axis.second_output")
    if not first and not second:
        text = f"{axis.name} has no drive output: no motor turns, and its motion is only counted."
        yield at_axis(machine, axis, "axis.output", "no_motor", Severity.NOTE, text)
        return
    if second and second == first:
        text = f"{axis.name} has both its motors at drive output {first}. Each motor has an output of its own."
        yield at_axis(machine, axis, "axis.second_output", "output_twice", Severity.ERROR, text, 0)
    if second and not first:
        text = f"{axis.name} has a second motor at drive output {second}, and no first one."
        yield at_axis(machine, axis, "axis.output", "second_without_first", Severity.ERROR, text)
    for other in machine.axes[: axis.slot]:
        theirs = {other.whole("axis.output"), other.whole("axis.second_output")} - {0}
        for key, number in (("axis.output", first), ("axis.second_output", second)):
            if number in theirs:
                text = f"{axis.name} has drive output {number}, which {other.name} has too: both would turn one motor."
                yield at_axis(machine, axis, key, "output_shared", Severity.ERROR, text)


def letter_disagrees(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """ISO 841: A, B and C turn; X, Y, Z and U, V, W go along a line."""
    if axis.rotary != (axis.name in ROTARY):
        should = "turns" if axis.name in ROTARY else "goes along a line"
        what = "rotary" if axis.rotary else "linear"
        text = f"{axis.name} is {what}. By its letter it {should} (ISO 841): change the kind, or rename the axis."
        yield at_axis(machine, axis, "axis.kind", "letter_disagrees", Severity.WARNING, text)


def mirrored(machine: Machine, axis: Axis) -> Iterator[Finding]:
    if axis.flag("axis.mirrored"):
        text = f"{axis.name} is mirrored on purpose: what a program draws comes out as in a mirror, with every letter reversed."
        yield at_axis(machine, axis, "axis.mirrored", "mirrored", Severity.NOTE, text, False)


def play_too_large(machine: Machine, axis: Axis) -> Iterator[Finding]:
    play = axis.number("play.backlash")
    if play > WORTH_TAKING_UP:
        text = (
            f"{axis.name} has {axis.reads.length(play, 3, trim=True)} of play taken up. Above "
            f"{axis.reads.length(WORTH_TAKING_UP, 2)} it is not worth it: inside the play the cutter pushes the carriage "
            "about, which no controller sees. Adjust the nut or the worm first."
        )
        yield at_axis(machine, axis, "play.backlash", "play_too_large", Severity.WARNING, text)


def lag_unguarded(machine: Machine, axis: Axis) -> Iterator[Finding]:
    if axis.flag("loop.measured") and not axis.number("loop.window"):
        text = f"{axis.name} has its position measured and allows no following error: the first move would stop it."
        yield at_axis(machine, axis, "loop.window", "lag_unguarded", Severity.ERROR, text)


def too_little_torque(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """Between rest and top speed the torque that is needed must be there, with a margin."""
    muscle = Muscle.of(axis)
    top, rise = float(axis.number("pace.top_speed")), float(axis.number("pace.acceleration"))
    if muscle is None or not top or not rise:
        return
    share = muscle.share(top, rise)
    if share > TORQUE_SHARE:
        reach = Fraction(muscle.acceleration_at(top) * TORQUE_SHARE).limit_denominator(10)
        shown = _speed_floor(reach)
        part = f"{figure(share * 100, 0)} % of the torque" if share < 10 else "more torque than its motor has"
        text = f"{axis.name} takes {part} that is left at its top speed; keep below {figure(TORQUE_SHARE * 100, 0)} %."
        if shown:
            text += f" {axis.reads.acceleration(shown)} would do."
        yield at_axis(
            machine, axis, "pace.acceleration", "too_little_torque", Severity.WARNING, text, shown or None
        )  # fmt: skip


def carries_the_work(machine: Machine, axis: Axis) -> Iterator[Finding]:
    """A machine of another kind before says so: on a lathe the slide across carries the tool."""
    across = axis.name in ("X", "Y", "U", "V") and not axis.rotary
    if machine[Address(None, "build.kind")] == "lathe" and across and axis.choice("axis.moves") == "work":
        text = (
            f"{axis.name} of a lathe is told to move the work. Its slide carries the tool; told so, + of {axis.name} goes the "
            "other way."
        )
        yield at_axis(machine, axis, "axis.moves", "carries_the_work", Severity.WARNING, text, "tool")


def kinds_disagree(machine: Machine, axis: Axis) -> Iterator[Finding]:
    final = FINALS[axis.choice("chain.final")]
    if final.motion is (Motion.LINE if axis.rotary else Motion.TURN):
        kind = "rotary" if axis.rotary else "linear"
        text = f"{axis.name} is {kind}, and its last element is a {final.name}, which {final.motion.value}."
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
    carries_the_work,
    outputs_disagree,
    letter_disagrees,
    mirrored,
    play_too_large,
    lag_unguarded,
    too_little_torque,
)


def _speed_floor(speed: Fraction) -> Fraction:
    """A speed that a person would write down, not above the given one: three or four leading figures."""
    step = Fraction(10) ** (len(str(int(speed))) - 3) if speed >= 100 else Fraction(1, 10)
    return max(Fraction(0), speed // step * step)
