"""Tools by the numbers that programs call their lengths by (H of ISO 6983-1), and at which radii feeds of axes that turn are
meant.

A length says by how much a tool is longer than the one that the work zero was taken with, in mm: G43 counts Z from so much
higher. One that was measured with the machine rests on the scale of Z; where that is another one now it is stale, and is not
known until it is measured anew. H0 is no tool: its length is 0.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from ..errors import Refusal
from ..machine import Machine
from ..proof.claims import scale_claim, value_texts
from ..proof.workzero import tidy_name
from ..values.toolnumber import TOOLS

LONGEST = 1000.0  # mm
WIDEST = 10_000.0  # mm: a radius


@dataclass(frozen=True)
class Tool:
    """length: mm. rests: texts of values by the texts of their addresses, as they were when it was measured; empty where it was
    typed."""

    length: float
    name: str = ""
    rests: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class ToolSet:
    """tools: by number, 1 to 99. radii: mm, by the letter of an axis that turns."""

    tools: Mapping[int, Tool] = field(default_factory=dict)
    radii: Mapping[str, float] = field(default_factory=dict)

    @property
    def free(self) -> int:
        """The lowest number without a tool; 0 where there is none."""
        return next((number for number in range(1, TOOLS) if number not in self.tools), 0)

    def put(self, number: int, length: float, rests: Mapping[str, str] | None = None) -> ToolSet:
        """Of this length, with the name that it has. Raises Refusal."""
        if not 1 <= number < TOOLS:
            raise Refusal("tool", str(number), "is no number of a tool", f"1 to {TOOLS - 1}")
        if not abs(length) <= LONGEST:
            raise Refusal(
                f"length of tool {number}", f"{length:g} mm", "is no length of a tool", f"{LONGEST:g} mm at most"
            )
        old = self.tools.get(number, Tool(0.0))
        return replace(self, tools={**self.tools, number: Tool(length, old.name, dict(rests or {}))})

    def named(self, number: int, text: str) -> ToolSet:
        """Raises Refusal where there is no such tool, or the name is too long or not of one line."""
        if number not in self.tools:
            raise Refusal("tool", str(number), "has no length yet", way_out="give it one first")
        name = tidy_name(f"name of tool {number}", text)
        return replace(self, tools={**self.tools, number: replace(self.tools[number], name=name)})

    def without(self, number: int) -> ToolSet:
        return replace(self, tools={key: tool for key, tool in self.tools.items() if key != number})

    def turning(self, machine: Machine, axis: str, radius: float) -> ToolSet:
        """With feeds of an axis meant at a radius, mm; 0: in degrees. Raises Refusal."""
        if axis not in machine.names or not machine.axes[machine.names.index(axis)].rotary:
            raise Refusal("radius", axis, "is not an axis of this machine that turns")
        if not 0 <= radius <= WIDEST:
            raise Refusal(f"radius of {axis}", f"{radius:g} mm", "is no radius", f"0 to {WIDEST:g} mm")
        others = {key: kept for key, kept in self.radii.items() if key != axis}
        return replace(self, radii={**others, axis: radius} if radius else others)

    def lengths(self, machine: Machine) -> dict[int, float]:
        """mm, by number, of those that are not stale on what is in force."""
        return {number: tool.length for number, tool in self.tools.items() if not stale(machine, tool)}

    def rims(self, machine: Machine) -> dict[str, float]:
        """The radii of axes that this machine has and that turn."""
        turning = {axis.name for axis in machine.axes if axis.rotary}
        return {name: radius for name, radius in self.radii.items() if name in turning}


def measured_rests(machine: Machine) -> dict[str, str]:
    """On what a length rests that Z measured."""
    return value_texts(machine, scale_claim(machine, machine.names.index("Z")).rests) if "Z" in machine.names else {}


def stale(machine: Machine, tool: Tool) -> bool:
    """Whether a length was measured with another scale than that which is in force."""
    return bool(tool.rests) and dict(tool.rests) != measured_rests(machine)
