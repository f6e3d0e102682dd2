"""What cuts: a spindle that turns, or on a cutting table a torch, a beam or a knife, which is on or off and has no speed.

All sentences speak of a spindle; on a cutting table they are reworded where they leave the core (docs/decisions/052).
"""

from __future__ import annotations

import re
from enum import Enum

from ..machine import Address, Machine
from ..table.stations import Station
from ..words import capital


class Tool(Enum):
    """key, as `build.cutter` has it; what it is called; what it does while it is on, in the third person and bare; what it
    does when it was switched off; and what switches it on."""

    SPINDLE = ("", "spindle", "turns", "turn", "stands", "turns")
    TORCH = ("torch", "torch", "burns", "burn", "is out", "lights")
    BEAM = ("beam", "beam", "burns", "burn", "is off", "fires")
    KNIFE = ("knife", "knife", "cuts", "cut", "rests", "starts")

    def __init__(self, key: str, noun: str, works: str, work: str, rests: str, starts: str) -> None:
        self.key = key
        self.noun = noun
        self.works = works
        self.work = work
        self.rests = rests
        self.starts = starts

    @property
    def turns(self) -> bool:
        """Whether it has a speed and a direction."""
        return self is Tool.SPINDLE

    def worded(self, text: str) -> str:
        """A sentence about a spindle, as one about this."""
        if self.turns or "pindle" not in text:
            return text
        for pattern, with_ in (
            (r"a drive that trips", "a supply that trips"), (r"turns the spindle", f"{self.starts} the {self.noun}"),
            (r"(spindle(?: was)?) (asked to turn and does not)", rf"\1 asked to {self.work} and does not"),
            (r"spindle (?:turns|runs)\b", f"{self.noun} {self.works}"), (r"spindle stands", f"{self.noun} {self.rests}"),
            (r"in the spindle", f"at the {self.noun}"),
            (r"Run the spindle", f"Switch the {self.noun} on"), (r"spindle running", f"{self.noun} on"),
            (r"spindle free to turn", f"{self.noun} free to {self.work}"),
            (r"spindle may run", f"{self.noun} may {self.work}"),
            (r"spindle", self.noun), (r"Spindle", capital(self.noun)),
        ):  # fmt: skip
            text = re.sub(pattern, with_, text)
        return text


def station_label(machine: Machine, station: Station) -> str:
    """The station of the spindle is that of what cuts."""
    return tool_of(machine).worded(station.label)


def station_proves(machine: Machine, station: Station) -> str:
    tool = tool_of(machine)
    if station is Station.SPINDLE and not tool.turns:
        return f"Every way of switching the {tool.noun} off will be tried, and seen by eyes."
    return tool.worded(station.proves)


def tool_of(machine: Machine) -> Tool:
    if machine[Address(None, "build.kind")] != "table":
        return Tool.SPINDLE
    return next(tool for tool in Tool if tool.key == machine[Address(None, "build.cutter")])
