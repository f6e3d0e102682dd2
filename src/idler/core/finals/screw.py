"""A screw and its nut."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..values.build import LEAD_STEP, U8, U32, quantity, whole
from ..values.parameter import Wire
from ..values.units import Dimension
from .base import MM_PER_INCH, Drawn, FinalElement, Motion, Otherwise, Values, as_made, in_inches, shown

PITCHES = tuple(
    Fraction(text) for text in ("1", "1.25", "1.5", "2", "2.5", "3", "4", "5", "6", "8", "10", "12", "16", "20", "25")
) + tuple(MM_PER_INCH / n for n in (2, 4, 5, 6, 8, 10, 12, 16, 20))
_IN_USE = ("chain.final", "screw")


def _drawn(axis: Values) -> Drawn:
    pitch, starts = axis.number("chain.pitch"), axis.whole("chain.starts")
    text = shown(axis, pitch) if starts == 1 else f"({shown(axis, pitch)} × {starts})"
    return Drawn(pitch * starts, Fraction(1), text)


def _slips(axis: Values) -> Iterator[Otherwise]:
    pitch, starts = axis.number("chain.pitch"), axis.whole("chain.starts")
    for true in PITCHES:
        if true != pitch:
            inch = true not in (Fraction(round(true * 4), 4), Fraction(round(true), 1))
            turns = f" ({float(MM_PER_INCH / true):g} turns per inch)" if inch else ""
            sizes = [as_made(axis, size) for size in (true, pitch)]
            words = f"its screw has a pitch of {sizes[0]}{turns}, not {sizes[1]}"
            near = 4.0 if abs(true / pitch - 1) < Fraction(1, 40) else 1.0 if inch else 2.5
            yield Otherwise("chain.pitch", true, words, true / pitch, near)
    yield from in_inches(axis, "chain.pitch", (PITCHES[0], PITCHES[14]), PITCHES, "its screw has a pitch of {}, not {}")
    for count in range(1, 7):
        if count != starts:
            words = f"its screw has {count} starts, not {starts}"
            yield Otherwise("chain.starts", count, words, Fraction(count, starts), 3.0 if count <= 2 else 1.0)


FINAL = FinalElement(
    "screw", 0, Motion.LINE,
    (
        quantity(
            "chain.pitch", "pitch of the screw", "5", Dimension.LENGTH, ("0.001", "1000"),
            Wire(0x4001, 7, U32, LEAD_STEP),
            "From one thread to the next. Pitch times starts is the lead: the travel for one turn.",
            "Lay a rule over ten threads and divide by ten. An inch screw: write its turns, for example 8 /in.",
            inverse=True, used_when=_IN_USE,
        ),
        whole(
            "chain.starts", "starts of the screw", 1, (1, 20), Wire(0x4001, 8, U8),
            "Threads that run side by side. A screw with two starts travels two pitches for one turn.",
            "Look at the end of the screw and count where threads begin.", used_when=_IN_USE,
        ),
    ),
    "chain.pitch", _drawn, _slips,
)  # fmt: skip
