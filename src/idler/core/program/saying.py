"""The verdict on a program in sentences."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..values.units import several
from ..wiring.tool import tool_of
from ..words import capital, duration, listed
from .language import Severity
from .verdict import Verdict

SHOWN = 12  # stretches that are named
MOST = 40  # problems that are named


def headline(found: Verdict, *, moved: bool = False) -> str:
    """Whether it fits, and if not what is first in the way. moved: it was looked at with the work zero elsewhere."""
    where = "there" if moved else "at this work zero"
    if found.fits:
        return f"It fits this machine {where}."
    if found.envelope.shift:
        return f"It does not fit {where}."
    if found.envelope.beyond:
        return "It does not fit this machine."
    return "It stays inside, but it cannot be run as it is."


def why_not(found: Verdict) -> str:
    """The headline, and what is first at fault with its line."""
    first = next((problem for problem in found.problems if problem.severity is Severity.REFUSES), None)
    if first is None:
        return headline(found)
    where = f"line {first.line}: " if first.line else ""
    return f"{headline(found)} {capital(where + first.text)}."


def shift_words(found: Verdict) -> str:
    """By how much the work zero is to be moved, "X +12.4 mm"; empty where that does not help."""
    shift = found.envelope.shift or {}
    axes = {axis.name: axis for axis in found.program.machine.axes}
    return listed([f"{name} {axes[name].reads.length(way, sign=True, trim=True)}" for name, way in shift.items()])


def time_words(found: Verdict) -> str:
    timing = found.timing
    parts = [f"moving {duration(timing.moving)}"]
    parts += [
        f"{what} {duration(seconds)}"
        for what, seconds in (("dwells", timing.dwell), (tool_of(found.program.machine).noun, timing.spindle))
        if seconds > 0
    ]
    stops = f", and {several(found.program.stops, 'stop')} for the person at the machine" if found.program.stops else ""
    return f"It takes {duration(timing.total)} ({', '.join(parts)}){stops}."


def extents(found: Verdict) -> Iterator[tuple[str, str, str, str]]:
    """Of each axis that moves: its letter, lowest and highest coordinate, and what it was held against."""
    axes = {axis.name: axis for axis in found.program.machine.axes}

    def bare(name: str, value: float, decimals: int) -> str:
        return axes[name].reads.length(value, decimals, trim=decimals < 3).removesuffix(axes[name].reads.symbol).strip()

    for name, (low, high) in found.envelope.extents.items():
        least, most = found.envelope.limits.get(name, (-math.inf, math.inf))
        without = "endless" if axes[name].wraps else "its ends are not told"
        ends = without if math.isinf(least) else f"of {bare(name, least, 1)} to {bare(name, most, 1)}"
        yield name, bare(name, low, 3), axes[name].reads.length(high), ends


def sentences(found: Verdict) -> Iterator[str]:
    """All of it, line by line."""
    yield headline(found)
    if found.envelope.shift:
        yield f"Move the work zero by {shift_words(found)} and it fits."
    yield f"{several(found.program.lines, 'line')}. {time_words(found)}"
    for name, low, high, ends in extents(found):
        yield f"  {name}: {low} to {high}, {ends}"
    for problem in found.problems[:MOST]:
        where = f"line {problem.line}: " if problem.line else ""
        more = f" ({several(problem.lines, 'line')})" if problem.lines > 1 and problem.code != "beyond" else ""
        yield f"{problem.severity.word}: {where}{problem.text}{more}."
    if len(found.problems) > MOST:
        yield f"And {len(found.problems) - MOST} more."
    if found.unreached:
        yield f"Feeds are not reached in {100 * found.held_back:.0f} % of the time."
    for part in sorted(found.unreached, key=lambda part: -part.lost)[:SHOWN]:
        lines = (
            f"line {part.first_line}"
            if part.first_line == part.last_line
            else f"lines {part.first_line} to {part.last_line}"
        )
        yield f"feed not reached: {lines}: {capital(part.why)}, {part.lost:.1f} s more than its feed asks."
