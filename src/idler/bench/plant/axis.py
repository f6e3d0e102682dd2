"""The rig's physics: driver, stepping motor, train with play, carriage, hard stops. This is what really happens.

A stepping motor pulls its rotor towards the field with torque · sin(teeth · lag); torque falls with speed,
T(ω) = T₀ / (1 + (ω/knee)²). When the load asks for more, the lag passes half a pole and the rotor falls back by whole
poles (four full steps): lost steps come out of the equation and are not drawn by lot.
"""

from __future__ import annotations

import math

from ..compiled import compiled
from ..state import SUBSTEPS, TICK, Row

_STOP_GIVE = 0.02  # mm or ° of give in a hard stop at four times the motor's torque
_DAMPING = 0.25
_LOST = 3.0  # electrical radians of lag at which a closed loop gives up; half a pole is π
_JAM = 50.0  # times the usual friction
_LATELY = 0.0125  # of a step in a mean over 20 ms: a rotor swings about its single steps
_NOTHING = 1e-12  # of whatever unit: nobody and nothing feels it
_FEELS = 0.05  # share of a step towards the torque of now: a driver averages its current over 5 ms
_TURNS = 0.1  # rad/s beyond which a nut rubs its screw warm


@compiled
def _driver(p: Row, emitted: float, powered: int, controller: Row) -> float:
    """What the driver makes of the signals: whether the motor has current, and the steps that it takes."""
    on = p.always_on != 0 or (powered != controller.enable_inverted) != p.enable_inverted
    if on and not p.on:
        p.waking = p.wake_ticks
    if controller.reset_ticks > 0 or (on and not p.enabled):
        p.trouble = 0  # until it is reset or enabled anew it keeps what was wrong
    p.enabled = on
    p.on = on and not p.trouble
    if not p.on:
        return 0.0
    if p.waking > 0:
        p.waking -= 1
        return 0.0
    if emitted == 0.0:
        return 0.0
    way = 1.0 if emitted > 0 else -1.0
    taken = emitted
    late = controller.direction_setup < p.least_setup or controller.step_inverted != p.step_inverted
    if late and p.way > 0.0 and way < 0.0:  # the first step after a reversal meets the old direction
        taken -= 2 * way  # its optocoupler lets go more slowly than it takes hold: of the two edges only one is late
    p.way = way
    if controller.pulse_width < p.least_pulse:  # below half of it no pulse is seen, up to it ever more are
        share = max(0.0, 2 * controller.pulse_width / p.least_pulse - 1)
        p.seen += taken * share
        taken = float(math.trunc(p.seen))
        p.seen -= taken
    return taken


@compiled
def _settled(value: float) -> float:
    """Nothing, where so little is left: what dies away comes to rest, and its numbers never become subnormal, which takes a
    processor many times as long."""
    return 0.0 if -_NOTHING < value < _NOTHING else value


@compiled
def _ring(p: Row, acceleration: float, h: float) -> None:
    """The frame as one weakly damped mode, shaken by the carriage."""
    w = 2 * math.pi * p.rings
    p.shake_speed += (-2 * p.damping * w * p.shake_speed - w * w * p.shake - acceleration) * h
    p.shake += p.shake_speed * h


@compiled
def _note_shaking(p: Row, emitted: float) -> None:
    """What is left of the shaking when the steps have ended."""
    p.still = 0 if emitted != 0.0 else min(4, p.still + 1)
    if p.still == 3 and p.rings > 0:
        p.left = math.hypot(p.shake, p.shake_speed / (2 * math.pi * p.rings))


@compiled
def grown(p: Row) -> float:
    """By how much its warmth has moved the carriage, mm."""
    return p.grows * p.warmth


@compiled
def _warm(p: Row) -> None:
    """A screw that turns grows warm, and one that rests cools, with one lag for both."""
    p.warmth += ((1.0 if abs(p.speed) > _TURNS else 0.0) - p.warmth) * TICK / p.warms
    p.warmth = _settled(p.warmth)


@compiled
def advance_plant(p: Row, emitted: float, powered: int, controller: Row, beside: float) -> None:
    """One tick of one motor: `emitted` steps with the sign of the direction line.

    beside: where the nut at the other side of the same beam is, for motors that have one.

    What a tick without steps has left exactly as it was, the next one leaves so too: a machine at rest costs little.
    """
    was_on, trouble = p.on, p.trouble
    taken = _driver(p, emitted, powered, controller)
    if p.asleep and taken == 0.0 and p.on == was_on and p.trouble == trouble and beside == p.leant:
        return
    field, angle, carriage, effort, lately, shake = p.field, p.angle, p.carriage, p.effort, p.lately, p.shake
    follows, turns, shakes, warmth = p.field_speed, p.speed, p.shake_speed, p.warmth
    field_turn = taken * p.direction * 2 * math.pi / p.counts_per_turn
    h = TICK / SUBSTEPS
    per_radian = p.lead / (2 * math.pi)
    play = p.backlash
    if p.worn > 0:
        play += p.worn * max(0.0, 1 - (2 * p.carriage / p.high_stop - 1) ** 2)
    for _ in range(SUBSTEPS):
        p.field += field_turn / SUBSTEPS
        p.field_speed += (field_turn / TICK - p.field_speed) * 0.1
        pull, most = 0.0, p.torque
        if p.on:
            most = p.torque / (1 + (p.speed / p.knee) ** 2)
            stiffness = most * p.rotor_teeth
            damping = 2 * _DAMPING * math.sqrt(stiffness * p.inertia)
            pull = most * math.sin(p.rotor_teeth * (p.field - p.angle)) + damping * (p.field_speed - p.speed)
            pull = min(most, max(-most, pull))
        load = -p.viscous * p.speed - p.gravity
        nut = p.start + p.angle * per_radian + grown(p)
        if p.stiffness > 0:
            load -= p.stiffness * (nut - beside) * (1.0 if per_radian > 0 else -1.0)
        past = 0.0
        if nut - play / 2 > p.high_stop:
            past = nut - play / 2 - p.high_stop
        elif nut + play / 2 < p.low_stop:
            past = nut + play / 2 - p.low_stop
        if past != 0.0:
            push = -4 * p.torque * past / _STOP_GIVE * (1.0 if per_radian > 0 else -1.0)
            leaving = past * p.speed * per_radian < 0
            load += push * (0.2 if leaving else 1.0)
            if not p.against:
                p.struck = max(p.struck, abs(p.lately))
        p.against = past != 0.0
        p.lately += (p.speed * per_radian - p.lately) * _LATELY
        p.effort += (abs(pull) / most - p.effort) * _FEELS
        speed = p.speed + (pull + load) / p.inertia * h
        rub = p.friction * (_JAM if p.jammed else 1.0) / p.inertia * h
        if abs(speed) <= rub:
            speed = 0.0
        else:
            speed -= rub if speed > 0 else -rub
        if p.rings > 0:
            _ring(p, (speed - p.speed) / h * per_radian, h)
        p.speed = speed
        p.angle += speed * h
    if p.grows != 0.0:
        _warm(p)
    nut = p.start + p.angle * per_radian + grown(p)
    if nut - p.carriage > play / 2:
        p.carriage = nut - play / 2
    elif p.carriage - nut > play / 2:
        p.carriage = nut + play / 2
    p.field_speed, p.effort, p.lately = _settled(p.field_speed), _settled(p.effort), _settled(p.lately)
    p.shake, p.shake_speed = _settled(p.shake), _settled(p.shake_speed)
    _note_shaking(p, emitted)
    same = (
        p.field == field and p.angle == angle and p.carriage == carriage and p.effort == effort and p.lately == lately
    )
    same = (
        same
        and warmth == p.warmth
        and p.shake == shake
        and p.field_speed == follows
        and p.speed == turns
        and p.shake_speed == shakes
    )
    p.asleep = same and p.still > 3 and p.on == was_on and taken == 0.0
    p.leant = beside
    if p.gives_up and abs(p.field - p.angle) * p.rotor_teeth > _LOST:
        p.trouble = 1
        p.field = p.angle
