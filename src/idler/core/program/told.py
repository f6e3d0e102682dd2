"""What a program is read against: the axes of a machine, its work zeros, where home is, its spindle, lengths of tools."""

from __future__ import annotations

import numpy as np

from ..homing import stands_at, stops_of
from ..machine import Address, Axis, Machine
from ..spindle import Range, speed_range, takes_speeds, told_range
from ..values.roles import OutputRole
from ..values.toolnumber import TOOLS
from ..wiring import outputs, spindle_kind
from ..wiring.indexing import turrets
from ..wiring.tool import tool_of
from .choices import Chosen
from .state import TOLD, ZEROS, Array, Row

COOLED = (OutputRole.MIST, OutputRole.COOLANT)  # by M7 and M8


def home_of(axis: Axis) -> float:
    """Where G28 takes an axis: to its parking place, else to where homing leaves it."""
    return float(axis.number("travel.park")) if axis.flag("travel.parks") else stands_at(axis)


def highest_speed(engaged: Range) -> float:
    """The highest speed in rpm that this range gives: that of its measured curve, where it was measured."""
    return min(engaged.high, engaged.points[-1][1]) if engaged.points else engaged.high


def diameter_of(machine: Machine) -> str:
    """The letter of the axis whose figures are diameters: X of a lathe that is told so; empty for none."""
    lathe = machine[Address(None, "build.kind")] == "lathe"
    return "X" if lathe and machine[Address(None, "build.cross")] == "diameter" else ""


def told_record(machine: Machine, chosen: Chosen) -> Row:
    """The record that compiled code reads."""
    told: Array = np.zeros(1, TOLD)
    row = told[0]
    row["axes"] = len(machine.names)
    for slot, axis in enumerate(machine.axes):
        row["letter"][slot] = ord(axis.name) - 65
        row["letters"] |= 1 << (ord(axis.name) - 65)
        row["rotary"][slot] = axis.rotary
        row["turning"] |= int(axis.rotary) << slot
        row["parks"][slot] = axis.flag("travel.parks")
        row["homes"][slot] = home_of(axis)
        row["radius"][slot] = chosen.radii.get(axis.name, 0.0)
    for number in range(ZEROS):
        for name, at in chosen.zeros.get(number, {}).items():
            if name in machine.names:
                row["zeros"][number][machine.names.index(name)] = at
    row["length_known"][0] = 1
    for tool, length in chosen.lengths.items():
        if 0 <= tool < TOOLS:
            row["lengths"][tool], row["length_known"][tool] = length, 1
    for name in "xyz":
        row[name] = machine.names.index(name.upper()) if name.upper() in machine.names else -1
    if row["z"] >= 0 and chosen.raised:
        axis, slot = machine.axis(int(row["z"])), int(row["z"])
        stops = stops_of(axis)
        top = (
            float(axis.number("travel.high")) if axis.flag("travel.limits_on") else float(stops[1]) if stops else np.inf
        )
        row["zeros"][:, slot] += chosen.raised
        row["raised"], row["ceiling"] = chosen.raised, top
    row["lathe"] = machine[Address(None, "build.kind")] == "lathe"
    row["x_diameter"] = diameter_of(machine) == "X"
    row["zero"] = chosen.zero
    row["coolant"] = any(out.role in COOLED for out in outputs(machine))
    row["spindle"] = spindle_kind(machine) != "none"
    row["turret"] = bool(turrets(machine))
    row["cutter"] = not tool_of(machine).turns
    if row["spindle"]:
        engaged = speed_range(machine, told_range(machine))
        row["run_up"], row["run_down"] = engaged.run_up, engaged.run_down
        if takes_speeds(machine) and not row["cutter"]:
            row["speed_low"], row["speed_high"] = engaged.low, highest_speed(engaged)
    return told[0:1].view(np.recarray)[0]
