"""What must be so for the spindle to run, rung by rung, and why an output may not be tried now: one sentence, or nothing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..machine import Address, Machine
from ..profile.terminals import Condition
from ..values.roles import RANGE_ROLES, InputRole, OutputRole
from ..wiring import Duty, input_of, inputs, outputs, spindle_kind
from ..wiring.tool import tool_of
from . import has_own_drive, quantity

_STOP = "the emergency stop is pressed. Release it first"
_GUARD = "the guard is open. Close it first"
_ASKED = "asked"
_PART = Address(None, "spindle.part")


@dataclass(frozen=True)
class Rung:
    """One condition in series. by: the input, output or value that it hangs on. why: what to do while it is open."""

    title: str
    by: str
    closed: bool
    now: str
    why: str = ""


def ladder(
    machine: Machine, conditions: Condition, *, fault: bool, powered: bool, speed: bool = True
) -> tuple[Rung, ...]:
    """All that must be so before the spindle turns, in the order in which the controller looks. speed: one is asked for."""

    def by(role: InputRole) -> str:
        item = input_of(machine, Duty(role))
        return f"input {item.name}" if item is not None else "no input"

    stop, guard = bool(conditions & Condition.STOP), bool(conditions & Condition.GUARD)
    unready, lost = bool(conditions & Condition.NOT_READY), bool(conditions & Condition.NO_RANGE)
    starts = speed or bool(quantity(machine, "spindle.start_speed"))
    rungs = [
        Rung("emergency stop", by(InputRole.STOP), not stop, "pressed" if stop else "released", _STOP),
        Rung("guard", by(InputRole.GUARD), not guard, "open" if guard else "closed", _GUARD),
        Rung("no fault", "reset", not fault, "fault" if fault else "none",
             "the controller is in a fault. Power the drives first"),
    ]  # fmt: skip
    if input_of(machine, Duty(InputRole.READY)) is not None:
        rungs.append(
            Rung("spindle ready", by(InputRole.READY), not unready, "not ready" if unready else "ready",
                 "its drive does not say that it is ready. Look at its display, then reset it")
        )  # fmt: skip
    elif has_own_drive(machine):
        rungs.append(
            Rung("its drive", str(machine[_PART]), not unready, "fault" if unready else "no fault",
                 "its drive has a fault. Look at it, then power the drives, which resets it")
        )  # fmt: skip
    if machine[Address(None, "spindle.needs_drives")]:
        rungs.append(Rung("drives on", "power", powered, "on" if powered else "off",
                          "the drives are off. Power them first"))  # fmt: skip
    if any(item.role in RANGE_ROLES for item in inputs(machine)):
        rungs.append(Rung("one range", "range inputs", not lost, "none, or several" if lost else "known",
                          "the inputs name no speed range, or several. Engage one"))  # fmt: skip
    rungs.append(Rung("a speed", _ASKED, starts, "above 0" if starts else "0",
                      "no speed is asked for. Give one above zero"))  # fmt: skip
    wired = [out for out in outputs(machine) if out.role.turns_spindle]
    rungs.append(
        Rung("a drive", "part", machine[_PART] != "-", str(machine[_PART]), "no part of this machine is its drive")
        if has_own_drive(machine)
        else Rung("an output", ", ".join(out.name for out in wired) or "none", bool(wired), "wired" if wired else "not wired",
             "no output switches it on. Give one that role first")
    )  # fmt: skip
    if spindle_kind(machine) == "none":
        rungs.append(Rung("a spindle", "kind", False, "none", "the machine was told that it has none. Choose its kind"))
    tool = tool_of(machine)
    if tool.turns:
        return tuple(rungs)
    return tuple(replace(rung, title=tool.worded(rung.title)) for rung in rungs if rung.by != _ASKED)


def obstacle_of(machine: Machine, rungs: Sequence[Rung]) -> str:
    """Why the spindle, or what cuts in its place, may not be switched on: the first open rung of the ladder, or an empty
    text."""
    first = next((rung for rung in rungs if not rung.closed), None)
    return f"The {tool_of(machine).noun} stays off: {first.why}." if first is not None else ""


def try_obstacle(machine: Machine, slot: int, conditions: Condition, *, powered: bool) -> str:
    """Why an output may not be tried: whatever could move or turn something needs stop and guard to be clear."""
    out = outputs(machine)[slot]
    begin = f"Output {out.name} is not tried: "
    if out.role is OutputRole.NONE:
        if conditions & Condition.STOP:
            return f"{begin}{_STOP}."
        if conditions & Condition.GUARD:
            return f"{begin}{_GUARD}."
        if conditions & Condition.SPINDLE or powered:
            return f"{begin}what hangs on it is not known. Power the drives off first."
        return ""
    if out.role is OutputRole.DIRECTION:
        return f"{begin}the spindle runs, and it would be turned round." if conditions & Condition.SPINDLE else ""
    if out.role is OutputRole.DRIVES_ON and conditions & Condition.STOP:
        return f"{begin}{_STOP}."
    if out.role.turns_spindle or out.role is OutputRole.SPINDLE_LEVEL:
        starts = tool_of(machine).worded("it turns the spindle")
        if conditions & Condition.STOP:
            return f"{begin}{starts}, and {_STOP}."
        if conditions & Condition.GUARD:
            return f"{begin}{starts}, and {_GUARD}."
    return ""
