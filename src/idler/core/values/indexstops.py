"""The table of index stops as text: places of an axis from its home, each with a name where it has one.

    0 roughing; 60 finishing; 120; 180 parting
    0; 360/7; 720/7

Figures are degrees of an axis that turns and millimetres of a slide, whatever the screen shows: ° and mm may be written
behind them. Ratios are kept as they are. Stops are picked by their number, and the first is number 1.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from .points import NOTHING
from .units import ONE, exact_text

MOST_STOPS = 63  # as many numbers as six lines can tell, beside 0
LONGEST_NAME = 24  # characters
_ENTRY = re.compile(r"([-−]?\d{1,6}(?:\.\d{1,6}|/[1-9]\d{0,3})?)\s*(?:°|mm)?(?:\s+(\S.*))?")


@dataclass(frozen=True)
class IndexStop:
    """at: mm or ° from home."""

    at: Fraction
    name: str = ""

    def title(self, number: int) -> str:
        """As it is called, by its number from 1."""
        return f"{number} {self.name}" if self.name else str(number)


def index_stops(text: str) -> tuple[IndexStop, ...]:
    """In their order; empty for "none". Raises ValueError with what is wrong."""
    if text.strip() == NOTHING:
        return ()
    found: list[IndexStop] = []
    for piece in text.rstrip(" ;\n").split(";"):
        match = _ENTRY.fullmatch(piece.strip())
        if match is None:
            raise ValueError(f"holds “{piece.strip()[:20]}”, which is not a place and a name, as in “60 finishing”")
        name = " ".join((match[2] or "").split())
        if len(name) > LONGEST_NAME or not name.isprintable():
            raise ValueError(f"has a stop called “{name[:12]}…”; {LONGEST_NAME} signs are the most")
        found.append(IndexStop(Fraction(match[1].replace("−", "-")), name))
    if not 2 <= len(found) <= MOST_STOPS:
        raise ValueError(f"has {len(found)} stops; 2 to {MOST_STOPS} are wanted, with semicolons between them")
    return tuple(found)


def index_stops_text(stops: Sequence[IndexStop]) -> str:
    """The text of stops; reads back exactly."""
    return "; ".join(f"{exact_text(stop.at, ONE)} {stop.name}".rstrip() for stop in stops) or NOTHING


def problem_of_stops(text: str) -> str:
    """What is wrong with such a text, or an empty one."""
    try:
        index_stops(text)
    except ValueError as why:
        return str(why)
    return ""


def brief_of_stops(text: str) -> str:
    """What is shown of it where there is little room."""
    stops = index_stops(text)
    return f"{len(stops)} stops" if stops else NOTHING
