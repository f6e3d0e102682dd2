"""Units and exact numbers, and how they are written.

The registry holds only what a machine builder writes; numbers stay exact (an inch is 127/5 mm), so that counts per
unit come out as whole ratios and not as decimals that nearly fit.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import Enum
from fractions import Fraction
from functools import lru_cache
from typing import Any

# A length of pi that is exact to 2e-21: far below any resolution on the wire, and still a ratio.
PI = Fraction(314159265358979323846, 10**20)

_DEFINITIONS = """
millimetre = [length] = mm = millimeter
metre = 1000 * mm = m = meter
centimetre = 10 * mm = cm = centimeter
micrometre = 0.001 * mm = um = micrometer = micron
inch = 25.4 * mm = in = inches
foot = 12 * inch = ft = feet
mil = 0.001 * inch = thou
thread = [] = threads
tpi = thread / inch
degree = [angle] = deg = degrees
turn = 360 * deg = rev = turns = revolution = revolutions
arcminute = 1/60 * deg = arcmin
second = [time] = s = sec
millisecond = 0.001 * s = ms
microsecond = 0.000001 * s = us
minute = 60 * s = min
hour = 3600 * s = h
hertz = 1 / s = Hz
kilohertz = 1000 * hertz = kHz
megahertz = 1000000 * hertz = MHz
rpm = turn / minute
percent = 0.01 = pct
newton_metre = [torque] = Nm
inertia_unit = [inertia] = kgcm2
volt = [voltage] = V
ampere = [current] = A
milliampere = 0.001 * A = mA
millilitre = [volume] = ml
"""


@dataclass(frozen=True)
class Unit:
    """One unit of the table: how it is written, how pint spells it, and how many decimals are of use on a screen."""

    symbol: str
    spelling: str
    decimals: int

    def __str__(self) -> str:
        return self.symbol


MM = Unit("mm", "mm", 4)
INCH = Unit("in", "inch", 5)
DEG = Unit("°", "deg", 4)
MM_MIN = Unit("mm/min", "mm/min", 1)
INCH_MIN = Unit("in/min", "inch/min", 2)
DEG_MIN = Unit("°/min", "deg/min", 1)
MM_S2 = Unit("mm/s²", "mm/s**2", 1)
INCH_S2 = Unit("in/s²", "inch/s**2", 3)
DEG_S2 = Unit("°/s²", "deg/s**2", 1)
MM_S3 = Unit("mm/s³", "mm/s**3", 0)
INCH_S3 = Unit("in/s³", "inch/s**3", 1)
DEG_S3 = Unit("°/s³", "deg/s**3", 0)
SECOND = Unit("s", "s", 3)
MILLISECOND = Unit("ms", "ms", 3)
MICROSECOND = Unit("µs", "us", 2)
KILOHERTZ = Unit("kHz", "kHz", 3)
RPM = Unit("rpm", "rpm", 1)
VOLT = Unit("V", "V", 3)
AMPERE = Unit("A", "A", 3)
TORQUE = Unit("N·m", "Nm", 3)
INERTIA = Unit("kg·cm²", "kgcm2", 2)
HERTZ = Unit("Hz", "Hz", 1)
MINUTE = Unit("min", "min", 2)
PERCENT = Unit("%", "percent", 2)
MILLILITRE = Unit("ml", "ml", 3)
ONE = Unit("", "", 6)


class Dimension(Enum):
    """What a value measures. Travel and its rates are in mm on a linear axis and in degrees on a rotary one."""

    PURE = (ONE, ONE, ONE)
    LENGTH = (MM, MM, INCH)
    TRAVEL = (MM, DEG, INCH)
    SPEED = (MM_MIN, DEG_MIN, INCH_MIN)
    ACCELERATION = (MM_S2, DEG_S2, INCH_S2)
    JERK = (MM_S3, DEG_S3, INCH_S3)
    SHORT_TIME = (MILLISECOND, MILLISECOND, MILLISECOND)
    PULSE = (MICROSECOND, MICROSECOND, MICROSECOND)
    RATE = (KILOHERTZ, KILOHERTZ, KILOHERTZ)
    ROTATION = (RPM, RPM, RPM)
    VOLTAGE = (VOLT, VOLT, VOLT)
    CURRENT = (AMPERE, AMPERE, AMPERE)
    TORQUE = (TORQUE, TORQUE, TORQUE)
    INERTIA = (INERTIA, INERTIA, INERTIA)
    FREQUENCY = (HERTZ, HERTZ, HERTZ)
    TIME = (SECOND, SECOND, SECOND)
    LONG_TIME = (MINUTE, MINUTE, MINUTE)
    SHARE = (PERCENT, PERCENT, PERCENT)
    VOLUME = (MILLILITRE, MILLILITRE, MILLILITRE)

    def unit(self, rotary: bool = False) -> Unit:
        """The unit of the table: values are stored in it, in files and in memory."""
        return self.value[1] if rotary else self.value[0]

    def screen_unit(self, rotary: bool, inch: bool) -> Unit:
        """The unit of the screen: the table's, or inches where the machine asks for them."""
        return self.value[2] if inch and not rotary else self.unit(rotary)


@lru_cache(maxsize=1)
def registry() -> Any:
    """The pint registry, made once; numbers in it are Fractions."""
    import pint

    made: Any = pint.UnitRegistry(None, non_int_type=Fraction, cache_folder=None)
    made.load_definitions(_DEFINITIONS.strip().splitlines())
    return made


@lru_cache(maxsize=1)
def _words() -> dict[str, str]:
    names = re.findall(r"(?:^|= )([a-zA-Z]\w*)(?= =|$)", _DEFINITIONS, re.MULTILINE)
    return {name.lower(): name for name in names if len(name) > 1} | {name: name for name in names}


def word(text: str) -> str:
    """The unit that a word means, in capitals too ("MM", "Rpm"); "" where it means none."""
    return _words().get(text) or _words().get(text.lower() if len(text) > 1 else text, "")


@lru_cache(maxsize=4096)
def factor(spelling: str, target: str) -> Fraction | None:
    """How many of `target` one of `spelling` is, both spelled for pint; None where they measure different things.

    What is written in the units of the table needs no package that takes its time to be loaded."""
    if spelling.removesuffix("/1") == target:
        return Fraction(1)
    import pint

    made = registry()
    try:
        return Fraction((Fraction(1) * made.parse_units(spelling)).to(made.parse_units(target)).magnitude)
    except pint.DimensionalityError:
        return None


def figure(value: Fraction | float, decimals: int, *, trim: bool = False) -> str:
    """A decimal figure; `trim` takes the zeros at the end away. Thousands are set apart by a narrow space."""
    text = f"{float(value):,.{decimals}f}".replace(",", "\u202f")
    if trim and "." in text:
        text = text.rstrip("0").rstrip(".")
    if text.lstrip("-").strip("0.") == "" and text.startswith("-"):
        text = text[1:]
    return text


def with_unit(text: str, unit: Unit) -> str:
    """A figure and its unit; a degree sign stands close."""
    return f"{text} {unit.symbol}" if unit.symbol and unit.symbol != "°" else text + unit.symbol


def several(number: int, noun: str) -> str:
    """So many of something: "1 value", "2 values"."""
    return f"{number} {noun}{'' if number == 1 else 's'}"


def convert(value: Fraction, source: Unit, target: Unit) -> Fraction:
    """value in `source` as a value in `target`; both measure the same thing."""
    if source == target:
        return value
    scale = factor(source.spelling, target.spelling)
    assert scale is not None, (source, target)
    return value * scale


def exact_text(value: Fraction, unit: Unit, *, inverse: bool = False) -> str:
    """Text that reads back as exactly this value: a decimal where one ends, else a ratio.

    inverse: turns per inch may be written, where they end.
    """
    suffix = f" {unit.symbol}" if unit.symbol else ""
    if (text := _ending_decimal(value)) is not None:
        return text + suffix
    if unit is MM and (text := _ending_decimal(convert(value, MM, INCH))) is not None and len(text) < 9:
        return text + " in"
    if (
        inverse
        and unit is MM
        and value
        and (text := _ending_decimal(Fraction(127, 5) / value)) is not None
        and len(text) < 9
    ):
        return text + " /in"
    return f"{value.numerator}/{value.denominator}{suffix}"


def _ending_decimal(value: Fraction) -> str | None:
    """The decimal of a value whose denominator holds only twos and fives (and that is not too long), else None."""
    rest = value.denominator
    places = 0
    for prime in (2, 5):
        power = 0
        while rest % prime == 0:
            rest //= prime
            power += 1
        places = max(places, power)
    if rest != 1 or places > 15:
        return None
    digits = str(abs(value.numerator) * 10**places // value.denominator).rjust(places + 1, "0")
    text = digits if places == 0 else f"{digits[:-places]}.{digits[-places:]}"
    return ("-" if value < 0 else "") + text
