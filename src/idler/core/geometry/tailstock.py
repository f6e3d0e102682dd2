"""Tailstock of a lathe: how far its centre stands beside the axis of the spindle, by two diameters of a bar that was turned.

Model. A bar turned between centres C apart, with one setting of the tool, has the diameter D at the headstock's end of a length
L and D + t at the tailstock's. The tool goes straight; the line between the centres leans away from it by t/2 over L, and the
tail centre stands off by
    s = (t / 2) · C / L,   u(s) = √2 u / 2 · C / L,
+ away from the tool, u being that of one diameter (GUM, 4.3.7). It is moved by s towards the tool.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

from ..errors import Refusal
from ..mechanics.scale import COVERAGE, Instrument
from ..values.measures import Measures
from . import not_told

MICROMETER = Instrument("micrometer", "micrometer, 0.01 mm", 0.01, 300.0)
LEAST = 20.0  # mm between the two diameters


@dataclass(frozen=True)
class Tailstock:
    """off: s in mm, + away from the tool; taper: t in mm over the length."""

    off: float
    taper: float
    standard: float

    @property
    def expanded(self) -> float:
        return COVERAGE * self.standard


def tailstock(
    head: float, tail: float, length: float, centres: float, micrometer: Instrument = MICROMETER
) -> Tailstock:
    """Two diameters in mm, `length` mm apart on a bar between centres `centres` mm apart. Raises Refusal."""
    if not LEAST <= length <= centres:
        raise Refusal(
            "length between the diameters",
            f"{length:g} mm",
            "cannot be used",
            f"{LEAST:g} mm to {centres:g} mm, between centres",
        )
    share = centres / length
    return Tailstock((tail - head) / 2 * share, tail - head, math.sqrt(2) * micrometer.reading / 2 * share)


class TailstockVerdict(Enum):
    """key and what it means."""

    NOTHING = ("nothing", "not measured yet")
    PROVEN = ("proven", "in line as far as is wanted")
    OFF = ("off", "out of line, and certainly so")
    COARSE = ("coarse", "cannot be told with this")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


def verdict(found: Tailstock | None, tolerance: float) -> TailstockVerdict:
    """tolerance: ± mm of the centre. Proven only where the whole interval lies within it."""
    if found is None:
        return TailstockVerdict.NOTHING
    if abs(found.off) + found.expanded <= tolerance:
        return TailstockVerdict.PROVEN
    return TailstockVerdict.OFF if abs(found.off) > found.expanded else TailstockVerdict.COARSE


def figures(found: Tailstock, reads: Measures) -> str:
    """What was found, in words."""
    way = "away from the tool" if found.off > 0 else "towards the tool"
    return (
        f"the centre stands {reads.length(abs(found.off), 3)} ± {reads.length(found.expanded, 3)} {way}; the bar is "
        f"{reads.length(abs(found.taper), 3)} {'thicker' if found.taper > 0 else 'thinner'} at the tailstock"
    )


def sentence(found: Tailstock, reads: Measures, tolerance: float) -> str:
    """What is to be done about it."""
    wanted = f"± {reads.length(tolerance, 3, trim=True)}"
    match verdict(found, tolerance):
        case TailstockVerdict.PROVEN:
            return f"The centre lies within {wanted}."
        case TailstockVerdict.OFF:
            way = "towards the tool" if found.off > 0 else "away from the tool"
            return f"Move the tailstock {reads.length(abs(found.off), 3)} {way}, turn the bar anew, and measure again."
    why = not_told(found.expanded, tolerance, reads.length(found.expanded, 3), wanted)
    return f"{why} Measure further apart, or more finely."
