"""A skim of the bed from the map of its heights: which area, and how deep below its highest place."""

from __future__ import annotations

import math
from collections.abc import Mapping
from fractions import Fraction

from ..errors import Refusal
from ..geometry.level import Bed
from ..machine import Machine

FINEST = 0.01  # mm to which the depth is rounded up


def skim_of(
    machine: Machine, pair: tuple[int, int], bed: Bed, zero: Mapping[str, float], cutter: float
) -> dict[str, float]:
    """The wishes of a skim whose cutter's middle goes over all that was measured, in mm from the work zero.

    zero: machine coordinates of the work zero by axis letter. It goes as deep below the highest place as the lowest one
    lies, and the uncertainty of that more; its Z is to be counted from the highest place. Raises Refusal where X or Y has no
    work zero.
    """
    names = [machine.names[slot] for slot in pair]
    for name in names:
        if name not in zero:
            raise Refusal(f"work zero of {name}", "none", "was taken: the skim has no place", way_out="take it first")
    grid, half = bed.grid, cutter / 2
    return {
        "x": grid.left - half - zero[names[0]],
        "y": grid.low - half - zero[names[1]],
        "width": grid.width + cutter,
        "height": grid.height + cutter,
        "depth": math.ceil((bed.spread + bed.expanded) / FINEST - 1e-9) * FINEST,
    }


def highest(machine: Machine, pair: tuple[int, int], bed: Bed) -> str:
    """Where Z's work zero of a skim is to be taken."""
    place = max(zip(bed.heights, bed.grid.places, strict=True))[1]
    reads = machine.axis(pair[0]).reads
    first, second = (
        f"{machine.names[slot]} {reads.length(Fraction(at).limit_denominator(1000), 1, trim=True)}"
        for slot, at in zip(pair, place, strict=True)
    )
    return f"the highest place that was measured, {first}, {second} of the machine"
