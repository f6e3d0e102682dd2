"""What a person chooses beside the machine, before a program is read: its work zero, lengths of tools, tolerance, radii."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from ..errors import Refusal
from ..machine import Machine
from ..proof.workzero import CODES
from ..values.quantity import parse
from ..values.units import DEG, MM
from .tools import ToolSet

DEFAULT_TOLERANCE = 0.02  # mm by which corners may be cut where a program says nothing (G64 without P)
MOST_TOLERANCE = 10.0  # mm
ZERO_NAMES = CODES


@dataclass(frozen=True)
class Chosen:
    """
    zeros      machine coordinates of G54 to G59 by axis letter, mm (°); what is not named is 0
    zero       which of them is shown, 0 to 5
    lengths    of tools by H, mm
    radii      mm at which the feed of an axis that turns is meant, by letter; 0 in degrees
    tolerance  mm by which corners may be cut where the program says nothing
    raised     mm by which all of it goes higher, as in a dry run: work zeros, and places of the machine as far as Z goes
    stands     machine coordinates at which it begins, by letter, mm (°); what is not named stands at its home
    """

    zeros: Mapping[int, Mapping[str, float]] = field(default_factory=dict)
    zero: int = 0
    lengths: Mapping[int, float] = field(default_factory=dict)
    radii: Mapping[str, float] = field(default_factory=dict)
    tolerance: float = DEFAULT_TOLERANCE
    raised: float = 0.0
    stands: Mapping[str, float] = field(default_factory=dict)

    @property
    def shown(self) -> Mapping[str, float]:
        """The work zero that is shown."""
        return self.zeros.get(self.zero, {})


UNKNOWN = ToolSet()


def chosen(
    machine: Machine, kept: Mapping[int, Mapping[str, float]], zero: str = "", lengths: Iterable[str] = (),
    radii: Iterable[str] = (), tolerance: str = "", shown: int = 0, known: ToolSet = UNKNOWN,
) -> Chosen:  # fmt: skip
    """From texts as they are typed. kept: the work zeros that the machine was given, by number. known: its tools;
    `lengths` and `radii` come before them. zero: "G55", or places as
    "X=12.5, Y=40", else `shown`.

    Raises Refusal.
    """
    number, places = _zero(machine, kept, zero, shown)
    tools, rims = known.lengths(machine), known.rims(machine)
    for name, text in _pairs("tool length", lengths):
        tool = int(parse(name.removeprefix("H"), DEG, part="tool", whole=True))
        tools[tool] = float(parse(text, MM, part=f"length of tool {tool}"))
        known.put(tool, tools[tool])  # refused where it is none
    for name, text in _pairs("radius", radii):
        rims[name] = float(parse(text, MM, part=f"radius of {name}"))
        known.turning(machine, name, rims[name])  # refused where it is none
    cut = float(parse(tolerance, MM, part="tolerance")) if tolerance else DEFAULT_TOLERANCE
    if not 0 <= cut <= MOST_TOLERANCE:
        raise Refusal("tolerance", f"{cut:g} mm", "is not taken", f"0 to {MOST_TOLERANCE:g} mm")
    return Chosen({**kept, number: places}, number, tools, rims, cut)


def _zero(
    machine: Machine, kept: Mapping[int, Mapping[str, float]], text: str, shown: int
) -> tuple[int, Mapping[str, float]]:
    text = text.strip().upper()
    number = ZERO_NAMES.index(text) if text in ZERO_NAMES else shown
    if not text or text in ZERO_NAMES:
        return number, kept.get(number, {})
    places: dict[str, float] = {}
    for name, value in _pairs("work zero", text.replace(";", ",").split(",")):
        if name not in machine.names:
            raise Refusal(
                "work zero", name, "is not an axis of this machine", f"its axes are {', '.join(machine.names)}"
            )
        axis = machine.axes[machine.names.index(name)]
        places[name] = float(parse(value, DEG if axis.rotary else MM, part=f"work zero of {name}"))
    return shown, {**kept.get(shown, {}), **places}


def _pairs(part: str, texts: Iterable[str]) -> Iterable[tuple[str, str]]:
    for text in texts:
        name, equals, value = text.partition("=")
        if not equals:
            raise Refusal(part, f"“{text.strip()[:40]}”", "does not say of what", way_out="write it as X=12.5")
        yield name.strip().upper(), value
