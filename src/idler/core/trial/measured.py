"""What the measured size of a drawn square or circle says: an axis that is not to scale, or both alike; and a circle's flats.

A circle is drawn both ways round. Where an axis with play b turns round it stands still until b is taken up, on the one way
above that place and on the other below it: a flat. Of a radius r, the axis has gone b back where r (1 − cos θ) = b, so half the
flat is r sin θ = √(2 r b − b²), and from a flat of length l, b = r − √(r² − l²/4).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from ..errors import Refusal
from ..machine import Axis, Machine
from ..mechanics.scale import INSTRUMENTS
from ..values.quantity import parse
from ..values.units import MM

CALIPER = next(item for item in INSTRUMENTS if item.key == "caliper")
PEN = 0.3  # mm: how far a line's edge may be from its middle, on both sides together
EYE = 1.0  # mm: how well the ends of a flat are seen
FLATS = {"none": (), "first": (0,), "second": (1,), "both": (0, 1)}  # the axes that turn round where it is flat
FURTHEST_OFF = 5.0  # times: a reading that is further from what was asked is a slip of the pen


@dataclass(frozen=True)
class SizeVerdict:
    """figures: by axis letter, how much too large, in mm. wrong: letters of those that are not of their size."""

    words: str
    figures: Mapping[str, float]
    wrong: tuple[str, ...] = ()

    @property
    def held(self) -> bool:
        return not self.wrong


def read_size(axis: Axis, size: float, typed: str) -> float:
    """A reading in mm. Raises Refusal."""
    value = float(parse(typed, MM, bare=axis.reads.unit(), part=f"size along {axis.name}"))
    if not size / FURTHEST_OFF <= value <= size * FURTHEST_OFF:
        raise Refusal(f"size along {axis.name}", axis.reads.length(value), "is not the size of this figure",
                      f"about {axis.reads.length(size)}")  # fmt: skip
    return value


def judge_sizes(
    machine: Machine, pair: tuple[int, int], asked: tuple[float, float], found: tuple[float, float]
) -> SizeVerdict:
    """Within what a caliper and the width of a pen's line leave open, each size is right or it is not."""
    open_ = (CALIPER.resolution**2 + PEN**2) ** 0.5
    off = {machine.names[slot]: now - size for slot, now, size in zip(pair, found, asked, strict=True)}
    wrong = [name for name, by in off.items() if abs(by) > open_]
    sizes = dict(zip(off, asked, strict=True))
    reads = machine.axis(pair[0]).reads
    told = ", ".join(f"{name} {reads.length(by, 2, sign=True)}" for name, by in off.items())
    if not wrong:
        return SizeVerdict(f"Its sizes are right within {reads.length(open_, 2)}: {told}.", off)
    causes = [
        f"{name} goes {100 * abs(off[name]) / sizes[name]:.1f} % too {'far' if off[name] > 0 else 'short'}: prove its scale"
        for name in wrong
    ]
    return SizeVerdict(f"{'; '.join(causes)} ({told}).", off, tuple(wrong))


def flat_words(names: tuple[str, str]) -> dict[str, str]:
    """What a drawn circle may show, by the keys of FLATS."""
    first, second = names
    return {
        "none": "It is round everywhere.",
        "first": f"It is flat at both ends of {first}.",
        "second": f"It is flat at both ends of {second}.",
        "both": "It is flat in all four places.",
    }


def read_flat(axis: Axis, radius: float, typed: str) -> float:
    """The length of a flat in mm. Raises Refusal."""
    part = f"flat where {axis.name} turns round"
    value = float(parse(typed, MM, bare=axis.reads.unit(), part=part))
    if not 0 < value < 2 * radius:
        raise Refusal(
            part, axis.reads.length(value), "is no flat of this circle", f"less than {axis.reads.length(2 * radius)}"
        )
    return value


def play_of_flat(radius: float, flat: float) -> tuple[float, float]:
    """The play that leaves such a flat, and how uncertain the eye leaves it, both in mm."""
    play = radius - math.sqrt(radius**2 - flat**2 / 4)
    return play, flat * EYE / (4 * math.sqrt(radius**2 - flat**2 / 4))
