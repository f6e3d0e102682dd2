"""What the motor's torque leaves of a pace.

Torque needed for an acceleration a (mm/s² or °/s²) at the motor: T = T_friction + J · 2π · a / s, with s the travel of one
motor turn and J the inertia at the motor.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..machine import Axis
from ..values.curve import points, torque_at
from ..values.points import Point
from .chain import Chain

KG_CM2 = 1e-4  # kg·m²


@dataclass(frozen=True)
class Muscle:
    """What moves an axis. travel: of one motor turn, in mm (or °). inertia in kg·m², friction in N·m."""

    curve: tuple[Point, ...]
    travel: float
    inertia: float
    friction: float

    @classmethod
    def of(cls, axis: Axis) -> Muscle | None:
        """None where the curve or the inertia is not known."""
        curve, inertia = points(str(axis.values["motor.torque"])), float(axis.number("motor.inertia")) * KG_CM2
        if not curve or not inertia:
            return None
        return cls(curve, float(Chain.of(axis).travel_per_turn), inertia, float(axis.number("motor.friction")))

    def available(self, speed: float) -> float:
        """Torque in N·m at a speed in mm/min (or °/min)."""
        return torque_at(self.curve, speed / self.travel)

    def needed(self, acceleration: float) -> float:
        """Torque in N·m for an acceleration in mm/s² (or °/s²)."""
        return self.friction + self.inertia * 2 * math.pi * acceleration / self.travel

    def acceleration_at(self, speed: float) -> float:
        """The acceleration in mm/s² (or °/s²) that takes all the torque there is at a speed in mm/min (or °/min)."""
        return max(0.0, (self.available(speed) - self.friction) * self.travel / (2 * math.pi * self.inertia))

    def share(self, speed: float, acceleration: float) -> float:
        """Part of the torque that is taken while still gathering speed at this speed; above 1 steps are lost."""
        available = self.available(speed)
        return self.needed(acceleration) / available if available else math.inf
