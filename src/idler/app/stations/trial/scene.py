"""What the pages of the station draw alike: the path of the program in hand over the envelope."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from idler.core.program.language import Kind
from idler.core.rules.actionway import ActionWay
from idler.core.travel import Ends, ends_of
from idler.session.programs import Judged
from idler.session.session import Session

from ...pictures.envelope import planes_of
from ...pictures.programpath import PathScene, wider
from ...pictures.shades import BEYOND, SHADES

if TYPE_CHECKING:
    from idler.core.program.state import Array

COLOURS = {"height": "by height", "speed": "by speed reached", "order": "by order"}


def shades_of(judged: Judged | ActionWay, by: str) -> Array:
    """Of each stroke, by one of COLOURS; what lies beyond an end is told from all others."""
    strokes, program = judged.strokes, judged.verdict.program
    names = program.machine.names
    count = len(strokes.rows)
    if by == "height" and "Z" in names:
        values = strokes.points[1:, names.index("Z")].astype(float)
    elif by == "speed":
        values = judged.verdict.timing.result[strokes.rows, 1].astype(float)
    else:
        values = np.arange(count, dtype=float)
    low, high = (values.min(), values.max()) if count else (0.0, 0.0)
    shades: Array = ((values - low) / max(high - low, 1e-9) * SHADES).astype(np.uint8)
    shades[judged.verdict.outside(strokes.points[1:])] = BEYOND
    return shades


def shades_until(judged: Judged, row: int) -> Array:
    """What is done, up to a move, in one shade, and what is left in another."""
    return np.where(judged.strokes.rows < row, SHADES, 0).astype(np.uint8)


def approached(judged: Judged) -> int:
    """The strokes of the rapids that it begins with: they begin where the axes will stand, and that is not known before."""
    kinds = judged.verdict.program.kinds
    cuts = np.flatnonzero((kinds == Kind.LINE) | (kinds == Kind.ARC))
    return int(np.searchsorted(judged.strokes.rows, cuts[0])) if len(cuts) else 0


def strokes_between(judged: Judged, low: float, high: float) -> tuple[int, int]:
    """The strokes of a part of the time, from 0 to 1: the first, and the one behind the last."""
    rows, seconds = judged.strokes.rows, judged.verdict.timing.result[:, 0]
    if (low, high) == (0.0, 1.0) or not len(rows):
        return 0, len(rows)
    ends = np.cumsum(seconds, dtype=float)
    first, last = np.searchsorted(ends, [share * ends[-1] for share in (low, high)])
    return int(np.searchsorted(rows, first)), int(np.searchsorted(rows, last, side="right"))


def path_scene(session: Session, judged: Judged | ActionWay | None, shades: Array, part: tuple[int, int]) -> PathScene:
    """The envelope, and the path where there is one for these axes."""
    machine = session.machine
    ends: dict[str, Ends] = {
        name: ends_of(machine, slot) for slot, name in enumerate(machine.names) if not machine.axis(slot).rotary
    }
    strokes = None
    if judged is not None and judged.verdict.program.machine.names == machine.names:
        for name, (low, high) in judged.verdict.envelope.extents.items():
            if name in ends:
                ends[name] = wider(ends[name], low, high)
        strokes = judged.strokes
    shown = session.program.chosen.shown
    zero = {name: shown.get(name, 0.0) for name in machine.names}
    columns = {name: slot for slot, name in enumerate(machine.names)}
    if strokes is None:
        shades, part = np.zeros(0, np.uint8), (0, 0)
    return PathScene(planes_of(ends), columns, strokes, shades, part, zero)
