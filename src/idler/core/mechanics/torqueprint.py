"""Torque print of an axis: what share of its torque its motor gives at each place of a slow travel, to + and to −.

What both ways take is friction; what one way takes more than the other is a weight, a spring or a slope. A place that takes
much more than most is tight. Readings are sizes (6077h without its sign), shares of the rated torque.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby
from statistics import median

from ..values.measures import Measures

BINS = 48
FEWEST = 12  # places that are read each way at least
TIGHT, MORE = 1.5, 0.04  # times what is usual, and the share above it, from which on a place is tight
HEAVY = 0.5  # share of its torque that a slow travel should never take
UNLIKE = 0.05  # share by which the ways differ
GROWN = 1.25  # times as much as before
NOT_TOLD = 0.002  # share: a motor that moves gives more

Reading = tuple[float, float]  # place in mm (°), share


@dataclass(frozen=True)
class TorquePrint:
    """when: s since 1970. speed: mm/min (°/min). up, down: the share in each part between low and high, from low on, on the
    way to + and to −; None where nothing was read."""

    when: float
    speed: float
    low: float
    high: float
    up: tuple[float | None, ...]
    down: tuple[float | None, ...]

    def place(self, number: int) -> float:
        """The middle of a part."""
        return self.low + (number + 0.5) * (self.high - self.low) / len(self.up)

    @property
    def told(self) -> bool:
        """Whether enough was read both ways, and the motor tells its torque at all."""
        return all(len(_known(way)) >= FEWEST and median(_known(way)) > NOT_TOLD for way in (self.up, self.down))

    @property
    def usual(self) -> tuple[float, float]:
        """What most places take, to + and to −."""
        return median(_known(self.up)), median(_known(self.down))


@dataclass(frozen=True)
class TightSpot:
    """Places from first to last that take much more than most. way: 1 to +, −1 to −. most: the largest share there."""

    first: float
    last: float
    way: int
    most: float


def printed(
    up: Sequence[Reading], down: Sequence[Reading], low: float, high: float, speed: float, when: float
) -> TorquePrint:
    """From readings of both ways; in each part the one in the middle."""
    return TorquePrint(when, speed, low, high, _parts(up, low, high), _parts(down, low, high))


def tight_spots(found: TorquePrint) -> list[TightSpot]:
    """In the order of their places, to + first. None where the print is not told."""
    if not found.told:
        return []
    spots = []
    for sign, shares, usual in ((1, found.up, found.usual[0]), (-1, found.down, found.usual[1])):
        over = [each is not None and each > max(TIGHT * usual, usual + MORE) for each in shares]
        for tight, group in groupby(enumerate(over), key=lambda item: item[1]):
            numbers = [number for number, _ in group]
            if tight:
                most = max(shares[number] or 0.0 for number in numbers)
                spots.append(TightSpot(found.place(numbers[0]), found.place(numbers[-1]), sign, most))
    return spots


def holds(found: TorquePrint) -> bool:
    """Whether it moves freely: told, nowhere tight, and never more than half of its torque."""
    return found.told and not tight_spots(found) and max(found.usual) <= HEAVY


def grown(now: TorquePrint, before: TorquePrint) -> float:
    """Times as much as before, by the middle of the places that both have; 1 where they have too few in common."""
    ratios = []
    for number in range(len(now.up)):
        there = before_at(before, now.place(number))
        for share, was in zip((now.up[number], now.down[number]), there, strict=True):
            if share is not None and was is not None and was > NOT_TOLD:
                ratios.append(share / was)
    return median(ratios) if len(ratios) >= FEWEST else 1.0


def before_at(found: TorquePrint, place: float) -> tuple[float | None, float | None]:
    """What a print has at a place, to + and to −."""
    number = int((place - found.low) / (found.high - found.low) * len(found.up)) if found.high > found.low else -1
    return (found.up[number], found.down[number]) if 0 <= number < len(found.up) else (None, None)


def print_words(name: str, reads: Measures, found: TorquePrint, before: TorquePrint | None, date: str) -> str:
    """What a print says. before: the one that it is laid over, of that date; None where it is the first."""
    if not found.told:
        return f"{name}: too little was read. Its drive may not tell its torque (6077h), or it went too fast."
    return " ".join(_sentences(name, reads, found, before, date))


def _sentences(name: str, reads: Measures, found: TorquePrint, before: TorquePrint | None, date: str) -> Iterator[str]:
    up, down = found.usual
    yield f"{name} takes {100 * up:.0f} % of its torque to + and {100 * down:.0f} % to −, slowly."
    if max(up, down) > HEAVY:
        yield "That is more than half: something binds all along, or the motor is too small."
    if abs(up - down) > UNLIKE:
        yield f"It takes {100 * abs(up - down):.0f} % more to {'+' if up > down else '−'}: a weight, a spring or a slope."
    spots = tight_spots(found)
    for spot in spots[:3]:
        there = reads.length(spot.first, 0)
        where = there if spot.first == spot.last else f"{there} to {reads.length(spot.last, 0)}"
        yield f"Tight at {where}, to {'+' if spot.way > 0 else '−'}: up to {100 * spot.most:.0f} %."
    if len(spots) > 3:
        yield f"And {len(spots) - 3} places more."
    if not spots:
        yield "Nowhere is it tight."
    if before is not None and before.told:
        times = grown(found, before)
        if times >= GROWN:
            yield f"It takes {100 * (times - 1):.0f} % more than on {date}: look at its ways, their oil, and the screw."
        elif times <= 1 / GROWN:
            yield f"It takes {100 * (1 - times):.0f} % less than on {date}."
        else:
            yield f"As on {date}."


def _known(shares: Sequence[float | None]) -> list[float]:
    return [each for each in shares if each is not None]


def _parts(readings: Sequence[Reading], low: float, high: float) -> tuple[float | None, ...]:
    parts: list[list[float]] = [[] for _ in range(BINS)]
    for place, share in readings:
        if low <= place <= high and high > low:
            parts[min(BINS - 1, int((place - low) / (high - low) * BINS))].append(share)
    return tuple(round(median(part), 4) if part else None for part in parts)
