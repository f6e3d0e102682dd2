"""What turns the tool as a machine tells it: kind, speed ranges, and the chain from a commanded speed to the spindle."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from fractions import Fraction

from ..machine import Address, Machine
from ..table.rows.spindle import ON_BUS, OWN_DRIVE, WITH_LEVEL
from ..values.points import Point
from ..values.roles import RANGE_ROLES, InputRole, OutputKind, OutputRole
from ..values.speedpoints import level_for, points, speed_at
from ..wiring import Duty, input_of, inputs, outputs, spindle_kind

TOLERANCE_SHARE, TOLERANCE_RPM = 0.01, 5.0


@dataclass(frozen=True)
class Range:
    """One speed range. ratio: spindle turns per motor turn; speeds in rpm at the spindle; waits in s; points may be empty."""

    slot: int
    name: str
    ratio: float
    low: float
    high: float
    points: tuple[Point, ...]
    run_up: float
    run_down: float

    @property
    def title(self) -> str:
        return f"range {self.slot + 1}, {self.name}"

    @property
    def curve(self) -> tuple[Point, ...]:
        """The points that the controller goes by: the measured ones, or the line to the highest speed."""
        return self.points or ((0.0, 0.0), (100.0, self.high))

    def level(self, rpm: float) -> float:
        """The level in % that the controller gives for a speed, which it holds between lowest and highest."""
        return level_for(self.curve, min(max(rpm, self.low), self.high))

    def speed(self, level: float) -> float:
        """The speed in rpm that it expects of a level in %."""
        return speed_at(self.curve, level)


def speed_range(machine: Machine, slot: int) -> Range:
    def number(key: str) -> float:
        value = machine[Address(slot, f"range.{key}")]
        assert isinstance(value, Fraction)
        return float(value)

    return Range(
        slot, str(machine[Address(slot, "range.name")]), number("ratio"), number("low"), number("high"),
        points(str(machine[Address(slot, "range.points")])), number("run_up") / 1000, number("run_down") / 1000,
    )  # fmt: skip


def ranges(machine: Machine) -> tuple[Range, ...]:
    """The ranges in use."""
    return tuple(speed_range(machine, slot) for slot in range(whole(machine, "ranges")))


def whole(machine: Machine, name: str) -> int:
    value = machine[Address(None, f"spindle.{name}")]
    assert isinstance(value, int)
    return value


def flag(machine: Machine, name: str) -> bool:
    return bool(machine[Address(None, f"spindle.{name}")])


def quantity(machine: Machine, key: str) -> float:
    """A value of the machine in the table's unit."""
    value = machine[Address(None, key)]
    assert isinstance(value, Fraction)
    return float(value)


def told_range(machine: Machine) -> int:
    """The slot of the range that is engaged as far as the machine was told."""
    return min(whole(machine, "engaged"), whole(machine, "ranges")) - 1


def ranges_by_input(machine: Machine) -> bool:
    """Whether inputs say which range is engaged."""
    return any(item.role in RANGE_ROLES for item in inputs(machine))


def has_level(machine: Machine) -> bool:
    """Whether a level tells the speed, so that there is a curve to be measured."""
    return spindle_kind(machine) in WITH_LEVEL


def told_in_rpm(machine: Machine) -> bool:
    """Whether its drive is told a speed of the motor, and a way, as numbers."""
    return spindle_kind(machine) in (ON_BUS, OWN_DRIVE)


def is_on_bus(machine: Machine) -> bool:
    """Whether Idler speaks to its drive on a line of its own."""
    return spindle_kind(machine) == ON_BUS


def has_own_drive(machine: Machine) -> bool:
    """Whether its drive is one of the parts of the machine."""
    return spindle_kind(machine) == OWN_DRIVE


def takes_speeds(machine: Machine) -> bool:
    """Whether it can be asked for one speed or another."""
    return has_level(machine) or told_in_rpm(machine)


def turns_both_ways(machine: Machine) -> bool:
    """By two relays, by a direction output, or by a number that its drive is told."""
    roles = {out.role for out in outputs(machine)}
    return bool(roles & {OutputRole.TURN_LEFT, OutputRole.DIRECTION}) or told_in_rpm(machine)


def allowed_error(rpm: float) -> float:
    """How far off a commanded speed may be: 1 % of it, or 5 rpm where that is more."""
    return max(TOLERANCE_SHARE * abs(rpm), TOLERANCE_RPM)


class Meter(Enum):
    """What tells how fast the spindle turns: key and words."""

    ENCODER = ("encoder", "the encoder")
    PULSE = ("pulse", "pulses of an input")
    TYPED = ("typed", "a hand tachometer, typed")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


def meters(machine: Machine) -> list[Meter]:
    """What can measure the speed on this machine, the best first. A hand tachometer always can."""
    found = [Meter.ENCODER] if whole(machine, "counts") else []
    counted = (
        not machine.made_of_parts
    )  # plain terminals are looked at now and then: pulses between two looks are not seen
    found += [Meter.PULSE] if counted and input_of(machine, Duty(InputRole.PULSE)) is not None else []
    return [*found, Meter.TYPED]


@dataclass(frozen=True)
class ChainLink:
    """One link of the chain from command to spindle: what it is, and its figure."""

    title: str
    figure: str
    how: str = ""


def chain(machine: Machine, found: Range, rpm: float) -> tuple[ChainLink, ...]:
    """From a commanded speed to the spindle, as the machine was told it."""
    asked = min(max(rpm, found.low), found.high)
    links = [ChainLink("commanded", f"{rpm:.0f} rpm", "" if asked == rpm else f"held to {asked:.0f}")]
    if has_level(machine):
        level = found.level(asked)
        how = "by measured points" if found.points else f"of {found.high:.0f} rpm"
        links.append(ChainLink("level", f"{level:.1f} %", how))
        out = next((out for out in outputs(machine) if out.role is OutputRole.SPINDLE_LEVEL), None)
        if out is not None and out.kind is OutputKind.VOLTAGE:
            links.append(ChainLink(f"output {out.name}", f"{float(out.own_volts) * level / 100:.2f} V", "0–10 V"))
        elif out is not None:
            frequency = quantity(machine, "spindle.frequency")
            links.append(
                ChainLink(f"output {out.name}", f"{1e4 * level / frequency:.0f} µs", f"on, at {frequency:g} Hz")
            )
    elif told_in_rpm(machine):
        links.append(ChainLink("bus", f"{asked / found.ratio:.0f} rpm", "asked of the motor"))
    links.append(ChainLink("motor", f"{asked / found.ratio:.0f} rpm"))
    links.append(ChainLink(f"range {found.slot + 1}", f"× {found.ratio:.4g}", found.name))
    links.append(ChainLink("spindle", f"{asked:.0f} rpm"))
    return tuple(links)
