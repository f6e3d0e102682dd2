"""A work zero: where the job on the table begins, and on which values that place rests. Stale is worked out, never stored."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..machine import Machine
from .claims import value_texts, work_rests


@dataclass(frozen=True)
class WorkZero:
    """at: a machine coordinate in mm (°). rests: texts of values by the texts of their addresses, as they were when it was
    taken."""

    at: float
    rests: Mapping[str, str] = field(default_factory=dict)


def taken(machine: Machine, slot: int, at: float) -> WorkZero:
    """A work zero of an axis that stands there now. machine: what is in force."""
    return WorkZero(at, value_texts(machine, work_rests(machine, slot)))


def stale(machine: Machine, slot: int, zero: WorkZero) -> bool:
    """Whether the coordinate means another place now: home, train or direction are others than when it was taken.

    One that was kept before its rests were is believed until it is taken anew.
    """
    return bool(zero.rests) and dict(zero.rests) != value_texts(machine, work_rests(machine, slot))
