"""The rig's physics: stepping motor, train with play, carriage, hard stops, home switch. This is what really happens.

A stepping motor pulls its rotor towards the field with torque · sin(teeth · lag); torque falls with speed,
T(ω) = T₀ / (1 + (ω/knee)²). When the load asks for more, the lag passes half a pole and the rotor falls back by whole
poles (four full steps): lost steps come out of the equation and are not drawn by lot.
"""

from __future__ import annotations

import math

from .compiled import compiled
from .state import SUBSTEPS, TICK

_STOP_GIVE = 0.02  # mm or ° of give in a hard stop at four times the motor's torque
_DAMPING = 0.25


@compiled
def advance_plant(p, emitted, powered):
    """One tick of one axis: `emitted` steps with the sign of the direction line."""
    field_turn = emitted * p.direction * 2 * math.pi / p.counts_per_turn
    h = TICK / SUBSTEPS
    per_radian = p.lead / (2 * math.pi)
    for _ in range(SUBSTEPS):
        p.field += field_turn / SUBSTEPS
        p.field_speed += (field_turn / TICK - p.field_speed) * 0.1
        pull = 0.0
        if powered:
            most = p.torque / (1 + (p.speed / p.knee) ** 2)
            stiffness = most * p.rotor_teeth
            damping = 2 * _DAMPING * math.sqrt(stiffness * p.inertia)
            pull = most * math.sin(p.rotor_teeth * (p.field - p.angle)) + damping * (p.field_speed - p.speed)
            pull = min(most, max(-most, pull))
        load = -p.viscous * p.speed - p.gravity
        nut = p.start + p.angle * per_radian
        past = 0.0
        if nut - p.backlash / 2 > p.high_stop:
            past = nut - p.backlash / 2 - p.high_stop
        elif nut + p.backlash / 2 < p.low_stop:
            past = nut + p.backlash / 2 - p.low_stop
        if past != 0.0:
            push = -4 * p.torque * past / _STOP_GIVE * (1.0 if per_radian > 0 else -1.0)
            leaving = past * p.speed * per_radian < 0
            load += push * (0.2 if leaving else 1.0)
        speed = p.speed + (pull + load) / p.inertia * h
        rub = p.friction / p.inertia * h
        if abs(speed) <= rub:
            speed = 0.0
        else:
            speed -= rub if speed > 0 else -rub
        p.speed = speed
        p.angle += speed * h
    nut = p.start + p.angle * per_radian
    if nut - p.carriage > p.backlash / 2:
        p.carriage = nut - p.backlash / 2
    elif p.carriage - nut > p.backlash / 2:
        p.carriage = nut + p.backlash / 2
    beyond = (p.carriage - p.home_at) * p.home_side
    if beyond >= 0:
        p.home_made = 1
    elif beyond < -p.home_hysteresis:
        p.home_made = 0
