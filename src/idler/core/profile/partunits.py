"""Units of a plain drive: its positions, speeds and accelerations as whole numbers, and the table's raw values.

A drive counts in units of its own; how many of them make a mm (°) follows from the train, which Idler keeps. What the drive
says of its units (608Fh, 6091h, 6092h, 60A9h of CiA 402-2) is where the train begins, and the speed's unit.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from fractions import Fraction

from ..machine import Axis
from ..mechanics.chain import Chain
from ..table import AXIS
from .codec import Raw

COARSEST = 100  # units per motor turn: what claims fewer is not believed
WIDEST = 2**31 - 1  # soft limits at ± this much are off (607Dh)
_TURN, _INCREMENT, _SECOND, _MINUTE = 0xB4, 0xB5, 0x03, 0x47  # CiA 303-2


class Measure(Enum):
    """What a number in an object of a drive is a number of."""

    PLACE = "place"
    LENGTH = "length"  # without its sign
    SPEED = "speed"
    ACCELERATION = "acceleration"
    PLAIN = "plain"  # the same number as in our own profile


class SpeedUnit(Enum):
    """key, whether it is told by the drive or taken as usual, and words."""

    UNITS = ("units", "its position units per second")
    TURNS = ("turns", "turns of the motor per minute")
    ASSUMED = ("assumed", "not told; taken for its position units per second")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


@dataclass(frozen=True)
class Told:
    """What a drive says of its units. turn: position units per turn of the motor, 0 where it does not say.

    power: of ten, by which its unit of speed is finer (-) or coarser than the plain one.
    """

    turn: int = 0
    speed: SpeedUnit = SpeedUnit.ASSUMED
    power: int = 0

    @property
    def per_rpm(self) -> Fraction | None:
        """Units of speed for a turn of the motor per minute; None where the drive does not say enough for it."""
        fine = Fraction(10) ** self.power
        if self.speed is SpeedUnit.TURNS:
            return 1 / fine
        return Fraction(self.turn, 60) / fine if self.turn else None


def told_units(raws: Mapping[tuple[int, int], int]) -> Told:
    """raws: of 608Fh, 6091h and 6092h with their subs, and 60A9h, as far as the drive has them.

    Position units per motor turn are feed ÷ shaft turns ÷ reduction (CiA 402-2, position factor); increments, where there is
    no feed constant.
    """

    def part(index: int) -> Fraction | None:
        first, second = raws.get((index, 1), 0), raws.get((index, 2), 0)
        return Fraction(first, second) if first > 0 and second > 0 else None

    turn = 0
    for per_turn in (part(0x6092), part(0x608F)):
        if per_turn is not None:
            shaft = part(0x6091) or Fraction(1) if per_turn is part(0x6092) else Fraction(1)
            turn = turn or (round(per_turn / shaft) if per_turn / shaft >= COARSEST else 0)
    word = raws.get((0x60A9, 0), 0)
    above, below, power = word >> 16 & 0xFF, word >> 8 & 0xFF, word >> 24 & 0xFF
    power -= 256 if power > 127 else 0
    if (above, below) == (_TURN, _MINUTE):
        return Told(turn, SpeedUnit.TURNS, power)
    if (above, below) == (_INCREMENT, _SECOND):
        return Told(turn, SpeedUnit.UNITS, power)
    return Told(turn)


@dataclass(frozen=True)
class PartUnits:
    """place: position units per mm (°), with the sign of its direction. speed: speed units per mm/s (°/s)."""

    place: Fraction
    speed: Fraction

    @classmethod
    def of(cls, axis: Axis, told: Told) -> PartUnits:
        chain = Chain.of(axis)
        per_second = chain.counts_per_unit
        if told.speed is SpeedUnit.TURNS:
            per_second = 60 / chain.travel_per_turn
        sign = -1 if axis.flag("axis.reversed") else 1
        return cls(sign * chain.counts_per_unit, per_second / Fraction(10) ** told.power)

    def to_part(self, measure: Measure, value: Fraction) -> int:
        """value: mm (°), mm/s, mm/s² (or per s³ of a jerk), or the number itself."""
        match measure:
            case Measure.PLACE:
                return _bounded(value * self.place)
            case Measure.LENGTH:
                return _bounded(abs(value * self.place))
            case Measure.SPEED | Measure.ACCELERATION:
                return _bounded(value * self.speed)
        return round(value)

    def from_part(self, measure: Measure, raw: int) -> Fraction:
        """What `to_part` takes."""
        match measure:
            case Measure.PLACE:
                return raw / self.place
            case Measure.LENGTH:
                return raw / abs(self.place)
            case Measure.SPEED | Measure.ACCELERATION:
                return raw / self.speed
        return Fraction(raw)


def _bounded(value: Fraction) -> int:
    return min(max(round(value), -WIDEST), WIDEST)


_PER_MINUTE = Fraction(60)


def row_value(key: str, measure: Measure, raw: Raw) -> Fraction:
    """A raw value of the table as `PartUnits.to_part` takes it: speeds are kept per minute there."""
    if measure is Measure.PLAIN:
        return Fraction(int(raw))
    value = int(raw) * AXIS[key].wire.resolution
    return value / _PER_MINUTE if measure is Measure.SPEED else value


def row_raw(key: str, measure: Measure, value: Fraction) -> int:
    """The raw value of the table, within the bounds of its row."""
    if measure is Measure.PLAIN:
        return int(value)
    row = AXIS[key]
    shown = value * _PER_MINUTE if measure is Measure.SPEED else value
    if row.low != row.high:
        shown = min(max(shown, row.low), row.high)
    return round(shown / row.wire.resolution)
