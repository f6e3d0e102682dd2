"""What Idler itself has heard of the machine in the last seconds, as a flight record: for stops of which the controller
has none."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from typing import NamedTuple

from idler.core.profile.cia402 import State
from idler.core.table import POSITION_STEP, SPEED_STEP
from idler.link.events import AxisState, PanelState

SECONDS, PERIOD_MS = 5.0, 20


class _Sample(NamedTuple):
    at: float  # s, of the loop
    axes: tuple[AxisState, ...]
    panel: PanelState


class OwnRecord:
    """Noted again and again; the record has a sample each 20 ms, the last one that was heard before."""

    def __init__(self, now: Callable[[], float]) -> None:
        self._now = now
        self._kept: deque[_Sample] = deque()

    def note(self, axes: tuple[AxisState, ...], panel: PanelState) -> None:
        if not any(axis.status for axis in axes):
            return  # a controller that has just come back has said nothing yet
        now = self._now()
        self._kept.append(_Sample(now, axes, panel))
        while self._kept[0].at < now - SECONDS:
            self._kept.popleft()

    def moved(self) -> bool:
        """Whether the machine moved when it was heard last."""
        return bool(self._kept) and any(axis.moving for axis in self._kept[-1].axes)

    def record(self, code: int, at: float, number: int | None = None) -> bytes | None:
        """The record as it would stand on the wire. at: of the stop (s, of the loop); number: the slot of the input that the
        controller named. None where nothing was heard."""
        import numpy as np

        from idler.core.profile.flight import Flag, pack_flight, sample_type

        kept = [sample for sample in self._kept if sample.axes]
        if not kept:
            return None
        count = max(1, int((kept[-1].at - kept[0].at) * 1000 / PERIOD_MS))
        axes = len(kept[-1].axes)
        made, place = np.zeros(count, sample_type(axes)), 0
        for at_sample in range(count):
            moment = kept[0].at + at_sample * PERIOD_MS / 1000
            while place + 1 < len(kept) and kept[place + 1].at <= moment:
                place += 1
            sample, row = kept[place], made[at_sample]
            row["closed"], row["energised"] = sample.panel.closed, sample.panel.energised
            row["conditions"], row["spindle"] = int(sample.panel.conditions), round(sample.panel.speed)
            for slot, axis in enumerate(sample.axes[:axes]):
                row["position"][slot] = round(axis.position / float(POSITION_STEP))
                row["velocity"][slot] = round(axis.velocity / float(SPEED_STEP))
                row["flags"][slot] = (
                    (Flag.POWERED if axis.state.powered else 0) | (Flag.MOVING if axis.moving else 0)
                    | (Flag.HOMED if axis.homed else 0) | (Flag.LOW if axis.limit_made == "low" else 0)
                    | (Flag.HIGH if axis.limit_made == "high" else 0)
                    | (Flag.STOPPING if axis.state is State.QUICK_STOP and axis.moving else 0)
                )  # fmt: skip
        moment = min(count - 1, max(0, int((at - kept[0].at) * 1000 / PERIOD_MS)))
        return pack_flight(made, moment, code, number, period_ms=PERIOD_MS)
