"""Runout of an axis that turns work: how far what it holds stands beside its middle, and where, by a dial at four angles.

Model. A dial stands still against a bar that the axis holds. At the angle θ it says
    r(θ) = m + e cos(θ − φ),
e being how far the bar stands beside the middle, φ the angle at which it stands nearest to the dial, + towards it. From 0°,
90°, 180° and 270°:
    x = (r₀ − r₁₈₀)/2,   y = (r₉₀ − r₂₇₀)/2,   e = √(x² + y²),   φ = atan2(y, x),   u(x) = u(y) = u(e) = u/√2.
A round bar has r₀ + r₁₈₀ = r₉₀ + r₂₇₀; by how much they differ is the shape of the bar, or a dial that has slipped. 0° is read
again at the end. u is one reading's: its division evenly spread, the hand, and the dial's lag (GUM, 4.3.7).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

from ..machine import Axis
from ..mechanics.scale import COVERAGE, Instrument
from ..values.measures import Measures
from . import not_told

FEELER = 0.1  # mm: a gauge that is slipped in, to see that the dial stands on the bar
ANGLES = (0.0, 90.0, 180.0, 270.0)  # °


@dataclass(frozen=True)
class Runout:
    """off: e in mm; toward: φ in °, 0 to 360; shape: mm by which the bar is out of round, as far as four readings tell; span:
    from the least to the most that was read, mm."""

    off: float
    toward: float
    shape: float
    reading: float
    span: float

    @property
    def total(self) -> float:
        """What the dial goes to and fro in a turn, mm."""
        return 2 * self.off

    @property
    def expanded(self) -> float:
        """Of `total`, mm."""
        return COVERAGE * math.sqrt(2) * self.reading


def one_reading(dial: Instrument) -> float:
    """Standard uncertainty, mm."""
    return math.hypot(dial.reading, dial.lag / math.sqrt(12))


def runout(values: Sequence[float], dial: Instrument) -> Runout:
    """values: what the dial said in mm at ANGLES. Raises ValueError where there are not four."""
    if len(values) != len(ANGLES):
        raise ValueError(f"{len(values)} readings, not {len(ANGLES)}")
    x, y = (values[0] - values[2]) / 2, (values[1] - values[3]) / 2
    shape = abs(values[0] + values[2] - values[1] - values[3]) / 2
    return Runout(
        math.hypot(x, y), math.degrees(math.atan2(y, x)) % 360, shape, one_reading(dial), max(values) - min(values)
    )


def slipped(first: float, again: float, dial: Instrument) -> bool:
    """Whether the dial does not come back to what it said at 0°."""
    return abs(again - first) > COVERAGE * math.sqrt(2) * one_reading(dial) + dial.resolution


def follows(said: float) -> str:
    """Why a dial that says so much, in mm, with a gauge of FEELER slipped in does not show the bar; or an empty text."""
    if abs(said - FEELER) <= FEELER / 4:
        return ""
    if abs(said + FEELER) <= FEELER / 4:
        return "its sign is turned round: + is towards the dial"
    return "it does not stand against the bar"


class RunoutVerdict(Enum):
    """key and what it means."""

    NOTHING = ("nothing", "not measured yet")
    PROVEN = ("proven", "turns as true as is wanted")
    OFF = ("off", "stands beside its middle")
    SHAPE = ("shape", "what it holds is not round")
    COARSE = ("coarse", "cannot be told with this")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


def verdict(found: Runout | None, tolerance: float) -> RunoutVerdict:
    """tolerance: mm that the dial may go to and fro. Proven only where the whole interval lies within it."""
    if found is None:
        return RunoutVerdict.NOTHING
    if found.shape > found.expanded and found.shape > found.off / 2:
        return RunoutVerdict.SHAPE
    if max(found.total, found.span) + found.expanded <= tolerance:  # what was read counts too, and not the fit alone
        return RunoutVerdict.PROVEN
    return RunoutVerdict.OFF if found.total - found.expanded > tolerance else RunoutVerdict.COARSE


def figures(found: Runout, reads: Measures) -> str:
    """What was found, in words. reads: of a length."""
    return (
        f"{reads.length(found.total, 3)} to and fro ± {reads.length(found.expanded, 3)}, the bar nearest to the dial at "
        f"{found.toward:.0f}°; out of round by {reads.length(found.shape, 3)}"
    )


def sentence(axis: Axis, found: Runout, reads: Measures, tolerance: float) -> str:
    """What is to be done about it."""
    wanted = reads.length(tolerance, 3, trim=True)
    match verdict(found, tolerance):
        case RunoutVerdict.PROVEN:
            return f"In a turn the dial stays within {wanted}."
        case RunoutVerdict.OFF:
            return (
                f"Turn {axis.name} to {found.toward:.0f}° and push the bar away from the dial by {reads.length(found.off, 3)}; "
                "then measure again."
            )
        case RunoutVerdict.SHAPE:
            return "Four readings of a round bar fit together; these do not. Take a bar that was turned or ground."
    why = not_told(found.expanded, tolerance, reads.length(found.expanded, 3), wanted)
    return f"{why} Take a finer dial, or want less."


def can_prove(dial: Instrument) -> float:
    """The least travel of the dial in mm that can be told from none."""
    return COVERAGE * math.sqrt(2) * one_reading(dial)
