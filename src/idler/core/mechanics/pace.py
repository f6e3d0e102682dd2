"""How a move goes: closed forms for its duration and velocity, for the three shapes.

Notation: top speed V, acceleration a, deceleration d, jerk j, distance D; s = 1/a + 1/d; m = max(a, d). Units are those
of the caller, with seconds; here mm (or °).

Constant acceleration. Ramps cover v²/2a and v²/2d, so a move that reaches v without cruising is D = v²s/2:
    v = min(V, √(2D/s)),  cruise c = (D − v²s/2)/v,  duration T = v/a + c + v/d.

Limited jerk. Averaging a velocity over a window of length w (convolution with a box of unit area) keeps the distance,
lengthens the move by w, and turns each jump of acceleration a into a slope a/w. With w = m/j no slope exceeds j, as long
as the two ramps are at least w apart, so the cruise is never shorter than w:
    D = v²s/2 + v·w  ⇒  v = (√(w² + 2sD) − w)/s  where V is not reached,
    T = v/a + c + v/d + w,  c = (D − v²s/2)/v ≥ w.
Where a ramp would be shorter than its window (v < m·w) the plateau of acceleration is not reached, and the best ramp has
a lower peak: a, d and w are all scaled by k < 1. The peak is reached just so when v = k²m²/j, which for a given v is
k = √(Vj)/m, and for a given D, from D = k³(m⁴s/2j² + m³/j²), is k = ∛(D / (m³/j² · (ms/2 + 1))).
For a = d this is the time-optimal profile of constant jerk (seven segments).

Smoothest. The limited-jerk velocity averaged once more, over w/2: bounds and distance are kept, the jerk itself becomes
continuous, and the move is w/2 longer.
"""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass
from enum import Enum

from ..machine import Axis

DAMPING = 0.03  # of a machine's frame: cast iron about 0.02, bolted profiles up to 0.06


class VelocityShape(Enum):
    CONSTANT = "constant"
    LIMITED = "limited"
    SMOOTHEST = "smoothest"


@dataclass(frozen=True)
class Pace:
    """speed mm/s, acceleration and deceleration mm/s², jerk mm/s³ (° for rotary axes); all above zero."""

    speed: float
    acceleration: float
    deceleration: float
    shape: VelocityShape = VelocityShape.CONSTANT
    jerk: float = 0.0

    def __post_init__(self) -> None:
        if min(self.speed, self.acceleration, self.deceleration) <= 0:
            raise ValueError("speed, acceleration and deceleration must be above zero")
        if self.shape is not VelocityShape.CONSTANT and self.jerk <= 0:
            raise ValueError("a shape with limited jerk needs a jerk above zero")

    @classmethod
    def of(cls, axis: Axis) -> Pace | None:
        """The pace of an axis, or None where a value that it needs is zero."""
        try:
            return cls(
                float(axis.number("pace.top_speed")) / 60,
                float(axis.number("pace.acceleration")),
                float(axis.number("pace.deceleration")),
                VelocityShape(axis.choice("pace.shape")),
                float(axis.number("pace.jerk")),
            )
        except ValueError:
            return None

    @property
    def _steepest(self) -> float:
        return max(self.acceleration, self.deceleration)

    @property
    def _slowness(self) -> float:
        return 1 / self.acceleration + 1 / self.deceleration

    def _scale(self, distance: float) -> float:
        """k of the module's docstring: how much of the acceleration a move of this length comes to use."""
        if self.shape is VelocityShape.CONSTANT:
            return 1.0
        m, j = self._steepest, self.jerk
        by_speed = math.sqrt(self.speed * j) / m
        by_distance = math.cbrt(distance / (m**3 / j**2 * (m * self._slowness / 2 + 1)))
        return min(1.0, by_speed, by_distance)

    def move(self, distance: float) -> Move:
        """The move over `distance` (mm or °, above zero) from rest to rest."""
        if not distance > 0:
            raise ValueError("a move needs a distance above zero")
        k = self._scale(distance)
        a, d = k * self.acceleration, k * self.deceleration
        w = 0.0 if self.shape is VelocityShape.CONSTANT else k * self._steepest / self.jerk
        s = 1 / a + 1 / d
        reachable = (math.sqrt(w * w + 2 * s * distance) - w) / s
        peak = min(self.speed, reachable)
        cruise = max(0.0, (distance - peak * peak * s / 2) / peak)
        second = w / 2 if self.shape is VelocityShape.SMOOTHEST else 0.0
        return Move(distance, peak, peak / a, cruise, peak / d, w, second, self.speed <= reachable * (1 + 1e-12))

    def ramp(self, rate: float) -> tuple[float, float]:
        """Seconds and distance between rest and top speed at `rate`, one of acceleration and deceleration.

        A ramp of V/rate, lengthened by the windows; being point-symmetric it covers half of speed × time.
        """
        k = self._scale(math.inf)
        w = 0.0 if self.shape is VelocityShape.CONSTANT else k * self._steepest / self.jerk
        seconds = self.speed / (k * rate) + w * (1.5 if self.shape is VelocityShape.SMOOTHEST else 1.0)
        return seconds, self.speed * seconds / 2


@dataclass(frozen=True)
class Move:
    """One move from rest to rest. Times in seconds; window and second_window are the two averages of the shape."""

    distance: float
    peak: float
    up: float
    cruise: float
    down: float
    window: float
    second_window: float
    reaches_speed: bool

    @property
    def duration(self) -> float:
        return self.up + self.cruise + self.down + self.window + self.second_window

    @property
    def peak_jerk(self) -> float:
        """The steepest change of acceleration, in mm/s³ (or °/s³); without limit where the acceleration jumps.

        A jump of a averaged over a window w has the slope a/w; the second average keeps its peak, for it is shorter.
        """
        steepest = max(self.peak / self.up, self.peak / self.down)
        return steepest / self.window if self.window else math.inf

    def shaking(self, frequency: float, damping: float = DAMPING) -> float:
        """Amplitude in mm (or °) with which a frame that rings at `frequency` (Hz) is left shaking when the move ends.

        One mode, x″ + 2ζωx′ + ω²x = −a(t): after the end it rings with |∫ a(t) e^{λ(T−t)} dt| / ω_d, λ = −ζω + iω_d.
        The transform of the trapezoid's acceleration is multiplied by that of each window, (1 − e^{−λw})/(λw).
        """
        w = 2 * math.pi * frequency
        ringing = w * math.sqrt(1 - damping * damping)
        s = complex(-damping * w, ringing)
        rise, fall = self.peak / self.up, self.peak / self.down
        begin = self.up + self.cruise
        total = rise * _box(s, self.up) - fall * cmath.exp(-s * begin) * _box(s, self.down)
        for window in (self.window, self.second_window):
            if window:
                total *= _box(s, window) / window
        return abs(total * cmath.exp(s * self.duration)) / ringing

    def velocity(self, time: float) -> float:
        """Velocity at a time after the start: the trapezoid averaged over both windows.

        The average over a window is a difference of the integral, over two windows of the second integral.
        """
        w, w2 = self.window, self.second_window
        if not 0 < time < self.duration:
            return 0.0
        if w2 > 0:
            q = self._second_integral
            return (q(time) - q(time - w) - q(time - w2) + q(time - w - w2)) / (w * w2)
        if w > 0:
            return (self._integral(time) - self._integral(time - w)) / w
        return self._trapezoid(time)

    def _trapezoid(self, t: float) -> float:
        if t <= 0 or t >= self.up + self.cruise + self.down:
            return 0.0
        if t < self.up:
            return self.peak * t / self.up
        left = self.up + self.cruise + self.down - t
        return self.peak if left > self.down else self.peak * left / self.down

    def _integral(self, t: float) -> float:
        """Distance of the bare trapezoid after t."""
        total = self.up + self.cruise + self.down
        if t <= 0:
            return 0.0
        if t >= total:
            return self.distance
        if t < self.up:
            return self.peak * t * t / (2 * self.up)
        left = total - t
        if left > self.down:
            return self.peak * (self.up / 2 + t - self.up)
        return self.distance - self.peak * left * left / (2 * self.down)

    def _second_integral(self, t: float) -> float:
        """Integral of that distance over time."""
        if t <= 0:
            return 0.0
        total, v, up, down = self.up + self.cruise + self.down, self.peak, self.up, self.down
        first = min(t, up)
        area = v * first**3 / (6 * up)
        if t > up:
            c = min(t - up, self.cruise)
            area += v * up / 2 * c + v * c * c / 2
        if t > up + self.cruise:
            x = min(t - up - self.cruise, down)
            area += v * (up / 2 + self.cruise) * x + v * (x * x / 2 - x**3 / (6 * down))
        if t > total:
            area += self.distance * (t - total)
        return area


def _box(s: complex, length: float) -> complex:
    """Transform of a box of height 1 that begins at 0: ∫ e^{−st} dt over its length."""
    return (1 - cmath.exp(-s * length)) / s
