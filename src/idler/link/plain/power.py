"""A drive taken to "operation enabled", state by state (CiA 402-2, state machine)."""

from __future__ import annotations

import time
from collections.abc import Callable

from idler.core.profile import cia402 as c

from ..errors import NotAllowedNow, Overtaken
from .axis import Axis
from .part import Part

WALK = {  # from each state, the word that leads on to "operation enabled"
    c.State.FAULT: c.FAULT_RESET, c.State.OFF: c.SHUTDOWN, c.State.READY: c.SWITCH_ON, c.State.SWITCHED_ON: c.ENABLE,
    c.State.QUICK_STOP: c.ENABLE,
}  # fmt: skip


def to_enabled(axis: Axis, patience: float, wait: Callable[[float], None], wanted: Callable[[], bool]) -> None:
    """patience: s. Raises NotAllowedNow with the reason of the drive, Overtaken after STOP."""
    part, deadline = axis.part, time.monotonic() + patience
    axis.rested()

    def may() -> None:
        if not wanted():
            raise Overtaken("STOP came first.")

    while True:
        asked = time.monotonic()
        data = part.bytes_of((c.STATUS, 0), "statusword")
        axis.see((c.STATUS, 0), data, asked)
        state = c.State.of(int.from_bytes(data, "little"))
        if state is c.State.ENABLED:
            return
        if time.monotonic() > deadline:
            raise NotAllowedNow(f"The drive of {axis.name} does not follow: {why_not(axis)}.")
        may()
        word = WALK.get(state)
        if word == c.ENABLE:  # what was told before it had power must not begin now
            _stand_where_it_is(part)
        if word == c.FAULT_RESET:
            part.tell((c.CONTROL, 0), 0, may)
        if word is not None:
            part.tell((c.CONTROL, 0), word, may, f"controlword of {axis.name}")
        wait(0.01)


def _stand_where_it_is(part: Part) -> None:
    if part.has((c.TARGET_VELOCITY, 0)):
        part.write((c.TARGET_VELOCITY, 0), 0)
    if part.has((c.TARGET_POSITION, 0)):
        part.write((c.TARGET_POSITION, 0), part.read((c.POSITION, 0), signed=True))


def why_not(axis: Axis) -> str:
    code = axis.part.read_if_there((c.ERROR_CODE, 0)) or 0
    return c.fault_text(code) if code else f"its state is “{axis.state.state.name.lower().replace('_', ' ')}”"
