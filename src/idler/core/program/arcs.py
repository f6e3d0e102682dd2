"""Arcs in a plane (u, v): centre, sweep, and how far they reach. Angles in radians from +u towards +v."""

from __future__ import annotations

import math

from .compiled import compiled

TURN = 2 * math.pi


@compiled
def centre_of(du: float, dv: float, radius: float, left: bool) -> tuple[float, float, float]:
    """Centre of an arc from (0, 0) to (du, dv) by its radius, and by how much the radius is too short.

    It lies √(r² − d²/4) beside the middle of the chord d: on its left for an arc of less than half a turn that goes left.
    A radius that is too short by a hair is taken as half of the chord.
    """
    chord = math.hypot(du, dv)
    rest = radius * radius - chord * chord / 4
    short = max(0.0, chord / 2 - abs(radius))
    aside = math.sqrt(max(0.0, rest)) / chord
    if not left:
        aside = -aside
    return du / 2 - dv * aside, dv / 2 + du * aside, short


@compiled
def sweep_of(begin: float, end: int, clockwise: bool, full: bool) -> float:
    """Signed angle from one direction to the other; a full turn where both are one and the same place."""
    if full:
        return -TURN if clockwise else TURN
    angle = (begin - end) % TURN if clockwise else (end - begin) % TURN
    return -angle if clockwise else angle


@compiled
def reach(begin: float, sweep: float, quarter: int) -> bool:
    """Whether the direction of a quarter (0 +u, 1 +v, 2 −u, 3 −v) lies within a sweep."""
    if abs(sweep) >= TURN:
        return True
    aim = quarter * math.pi / 2
    return (aim - begin) % TURN <= sweep if sweep > 0 else (begin - aim) % TURN <= -sweep
