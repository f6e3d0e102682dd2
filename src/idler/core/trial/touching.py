"""Where the work lies, from places in which a tool touched it (R5): tops, sides, corners, the middle of a bore or a boss.

A tool of diameter d that goes to + along an axis and touches at p has met a side at p + d/2; to −, at p − d/2. A plate of
thickness t between the tool and the work puts the top t below the place where it was touched. The middle of a bore or a boss
lies halfway between two touches on its opposite sides, whatever the tool's diameter: it is the same on both.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

from ..errors import Refusal
from ..machine import Address, Machine
from ..values.quantity import parse
from ..values.toolnumber import TOOLS
from ..values.units import MM, MM_MIN, ONE, Dimension, Unit, convert, figure, with_unit

CORNERS = {"front_left": (-1, -1), "front_right": (1, -1), "back_left": (-1, 1), "back_right": (1, 1)}  # where it lies
SIDES = {
    "left": ("X", 1),
    "right": ("X", -1),
    "front": ("Y", 1),
    "back": ("Y", -1),
}  # the way that the tool goes to touch it
WHAT = {
    "top": "the top, by a plate or a probe", "left": "the left side", "right": "the right side", "front": "the front side",
    "back": "the back side", **{key: f"the {key.replace('_', ' ')} corner, and the top" for key in CORNERS},
    "length": "the length of a tool, by a plate",
    "bore": "the middle of a bore, from inside", "boss": "the middle of a boss, from outside",
}  # fmt: skip


@dataclass(frozen=True)
class Asked:
    """One thing that a touch is told. key: of a field of `Touch`."""

    key: str
    words: str
    unit: Unit
    usual: Fraction
    low: Fraction
    high: Fraction


ASKED = {
    each.key: each
    for each in (
        Asked("number", "number of the tool (H)", ONE, Fraction(1), Fraction(1), Fraction(TOOLS - 1)),
        Asked("thickness", "thickness of the plate", MM, Fraction(10), Fraction(0), Fraction(200)),
        Asked("tool", "tool or ball, across", MM, Fraction(6), Fraction(0), Fraction(200)),
        Asked("reach", "furthest way to the touch", MM, Fraction(20), Fraction(1, 10), Fraction(500)),
        Asked("depth", "below the top, at a side", MM, Fraction(4), Fraction(1, 10), Fraction(200)),
        Asked("wide", "about so wide along X", MM, Fraction(40), Fraction(1), Fraction(2000)),
        Asked("deep", "about so wide along Y", MM, Fraction(40), Fraction(1), Fraction(2000)),
        Asked("fast", "first touch", MM_MIN, Fraction(200), Fraction(1), Fraction(2000)),
        Asked("slow", "second touch", MM_MIN, Fraction(30), Fraction(1), Fraction(500)),
        Asked("back", "back between touches", MM, Fraction(1), Fraction(1, 20), Fraction(50)),
        Asked("times", "slow touches", ONE, Fraction(2), Fraction(1), Fraction(20)),
    )
}  # fmt: skip
_DIMENSIONS = {MM: Dimension.TRAVEL, MM_MIN: Dimension.SPEED}
_ALWAYS = ("tool", "reach", "fast", "slow", "back", "times")
_PLATE = ("thickness", "reach", "fast", "slow", "back", "times")
_NEEDED = {
    "top": _PLATE, "length": ("number", *_PLATE), **dict.fromkeys(SIDES, _ALWAYS),
    **dict.fromkeys(CORNERS, ("thickness", *_ALWAYS, "depth")), "bore": _ALWAYS,
    "boss": (*_ALWAYS, "depth", "wide", "deep"),
}  # fmt: skip


def needed(what: str) -> tuple[str, ...]:
    """The keys of ASKED that a touch hangs on."""
    return _NEEDED[what]


@dataclass(frozen=True)
class Touch:
    """what: a key of WHAT. values: by keys of ASKED, mm and mm/min; what is not there is usual."""

    what: str
    values: Mapping[str, float]

    def of(self, key: str) -> float:
        return self.values.get(key, float(ASKED[key].usual))


def over_a_bed(machine: Machine) -> bool:
    """Whether the tool stands over a bed, to draw on it and to touch what lies there; that of a lathe is long in two ways."""
    return machine[Address(None, "build.kind")] != "lathe"


def checked(machine: Machine, what: str, values: Mapping[str, float]) -> Touch:
    """Raises Refusal for what is none, out of bounds, or not to be done by this machine's axes."""
    if what not in WHAT:
        raise Refusal("touch", f"“{what}”", "is not known", ", ".join(WHAT))
    for key, value in values.items():
        if key not in ASKED:
            raise Refusal("touch", f"“{key}”", "is nothing that a touch is told", ", ".join(ASKED))
        asked = ASKED[key]
        if not asked.low <= Fraction(value) <= asked.high:
            bounds = f"{float(asked.low):g} to {float(asked.high):g} {asked.unit.symbol}".rstrip()
            raise Refusal(asked.words, f"{value:g} {asked.unit.symbol}".rstrip(), "is out of bounds", bounds)
    touch = Touch(what, dict(values))
    if touch.of("slow") > touch.of("fast"):
        raise Refusal("second touch", f"{touch.of('slow'):g} mm/min", "is faster than the first one",
                      f"{touch.of('fast'):g} mm/min at most")  # fmt: skip
    letters = {"top": "Z", "length": "Z", "left": "X", "right": "X", "front": "Y", "back": "Y", "bore": "XY"}.get(
        what, "XYZ"
    )
    missing = [name for name in letters if name not in machine.names]
    if missing or not over_a_bed(machine):
        why = f"an axis {', '.join(missing)}" if missing else "a bed under its tool"
        raise Refusal("touch", WHAT[what], f"needs {why} that this machine does not have")
    return touch


def read(texts: Mapping[str, str]) -> dict[str, float]:
    """From texts as they are typed. Raises Refusal."""
    found = {}
    for key, text in texts.items():
        if key not in ASKED:
            raise Refusal("touch", f"“{key}”", "is nothing that a touch is told", ", ".join(ASKED))
        found[key] = float(parse(text, ASKED[key].unit, part=ASKED[key].words, whole=ASKED[key].unit is ONE))
    return found


def read_one(machine: Machine, key: str, typed: str) -> float:
    """What was typed into a field. Raises Refusal."""
    asked = ASKED[key]
    bare = machine.reads.unit(_DIMENSIONS[asked.unit]) if asked.unit in _DIMENSIONS else None
    return float(parse(typed, asked.unit, bare=bare, part=asked.words, whole=asked.unit is ONE))


def shown(machine: Machine, key: str, value: float) -> str:
    """As the screen writes it, in the machine's units."""
    unit = ASKED[key].unit
    here = machine.reads.unit(_DIMENSIONS[unit]) if unit in _DIMENSIONS else unit
    exact = Fraction(value).limit_denominator(10**6)
    return with_unit(figure(convert(exact, unit, here), here.decimals, trim=True), here)


def side(touched: float, way: int, tool: float) -> float:
    """The place of a side that was touched by a tool, mm; way: in which the tool went."""
    return touched + way * tool / 2


def top(touched: float, thickness: float) -> float:
    """The place of the top below a plate, mm."""
    return touched - thickness


def middle(low: float, high: float) -> float:
    """Between two touches on opposite sides, mm."""
    return (low + high) / 2
