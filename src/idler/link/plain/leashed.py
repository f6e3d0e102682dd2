"""Homing by Idler itself, on a leash: for a drive that would run on when Idler falls silent, and is never told further than a
short way. Towards the switch, back off it, touch it slowly, and leave it. Switch and place are looked at in turn, and no faster
than the drive answers: where that does not tell closely enough where the switch was met, it is touched again at half the speed.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from idler.core.machine import Axis as Told
from idler.core.profile.homing import HomingResult, Phase

if TYPE_CHECKING:
    from .axis import Axis

BACK, LEAVE = 2.0, 1.0  # mm (°) beyond the place where the switch was met
BACKS = 3  # times that it backs off so far before the switch is said to stay pressed
SURE, TOUCHES = (
    0.1,
    5,
)  # mm (°) by which home may lie elsewhere than it was seen; touches, each half as fast, until it does not


@dataclass(frozen=True)
class Plan:
    """way: 1 towards +, -1 towards -. Speeds in mm/min (°/min), search in mm (°)."""

    way: int
    approach: float
    touch: float
    search: float

    @classmethod
    def of(cls, told: Told) -> Plan:
        towards = 1 if told.choice("homing.towards") == "high" else -1
        numbers = (float(told.number(f"homing.{key}")) for key in ("approach", "touch", "search"))
        return cls(towards, *numbers)


class LeashedHoming:
    """`step` is called again and again until `result` stands."""

    def __init__(self, axis: Axis, plan: Plan) -> None:
        self._axis, self._plan = axis, plan
        self.phase = Phase.APPROACH
        self.result: HomingResult | None = None
        self._steps = self._run()

    def step(self) -> None:
        if self.result is None and not self._axis.on_its_way:
            self.result = next(self._steps, HomingResult.FOUND)

    def stopped(self) -> None:
        self.result = HomingResult.STOPPED

    def _run(self) -> Iterator[HomingResult | None]:
        axis, plan = self._axis, self._plan
        if axis.on_switch:
            yield HomingResult.PRESSED
        count = axis.latches
        axis.set_off(plan.way * plan.search, plan.approach, seek=True)
        yield None
        if axis.latches == count:
            yield HomingResult.NOT_FOUND
        axis.found["first"] = axis.latched
        touch, met, leave = plan.touch, axis.latched, LEAVE
        for _ in range(TOUCHES):
            self.phase, off = Phase.BACK_OFF, 0.0
            # It may have been met before it was seen, and is seen to be left only some time after.
            for back in range(BACKS):
                off += BACK + axis.latched_within
                axis.set_off(met - plan.way * off - axis.state.position, plan.touch * 4, seek=False)
                yield None
                if not axis.on_switch:
                    leave = off if back else LEAVE
                    break
            else:
                yield HomingResult.STILL_PRESSED
            self.phase, count = Phase.TOUCH, axis.latches
            axis.set_off(plan.way * (off + BACK), touch, seek=True)
            yield None
            if axis.latches == count:
                yield HomingResult.NOT_FOUND
            met, touch = axis.latched, touch / 2
            if axis.latched_within <= SURE:
                break
        else:
            yield HomingResult.UNSURE
        axis.found["touch"] = axis.latched
        touched = axis.latched_raw
        self.phase = Phase.LEAVE
        axis.set_off(axis.latched - plan.way * leave - axis.state.position, plan.touch * 4, seek=False)
        yield None
        if axis.on_switch:
            yield HomingResult.STILL_MADE
        axis.count_from(touched)
