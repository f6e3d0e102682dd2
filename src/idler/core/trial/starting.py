"""What must be so before a program moves a machine, rung by rung, and where each of them is brought about."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from ..machine import Machine
from ..proof.claims import Evidence, Proof, curve_claim, spindle_way_claim, state, stop_claim
from ..proof.workzero import CODES
from ..spindle import told_range
from ..table.stations import Station, Tab
from ..wiring import spindle_kind
from ..wiring.tool import tool_of
from ..words import capital, listed


@dataclass(frozen=True)
class Need:
    """key: for another program. words: what must be so. why: what to do while it is not; empty where it is so. page: of the
    station, where it is brought about."""

    key: str
    words: str
    station: Station
    why: str = ""
    page: str = ""

    @property
    def met(self) -> bool:
        return not self.why


@dataclass(frozen=True)
class Now:
    """How the machine is now. obstacle: why no axis can be moved by its letter. zeros: axes that have a place, by the number of
    the work zero. changed: the file is another one than that which was checked. spindle: why it may not run. tool: one that it
    works with and whose length nobody knows; None where there is none."""

    obstacle: str
    powered: bool
    homed: Collection[str]
    zeros: Mapping[int, Collection[str]]
    changed: bool
    spindle: str
    tool: int | None = None


def needs(
    machine: Machine, moved: Collection[str], counted: Mapping[int, Collection[str]], shown: int,
    speeds: Collection[int], fits: bool, why_not: str, now: Now, proofs: Mapping[str, Evidence], *, dry: bool,
) -> tuple[Need, ...]:  # fmt: skip
    """moved: letters of the axes that it moves; counted: those of them that it counts from each work zero, by its number.
    shown: the one that is chosen. speeds: of the spindle, rpm. why_not: what does not fit.
    dry: without the spindle."""
    axes = [axis for axis in machine.axes if axis.name in moved]
    unhomed = [axis.name for axis in axes if axis.name not in now.homed]
    open_ = [axis.name for axis in axes if not axis.wraps and not axis.flag("travel.limits_on")]
    linear = [axis.name for axis in axes if not axis.rotary]
    used = sorted(counted) or [shown]
    untaken = {
        CODES[number]: [name for name in linear if name in counted[number] and name not in now.zeros.get(number, ())]
        for number in counted
    }
    lacking = [f"{code} of {listed(names)}" for code, names in untaken.items() if names]
    others = [CODES[number] for number in used if number != shown]
    found = [
        Need("linked", "a controller with these axes", Station.LINK, now.obstacle.rstrip(".")),
        *_path(machine),
        Need("powered", "drives powered", Station.LINK, "" if now.powered else "the drives are off. Power them"),
        Need("homed", "its axes homed", Station.HOMING,
             f"{listed(unhomed)}: not homed, so that places mean nothing. Home first" if unhomed else ""),
        Need("limits", "soft limits on", Station.TRAVEL,
             f"{listed(open_)}: soft limits are off. Switch them on and send" if open_ else ""),
        Need("zero", f"work zero taken: {listed([CODES[number] for number in used])}", Station.TRIAL,
             f"{listed(lacking)}: no work zero was taken. Jog to it and take it" if lacking else "", Tab.WORK_ZEROS),
        *(Need("other_zero", f"it counts from {each}, and {CODES[shown]} is chosen", Station.TRIAL) for each in others),
        *([] if now.tool is None else [
            Need("tool", f"length of H{now.tool}", Station.TRIAL, f"H{now.tool}: nobody knows how long it is, and its tip "
                 "would be taken to be where that of the first tool is. Type its length, or measure it", Tab.TOOLS)]),
        Need("program", "the program fits", Station.TRIAL, "" if fits else f"{why_not}. Look at its problems", Tab.PROGRAM),
        Need("unchanged", "its file is the one that was checked", Station.TRIAL,
             "the file was changed since it was checked. It is read anew by itself; look at it again" if now.changed else "",
             Tab.PROGRAM),
    ]  # fmt: skip
    if speeds and not dry and spindle_kind(machine) != "none":
        tool = tool_of(machine)
        found.append(Need("spindle", tool.worded("spindle may run"), Station.SPINDLE, now.spindle.rstrip(".")))
        claims = [spindle_way_claim(machine)] if tool.turns else [stop_claim(machine, "esc")]
        claims += [curve_claim(machine, told_range(machine))] if tool.turns and spindle_kind(machine) != "relay" else []
        unproven = [claim.label for claim in claims if state(machine, claim, proofs) is not Proof.PROVEN]
        found.append(
            Need("speeds", f"{tool.noun} proven", Station.SPINDLE,
                 f"{tool.worded(listed(unproven))}: not proven. Prove it, or run dry" if unproven else "")
        )  # fmt: skip
    return tuple(found)


def _path(machine: Machine) -> tuple[Need, ...]:
    """Only a controller that buffers a path runs one; what is made of plain drives has none."""
    why = (
        "these drives are told one place after another, and a desktop is not even enough to tell several of them a path. The "
        "program is read, checked, timed and drawn, and not run"
    )
    return (Need("path", "a controller that follows a path", Station.LINK, why),) if machine.made_of_parts else ()


def missing_of(rungs: tuple[Need, ...]) -> Need | None:
    """The first of them that is not met."""
    return next((rung for rung in rungs if not rung.met), None)


def obstacle_of(rungs: tuple[Need, ...]) -> str:
    """The first of them that is not met as a sentence, or an empty text."""
    missing = missing_of(rungs)
    return "" if missing is None else f"{capital(missing.why)}."
