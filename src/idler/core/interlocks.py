"""Why an output may not be tried, or the spindle not run, now: one sentence, or nothing where it may."""

from __future__ import annotations

from .machine import Machine
from .roles import OutputRole
from .wire.terminals import Condition
from .wiring import outputs

_STOP = "the emergency stop is pressed. Release it first"
_GUARD = "the guard is open. Close it first"


def run_obstacle(machine: Machine, conditions: Condition, *, fault: bool) -> str:
    """Why the spindle may not be run."""
    if conditions & Condition.STOP:
        return f"The spindle stays off: {_STOP}."
    if conditions & Condition.GUARD:
        return f"The spindle stays off: {_GUARD}."
    if fault:
        return "The spindle stays off: the controller is in a fault. Power the drives first."
    if not any(out.role.turns_spindle for out in outputs(machine)):
        return "No output switches the spindle on. Give one that role first."
    return ""


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
        if conditions & Condition.STOP:
            return f"{begin}it turns the spindle, and {_STOP}."
        if conditions & Condition.GUARD:
            return f"{begin}it turns the spindle, and {_GUARD}."
    return ""
