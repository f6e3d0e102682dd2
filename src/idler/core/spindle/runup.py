"""How long a spindle needs to its speed and to standstill, from its speed against time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

WITHIN = 0.02  # of the change: nearer counts as there
STANDS, STANDS_RPM = 0.003, 5.0  # of the change, and rpm: slower counts as standing, for a hand will go there
MARGIN = 1.15  # a wait is so much longer than what was measured
_OVER = 0.15  # s of a mean of pulses
_STEP = 0.05  # s: waits are rounded up to this


@dataclass(frozen=True)
class SpeedTrace:
    """Speed (rpm, without sign) against time (s from the command)."""

    times: tuple[float, ...]
    speeds: tuple[float, ...]

    def settled(self) -> float | None:
        """Seconds until the speed stays within 2 % of the change about its last value, or until it stands; None where nothing
        changed."""
        if len(self.speeds) < 3:
            return None
        last = sum(self.speeds[-3:]) / 3
        change = max(abs(last - self.speeds[0]), 1.0)
        stands = abs(last) < STANDS_RPM < change
        near = max(STANDS * change, STANDS_RPM) if stands else WITHIN * change
        outside = [time for time, speed in zip(self.times, self.speeds, strict=True) if abs(speed - last) > near]
        if not outside:
            return None
        return next((time for time in self.times if time > outside[-1]), None)


def from_pulses(times: Sequence[float], pulses: int, end: float) -> SpeedTrace:
    """Speed from the times (s) of pulses, each a mean over the last 0.15 s; standstill where none comes any more.

    A contact is seen within a millisecond: over so long a mean that is less than 1 %.

    A pulse that is overdue by more than three of the last gaps says that the spindle stands: it stopped half a gap after it.
    """
    at, speeds = [0.0], [0.0]
    if len(times) > 1 and times[0] < 0.02:
        speeds[0] = 60.0 / pulses / (times[1] - times[0])
    for k in range(1, len(times)):
        back = 1
        while back < k and times[k] - times[k - back] < _OVER:
            back += 1
        at.append(times[k])
        speeds.append(60.0 * back / pulses / (times[k] - times[k - back]))
    if len(times) > 1 and end - times[-1] > 3 * (times[-1] - times[-2]):
        at += [times[-1] + (times[-1] - times[-2]) / 2, end - 1e-6, end]
        speeds += [0.0, 0.0, 0.0]
    return SpeedTrace(tuple(at), tuple(speeds))


def wait_for(measured: float) -> float:
    """The wait in s to be told for a time that was measured: a margin, rounded up."""
    return ceil(measured * MARGIN / _STEP - 1e-9) * _STEP
