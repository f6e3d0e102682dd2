"""Counts per unit from the drive train, in exact ratios, with the derivation as text.

counts per unit = counts per motor turn × reduction ÷ travel per turn of the last shaft
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import reduce

from ..finals import FINALS
from ..machine import Axis
from ..values.measures import Measures
from ..values.stage import Stage
from ..values.units import MM, figure


@dataclass(frozen=True)
class Final:
    """The final element: travel (mm or °) for one turn of its shaft, after a reduction of its own (a worm's)."""

    travel: Fraction
    reduction: Fraction
    derivation: str

    @classmethod
    def of(cls, axis: Axis) -> Final:
        drawn = FINALS[axis.choice("chain.final")].drawn(axis)
        correction = axis.number("chain.correction")
        if correction == 1:
            return cls(*drawn)
        text = f"({drawn.derivation.strip('()')} × {figure(correction, 6, trim=True)})"
        return cls(drawn.travel * correction, drawn.reduction, text)


@dataclass(frozen=True)
class Chain:
    """A train from motor to carriage. All ratios are exact; π is taken to 20 places."""

    counts_per_turn: int
    turn_text: str
    stages: tuple[Stage, ...]
    final: Final
    reads: Measures

    @classmethod
    def of(cls, axis: Axis) -> Chain:
        if axis.choice("chain.motor") == "stepper":
            steps, micro = axis.whole("chain.full_steps"), axis.whole("chain.microsteps")
            counts, text = steps * micro, f"{steps} × {micro}"
        else:
            counts = axis.whole("chain.motor_counts")
            text = str(counts)
        return cls(counts, text, axis.stages, Final.of(axis), axis.reads)

    @property
    def reduction(self) -> Fraction:
        """Turns of the motor for one turn of the last shaft."""
        return reduce(lambda total, stage: total * stage.reduction, self.stages, self.final.reduction)

    @property
    def reverses(self) -> bool:
        """Whether the last shaft turns against the motor: an odd number of stages turns the direction round."""
        return sum(stage.reverses for stage in self.stages) % 2 == 1

    @property
    def counts_per_unit(self) -> Fraction:
        """Counts for one mm (or °) of travel."""
        return self.counts_per_turn * self.reduction / self.final.travel

    @property
    def counts_shown(self) -> Fraction:
        """Counts for one unit of the screen: mm, inch or degree."""
        return self.reads.per_unit(self.counts_per_unit)

    @property
    def counts_text(self) -> str:
        """ "320 counts per mm", for one unit of the screen."""
        return f"{figure(self.counts_shown, 4, trim=True)} counts per {self.reads.name}"

    @property
    def travel_per_turn(self) -> Fraction:
        """Travel for one turn of the motor, in mm (or °)."""
        return self.final.travel / self.reduction

    @property
    def resolution(self) -> Fraction:
        """Travel for one count, in mm (or °)."""
        return 1 / self.counts_per_unit

    @property
    def derivation(self) -> str:
        """The counts per unit of the screen as a builder would write them: "200 × 8 × 40/20 ÷ 5"."""
        parts = [self.turn_text]
        parts += [_ratio(stage.second, stage.first) if stage.by_teeth else _ratio(stage.first, stage.second)
                  for stage in self.stages]  # fmt: skip
        if self.final.reduction != 1:
            parts.append(_ratio(Fraction(self.final.reduction.numerator), Fraction(self.final.reduction.denominator)))
        return " × ".join(parts) + f" ÷ {self.final.derivation}"

    @property
    def resolution_text(self) -> str:
        """One count in a unit that reads well: µm, mm, inches, or thousandths of a degree."""
        size = float(self.resolution)
        if self.reads.unit() is MM and size < 0.1:
            return f"{figure(size * 1000, 3, trim=True)} µm"
        return self.reads.length(size, 4 if self.reads.unit() is MM else 5, trim=True)

    def motor_rpm(self, speed: Fraction) -> Fraction:
        """Motor speed in rpm at a speed in mm/min (or °/min)."""
        return speed / self.travel_per_turn

    def step_rate(self, speed: Fraction) -> Fraction:
        """Steps per second at a speed in mm/min (or °/min)."""
        return speed / 60 * self.counts_per_unit

    def speed_at_step_rate(self, steps_per_second: Fraction) -> Fraction:
        """The speed in mm/min (or °/min) at a step rate."""
        return steps_per_second / self.counts_per_unit * 60

    def speed_at_rpm(self, rpm: Fraction) -> Fraction:
        """The speed in mm/min (or °/min) at a motor speed."""
        return rpm * self.travel_per_turn


def _plain(value: Fraction) -> str:
    return figure(value, 6, trim=True)


def _ratio(over: Fraction, under: Fraction) -> str:
    return _plain(over) if under == 1 else f"{_plain(over)}/{_plain(under)}"
