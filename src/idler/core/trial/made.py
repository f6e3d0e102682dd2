"""How fast a program was gone along, by the clock of the controller, against what it asked for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..program.state import Array
from ..program.track import FEEDS, Track

Mark = tuple[int, float, float]  # the leg, the sample of it that was reached, and the s that had gone by then


@dataclass(frozen=True)
class FeedMade:
    """Means over all that was cut, mm/min."""

    asked: float
    made: float


def feed_made(track: Track, rates: Array, marks: Sequence[Mark]) -> FeedMade | None:
    """rates: what each move asks for, mm/s along its path. marks: ascending, as they were seen. None where nothing was cut
    between them.

    The mean of a feed is way by time: L / Σ(l/F) as it was asked, L / Σt as it was made.
    """
    linear = [axis.slot for axis in track.machine.axes if not axis.rotary]
    way = asked = took = 0.0
    for number, leg in enumerate(track.legs):
        seen = np.array([(at, ran) for where, at, ran in marks if where == number])
        if len(seen) < 2 or not linear:
            continue
        first, last = int(np.ceil(seen[0, 0])), int(min(seen[-1, 0], len(leg.rows) - 1))
        if last <= first:
            continue
        times = np.diff(np.interp(np.arange(first, last + 1), seen[:, 0], seen[:, 1]))
        steps = np.sqrt((np.diff(leg.places[first : last + 1][:, linear], axis=0) ** 2).sum(axis=1))
        told = rates[leg.rows[first + 1 : last + 1]]
        cut = (leg.ways[first + 1 : last + 1] == FEEDS) & (told > 0)
        way += float(steps[cut].sum())
        asked += float((steps[cut] / told[cut]).sum())
        took += float(times[cut].sum())
    if not (way and asked and took):
        return None
    return FeedMade(60 * way / asked, 60 * way / took)
