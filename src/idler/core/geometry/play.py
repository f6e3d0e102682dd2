"""Play: how far the moved part stays behind when its axis turns round, by a dial that stands against it.

Model. One place is told n times from below and n times from above. From below the nut pushes the part and it stands b/2 short
of the place; from above b/2 beyond it. The dial's own train has play as well and lags by up to h at a reversal, in the same
sense. With the means m₊ (from above) and m₋ (from below) of what the dial says, + being + of the axis,
    m₊ − m₋ = b + lag,   lag somewhere in 0 … h,   so   b = m₊ − m₋ − h/2.
Each mean carries a count c of the axis (evenly spread, c²/12, which repeating does not lessen) and either the division d
likewise or the scatter s of its readings, whichever is more: readings that scatter by more than the division hold its share in
their scatter already, and those that do not scatter all have the same one (GUM, F.2.2.1). The lag is evenly spread over h
(4.3.7):
    u²(b) = 2 c²/12 + max(2 d²/12, s² (1/n₋ + 1/n₊)) + h²/12.
s is pooled over all places and sides, and never taken for less than a hand can repeat. Expanded uncertainties are twice u.

What the controller takes up already is not seen: b is what is left.

On an axis that turns the dial stands square against an arm, at the radius r from its middle. A way s of the dial is an angle of
s / r, in radians; over the degree or two of a measurement that is s itself to a few parts of ten thousand. So the same model
holds in °, with a division and a lag of the dial that are so many ° each.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import Enum
from fractions import Fraction

from ..machine import Address, Axis, Machine
from ..mechanics.scale import COVERAGE, HAND, Instrument
from ..values.measures import Measures
from ..values.parameter import Value
from . import not_told

BACKLASH = "play.backlash"  # what the controller takes up
WORTH_TAKING_UP = Fraction(1, 10)  # mm or °: more play than this is a matter for a spanner
TURN_ROUND = 2.0  # mm: how far the axis goes away before it comes again; further than any play that could be taken up
FOLLOWS = 1.0  # mm that the axis goes down first, to see that the dial follows it
TURN = (0.0, 360.0)
PLACES = 3  # of the travel: both ends of it and its middle, where a screw wears most


@dataclass(frozen=True)
class DialReading:
    """What the dial said in mm, + as the axis counts, when `at` (mm) was reached by going up (way 1) or down (-1)."""

    at: float
    way: int
    value: float


@dataclass(frozen=True)
class PlayAt:
    """The play that is left at one place, with its standard uncertainty, in mm."""

    at: float
    play: float
    standard: float

    @property
    def expanded(self) -> float:
        return COVERAGE * self.standard


LEAST_RADIUS = 10.0  # mm: nearer to the middle a dial tells nothing
USUAL_RADIUS = 50.0  # mm, until it is told


def at_radius(dial: Instrument, radius: float) -> Instrument:
    """A dial against an arm, in ° of the axis that turns it. radius: mm."""

    def turned(way: float) -> float:
        return math.degrees(way / radius)

    return replace(
        dial, resolution=turned(dial.resolution), lag=turned(dial.lag), reach=turned(dial.reach), rotary=True
    )


def most_radius(dial: Instrument) -> float:
    """mm: further out the dial cannot follow TURN_ROUND."""
    return math.floor(dial.reach / math.radians(TURN_ROUND))


def follows(said: float) -> str:
    """Why a dial that says so much, in mm (°), after its axis went FOLLOWS down does not show the axis; or an empty text."""
    if abs(said + FOLLOWS) <= FOLLOWS / 4:
        return ""
    if abs(said - FOLLOWS) <= FOLLOWS / 4:
        return "its sign is turned round: + is to be the way to + of the axis"
    return "it does not follow the axis: set it against the part that moves, along the way that it goes"


def travel(axis: Axis) -> tuple[float, float]:
    """Its ends in mm (°); a whole turn of what begins again, or turns and has no ends."""
    low, high = float(axis.number("travel.low")), float(axis.number("travel.high"))
    return TURN if axis.wraps or (axis.rotary and low >= high) else (low, high)


def places(axis: Axis) -> tuple[float, ...]:
    """Where to measure, in mm (°): as far out as an axis may go and still turn round inside of its soft limits; round about
    where it has none. Empty where its travel leaves no room."""
    low, high = travel(axis)
    if (low, high) == TURN:
        return tuple(360.0 * (k + 0.25) / PLACES for k in range(PLACES))
    first, last = low + 2 * TURN_ROUND, high - 2 * TURN_ROUND
    if last <= first:
        return ()
    return tuple(first + (last - first) * k / (PLACES - 1) for k in range(PLACES))


def _scatter(readings: Sequence[DialReading], dial: Instrument) -> float:
    """The standard deviation of one reading, pooled over places and sides."""
    groups: dict[tuple[float, int], list[float]] = {}
    for each in readings:
        groups.setdefault((each.at, each.way), []).append(each.value)
    squares, free = 0.0, 0
    for values in groups.values():
        mean = sum(values) / len(values)
        squares += sum((value - mean) ** 2 for value in values)
        free += len(values) - 1
    return max(HAND * dial.resolution, math.sqrt(squares / free) if free else 0.0)


def _standard(dial: Instrument, count: float, spread: float) -> float:
    """Of a play whose two means scatter by so much, squared and together."""
    return math.sqrt(max(2 * dial.resolution**2 / 12, spread) + (2 * count**2 + dial.lag**2) / 12)


def plays(readings: Sequence[DialReading], dial: Instrument, count: float) -> list[PlayAt]:
    """The play at each place that was reached from both sides, in the order of the places. count: mm of one count."""
    scatter, found = _scatter(readings, dial), []
    for at in sorted({each.at for each in readings}):
        sides = {way: [r.value for r in readings if r.at == at and r.way == way] for way in (-1, 1)}
        if not all(sides.values()):
            continue
        up, down = sides[1], sides[-1]
        play = sum(down) / len(down) - sum(up) / len(up) - dial.lag / 2
        found.append(PlayAt(at, play, _standard(dial, count, scatter**2 * (1 / len(up) + 1 / len(down)))))
    return found


def pairs(readings: Sequence[DialReading], dial: Instrument) -> list[tuple[float, float]]:
    """What each reading from above says together with the one from below before it: place and play, in mm."""
    found: list[tuple[float, float]] = []
    below: DialReading | None = None
    for each in readings:
        if each.way > 0:
            below = each
        elif below is not None and below.at == each.at:
            found.append((each.at, each.value - below.value - dial.lag / 2))
    return found


class PlayVerdict(Enum):
    """key and what it means."""

    NOTHING = ("nothing", "not measured yet")
    PROVEN = ("proven", "no more than is wanted, all along")
    TAKE_UP = ("take up", "more than is wanted; the controller can take it up")
    MORE = ("more", "more than is wanted, and nothing here takes it up")
    LARGE = ("large", "too much to be taken up")
    UNEVEN = ("uneven", "too uneven to be taken up")
    COARSE = ("coarse", "cannot be told with this")

    def __init__(self, key: str, words: str) -> None:
        self.key = key
        self.words = words


def _bounds(found: Sequence[PlayAt]) -> tuple[PlayAt, PlayAt]:
    return min(found, key=lambda each: each.play), max(found, key=lambda each: each.play)


def verdict(found: Sequence[PlayAt], told: float, tolerance: float, *, takes_up: bool = True) -> PlayVerdict:
    """told: the backlash that the controller takes up already; tolerance: what may be left, both in mm. takes_up: whether it
    can take up play at all.

    Proven only where the whole interval lies within the tolerance at every place, and there are PLACES of them.
    """
    if len(found) < PLACES:
        return PlayVerdict.NOTHING
    if all(abs(each.play) + each.expanded <= tolerance for each in found):
        return PlayVerdict.PROVEN
    least, most = _bounds(found)
    if told + least.play - least.expanded > float(WORTH_TAKING_UP):
        return PlayVerdict.LARGE
    half, sure = (most.play - least.play) / 2, COVERAGE / 2 * math.hypot(least.standard, most.standard)
    if half > tolerance + sure:
        return PlayVerdict.UNEVEN
    if not takes_up:
        return PlayVerdict.MORE if most.play - most.expanded > tolerance else PlayVerdict.COARSE
    better = abs(_taken_up(found, told) - told)  # what would not be better by more than is known is not worth a try
    return PlayVerdict.TAKE_UP if better > sure else PlayVerdict.COARSE


def _taken_up(found: Sequence[PlayAt], told: float) -> float:
    """The backlash with which as much is left at the loosest place as is too much at the tightest, on the table's grid."""
    least, most = _bounds(found)
    return max(0.0, round(told + (least.play + most.play) / 2, 3))


def edit(machine: Machine, slot: int, found: Sequence[PlayAt], told: float) -> dict[Address, Value]:
    """The backlash that the controller is to take up."""
    return {Address(slot, BACKLASH): Fraction(round(_taken_up(found, told) * 1000), 1000)}


def can_prove(dial: Instrument, count: float, times: int) -> float:
    """The least play, in mm, that so many readings from each side can tell from none."""
    return COVERAGE * _standard(dial, count, 2 * (HAND * dial.resolution) ** 2 / times)


def figures(found: Sequence[PlayAt], reads: Measures) -> str:
    """The play at each place in words."""
    parts = [f"{reads.length(each.play, 3)} at {reads.length(each.at, 0, trim=True)}" for each in found]
    widest = max((each.expanded for each in found), default=0.0)
    return f"{', '.join(parts)}, each ± {reads.length(widest, 3)}" if parts else ""


def sentence(axis: Axis, found: Sequence[PlayAt], told: float, tolerance: float, *, takes_up: bool = True) -> str:
    """What was found, and what is to be done. takes_up: whether the controller can take up play at all."""
    reads, said = axis.reads, verdict(found, told, tolerance, takes_up=takes_up)
    wanted = reads.length(tolerance, 3, trim=True)
    if said is PlayVerdict.NOTHING:
        return f"{len(found)} of {PLACES} places are measured from both sides." if found else ""
    least, most = _bounds(found)
    match said:
        case PlayVerdict.PROVEN:
            return f"What is left lies within {wanted} everywhere."
        case PlayVerdict.MORE:
            return (
                f"It has up to {reads.length(most.play, 3)}, and plain drives take up none. Adjust the nut, or be content with "
                f"more than {wanted}."
            )
        case PlayVerdict.TAKE_UP:
            value = _taken_up(found, told)
            left = reads.length((most.play - least.play) / 2, 3)
            return (
                f"With {reads.length(value, 3)} taken up, {left} more or less would be left between the places. Take it up, "
                "send it, and measure again."
            )
        case PlayVerdict.LARGE:
            return (
                f"Even the tightest place has {reads.length(told + least.play, 3)}. Above {reads.length(WORTH_TAKING_UP, 2)} "
                "the cutter pushes the part about inside the play, which no controller sees. Adjust the nut first."
            )
        case PlayVerdict.UNEVEN:
            return (
                f"It is {reads.length(most.play - least.play, 3)} more at {reads.length(most.at, 0, trim=True)} than at "
                f"{reads.length(least.at, 0, trim=True)}: no one figure takes it up. The screw is worn there, or its nut is "
                "loose; mend that first."
            )
    known = max(each.expanded for each in found)
    return f"{not_told(known, tolerance, reads.length(known, 3), wanted)} Read more often, or take a finer dial."
