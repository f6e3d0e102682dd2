"""A send that was begun: what each place held before, what it was to hold, and what has become of it.

Nothing is believed of a send but what the controller says afterwards: its values, and how many of them are not stored.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum

from ..machine import Machine
from ..profile.codec import DERIVED, LETTERS, Place, Raw, derived, place
from ..words import capital
from .standing import ControllerImage


@dataclass(frozen=True)
class Sending:
    """serial: of the controller. old and new: raw values by place, only where they differ. when: seconds since 1970."""

    serial: int
    when: float
    old: Mapping[Place, Raw]
    new: Mapping[Place, Raw]


class SendEnd(Enum):
    """How a send ended, as the controller's values tell it."""

    OLD = "the controller holds all its old values"
    NEW = "the controller holds all new values"
    PARTLY = "the controller holds a part of the new values"


@dataclass(frozen=True)
class SendOutcome:
    """Places by what they hold now. settled: all old or all new, and stored: a restart changes nothing of it."""

    end: SendEnd
    old: tuple[Place, ...]
    new: tuple[Place, ...]
    other: tuple[Place, ...]
    settled: bool


def outcome(sending: Sending, holding: ControllerImage) -> SendOutcome:
    """What has become of a send. Places of axes that the controller does not use do not count."""
    old: list[Place] = []
    new: list[Place] = []
    other: list[Place] = []
    for where, raw in sending.new.items():
        if where in holding.raws:
            now = holding.raws[where]
            (new if now == raw else old if now == sending.old[where] else other).append(where)
    end = SendEnd.PARTLY if other or (old and new) else SendEnd.NEW if new else SendEnd.OLD
    settled = end is not SendEnd.PARTLY and not holding.unstored
    return SendOutcome(end, tuple(old), tuple(new), tuple(other), settled)


def labels(machine: Machine) -> dict[Place, str]:
    """Every place of a machine's image with the label of its value."""
    found = {place(address): machine.part(address) for address in machine.addresses()}
    for axis in machine.axes:
        for where, item in zip(derived(axis), DERIVED, strict=True):
            found[where] = f"{axis.name} {item.label}"
    found[LETTERS] = "letters of the axes"
    return found


def sentence(found: SendOutcome, names: Mapping[Place, str], most: int = 4) -> str:
    """What the controller holds, and exactly which part of it where it is neither old nor new."""
    if found.end is not SendEnd.PARTLY:
        stored = "." if found.settled else ", but has not stored them: a restart would bring others back."
        return f"{capital(found.end.value)}{stored}"

    def listed(places: tuple[Place, ...]) -> str:
        words = [names.get(where, str(where)) for where in places[:most]]
        more = f" and {len(places) - most} more" if len(places) > most else ""
        return ", ".join(words) + more

    total = len(found.old) + len(found.new) + len(found.other)
    parts = [f"{len(found.new)} of {total} values are new in the controller"]
    if found.old:
        parts.append(f"old: {listed(found.old)}")
    if found.other:
        parts.append(f"neither old nor new: {listed(found.other)}")
    return f"{'; '.join(parts)}."
