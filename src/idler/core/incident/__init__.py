"""What stopped the machine, and the way back as steps that are seen to be done."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..machine import Machine
from ..profile.cia402 import (
    DRIVE_TROUBLE,
    FAULTS,
    GUARD_OPENED,
    LAGGED,
    LIMIT_MET,
    LINK_CUT,
    RESTARTED,
    STOP_PRESSED,
    fault_text,
    way_back,
)
from ..profile.terminals import Condition
from ..wiring import inputs
from ..words import capital


@dataclass(frozen=True)
class Incident:
    """code: of the emergency message. axis and input: slots where the controller names them.

    homed: axes whose home was known before. lost: those of them that were seen to have lost it.
    """

    code: int
    axis: int | None = None
    input: int | None = None
    homed: tuple[str, ...] = ()
    lost: tuple[str, ...] = ()

    def seen(self, unhomed: Sequence[str]) -> Incident:
        """The same, with what has been lost by now."""
        lost = tuple(name for name in self.homed if name in unhomed or name in self.lost)
        return self if lost == self.lost else replace(self, lost=lost)

    @property
    def stops_axes(self) -> bool:
        return self.code != GUARD_OPENED

    @property
    def takes_power(self) -> bool:
        """Whether drives are off after it until power is asked for again."""
        return self.code in (STOP_PRESSED, DRIVE_TROUBLE, LAGGED)


@dataclass(frozen=True)
class Step:
    """action: "power" where a button can do it, else nothing."""

    words: str
    done: bool
    action: str = ""


def title(machine: Machine, incident: Incident) -> str:
    """What happened, in one sentence."""
    wired = inputs(machine)
    number = f"input {wired[incident.input].name}" if incident.input is not None and incident.input < len(wired) else ""
    where = f" ({number})" if number else ""
    if incident.code == STOP_PRESSED:
        return f"Emergency stop{where}: drives and spindle have lost their power."
    known = incident.axis is not None and incident.axis < len(machine.names)
    if incident.code == DRIVE_TROUBLE:
        of = machine.names[incident.axis] if known and incident.axis is not None else "a drive"
        return f"The drive of {of} reports trouble{where}: it has lost its power, and the other axes were stopped."
    if incident.code == GUARD_OPENED:
        return "The guard was opened: the spindle is off. It will not start again by itself."
    if incident.code == LIMIT_MET:
        of = machine.names[incident.axis] if known and incident.axis is not None else "an axis"
        return f"{of} has met a limit switch{where}: every axis was stopped. The drives keep their power."
    if incident.code == LAGGED and known and incident.axis is not None:
        return (
            f"{machine.names[incident.axis]} lagged behind further than allowed: it has lost its power, and the other axes "
            "were stopped."
        )
    if incident.code in (LINK_CUT, RESTARTED):
        return f"{capital(fault_text(incident.code))}."
    if known and incident.axis is not None and incident.code not in FAULTS:
        return f"The drive of {machine.names[incident.axis]} stopped: {fault_text(incident.code)}. The other axes were stopped."
    several = machine.made_of_parts and incident.code not in FAULTS
    return f"{'Several drives stopped, and each says' if several else 'The controller stopped'}: {fault_text(incident.code)}."


def steps(
    incident: Incident, conditions: Condition, *, powered: bool, unhomed: Sequence[str], limit_made: bool = False,
    moved: bool = False,
) -> list[Step]:  # fmt: skip
    """The way back. unhomed: axes whose home is not known now. limit_made: whether a limit switch still is. moved: whether the
    axis of the incident has moved since: before that nobody has seen that nothing holds it."""
    found: list[Step] = []
    if incident.code == STOP_PRESSED:
        found.append(Step("Release the emergency stop at the machine.", not conditions & Condition.STOP))
    elif incident.code == DRIVE_TROUBLE:
        done = powered and not conditions & Condition.TROUBLE
        found.append(Step("Look what holds the axis, free it, and power the drives.", done, "power"))
        found.append(Step("Move it a little: it is seen to be free when it has moved.", done and moved))
    elif incident.code == GUARD_OPENED:
        return [Step("Close the guard, then start the spindle anew.", not conditions & Condition.GUARD)]
    elif incident.code == LIMIT_MET:
        return [Step(way_back(incident.code), not limit_made)]
    else:
        found.append(Step(way_back(incident.code) or "Look at the machine.", powered))
    if incident.code != DRIVE_TROUBLE:
        found.append(Step("Power the drives.", powered and not conditions & Condition.STOP, "power"))
    if incident.lost:
        left = [name for name in incident.lost if name in unhomed]
        again = left or incident.lost
        tail = "its place is" if len(again) == 1 else "their places are"
        found.append(Step(f"Home {', '.join(again)} again: {tail} lost.", not left))
    return found
