"""The ends of an axis as they were driven to: what iron, switch and counts say of them, and the verdict.

What the controller counts says only where it believes to be. So an end holds where the axis stood there, met nothing, and its
home switch was touched again afterwards at the place where it was before.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

from ..homing import moves, stands_at, stops_of, way
from ..machine import Address, Axis, Machine
from ..mechanics.chain import Chain
from ..mechanics.reliable import gentler, lower_pace, shift_allowed
from ..values.parameter import Value

UNKNOWN_END = 60.0  # mm (°) before an end that nobody has been to: its iron may lie there
UNKNOWN_SHARE = 0.15  # of the travel, where that is more
KEPT_CLEAR = Fraction(2)  # mm (°) between iron and a new end


@dataclass(frozen=True)
class Reached:
    """One drive to an end. Coordinates in mm (°), speed per minute.

    stood      where the axis stood by its own counting
    shift      how far from its place the home switch was found afterwards; None where it was not touched
    iron       the place at which the motor's effort said iron; None where it did not
    switch     whether a switch was made at the end
    refused    whether a jog beyond the end was refused; None where it is to be shortened
    crawled    whether all of the way was gone at touch speed, so that nothing but iron can have taken steps
    """

    end: str
    asked: float
    stood: float
    speed: float
    shift: float | None = None
    iron: float | None = None
    switch: bool = False
    refused: bool | None = None
    crawled: bool = False


@dataclass(frozen=True)
class EndsVerdict:
    """words: what was seen, for the proof. edit: what would mend it."""

    held: bool
    words: str
    edit: dict[Address, Value] = field(default_factory=dict)


def slow_from(axis: Axis, end: str) -> float:
    """The coordinate from which on an end is approached at touch speed when it is driven to for the first time."""
    low, high = float(axis.number("travel.low")), float(axis.number("travel.high"))
    unknown = min(high - low, max(UNKNOWN_END, UNKNOWN_SHARE * (high - low)))
    return low + unknown if end == "low" else high - unknown


def judge_end(machine: Machine, slot: int, seen: Reached) -> EndsVerdict:
    """Of one end: whether it holds, or what is wrong with it."""
    axis = machine.axis(slot)
    told = float(axis.number(f"travel.{seen.end}"))
    where = f"the {seen.end} end"
    if seen.iron is not None:
        return _short(axis, seen.end, abs(told - seen.iron), f"at {axis.reads.length(seen.iron, 2)} the motor met iron")
    if seen.shift is not None and abs(seen.shift) > shift_allowed(machine, slot):
        if seen.crawled:
            lost = f"after {where} the home switch was found {axis.reads.length(abs(seen.shift), 3)} from where it was"
            return _short(axis, seen.end, abs(seen.shift), f"{lost}: iron took its steps")
        return EndsVerdict(False, lost_words(machine, slot, seen.shift, seen.speed), gentler(axis, seen.speed))
    if seen.switch:
        inside = Fraction(round(stands_at(axis) * 10_000), 10_000)
        at_home = (way(axis) > 0) == (seen.end == "high") and moves(axis)
        edit: dict[Address, Value] = {Address(slot, f"travel.{seen.end}"): inside} if at_home else {}
        return EndsVerdict(False, f"at {where} it met its switch", edit)
    if abs(seen.stood - told) > 1.5 * float(counts_apart(machine, slot)) + 1e-4:
        return EndsVerdict(
            False, f"asked to {axis.reads.length(seen.asked)} it stood at {axis.reads.length(seen.stood, 3)}"
        )
    if seen.refused is False:
        return EndsVerdict(False, f"at {where} a jog beyond it was not refused")
    return EndsVerdict(True, f"{where} held")


def at_fault(machine: Machine, slot: int, first: Reached, again: Reached, approach: float) -> Reached:
    """Of a slow drive that lost steps, and the same all at touch speed, the one that says why: where that one met iron or lost
    steps too, the travel is at fault; else the quicker part of the first was, which went at the speed `approach`."""
    lost = again.shift is not None and abs(again.shift) > shift_allowed(machine, slot)
    return again if lost or again.iron is not None else replace(first, speed=approach)


def lost_words(machine: Machine, slot: int, shift: float, speed: float) -> str:
    """That a run at a speed lost steps, and what a lower pace would be."""
    axis = machine.axis(slot)
    slower, gentler = lower_pace(speed, float(axis.number("pace.acceleration")))
    return (
        f"at {axis.reads.speed(speed, 0)} steps were lost: the home switch was found {axis.reads.length(abs(shift), 3)} from "
        f"where it was. Try {axis.reads.speed(slower, 0)} and {axis.reads.acceleration(gentler, 0)}"
    )


def counts_apart(machine: Machine, slot: int) -> Fraction:
    """The travel of one count, in mm (°)."""
    return 1 / Chain.of(machine.axis(slot)).counts_per_unit


def _short(axis: Axis, end: str, by: float, seen: str) -> EndsVerdict:
    """The travel is told longer than it is: the end is taken back by that, clear of the iron, and so is its hard stop."""
    way = 1 if end == "low" else -1
    short = Fraction(round(by * 100), 100)
    told = axis.number(f"travel.{end}")
    edit: dict[Address, Value] = {Address(axis.slot, f"travel.{end}"): told + way * (short + KEPT_CLEAR)}
    if stops_of(axis) is not None:
        edit[Address(axis.slot, f"travel.stop_{end}")] = told + way * short
    words = f"{seen}: the travel is {axis.reads.length(short, 2, trim=True)} shorter than told at its {end} end"
    return EndsVerdict(False, words, edit)


def judge_ends(machine: Machine, slot: int, seen: Sequence[Reached], beyond: float) -> EndsVerdict:
    """Of all drives to both ends, each of which held. beyond: how much further was asked, in mm (°)."""
    axis = machine.axis(slot)
    for each in seen:
        found = judge_end(machine, slot, each)
        if not found.held:
            return found
    if {each.end for each in seen} != {"low", "high"} or any(each.shift is None for each in seen):
        return EndsVerdict(False, "both ends were not driven to, or the switch was not touched again")
    low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
    paces = " and ".join(dict.fromkeys(axis.reads.speed(each.speed) for each in seen))
    worst = max(abs(each.shift or 0.0) for each in seen)
    refused = seen[0].refused
    how = "a jog beyond was refused" if refused else f"asked {axis.reads.length(beyond, trim=True)} beyond"
    words = (
        f"stood at {axis.reads.length(low, trim=True)} and {axis.reads.length(high, trim=True)}, {how}, at {paces}; the home "
        f"was found again within {axis.reads.length(worst, 3)}"
    )
    return EndsVerdict(True, words)
