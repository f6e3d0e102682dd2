"""Which way + is: what a person sees when an axis moves, by the kind of machine, and what that says of its sign.

ISO 841: + of a linear axis moves the tool over the work the way that the letter points; where the work moves instead, it moves
the other way. + of A, B and C turns the tool as a right-handed screw goes forward along + of X, Y and Z; work turns the other
way. A person stands in front of the machine: + X to the right, + Y away, + Z up; on a lathe + Z is to the right, away from the
chuck, and + X away from the centre line.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..machine import Address, Machine

_MILL = {
    "X": ("to the right", "to the left"), "Y": ("away from you", "towards you"), "Z": ("up", "down"),
}  # fmt: skip
_PARALLEL = {"U": "X", "V": "Y", "W": "Z"}
_ABOUT = {"A": "X", "B": "Y", "C": "Z"}


@dataclass(frozen=True)
class Sense:
    """What is seen when an axis goes to + and to −.

    thing: what moves ("the table"). plus, minus: the way that it goes. seen_from: where to stand, for what turns, or nothing.
    """

    thing: str
    plus: str
    minus: str
    seen_from: str = ""

    @property
    def question(self) -> str:
        return f"Which way did {self.thing} {'turn' if self.seen_from else 'go'}?"


def sense(machine: Machine, slot: int) -> Sense:
    """What + of this axis should look like; of a mirrored one, the other way round."""
    axis = machine.axis(slot)
    tool = axis.choice("axis.moves") == "tool"
    lathe = machine[Address(None, "build.kind")] == "lathe"
    if axis.rotary:
        about = _ABOUT.get(axis.name, "X")
        ways = ("counterclockwise", "clockwise")
        plus, minus = ways if tool else ways[::-1]
        work = "the spindle" if axis.choice("axis.kind") == "spindle" else "the work" if lathe else "the table"
        thing = ("the tool" if lathe else "the head") if tool else work
        made = Sense(thing, plus, minus, f"seen from the + end of {about}, looking back along it")
    else:
        plus, minus = _linear_ways(machine, axis.name, lathe)
        if not tool:
            plus, minus = minus, plus
        made = Sense(_thing(machine, axis.name, tool), plus, minus)
    if axis.flag("axis.mirrored"):
        return Sense(made.thing, made.minus, made.plus, made.seen_from)
    return made


def _linear_ways(machine: Machine, name: str, lathe: bool) -> tuple[str, str]:
    letter = _PARALLEL.get(name, name)
    if lathe and letter == "X":
        ways = ("away from the centre line, towards you", "to the centre line, away from you")
        if machine[Address(None, "build.post")] == "behind":
            ways = ("away from the centre line, away from you", "to the centre line, towards you")
        return ways
    if lathe and letter == "Z":
        return "to the right, away from the chuck", "to the left, to the chuck"
    if lathe and letter == "Y":
        return ("up", "down") if machine[Address(None, "build.post")] == "behind" else ("down", "up")
    return _MILL.get(letter, ("to +", "to −"))


def _thing(machine: Machine, name: str, tool: bool) -> str:
    kind = machine[Address(None, "build.kind")]
    if not tool:
        return "the headstock" if kind == "lathe" else "the table"
    if kind == "lathe":
        return "the tool"
    return "the beam" if kind in ("router", "table") and name == "Y" else "the tool"


def shown_per_travel(machine: Machine, slot: int) -> Fraction:
    """2 for X of a lathe that shows diameters, else 1: what the figure on its rail is, by the travel of its slide."""
    lathe = machine[Address(None, "build.kind")] == "lathe"
    diameter = machine[Address(None, "build.cross")] == "diameter"
    return Fraction(2) if lathe and diameter and machine.names[slot] == "X" else Fraction(1)


Vector = tuple[float, float, float]  # to the right, away from the person, up
_RIGHT, _AWAY, _UP = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)


def directions(machine: Machine) -> dict[str, Vector]:
    """Where + of X, Y and Z points for the tool, as a person in front of the machine sees it: right-handed (ISO 841)."""
    if machine[Address(None, "build.kind")] != "lathe":
        return {"X": _RIGHT, "Y": _AWAY, "Z": _UP}
    if machine[Address(None, "build.post")] == "behind":
        return {"X": _AWAY, "Y": _UP, "Z": _RIGHT}
    return {"X": _minus(_AWAY), "Y": _minus(_UP), "Z": _RIGHT}


def pointing(machine: Machine, slot: int) -> tuple[str, Vector]:
    """The letter of the linear direction that an axis goes along or turns about, and where its + points for the tool."""
    axis = machine.axis(slot)
    letter = _ABOUT.get(axis.name) or _PARALLEL.get(axis.name, axis.name)
    way = directions(machine)[letter]
    return letter, _minus(way) if axis.flag("axis.mirrored") else way


def _minus(way: Vector) -> Vector:
    return -way[0], -way[1], -way[2]


def small_move(machine: Machine, slot: int) -> float:
    """How far an axis goes to show its direction, in mm or °: to be seen, and no more."""
    return 5.0 if machine.axis(slot).rotary else 2.0
