"""What a controller is told of a track: places in its own units, lines, and what is switched at the begin of each leg."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from idler.core.errors import Refusal
from idler.core.profile.path import LINE_BITS, RAPID, REST
from idler.core.program.track import RAPIDS, RESTS, Leg, Track, ends_of_lines
from idler.core.table import POSITION_STEP
from idler.core.values.roles import OutputRole
from idler.core.wiring import outputs

from .along import PathLeg, PathOrder
from .events import Asked

COOLANTS = {7: OutputRole.MIST, 8: OutputRole.COOLANT}  # by their words; 9 switches both off
_FURTHEST = 2**31 - 1


def order_of(track: Track, *, switches: bool, stands: tuple[float, ...] = (), leg: int = 0, at: int = 0) -> PathOrder:
    """switches: whether spindle and coolant are told. stands: where all axes stand as the controller told it, mm (°); the path
    begins exactly there. leg, at: from which sample of which leg on.

    Raises Refusal where a place is further than the controller can be told.
    """
    slots = track.slots()
    asked: list[Asked | None] = _asked(track) if switches else [None] * len(track.legs)
    legs = list(track.legs[leg:])
    if at:  # nobody is asked once more, and what was switched there is switched again
        first = legs[0]
        legs[0] = replace(first, places=first.places[at:], rows=first.rows[at:], ways=first.ways[at:], asks=0)
        asked[leg] = next((each for each in reversed(asked[: leg + 1]) if each is not None), None)
    made = [_leg(track, each, slots, told) for each, told in zip(legs, asked[leg:], strict=True)]
    if stands and slots:
        made[0].places[0] = np.rint(np.array([stands[slot] for slot in slots]) / float(POSITION_STEP))
    return PathOrder(slots, tuple(made), tuple(ends_of_lines(each) for each in legs))


def _asked(track: Track) -> list[Asked | None]:
    """What the terminals are asked at the begin of each leg, the spindle and one output beside it; None: as before."""
    numbers = {out.role: out.slot + 1 for out in outputs(track.machine)}
    found: list[Asked | None] = []
    now = Asked()
    for leg in track.legs:
        if leg.spindle is not None:
            now = now._replace(run=(leg.spindle > 0) - (leg.spindle < 0), speed=abs(leg.spindle))
        if leg.coolant is not None:
            role = COOLANTS.get(leg.coolant)
            number = numbers.get(role, numbers.get(OutputRole.COOLANT, 0)) if role is not None else 0
            now = now._replace(tried=number)
        found.append(now if leg.switches else None)
    return found


def _leg(track: Track, leg: Leg, slots: tuple[int, ...], asked: Asked | None) -> PathLeg:
    places: Any = np.rint(leg.places[:, list(slots)] / float(POSITION_STEP))
    if places.size and np.abs(places).max() > _FURTHEST:
        raise Refusal(
            "program", f"line {int(track.lines[leg.rows[0]])}", "goes further than the controller can be told"
        )
    lines = track.lines[leg.rows].astype(np.int64) & LINE_BITS if len(track.lines) else leg.rows
    lines = lines | np.where(leg.ways == RAPIDS, RAPID, 0) | np.where(leg.ways == RESTS, REST, 0)
    return PathLeg(places.astype("<i4"), lines.astype("<u4"), asked, bool(leg.asks))
