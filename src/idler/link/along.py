"""A path as it is asked of a controller, and how far it is: what a kind of controller that can follow paths takes and tells."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum
from typing import Any, Protocol

from .events import Asked


@dataclass(frozen=True, eq=False)
class PathLeg:
    """Goes without a person.

    places   (records, axes) in position units, of the slots of the path; the first one is where it begins
    lines    (records,) line of the program, with the bits of `core.profile.path`
    asked    what is asked of the terminals at its begin; None nothing else than before
    waits    whether it begins only when somebody says so
    """

    places: Any
    lines: Any
    asked: Asked | None = None
    waits: bool = False


class Turning(Protocol):
    """A spindle that the controller only enables: what turns it is spoken to beside. Called on the link's thread."""

    def turns(self, asked: Asked, wanted: Callable[[], bool]) -> bool:
        """Says it what is asked, where that is new and still wanted, and whether it turns so."""

    def stalled(self, asked: Asked) -> str:
        """Why it does not turn as it was asked to any more, or an empty text."""


@dataclass(frozen=True, eq=False)
class PathOrder:
    """slots: its axes, ascending. parts: the last record of each part of each leg, ascending, for single block; or empty.
    turning: what turns the spindle, where that is not the controller."""

    slots: tuple[int, ...]
    legs: tuple[PathLeg, ...]
    parts: tuple[Any, ...] = ()
    turning: Turning | None = None


class Along(Enum):
    """What becomes of a path."""

    NONE = "none"
    BEGINS = "begins"
    RUNS = "runs"
    HELD = "held"  # stands on it, and goes on when it is told
    ASKS = "asks"  # before a leg that waits for a person
    ENDED = "ended"
    STOPPED = "stopped"  # on the path
    LEFT = "left"  # beside it
    REFUSED = "refused"

    @property
    def over(self) -> bool:
        return self in (Along.NONE, Along.ENDED, Along.STOPPED, Along.LEFT, Along.REFUSED)


@dataclass(frozen=True)
class PathPlace:
    """leg: its number; at: records of it that are gone through. rate: of time, 0 to 1. ahead: records in the controller that
    are still to be gone through. ran: s by the controller's clock in which none of its legs so far waited. why: a sentence
    where it was refused, or stopped by Idler itself."""

    along: Along = Along.NONE
    leg: int = 0
    at: float = 0.0
    line: int = 0
    rate: float = 0.0
    ahead: int = 0
    ran: float = 0.0
    why: str = ""
