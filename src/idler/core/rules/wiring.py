"""What is wrong or doubtful about the wiring: pure functions from machine to findings."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from fractions import Fraction

from ..machine import Address, Machine
from ..machine.finding import Finding, Severity, at_value
from ..spindle import has_own_drive
from ..values.roles import AxisNeed, InputRole, Load, OutputKind, OutputRole
from ..values.units import AMPERE, VOLT, Unit, figure, with_unit
from ..wiring import (
    HOMED_BY_SWITCH,
    Duty,
    Input,
    Output,
    cannot_home,
    has_spindle,
    inputs,
    missing,
    outputs,
    spindle_kind,
)
from ..words import capital

# A DC coil may hold on down to a twentieth of its voltage and must let go there (IEC 61810-1); a tenth leaves no doubt.
LETS_GO_BELOW = Fraction(1, 10)

_HELD = (InputRole.STOP, InputRole.GUARD, InputRole.TROUBLE)  # which hold until somebody lets go
UNUSED_EDGES = 4  # fewer may be a hand that touched the wire

_LEVEL_OF = {"voltage": OutputKind.VOLTAGE, "pulse": OutputKind.PULSE}


def _input(
    machine: Machine, item: Input, name: str, code: str, severity: Severity, text: str, value: str | None = None
) -> Finding:
    return at_value(machine, Address(item.slot, f"input.{name}"), code, severity, text, value)


def _output(machine: Machine, item: Output, name: str, code: str, text: str, value: str | None = None) -> Finding:
    return at_value(machine, Address(item.slot, f"output.{name}"), code, Severity.ERROR, text, value)


def role_twice(machine: Machine) -> Iterator[Finding]:
    first: dict[Duty, Input] = {}
    for item in inputs(machine):
        if item.role is not InputRole.NONE and item.duty in first:
            text = f"{_big(item.duty.label)} is on input {first[item.duty].name} and on input {item.name}: one must go."
            yield _input(machine, item, "role", "role_twice", Severity.ERROR, text, "none")
        first.setdefault(item.duty, item)
    taken: dict[OutputRole, Output] = {}
    for out in outputs(machine):
        if out.role is not OutputRole.NONE and out.role in taken:
            text = f"{_big(out.label)} is on output {taken[out.role].name} and on output {out.name}: one must go."
            yield _output(machine, out, "role", "role_twice", text, "none")
        taken.setdefault(out.role, out)


def roles_exclude(machine: Machine) -> Iterator[Finding]:
    """Two schemes for one thing: direction of the spindle, and how axes find home."""
    by_role = {out.role: out for out in outputs(machine)}
    turning = [by_role[role] for role in (OutputRole.TURN_RIGHT, OutputRole.TURN_LEFT) if role in by_role]
    single = [by_role[role] for role in (OutputRole.SPINDLE_ON, OutputRole.DIRECTION) if role in by_role]
    for item in turning:
        for other in single:
            text = (
                f"“{_big(item.label)}” on output {item.name} and “{other.label}” on output {other.name} exclude each other: "
                "either one output for each way, or one for on and one for the direction."
            )
            yield _output(machine, item, "role", "roles_exclude", text, "none")
    left, right = (by_role.get(role) for role in (OutputRole.TURN_LEFT, OutputRole.TURN_RIGHT))
    if left is not None and right is None and not single:
        text = (
            f"“{_big(left.label)}” on output {left.name} stands alone: no output turns the spindle right. Give it one, or make "
            "this one “spindle on”."
        )
        yield _output(machine, left, "role", "left_alone", text, OutputRole.SPINDLE_ON.key)
    chain = next((item for item in inputs(machine) if item.role is InputRole.HOME_CHAIN), None)
    both = {item.duty.axis for item in inputs(machine) if item.role is InputRole.HOME_LIMIT}
    for own in inputs(machine):
        if own.role not in (InputRole.HOME, InputRole.HOME_SECOND, InputRole.HOME_LIMIT):
            continue
        if chain is not None:
            text = (
                f"{_big(own.duty.label)} on input {own.name} and the home chain of all axes on input {chain.name} "
                "exclude each other: which of them made could not be told."
            )
            yield _input(machine, own, "role", "roles_exclude", Severity.ERROR, text, "none")
        elif own.role is InputRole.HOME and own.duty.axis in both:
            text = f"{own.duty.axis} has a home switch of its own and one that is home and limit in one: one must go."
            yield _input(machine, own, "role", "roles_exclude", Severity.ERROR, text, "none")


def not_wired(machine: Machine) -> Iterator[Finding]:
    """What a machine with terminals needs and has not."""
    if not machine.inputs:
        return
    reasons = {
        InputRole.STOP: ("no_stop", "No input is the emergency stop: the controller would not know that it was pressed. "
                         "Learn it first, by pressing it."),
        InputRole.GUARD: ("no_guard", "There is a spindle, and no input is the guard: it would run with the guard open."),
    }  # fmt: skip
    for duty in missing(machine):
        code, text = reasons.get(
            duty.role,
            (f"no_{duty.role.key}", cannot_home(duty)),
        )
        free = next((item.slot for item in inputs(machine) if item.role is InputRole.NONE), 0)
        yield at_value(machine, Address(free, "input.role"), code, Severity.ERROR, text, missing=True)


def second_side_unwired(machine: Machine) -> Iterator[Finding]:
    """A beam with a motor on each side, of which only the first has a switch: its sides are never brought square."""
    there = {item.duty for item in inputs(machine)}
    for axis in machine.axes:
        if not axis.whole("axis.second_output") or not axis.whole("homing.turn"):
            continue
        if Duty(InputRole.HOME, axis.name) in there and Duty(InputRole.HOME_SECOND, axis.name) not in there:
            free = next((item.slot for item in inputs(machine) if item.role is InputRole.NONE), 0)
            text = (
                f"{axis.name} has two motors and one home switch: its second side is never brought to a place of its own. Wire "
                "a home switch for the second motor, or see to it that the beam stands square when the drives get power."
            )
            where = Address(free, "input.role")
            yield at_value(machine, where, "second_side_unwired", Severity.WARNING, text, missing=True)


def axis_missing(machine: Machine) -> Iterator[Finding]:
    for item in inputs(machine):
        if item.role.axis is AxisNeed.MUST and not item.duty.axis:
            text = f"Input {item.name} is a {item.role.label}, and of no axis. Choose the axis."
            yield _input(machine, item, "axis", "axis_missing", Severity.ERROR, text)
        elif item.duty.axis and item.duty.axis not in machine.names:
            text = f"Input {item.name} is a {item.role.label} of {item.duty.axis}, and this machine has no such axis."
            yield _input(machine, item, "axis", "axis_unknown", Severity.ERROR, text)


def open_at_rest(machine: Machine) -> Iterator[Finding]:
    for item in inputs(machine):
        if item.role.guards and not item.closed_at_rest:
            text = (
                f"{_big(item.duty.label)} on input {item.name} is open at rest: a broken wire would never show. "
                "Wire its closed contact, then set closed."
            )
            yield _input(machine, item, "rest", "open_at_rest", Severity.WARNING, text, "closed")


def mark_as_switch(machine: Machine) -> Iterator[Finding]:
    for item in inputs(machine):
        if item.marks_turns and (item.role.limits or item.role.homes or item.role in _HELD):
            why = "it lets go by itself" if item.role in _HELD else "it would answer at many places of the travel"
            text = f"Input {item.name} is a mark that passes at every turn, and is used as {item.duty.label}: {why}."
            yield _input(machine, item, "role", "mark_as_switch", Severity.ERROR, text, InputRole.INDEX.key)


def chain_turns(machine: Machine) -> Iterator[Finding]:
    """One chain cannot tell which of two axes made it, so axes that home by it go one at a time."""
    if not any(item.role is InputRole.HOME_CHAIN for item in inputs(machine)):
        return
    homed = [axis for axis in machine.axes if axis.choice("homing.method") in HOMED_BY_SWITCH]
    used = {axis.whole("homing.turn") for axis in homed}
    first: dict[int, str] = {}
    for axis in homed:
        turn = axis.whole("homing.turn")
        if turn and turn in first:
            free = next((number for number in range(1, len(machine.names) + 1) if number not in used), None)
            text = (
                f"{first[turn]} and {axis.name} home in turn {turn} and share one home chain: "
                "it cannot tell which of them made it. They must go one after the other."
            )
            yield at_value(machine, Address(axis.slot, "homing.turn"), "chain_turns", Severity.ERROR, text, free)
            if free is not None:
                used.add(free)
        first.setdefault(turn, axis.name)


def load_not_switched(machine: Machine) -> Iterator[Finding]:
    """What the terminal cannot carry, or cannot switch off."""
    for out in outputs(machine):
        if out.load == "unknown":
            continue
        for key, code, value, most, unit, what in (
            ("load_volts", "load_volts", out.volts, out.most_volts, VOLT, "switch"),
            ("load_amps", "load_amps", out.amps, out.most_amps, AMPERE, "carry"),
        ):
            if value > most:
                text = (
                    f"Output {out.name} can {what} {_si(most, unit)}, and its load has {_si(value, unit)}. "
                    "Put a relay between them."
                )
                yield _output(machine, out, key, code, text)
        if out.kind.level and out.load != "signal":
            text = f"Output {out.name} gives a {out.kind.label}: it cannot drive a load, only the input of a device."
            yield _output(machine, out, "load", "load_kind", text, "signal")
        elif out.kind is not OutputKind.RELAY and out.load == "coil_ac":
            text = f"Output {out.name} is a {out.kind.label}: it cannot switch alternating current. Put a relay between them."
            yield _output(machine, out, "load", "load_kind", text)
        elif out.volts and out.own_volts:
            yield from _voltages(machine, out)


def _voltages(machine: Machine, out: Output) -> Iterator[Finding]:
    """An output with a voltage of its own, against a load that is made for another one. A load hangs between it and its
    own supply, or between it and ground: too high a voltage of the load leaves the difference on it, too low a one burns it.
    """
    left, allowed = out.volts - out.own_volts, LETS_GO_BELOW * out.volts
    what = next(load for load in Load if load.key == out.load)
    if left > allowed and out.kind is OutputKind.PUSH_PULL:
        text = (
            f"Output {out.name} gives {_si(out.own_volts, VOLT)} when it is off, and the {what.noun} is fed with "
            f"{_si(out.volts, VOLT)}: {_si(left, VOLT)} stay on it and it never {what.ends}. Put a transistor between them."
        )
        yield _output(machine, out, "load_volts", "never_lets_go", text)
    elif -left > allowed:
        text = (
            f"Output {out.name} gives {_si(out.own_volts, VOLT)}, and the {what.noun} is made for "
            f"{_si(out.volts, VOLT)}: it gets too much. Put a relay between them."
        )
        yield _output(machine, out, "load_volts", "too_many_volts", text)


def level_roles(machine: Machine) -> Iterator[Finding]:
    wanted = _LEVEL_OF.get(spindle_kind(machine))
    level = [out for out in outputs(machine) if out.role is OutputRole.SPINDLE_LEVEL]
    for out in outputs(machine):
        if out.role is OutputRole.SPINDLE_LEVEL and not out.kind.level:
            text = f"Output {out.name} is a {out.kind.label}: it gives on and off, and no speed."
            yield _output(machine, out, "role", "level_kind", text, "none")
        elif out.role not in (OutputRole.NONE, OutputRole.SPINDLE_LEVEL) and out.kind.level:
            text = f"Output {out.name} gives a {out.kind.label}: it cannot switch {out.label} on and off."
            yield _output(machine, out, "role", "level_kind", text, "none")
        elif out.role is OutputRole.SPINDLE_LEVEL and wanted is not None and out.kind is not wanted:
            text = f"The spindle wants a {wanted.label}, and output {out.name} gives a {out.kind.label}."
            yield _output(machine, out, "role", "level_kind", text, "none")
    if wanted is None or level or not machine.outputs:
        return
    free = [out for out in outputs(machine) if out.kind is wanted and out.role is OutputRole.NONE]
    text = f"The spindle's speed is told by a {wanted.label}, and no output has that role: it would never turn."
    where = Address(free[0].slot, "output.role") if free else Address(None, "spindle.kind")
    edit = ((where, OutputRole.SPINDLE_LEVEL.key),) if free else ()
    words = f"Take output {free[0].name}" if free else ""
    yield Finding("no_level", Severity.ERROR, where, machine.part(where), text, edit, words, missing=True)


def nothing_starts_the_spindle(machine: Machine) -> Iterator[Finding]:
    if (
        has_spindle(machine)
        and machine.outputs
        and not has_own_drive(machine)
        and not any(out.role.turns_spindle for out in outputs(machine))
    ):
        text = "There is a spindle, and no output switches it on."
        where = Address(None, "spindle.kind")
        yield at_value(machine, where, "no_spindle_switch", Severity.WARNING, text, missing=True)


def pulse_does_not_fit(machine: Machine) -> Iterator[Finding]:
    """A pulse needs as much time off as on to be seen, so it may fill half of a period."""
    width = machine[Address(None, "signals.pulse_width")]
    assert isinstance(width, Fraction)
    most = Fraction(500_000) / machine.step_rate  # µs
    if width > most:
        text = (
            f"A step pulse of {figure(width, 2, trim=True)} µs does not fit {figure(machine.step_rate / 1000, 1, trim=True)} "
            f"kHz of steps: {figure(_down(most), 2, trim=True)} µs do."
        )
        where = Address(None, "signals.pulse_width")
        yield at_value(machine, where, "pulse_does_not_fit", Severity.ERROR, text, _down(most))


def unused_changes(machine: Machine, seen: Mapping[int, int]) -> Iterator[Finding]:
    for item in inputs(machine):
        count = seen.get(item.slot, 0)
        if item.role is InputRole.NONE and count >= UNUSED_EDGES:
            text = (
                f"Input {item.name} has no role, and changed {count} times: a switch is wired to it, "
                "or a loose wire picks up noise."
            )
            yield _input(machine, item, "role", "unused_changes", Severity.WARNING, text)


WIRING_RULES: tuple[Callable[[Machine], Iterator[Finding]], ...] = (
    not_wired, role_twice, roles_exclude, second_side_unwired, axis_missing, mark_as_switch, chain_turns, open_at_rest,
    load_not_switched, level_roles, nothing_starts_the_spindle, pulse_does_not_fit,
)  # fmt: skip


def _big(words: str) -> str:
    return capital(words)


def _si(value: Fraction, unit: Unit) -> str:
    return with_unit(figure(value, 2, trim=True), unit)


def _down(value: Fraction) -> Fraction:
    """Rounded down to hundredths, and not below the least that can be stored."""
    return max(Fraction(1, 10), Fraction(int(value * 100), 100))
