"""Square by diagonals: four marks at the corners of a rectangle, both diagonals measured, and the angle that follows.

Derivation. The first axis goes along (1, 0), the second along (sin a, cos a): a is how far + of the second leans towards + of
the first. A rectangle told w by h comes out as a parallelogram with the diagonals
    p² = w² + h² + 2 w h sin a   (from the corner where both are least),
    q² = w² + h² − 2 w h sin a,
so   sin a = (p² − q²) / (4 w h),   whatever both scales are to first order, and   p² + q² = 2 (w² + h²)   tells the scale.
With the standard uncertainty u of one diagonal, of both alike,
    u(a) = √(p² + q²) u / (2 w h),      u(k) = √2 u / √(p² + q²)   for the scale k = √((p² + q²) / 2 (w² + h²)).
u holds two readings of the instrument (its ends) and the place of two marks; n readings of a diagonal lessen what a hand
scatters, but neither the division nor the marks. Expanded uncertainties are twice u (GUM, 6.2.2).

Angles are in mm per m, which is the same as milliradians.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from fractions import Fraction

from ..homing import two_sides
from ..machine import Address, Axis, Machine
from ..mechanics.scale import COVERAGE, HAND, Instrument
from ..values.measures import Measures
from ..values.parameter import Value
from . import not_told
from .spanner import Part
from .spanner import sentence as spanner

MARK = 0.03  # mm: standard uncertainty of the place of one mark of a punch or a sharp pen
ASIDE = 2.0  # mm: each corner is reached from this far below on both axes, so that play drops out
LEAST = 20.0  # mm: a shorter side tells nothing
TOLERANCES = {"mill": 0.1, "router": 0.3, "lathe": 0.1, "table": 0.3}  # mm per m, where nothing else is wanted


@dataclass(frozen=True)
class Rectangle:
    """Told corners in mm of the first and the second axis: where both are least, and how far it reaches."""

    x: float
    y: float
    width: float
    height: float

    @property
    def corners(self) -> tuple[tuple[float, float], ...]:
        """In the order in which they are gone to: least of both, along the first axis, most of both, least of the first."""
        right, far = self.x + self.width, self.y + self.height
        return (self.x, self.y), (right, self.y), (right, far), (self.x, far)

    @property
    def diagonal(self) -> float:
        return math.hypot(self.width, self.height)


def largest(first: Axis, second: Axis, instrument: Instrument) -> Rectangle | None:
    """As large as travel and instrument allow, whole millimetres, in the middle of the travel; None without any room."""
    sides, starts = [], []
    for axis in (first, second):
        low, high = float(axis.number("travel.low")) + 2 * ASIDE, float(axis.number("travel.high")) - ASIDE
        sides.append(high - low)
        starts.append(low)
    if min(sides) < LEAST:
        return None
    share = min(1.0, 0.995 * instrument.reach / math.hypot(*sides))
    width, height = (float(math.floor(side * share)) for side in sides)
    if min(width, height) < LEAST:
        return None
    return Rectangle(starts[0] + (sides[0] - width) / 2, starts[1] + (sides[1] - height) / 2, width, height)


def refusal(place: Rectangle, first: Axis, second: Axis, instrument: Instrument) -> str:
    """Why a rectangle cannot be measured, or an empty text."""
    for axis, least, side in ((first, place.x, place.width), (second, place.y, place.height)):
        reads = axis.reads
        low, high = float(axis.number("travel.low")), float(axis.number("travel.high"))
        if side < LEAST:
            return (
                f"{axis.name}: a side of {reads.length(side, 1)} tells nothing. Take {reads.length(LEAST, 0)} or more."
            )
        if least - ASIDE < low or least + side > high:
            return (
                f"{axis.name}: {reads.range(least, least + side, 1)} with {reads.length(ASIDE, 0)} to come from does not fit "
                f"into its travel, {reads.range(low, high, 1)}."
            )
    if place.diagonal > instrument.reach:
        reads = first.reads
        return (
            f"The diagonal is {reads.length(place.diagonal, 0)}, and the {instrument.words(reads)} reaches "
            f"{reads.length(instrument.reach, 0)}. Take a smaller rectangle or another instrument."
        )
    return ""


def reading_standard(instrument: Instrument, times: int) -> float:
    """Standard uncertainty of a length between two marks that was read so often, in mm."""
    division, hand = instrument.resolution**2 / 12, (HAND * instrument.resolution) ** 2
    return math.sqrt(2 * division + 2 * hand / times + 2 * MARK**2)


def can_prove(place: Rectangle, instrument: Instrument, times: int = 1) -> float:
    """The least angle, in mm per m, that this can tell from a right one."""
    return (
        1000
        * COVERAGE
        * math.sqrt(2)
        * place.diagonal
        * reading_standard(instrument, times)
        / (2 * place.width * place.height)
    )


def fitting(first: Axis, second: Axis, instruments: Sequence[Instrument], tolerance: float) -> Instrument:
    """The coarsest that could prove the tolerance (mm per m) with half of it really off; else that which tells most."""
    told = {}
    for item in instruments:
        if (place := largest(first, second, item)) is not None:
            told[item] = can_prove(place, item)
    able = [item for item, least in told.items() if least <= tolerance / 2]
    if able:
        return max(able, key=lambda item: item.resolution)
    return min(told, key=lambda item: told[item], default=instruments[0])


def able_for(
    first: Axis, second: Axis, held: Instrument, place: Rectangle, instruments: Sequence[Instrument], tolerance: float
) -> str:
    """What would prove the tolerance (mm per m), where what is held does not; else an empty text."""
    if can_prove(place, held) < tolerance:
        return ""
    better = fitting(first, second, instruments, tolerance)
    room = largest(first, second, better)
    if room is not None and better != held and can_prove(room, better) < tolerance:
        return f"For {tolerance:g} take a {better.words(first.reads)}."
    if room is not None and better == held and can_prove(room, better) < tolerance:
        return f"For {tolerance:g} take a larger rectangle."
    return f"For {tolerance:g} take a square and a dial."


@dataclass(frozen=True)
class Squareness:
    """angle: mm per m, + where + of the second axis leans towards + of the first. scale: how much longer than told the
    diagonals are, in parts of a thousand. Both with their standard uncertainties."""

    angle: float
    standard: float
    scale: float
    scale_standard: float

    @property
    def expanded(self) -> float:
        return COVERAGE * self.standard


def squareness(
    place: Rectangle, rising: Sequence[float], falling: Sequence[float], instrument: Instrument
) -> Squareness | None:
    """rising: readings in mm of the diagonal from the first corner; falling: of the other one. None where one is missing, or
    where no machine could have made them."""
    if not (rising and falling):
        return None
    p, q = sum(rising) / len(rising), sum(falling) / len(falling)
    w, h = place.width, place.height
    sine = (p * p - q * q) / (4 * w * h)
    if not abs(sine) < 0.5:
        return None
    both = math.sqrt(p * p + q * q)
    us = [reading_standard(instrument, len(each)) for each in (rising, falling)]
    angle = math.sqrt((p * us[0]) ** 2 + (q * us[1]) ** 2) / (2 * w * h) / math.sqrt(1 - sine * sine)
    scale = both / math.sqrt(2) / place.diagonal
    return Squareness(1000 * math.asin(sine), 1000 * angle, 1000 * (scale - 1), 1000 * scale * math.hypot(*us) / both)


class SquareVerdict(Enum):
    """key and what it means."""

    NOTHING = ("nothing", "not measured yet")
    PROVEN = ("proven", "square within what is wanted")
    OFF = ("off", "out of square, and certainly so")
    SCALE = ("scale", "the marks do not lie where they were told to")
    COARSE = ("coarse", "cannot be told with this")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


WRONG_SCALE = 5.0  # parts of a thousand: diagonals as wrong as this are no matter of an angle


def verdict(found: Squareness | None, tolerance: float) -> SquareVerdict:
    """tolerance: mm per m. Proven only when the whole interval lies within it."""
    if found is None:
        return SquareVerdict.NOTHING
    if abs(found.scale) - COVERAGE * found.scale_standard > WRONG_SCALE:
        return SquareVerdict.SCALE
    if abs(found.angle) + found.expanded <= tolerance:
        return SquareVerdict.PROVEN
    return SquareVerdict.OFF if abs(found.angle) > found.expanded else SquareVerdict.COARSE


def beam_of(machine: Machine, first: int, second: int) -> int | None:
    """Which of two axes has two motors with a switch each, whose offset turns the beam; None where neither has."""
    return next((slot for slot in (second, first) if two_sides(machine, machine.axis(slot))), None)


def squaring(machine: Machine, beam: int, found: Squareness, across: float) -> dict[Address, Value]:
    """The squaring offset of a beam with which the axes stand at right angles.

    across: mm from the side of the first motor to that of the second, + where that lies towards + of the other axis. Where the
    second side goes on by d, the beam turns by d / across, and both axes lean so much more towards each other: for a beam that
    carries X along Y, X goes along (1, d / across) and sin a = d / across; for one that carries Y along X, Y goes along
    (d / across, 1), with the same angle. So a vanishes where d is less by a · across.
    """
    told = float(machine.axis(beam).number("homing.squaring"))
    offset = told - math.sin(found.angle / 1000) * across
    return {Address(beam, "homing.squaring"): Fraction(round(offset * 1000), 1000)}


def figures(found: Squareness) -> str:
    """The angle in words, in both ways in which it is said."""
    degrees = math.degrees(found.angle / 1000)
    return f"{round(found.angle, 2) + 0.0:+.2f} mm per m ± {found.expanded:.2f} ({90 - degrees:.3f}°)".replace(
        "-", "\u2212"
    )


def sentence(
    first: Axis,
    second: Axis,
    found: Squareness | None,
    place: Rectangle,
    tolerance: float,
    beam: Axis | None = None,
    further: float | None = None,
    part: Part = Part.WAYS,
) -> str:
    """What was found, and what is to be moved by how much.

    beam: the axis whose beam has two motors; further: by how many mm its second side is to go on to +, where that is known.
    part: what is turned with a spanner where there is none.
    """
    said = verdict(found, tolerance)
    if found is None:
        return ""
    reads: Measures = first.reads
    match said:
        case SquareVerdict.PROVEN:
            return f"The angle lies within {tolerance:g} mm per m."
        case SquareVerdict.SCALE:
            return (
                f"Both diagonals are {abs(found.scale):.1f} parts of a thousand too {'long' if found.scale > 0 else 'short'}. "
                "That is no angle: prove the scale of both axes first, or look whether a mark slipped."
            )
        case SquareVerdict.COARSE:
            why = not_told(found.expanded, tolerance, f"{found.expanded:.2f} mm per m", f"{tolerance:g}")
            return f"{why} Take a larger rectangle or a finer instrument."
    if beam is not None:
        if further is None:
            return "Tell where the second side of the beam stands: then the squaring offset that mends it follows."
        sign = "+" if further > 0 else "\u2212"
        return (
            f"The second side of the beam of {beam.name} is to go on {reads.length(abs(further), 2)} to {sign} after its "
            "switch. Set the squaring offset, send it, home, and measure again."
        )
    return spanner(part, first, second, found.angle, place.width, place.height)
