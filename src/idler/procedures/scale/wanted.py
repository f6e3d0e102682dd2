"""What a scale is wanted to: its tolerance, how far to go for it, and an instrument that can tell it."""

from __future__ import annotations

from fractions import Fraction

from idler.core.errors import Refusal
from idler.core.homing import stops_of
from idler.core.machine import Axis
from idler.core.mechanics.scale import Instrument, fitting, instrument_needed

WITHIN = Fraction(45, 100)  # of an instrument's reach: an axis that goes twice as far as it was told is still read
USUAL_TOLERANCE = "0.02 %"  # where nothing else is wanted
COUNTED = 1.0  # counts per unit, where no train tells them


def usual_length(axis: Axis, instrument: Instrument) -> Fraction:
    """A move to begin with, in mm (°): a whole turn, or what the room between the stops and the instrument allow."""
    if axis.rotary:
        return Fraction(360)
    stops, reach = stops_of(axis), Fraction(instrument.reach) * WITHIN
    room = (stops[1] - stops[0]) / 2 if stops is not None else Fraction(100)
    most = min(Fraction(100), room, reach)
    return Fraction(int(most / 10) * 10) if most >= 10 else max(Fraction(1), Fraction(int(most)))


def usual_reach(axis: Axis) -> float:
    """mm (°) over which an instrument is chosen, where nothing else is wanted."""
    return 360.0 if axis.rotary else 100.0


def instrument_able(axis: Axis, tolerance: float, reach: float) -> Instrument:
    """The coarsest that could prove a tolerance (relative) over so many mm (°), whatever the counts are; else the finest."""
    able = instrument_needed(reach, COUNTED, tolerance, rotary=axis.rotary)
    return able or min(fitting(axis.rotary), key=lambda item: item.resolution)


def read_tolerance(text: str) -> Fraction:
    """What the scale is wanted to, relative, out of "0.02 %". Raises Refusal."""
    try:
        percents = Fraction(text.replace("%", "").replace(",", ".").strip())
        if not Fraction(1, 1000) <= percents <= 10:
            raise ValueError
    except (ValueError, ZeroDivisionError):
        raise Refusal("tolerance wanted", f"“{text[:20]}”", "cannot be used", "0.001 % to 10 %") from None
    return percents / 100
