"""The curve of a spindle from what was measured: level in % against speed in rpm, up and down.

Fit: the means of up and down at each level, made monotone by isotonic regression (least squares under "does not fall"), are
the curve; half of the difference between up and down is what no correction can take away. Between measured levels a monotone
cubic (PCHIP) is drawn. The correction is the inverse of that curve at the measured levels, as points with straight lines.

With n levels a fraction h = 1/n of the travel apart and a curve of second derivative c, straight lines are off by up to
c·h²/8: sixteen levels of a curve bent by a tenth of its top (c = 0.2) leave 0.01 % of the top. They lie closer where
it is slow, for it is the share of each speed that counts.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from ..values.points import Point
from ..values.speedpoints import MOST_POINTS
from . import Range, allowed_error

RUNS = 0.004  # share of the highest speed measured from which on the spindle is said to turn
FULL = 0.996  # share at which it is said to be at its end
_FIRST = (0.0, 4.0, 7.5, 10.5, 14.0, 18.0, 23.0, 29.0, 36.0, 44.0, 53.0, 63.0, 75.0, 86.0, 93.0, 97.0, 100.0)
_BY_HAND = (0.0, 6.0, 12.0, 20.0, 32.0, 48.0, 66.0, 84.0, 94.0, 100.0)  # fewer, where each is read by hand
_CLOSE = 1.0  # %: an edge is looked for no closer
SAME_TOP = 0.04  # share by which two top speeds may differ and be taken for the same
LITTLE = 0.1  # share by which a speed may be off where the curve is the told one, and only its lines are too long
_WORTH = 3  # levels that run, below which there is no curve


@dataclass(frozen=True)
class Sample:
    """One measured speed: level in %, whether it was reached from below, rpm at the spindle without sign."""

    level: float
    rising: bool
    rpm: float


@dataclass(frozen=True)
class Curve:
    """levels and speeds: the fitted curve, strictly rising where it runs. dead, full: levels in % at its ends; rpm otherwise.

    play: the largest difference between reached from above and from below.
    """

    levels: tuple[float, ...]
    speeds: tuple[float, ...]
    dead: float
    full: float
    top: float
    play: float

    def at(self, level: float) -> float:
        """Speed at a level in %, by the monotone cubic; nothing below the dead band."""
        return self.along((level,))[0]

    def along(self, levels: Sequence[float]) -> list[float]:
        """Speeds at many levels at once."""
        wanted = np.asarray(levels, float)
        between = self._between(np.clip(wanted, self.dead, self.full))
        speeds = np.where(wanted <= self.dead, 0.0, np.where(wanted >= self.full, self.top, between))
        return [float(rpm) for rpm in speeds]

    @cached_property
    def _between(self) -> Any:
        """The monotone cubic through the ends and what was measured; made when it is first asked for."""
        from scipy.interpolate import PchipInterpolator

        levels, speeds = [*self.levels], [*self.speeds]
        if self.dead < levels[0]:
            levels, speeds = [self.dead, *levels], [0.0, *speeds]
        if self.full > levels[-1]:
            levels, speeds = [*levels, self.full], [*speeds, self.top]
        return PchipInterpolator(np.array(levels), np.array(speeds))

    @property
    def points(self) -> tuple[Point, ...]:
        """The correction: at most 16 points."""
        found = [*zip(self.levels, self.speeds, strict=True)]
        while len(found) > MOST_POINTS:  # the one goes that a line misses least of what is allowed
            bends = [
                abs(b[1] - (a[1] + (c[1] - a[1]) * (b[0] - a[0]) / (c[0] - a[0]))) / allowed_error(b[1])
                for a, b, c in zip(found, found[1:], found[2:], strict=False)
            ]
            del found[bends.index(min(bends)) + 1]
        return tuple((round(level, 2), round(rpm, 1)) for level, rpm in found)


def first_levels(*, by_hand: bool = False) -> tuple[float, ...]:
    """Levels of the first sweep, upwards; where no hand reads each of them, it is gone through downwards as well."""
    return _BY_HAND if by_hand else _FIRST


def levels_near(levels: Sequence[float], found: Range, missed: Sequence[Miss]) -> tuple[float, ...]:
    """The levels of a sweep, in %, and with them those at which a speed was off by little: there a straight line between two
    of them is too far from the curve, which the same levels would say again and again."""
    wanted = tuple(levels)
    for miss in missed:
        level = round(found.level(miss.asked), 1)
        if (
            miss.share > 1
            and abs(miss.error) < LITTLE * miss.asked
            and all(abs(level - each) > _CLOSE / 2 for each in wanted)
        ):
            wanted = (*wanted, level)
    return tuple(sorted(wanted))


def next_level(samples: Sequence[Sample]) -> float | None:
    """A level in the middle of the gap in which the curve begins, or ends; None where both are known closely enough."""
    rising = sorted({sample.level: sample.rpm for sample in samples if sample.rising}.items())
    if not rising:
        return None
    top = max(rpm for _, rpm in rising)
    if top <= 0:
        return None
    for share in (RUNS, FULL):
        below = max((level for level, rpm in rising if rpm < share * top), default=0.0)
        above = min((level for level, rpm in rising if rpm >= share * top), default=100.0)
        if above - below > _CLOSE:
            return round((below + above) / 2, 1)
    return None


def fit(samples: Sequence[Sample]) -> Curve | None:
    """The curve through what was measured; None where too few levels turn the spindle."""
    from scipy.optimize import isotonic_regression

    levels = sorted({sample.level for sample in samples})
    if not samples or len(levels) < _WORTH:
        return None
    up = {sample.level: sample.rpm for sample in samples if sample.rising}
    down = {sample.level: sample.rpm for sample in samples if not sample.rising}
    means = [float(np.mean([way[level] for way in (up, down) if level in way])) for level in levels]
    smooth = [float(rpm) for rpm in isotonic_regression(np.array(means)).x]
    top = smooth[-1]
    running = [(level, rpm) for level, rpm in zip(levels, smooth, strict=True) if rpm > RUNS * top]
    if top <= 0 or len(running) < _WORTH:
        return None
    rising = [running[0]]
    for level, rpm in running[1:]:
        if rpm > rising[-1][1] + 1e-9 and rising[-1][1] < FULL * top:
            rising.append((level, rpm))
    if len(rising) < _WORTH:
        return None
    (first, slow), (second, fast) = rising[0], rising[1]
    still = max((level for level, rpm in zip(levels, smooth, strict=True) if rpm <= RUNS * top), default=0.0)
    dead = max(still, first - slow * (second - first) / (fast - slow), 0.0)
    full = _end(rising, top)
    both = [abs(up[level] - down[level]) for level in up.keys() & down.keys()]
    return Curve(
        tuple(level for level, _ in rising), tuple(rpm for _, rpm in rising), min(dead, first), full, top,
        max(both, default=0.0),
    )  # fmt: skip


def _end(rising: Sequence[Point], top: float) -> float:
    """Where the curve comes to its top: on the line through the last two levels below it."""
    below = [point for point in rising if point[1] < FULL * top][-2:]
    if len(below) < 2:
        return rising[-1][0]
    (low, slow), (high, fast) = below
    reached = high + (top - fast) * (high - low) / (fast - slow)
    return min(max(reached, high), max(rising[-1][0], high))


@dataclass(frozen=True)
class Miss:
    """A commanded speed and how far off the spindle is, in rpm. above: whether it came from the highest one."""

    asked: float
    error: float
    above: bool = False

    @property
    def share(self) -> float:
        """Of what is allowed: above 1 it is too much."""
        return abs(self.error) / allowed_error(self.asked)


def speeds_to_try(found: Range, curve: Curve | None = None, count: int = 8) -> tuple[float, ...]:
    """Speeds over a range, evenly in ratio, for it is the share of each that counts; none that cannot be reached."""
    high = min(found.high, curve.top) if curve is not None else found.high
    low = min(max(found.low, curve.speeds[0] if curve is not None else 0.0, high / 50), high)
    return tuple(round(float(rpm)) for rpm in np.geomspace(low, high, count))


def level_play(found: Sequence[Miss]) -> float:
    """rpm by which a speed differs from above and from below: the play of a level, which no curve takes up. 0 where none was
    tried both ways."""
    up = {miss.asked: miss.error for miss in found if not miss.above}
    return max((abs(miss.error - up[miss.asked]) for miss in found if miss.above and miss.asked in up), default=0.0)


def misses(curve: Curve, by: Sequence[Point], speeds: Sequence[float]) -> tuple[Miss, ...]:
    """What commanded speeds would come to on a measured curve, with the points that the controller goes by."""
    from ..values.speedpoints import level_for

    came = curve.along([level_for(by, speed) for speed in speeds])
    return tuple(Miss(speed, rpm - speed) for speed, rpm in zip(speeds, came, strict=True))


def worst(found: Sequence[Miss]) -> Miss:
    """The one that is furthest beyond what is allowed."""
    return max(found, key=lambda miss: miss.share)


def lies_in(machine_ranges: Sequence[Range], found: Range, top: float) -> Range | None:
    """The other range whose top speed in rpm this is, told or measured, while it is not the one that this range was told: the
    belt may lie there, and what is measured would be that range's."""
    for other in machine_ranges:
        alike = any(abs(top / its - 1) < SAME_TOP for its in (other.high, *(rpm for _, rpm in other.points[-1:])))
        if other.slot != found.slot and alike and abs(top / found.high - 1) > SAME_TOP:
            return other
    return None


def cause(machine_ranges: Sequence[Range], found: Range, curve: Curve) -> str:
    """A likely cause where the top speed measured is far from the one that was told; else nothing."""
    ratio = curve.top / found.high
    other = lies_in(machine_ranges, found, curve.top)
    if other is not None:
        return f"{curve.top:.0f} rpm is the top of {other.title}: the belt lies there, or the wrong range was told."
    for known, why in (
        (2.0, "two pulses are counted for one turn"), (0.5, "every second pulse is missed, or there are two marks in a turn"),
        (4.0, "the encoder's lines were given instead of its counts"),
        (0.25, "four times too many counts per turn were given"), (1.2, "the drive runs at 60 Hz, not 50"),
        (5 / 6, "the drive runs at 50 Hz, not 60"),
    ):  # fmt: skip
        if abs(ratio / known - 1) < 0.03:
            return f"The top speed is {ratio:.2f} times what was told. Likely: {why}."
    return ""
