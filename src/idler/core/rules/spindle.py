"""What is wrong or doubtful about the spindle and the way oil: pure functions from machine to findings."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..machine import Address, Machine
from ..machine.finding import Finding, Severity, at_value
from ..spindle import Range, has_level, has_own_drive, is_on_bus, quantity, ranges, told_range, whole
from ..spindle.oil import days, strokes
from ..table.rows.spindle import OWN_DRIVE
from ..values.roles import RANGE_ROLES, OutputRole
from ..wiring import inputs, outputs, spindle_kind
from ..wiring.tool import tool_of
from ..words import capital

_OF_SPEED = (OutputRole.TURN_RIGHT, OutputRole.TURN_LEFT, OutputRole.DIRECTION, OutputRole.SPINDLE_LEVEL)
_USUAL_STROKE = Fraction(5)  # s
_LONGEST_WAIT = 4.0  # hours of counted time without oil, beyond which a film is gone


def _at(machine: Machine, key: str, code: str, severity: Severity, text: str, value: object = None) -> Finding:
    return at_value(machine, Address(None, key), code, severity, text, value)  # type: ignore[arg-type]


def _of_range(machine: Machine, found: Range, key: str, code: str, severity: Severity, text: str,
              value: object = None) -> Finding:  # fmt: skip
    return at_value(machine, Address(found.slot, f"range.{key}"), code, severity, text, value)  # type: ignore[arg-type]


def starts_without_speed(machine: Machine) -> Iterator[Finding]:
    """P6: on and off alone needs a speed above zero to be started all the same."""
    if spindle_kind(machine) == "relay" and not quantity(machine, "spindle.start_speed"):
        if not tool_of(machine).turns:
            text = "The controller switches nothing on without a speed, and what cuts here has none: 1 stands for it."
            yield _at(machine, "spindle.start_speed", "no_start_speed", Severity.WARNING, text, Fraction(1))
            return
        top = Fraction(str(ranges(machine)[told_range(machine)].high))
        yield _at(
            machine, "spindle.start_speed", "no_start_speed", Severity.WARNING,
            "The spindle only knows on and off, and yet it is started by a speed above zero: a program that names none, "
            "or 0, leaves it off.", top,
        )  # fmt: skip


def cutter(machine: Machine) -> Iterator[Finding]:
    """What a cutting table has in place of a spindle knows on and off, and neither a speed nor a direction."""
    tool = tool_of(machine)
    if tool.turns:
        return
    if spindle_kind(machine) not in ("none", "relay"):
        text = f"A {tool.noun} has no speed, and it is told one. On a cutting table it is switched on and off."
        yield _at(machine, "spindle.kind", "cutter_without_speed", Severity.ERROR, text, "relay")
    for out in outputs(machine):
        if out.role in _OF_SPEED:
            text = (
                f"Output {out.name} gives a speed or a direction, and a {tool.noun} has neither: it knows on and off."
            )
            yield at_value(machine, Address(out.slot, "output.role"), "cutter_role", Severity.ERROR, text, "none")


def range_speeds(machine: Machine) -> Iterator[Finding]:
    for found in ranges(machine):
        one_speed = found.low == found.high and spindle_kind(machine) == "relay"
        if found.low >= found.high and not one_speed:
            yield _of_range(
                machine, found, "low", "range_empty", Severity.ERROR,
                f"{_big(found.title)} goes from {found.low:g} to {found.high:g} rpm: there is no speed in it.", Fraction(0),
            )  # fmt: skip
        if not has_level(machine) or not found.points:
            continue
        slowest, fastest = found.points[0][1], found.points[-1][1]
        if found.high > fastest + 0.5:
            yield _of_range(
                machine, found, "high", "faster_than_measured", Severity.WARNING,
                f"{_big(found.title)}: {found.high:g} rpm is asked for at most, and {fastest:g} rpm was measured at "
                "full level.",
                Fraction(max(1, int(fastest))),
            )  # fmt: skip
        if found.low < slowest - 0.5:
            yield _of_range(
                machine, found, "low", "slower_than_measured", Severity.WARNING,
                f"{_big(found.title)}: from {found.low:g} rpm on may be asked for, and below {slowest:g} rpm it was not seen "
                "to turn.", Fraction(int(slowest) + 1),
            )  # fmt: skip


def range_inputs(machine: Machine) -> Iterator[Finding]:
    """Where inputs name the range, there must be one for each."""
    named = {item.role: item for item in inputs(machine) if item.role in RANGE_ROLES}
    count = whole(machine, "ranges")
    for number, role in enumerate(RANGE_ROLES, start=1):
        if number > count and role in named:
            text = f"Input {named[role].name} names range {number}; the spindle has {count}."
            yield at_value(
                machine, Address(named[role].slot, "input.role"), "range_not_there", Severity.ERROR, text, "none"
            )
        elif number <= count and named and role not in named:
            text = f"Range {number} has no input of its own while others have: in it the spindle does not start."
            yield _at(machine, "spindle.ranges", "range_without_input", Severity.ERROR, text)


def engaged(machine: Machine) -> Iterator[Finding]:
    told, count = whole(machine, "engaged"), whole(machine, "ranges")
    if told > count:
        text = f"Range {told} is said to be engaged; the spindle has {count}."
        yield _at(machine, "spindle.engaged", "engaged_not_there", Severity.ERROR, text, count)


def enable_of_bus(machine: Machine) -> Iterator[Finding]:
    """A drive that only hears its bus goes on turning when the bus falls silent; a relay ends it."""
    if is_on_bus(machine) and not any(out.role.turns_spindle for out in outputs(machine)):
        text = (
            "The spindle's drive is told over its bus alone: emergency stop and guard cannot end it when the bus falls silent. "
            "Wire an output to its enable terminal and give it the role “spindle on”."
        )
        yield _at(machine, "spindle.kind", "bus_without_enable", Severity.WARNING, text)


def own_drive(machine: Machine) -> Iterator[Finding]:
    """A drive of CiA 402 turns the spindle only where it is one of the parts of the machine."""
    there = machine[Address(None, "spindle.part")] != "-"
    if has_own_drive(machine) and not machine.made_of_parts:
        text = (
            "The spindle is said to have a drive of its own on the bus, and this controller tells none: Idler does so only in "
            "a machine that is made of plain parts."
        )
        yield _at(machine, "spindle.kind", "no_spindle_part", Severity.ERROR, text, "voltage")
    elif has_own_drive(machine) and not there:
        text = "The spindle is said to have a drive of its own, and no part of this machine is said to be that."
        yield at_value(machine, Address(None, "spindle.kind"), "no_spindle_part", Severity.WARNING, text, missing=True)
    elif there and not has_own_drive(machine):
        text = "One of the parts is said to turn the spindle, and the spindle is said to be told in another way."
        yield _at(machine, "spindle.kind", "spindle_part_unused", Severity.WARNING, text, OWN_DRIVE)


def way_oil(machine: Machine) -> Iterator[Finding]:
    """A timer that never oils starves the machine; one that always does floods it."""
    wired = next((out for out in outputs(machine) if out.role is OutputRole.WAY_OIL), None)
    seconds, every = quantity(machine, "oil.seconds"), quantity(machine, "oil.every")
    if wired is None:
        if seconds:
            yield _at(
                machine, "oil.seconds", "oil_not_wired", Severity.WARNING,
                f"Way oil is told to run for {seconds:g} s, and no output switches a pump.",
            )  # fmt: skip
        return
    if not seconds:
        yield _at(
            machine, "oil.seconds", "oil_never", Severity.WARNING,
            f"The way oil on output {wired.name} never runs: its stroke is 0 s long.", _USUAL_STROKE,
        )  # fmt: skip
        return
    if seconds >= 60 * every:
        yield _at(
            machine, "oil.every", "oil_always", Severity.ERROR,
            f"The way oil never rests: {seconds:g} s of every {60 * every:g} s.", Fraction(30),
        )  # fmt: skip
    elif seconds > 6 * every:
        yield _at(
            machine, "oil.every", "oil_much", Severity.WARNING,
            f"The way oil runs for {100 * seconds / (60 * every):.0f} % of the time that is counted. Were seconds and minutes "
            "mistaken for one another?", Fraction(30),
        )  # fmt: skip
    if every > 60 * _LONGEST_WAIT or not any(strokes(machine, day) for day in days()):
        yield _at(
            machine, "oil.every", "oil_rarely", Severity.WARNING,
            f"A stroke every {every:g} min comes less than once in any shift of eight hours. Were seconds and minutes mistaken "
            "for one another?", Fraction(30),
        )  # fmt: skip


def _big(text: str) -> str:
    return capital(text)


SPINDLE_RULES = (
    cutter, starts_without_speed, engaged, range_speeds, range_inputs, enable_of_bus, own_drive, way_oil,
)  # fmt: skip
