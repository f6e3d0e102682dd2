"""What a spanner does where two axes stand askew: which end of which part goes which way, by how much over which length.

Derivation. The second axis leans towards + of the first by a (square.py). It stands straight again
    where its own ways are turned back by a: their far end, h along, goes a h to − of the first; or
    where what the first goes along is turned after it: its end towards +, w along, goes a w to − of the second; or
    where a column that stands on a foot is tipped back by a: a shim of a b under the side that it leans to, over the breadth b.
To first order in a; what is left is of the order of a²: a thousandth part of it for 1 mm per m.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from ..machine import Address, Axis, Machine

FOOT = 100.0  # mm between bolts, for which a shim is told
ON_A_BEAM = ("router", "table")  # kinds whose first axis goes along a beam that the second one carries


class Part(Enum):
    """What is turned: the ways of the second axis, a beam along the first, or the column of the second."""

    WAYS = "ways"
    BEAM = "beam"
    COLUMN = "column"


@dataclass(frozen=True)
class Turn:
    """shift: mm by which the end of the part goes, + towards + of the other axis; over: mm from its other end."""

    part: Part
    shift: float
    over: float


def part_of(machine: Machine, first: int, second: int) -> Part:
    """What carries the one along the other."""
    if machine.names[second] == "Z":
        return Part.COLUMN
    return Part.BEAM if machine[Address(None, "build.kind")] in ON_A_BEAM else Part.WAYS


def turn(part: Part, angle: float, width: float, height: float) -> Turn:
    """angle: mm per m by which + of the second leans towards + of the first; width, height: mm measured along both."""
    over = width if part is Part.BEAM else height
    return Turn(part, -angle * over / 1000, over)


def sentence(part: Part, first: Axis, second: Axis, angle: float, width: float, height: float) -> str:
    """What to loosen, and where it goes."""
    found, reads = turn(part, angle, width, height), first.reads
    by, over = reads.length(abs(found.shift), 2), reads.length(found.over, 0)
    back, leans = ("+", "\u2212") if found.shift > 0 else ("\u2212", "+")
    match part:
        case Part.BEAM:
            return (
                f"Loosen the beam that {first.name} goes along at its end towards + of {first.name}, and move that end by {by} "
                f"to {back} of {second.name} for the {over} that were measured along it; or its other end as far the other way."
            )
        case Part.COLUMN:
            shim = reads.length(abs(angle) * FOOT / 1000, 3)
            return (
                f"The column leans: over {over} of {second.name} its top stands {by} too far to {leans} of {first.name}. "
                f"Loosen its foot, and put {shim} under its side towards {leans} of {first.name} for each "
                f"{reads.length(FOOT, 0)} of its breadth."
            )
    return (
        f"Over {over} the far end of the ways of {second.name} stands {by} too far to {leans} of {first.name}. "
        f"Loosen them there and move them by as much to {back}, or their near end as far the other way."
    )
