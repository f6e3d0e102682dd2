"""The reliable pace: run ever harder until steps are lost, then close in on where, and stay below with a margin.

First the speed is raised with the acceleration as it is, then the acceleration with the speed that was found. A value that held
is a lower bound, one that lost steps an upper one; between them the next trial stands in the geometric middle. What holds at
the ceiling of controller or motor needs no upper bound.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import Enum
from fractions import Fraction

from ..machine import Address, Axis, Machine
from ..values.parameter import Value
from .chain import Chain

RAISE = 1.5  # from trial to trial, while nothing was lost yet
NARROW = 1.08  # upper by lower bound at which it is known well enough
MARGIN = 0.75  # of what held
POLE = 4  # full steps that a stepping motor falls back by when it loses its field


STOPS = 2  # times the acceleration of its pace: as hard as an axis is stopped at most, whose pace had to come down
LOWER = 0.7  # of the pace that lost steps, each time, until one holds
LOWEST = 0.1


class Part(Enum):
    LOWER = "lower"
    SPEED = "speed"
    ACCELERATION = "acceleration"


@dataclass(frozen=True)
class Bracket:
    """held: the highest value that lost nothing. lost: the lowest that did, where there is one. ceiling: never beyond."""

    held: float
    ceiling: float
    lost: float | None = None

    @property
    def next(self) -> float | None:
        """What to try now, or None where it is known."""
        if self.lost is None:
            return min(self.held * RAISE, self.ceiling) if self.held < self.ceiling * 0.999 else None
        return math.sqrt(self.held * self.lost) if self.lost / self.held > NARROW else None

    def after(self, value: float, *, held: bool) -> Bracket:
        if held:
            return replace(self, held=max(self.held, value))
        return replace(self, lost=value if self.lost is None else min(self.lost, value))

    @property
    def proposal(self) -> float:
        """With the margin below what held; at the ceiling the ceiling itself is the bound."""
        return self.held * MARGIN


@dataclass(frozen=True)
class Trial:
    """One hard run. speed in mm/min, acceleration in mm/s² (°); shift: by how much the place of the switch moved, in mm (°)."""

    speed: float
    acceleration: float
    shift: float
    held: bool
    part: Part


@dataclass(frozen=True)
class Search:
    """Immutable: `after` gives the next state. base: the pace that it started from. Where that loses steps, lower ones are
    tried, speed and acceleration together, until one holds: share is that of the base."""

    base_speed: float
    base_acceleration: float
    speed: Bracket
    acceleration: Bracket
    trials: tuple[Trial, ...] = ()
    share: float = 1.0

    @classmethod
    def of(cls, speed: float, acceleration: float, ceiling: float) -> Search:
        """ceiling: the highest speed that controller and motor allow. The acceleration is tried up to sixteen times as high."""
        return cls(speed, acceleration, Bracket(speed, max(speed, ceiling)), Bracket(acceleration, acceleration * 16))

    @property
    def part(self) -> Part | None:
        """What is being raised; None at the end."""
        if self.failed_at_once:
            return Part.LOWER if not self.trials[-1].held and self.share * LOWER >= LOWEST else None
        if not self.trials or self.speed.next is not None:
            return Part.SPEED
        return Part.ACCELERATION if self.acceleration.next is not None else None

    @property
    def next(self) -> tuple[float, float] | None:
        """Speed and acceleration to run now. The first run is the pace as it is."""
        if not self.trials:
            return self.base_speed, self.base_acceleration
        match self.part:
            case Part.LOWER:
                return self.base_speed * self.share * LOWER, self.base_acceleration * self.share * LOWER
            case Part.SPEED:
                assert self.speed.next is not None
                return self.speed.next, self.base_acceleration
            case Part.ACCELERATION:
                assert self.acceleration.next is not None
                return self.speed.proposal, self.acceleration.next
        return None

    def after(self, shift: float, *, held: bool) -> Search:
        """With the result of the run that `next` asked for."""
        asked, part = self.next, self.part
        assert asked is not None
        trials = (*self.trials, Trial(*asked, shift, held, part or Part.SPEED))
        if not self.trials:
            return replace(self, trials=trials)
        if part is Part.LOWER:
            return replace(self, trials=trials, share=self.share * LOWER)
        if part is Part.SPEED:
            return replace(self, trials=trials, speed=self.speed.after(asked[0], held=held))
        return replace(self, trials=trials, acceleration=self.acceleration.after(asked[1], held=held))

    @property
    def failed_at_once(self) -> bool:
        """The pace that it started from loses steps already."""
        return bool(self.trials) and not self.trials[0].held

    @property
    def proposal(self) -> tuple[Fraction, Fraction] | None:
        """Speed and acceleration that a person would write down, with the margin below what held; None before the end."""
        if self.part is not None or not self.trials:
            return None
        if self.failed_at_once:
            if not self.trials[-1].held:
                return None
            return tuple(_written(value * self.share * MARGIN) for value in (self.base_speed, self.base_acceleration))  # type: ignore[return-value]
        return _written(self.speed.proposal), _written(self.acceleration.proposal)


def lower_pace(speed: float, acceleration: float) -> tuple[Fraction, Fraction]:
    """What is proposed for a pace that lost steps before anything is searched."""
    return _written(speed * LOWER), _written(acceleration * LOWER)


def paced(axis: Axis, speed: Fraction, rise: Fraction) -> dict[Address, Value]:
    """The values of another pace, mm/min and mm/s² (°/min, °/s²). What its motor does not follow in a run it does not follow in
    a homing, or at the edge of its switch, either: a homing that was quicker, and a stop that was harder, come down to it."""
    made: dict[Address, Value] = {
        Address(axis.slot, "pace.top_speed"): speed, Address(axis.slot, "pace.acceleration"): rise,
        Address(axis.slot, "pace.deceleration"): rise,
    }  # fmt: skip
    others = {
        "homing.approach": max(speed, axis.number("homing.touch")), "homing.acceleration": rise,
        "pace.stop_deceleration": STOPS * rise,
    }  # fmt: skip
    if rise < axis.number("pace.acceleration"):
        made |= {Address(axis.slot, key): most for key, most in others.items() if axis.number(key) > most}
    return made


def gentler(axis: Axis, speed: float) -> dict[Address, Value]:
    """What would be tried instead of a speed (mm/min, °/min) that lost steps: that of the homing, or of the pace; either may
    have lost them while it was reached."""
    slower, rise = lower_pace(speed, float(axis.number("pace.acceleration")))
    if speed >= float(axis.number("pace.top_speed")):
        return paced(axis, slower, rise)
    homing = lower_pace(speed, float(axis.number("homing.acceleration")))[1]
    rises = paced(axis, axis.number("pace.top_speed"), rise)
    rises.pop(Address(axis.slot, "pace.top_speed"))
    return {**rises, Address(axis.slot, "homing.approach"): slower, Address(axis.slot, "homing.acceleration"): homing}


def stalled(axis: Axis, speed: float) -> dict[Address, Value]:
    """What would be tried instead of a move at a speed (mm/min, °/min) in which a motor stood still: that pace, and at touch
    speed or below it only how it is reached."""
    edit = gentler(axis, speed)
    if speed <= float(axis.number("homing.touch")):
        edit.pop(Address(axis.slot, "homing.approach"), None)
    return edit


def stood_still(machine: Machine, slot: int, told: float, read: float, resolution: float) -> bool:
    """Whether a reading (mm, °) after a move of `told` says that the axis stayed where it was: a motor that loses its field
    rests within half a pole of where it began. A train that is told wrong still goes a fiftieth of its way."""
    return read == 0 or abs(read) <= min(max(shift_allowed(machine, slot), 2 * resolution), abs(told) / 50)


def _written(value: float) -> Fraction:
    step = 10 ** (math.floor(math.log10(value)) - 1)
    return Fraction(math.floor(value / step + 1e-9)) * Fraction(step).limit_denominator(1000)


def run_up(speed: float, rise: float) -> float:
    """The way in mm (°) in which a speed (mm/min) is reached, or comes to rest, at an acceleration (mm/s²); and half as much
    again, for a motor that has lost its field only rubs to a stop."""
    return 1.5 * (speed / 60) ** 2 / (2 * rise) if rise else 0.0


def fastest_in(room: float, rise: float) -> float:
    """The highest speed, in mm/min, of a run that keeps its run-up at both ends of such a room (mm) beside its length."""
    return 60 * math.sqrt(max(0.0, room) * rise / 1.5)


def shift_allowed(machine: Machine, slot: int) -> float:
    """By how much the place of the switch may move between two touches, in mm (°), before steps were lost: half a pole.

    A servo or closed-loop motor that keeps its position is allowed as much of a turn as a stepper of 200 steps.
    """
    axis = machine.axis(slot)
    chain = Chain.of(axis)
    steps = axis.whole("chain.full_steps") if axis.choice("chain.motor") == "stepper" else 200
    return float(chain.travel_per_turn) * POLE / steps / 2


def ceiling_of(machine: Machine, slot: int) -> float:
    """The highest speed in mm/min (°/min) that the step rate and the motor's highest speed allow."""
    axis = machine.axis(slot)
    chain = Chain.of(axis)
    return float(min(chain.speed_at_step_rate(machine.step_rate), chain.speed_at_rpm(axis.number("pace.motor_speed"))))
