"""How fast the spindle turns, by whatever this machine has to tell it."""

from __future__ import annotations

import math
from collections import deque

import numpy as np

from idler.core.spindle import Meter, whole
from idler.core.values.roles import InputRole
from idler.core.wiring import Duty, input_of
from idler.session.session import Session

STEADY_SHARE, STEADY_RPM = 0.0015, 0.6  # spread of what is looked at, below which a speed is steady
LOOKS, SPAN = 14, 1.0  # of the encoder's speed that make a mean, at least, and s over which
SOONEST, BEGUN_BY = (
    1.5,
    4.0,
)  # s after which a speed may be steady, and after which one that has not changed is taken to stay
FEWEST, SHORTEST = 6, 800_000  # pulses, and µs of the controller's clock, that make a speed
STILL = 2_500_000  # µs without a pulse: it stands


class SpeedMeter:
    """`look` is called as often as something new may have come; `steady` is then the speed in rpm, or None."""

    def __init__(self, session: Session, kind: Meter) -> None:
        self._session, self.kind = session, kind
        self._seen: deque[tuple[float, float]] = deque()  # s of the controller's clock, and rpm
        self._before = 0.0
        self._from = 0
        self._typed: float | None = None

    def begin(self, since: int) -> None:
        """What came before this time of the controller's clock (µs) does not count any more."""
        self._before = self.now if self.kind is Meter.ENCODER else 0.0
        self._seen.clear()
        self._typed = None
        self._from = since

    def type_in(self, rpm: float) -> None:
        self._typed = abs(rpm)

    def look(self) -> None:
        if self.kind is Meter.ENCODER:
            self._seen.append((self._session.link.trace.now / 1e6, abs(self._session.link.panel.speed)))
            while len(self._seen) > LOOKS and self._seen[-1][0] - self._seen[1][0] >= SPAN:
                self._seen.popleft()

    @property
    def now(self) -> float:
        """The speed as last seen, for the eye; not a number where nothing tells it."""
        if self.kind is Meter.ENCODER:
            return abs(self._session.link.panel.speed)
        if self.kind is Meter.PULSE:
            times = self.pulses(self._session.link.trace.now - STILL)
            late = self._session.link.trace.now - int(times[-1]) if len(times) else STILL
            if len(times) < 2 or late > 4 * (times[-1] - times[-2]):
                return 0.0
            few = times[-9:]
            return self._rpm(len(few) - 1, int(few[-1] - few[0]))
        return math.nan if self._typed is None else self._typed

    def _rpm(self, gaps: int, micros: int) -> float:
        return 60e6 * gaps / micros / whole(self._session.machine, "pulses")

    def pulses(self, since: int) -> np.ndarray:
        """Times in µs of the controller's clock at which the input of the pulses was made."""
        item = input_of(self._session.machine, Duty(InputRole.PULSE))
        if item is None:
            return np.zeros(0, np.int64)
        edges = self._session.link.trace.since(since)
        times: np.ndarray = edges.times[(edges.inputs == item.slot) & (edges.closed != int(item.closed_at_rest))]
        return times

    @property
    def steady(self) -> float | None:
        """The speed once it does not change any more; None until then."""
        match self.kind:
            case Meter.ENCODER:
                return self._by_encoder()
            case Meter.PULSE:
                return self._by_pulses()
            case Meter.TYPED:
                return self._typed

    def _by_encoder(self) -> float | None:
        speeds = [rpm for _, rpm in self._seen]
        if len(speeds) < LOOKS or self._seen[-1][0] - self._seen[0][0] < SPAN:
            return None
        mean, half, since = sum(speeds) / len(speeds), len(speeds) // 2, self._seen[-1][0] - self._from / 1e6
        allowed = max(STEADY_SHARE * mean, STEADY_RPM)
        drift = abs(sum(speeds[:half]) - sum(speeds[-half:])) / half
        soonest = BEGUN_BY if abs(mean - self._before) <= allowed else SOONEST  # drives take a moment before they begin
        return mean if drift <= allowed and since >= soonest else None

    def _by_pulses(self) -> float | None:
        """Two stretches of pulses one after the other that agree: the mean of both."""
        now, times = self._session.link.trace.now, self.pulses(self._from)
        if now - (int(times[-1]) if len(times) else self._from) > STILL:
            return 0.0
        if len(times) < 2 * FEWEST + 1 or times[-1] - times[0] < 2 * SHORTEST:
            return None
        last = int(times[-1])
        middle = int(np.searchsorted(times, min(last - SHORTEST, int(times[-1 - FEWEST]))))
        length = last - int(times[middle])
        first = max(0, int(np.searchsorted(times, int(times[middle]) - length)))
        if first >= middle or int(times[middle]) - int(times[first]) < 0.9 * length:
            return None
        before = self._rpm(middle - first, int(times[middle] - times[first]))
        after = self._rpm(len(times) - 1 - middle, last - int(times[middle]))
        agree = abs(before - after) <= max(2 * STEADY_SHARE * after, STEADY_RPM)
        return self._rpm(len(times) - 1 - first, last - int(times[first])) if agree else None
