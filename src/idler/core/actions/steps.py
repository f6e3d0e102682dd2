"""What an own action is made of. Lengths in mm (°), speeds in mm/min (°/min), times in s, as exact fractions."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import Enum
from fractions import Fraction
from typing import TypeAlias

from ..values.roles import InputRole, OutputRole


class Event(Enum):
    """What starts an action: its words in the text, and what they mean. A button is pressed; all else happens."""

    BUTTON = ("", "its button")
    HOMED = ("homed", "the end of a homing")
    POWERED = ("powered", "the drives being powered")
    BEFORE = ("before program", "a program that is about to run")
    AFTER = ("after program", "a program that came to its end")
    TOOL = ("tool change", "a tool change of a program (M6)")

    def __init__(self, words: str, what: str) -> None:
        self.words = words
        self.what = what


class Frame(Enum):
    """What a place is counted from."""

    MACHINE = "machine"
    WORK = "work"  # the work zero that is chosen
    BY = "by"  # where the axis stands


@dataclass(frozen=True)
class Goal:
    """at: None is the parking place of the axis."""

    axis: str
    at: Fraction | None


@dataclass(frozen=True)
class Move:
    """Its axes go one after the other. speed: None is as fast as is safe."""

    frame: Frame
    goals: tuple[Goal, ...]
    speed: Fraction | None = None


@dataclass(frozen=True)
class GoToStop:
    """number: of an index stop of the axis, from 1."""

    axis: str
    number: int


@dataclass(frozen=True)
class Switch:
    """One output is on at a time."""

    role: OutputRole
    on: bool


@dataclass(frozen=True)
class Dwell:
    seconds: Fraction


@dataclass(frozen=True)
class Spin:
    """rpm: to the left below 0; 0 ends it."""

    rpm: Fraction


@dataclass(frozen=True)
class Contact:
    """An input by its role, and whether it is made (not at rest)."""

    role: InputRole
    axis: str
    made: bool


@dataclass(frozen=True)
class Await:
    contact: Contact
    within: Fraction


@dataclass(frozen=True)
class Probe:
    """Along an axis by at most so far, until the touch probe is made; that it is not ends the action."""

    axis: str
    by: Fraction
    speed: Fraction


@dataclass(frozen=True)
class TakeZero:
    """The work zero that is chosen: what the axis reads where the probe was touched last, or else where it stands."""

    axis: str
    reads: Fraction


@dataclass(frozen=True)
class TakeLength:
    """The length of a tool whose tip touched what reads so much of Z at the chosen work zero. number: of the tool; ASKED: the
    person is asked for it."""

    number: int
    reads: Fraction


ASKED = 0


@dataclass(frozen=True)
class Home:
    axes: tuple[str, ...]


@dataclass(frozen=True)
class Power:
    on: bool


@dataclass(frozen=True)
class Say:
    text: str


@dataclass(frozen=True)
class Ask:
    text: str
    yes: tuple[Step, ...]
    no: tuple[Step, ...] = ()


@dataclass(frozen=True)
class If:
    contact: Contact
    then: tuple[Step, ...]
    otherwise: tuple[Step, ...] = ()


@dataclass(frozen=True)
class Call:
    name: str


Step: TypeAlias = (
    Move | GoToStop | Switch | Dwell | Spin | Await | Probe | TakeZero | TakeLength | Home | Power | Say | Ask | If | Call
)  # fmt: skip


@dataclass(frozen=True)
class Action:
    """key: that starts it too, as Qt writes it; empty for none."""

    name: str
    steps: tuple[Step, ...]
    event: Event = Event.BUTTON
    key: str = ""


def every(steps: tuple[Step, ...]) -> Iterator[Step]:
    """All of them, those of branches too."""
    for step in steps:
        yield step
        if isinstance(step, Ask):
            yield from every((*step.yes, *step.no))
        elif isinstance(step, If):
            yield from every((*step.then, *step.otherwise))
