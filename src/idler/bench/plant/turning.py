"""What really turns: the spindle's drive and motor, its belt, and the encoder on it. Speeds in rpm, right is +.

The drive gives nothing below its dead band and no more beyond its saturation; in between the curve is bent, and a little
behind when the level falls (a play of `slack`). The motor follows with a first-order lag, held to what its torque can do.
"""

from __future__ import annotations

import math

from ..compiled import compiled
from ..state import TICK, Row, Rows

HAND = 3.0  # turns in a second that a hand makes


@compiled
def curve(spindle: Row, level: float) -> float:
    """Share of the motor's top speed for a level from 0 to 1, without the play."""
    share = min(max((level - spindle.dead) / (spindle.full - spindle.dead), 0.0), 1.0)
    return min(
        max(share + spindle.bend * share * (1.0 - share) + spindle.wave * math.sin(2 * math.pi * share), 0.0), 1.0
    )


@compiled
def _wanted(spindle: Row, outputs: Rows, controller: Row) -> float:
    """The motor speed that the drive goes for."""
    if not spindle.ready:
        return 0.0
    way = 0.0
    if spindle.on_bus and spindle.run_output < 0:
        way = 1.0
    if spindle.run_output >= 0 and outputs[spindle.run_output].energised:
        way = 1.0
    if spindle.left_output >= 0 and outputs[spindle.left_output].energised:
        way = -1.0 if way == 0.0 else 0.0  # both relays at once: its own lock keeps it off
    if spindle.direction_output >= 0 and outputs[spindle.direction_output].energised:
        way = -way
    if way == 0.0:
        return 0.0
    if spindle.on_bus:  # the output is only its enable terminal
        spindle.bus_left = max(0, spindle.bus_left - 1)
        if spindle.bus_left == 0:  # nobody speaks to it any more
            spindle.bus_run = 0
        return spindle.bus_run * spindle.bus_level * spindle.top
    if spindle.level_output < 0:
        return way * spindle.top
    level = outputs[spindle.level_output].level / 1000
    half = spindle.slack / 2
    spindle.felt = min(max(spindle.felt, level - half), level + half)
    return way * curve(spindle, spindle.felt) * spindle.top


@compiled
def advance_turning(spindle: Row, outputs: Rows, controller: Row) -> None:
    """One tick of motor, belt and encoder."""
    wanted = _wanted(spindle, outputs, controller)
    ratio = spindle.ratios[spindle.belt]
    heavy = (1.0 + spindle.inertia * ratio * ratio) / (1.0 + spindle.inertia)
    most = (spindle.gain if abs(wanted) > abs(spindle.motor) else spindle.brake) * TICK / heavy
    step = (wanted - spindle.motor) * TICK / max(spindle.run_up, TICK)
    spindle.motor += min(max(step, -most), most)
    if wanted == 0.0 and abs(spindle.motor) < 1.0:
        spindle.motor = 0.0
    spindle.speed = spindle.motor * ratio
    spindle.angle += spindle.speed / 60.0 * TICK
    by_hand = min(max(spindle.hand, -HAND * TICK), HAND * TICK)
    spindle.angle += by_hand
    spindle.hand -= by_hand
    spindle.counts = int(math.floor(spindle.angle * spindle.lines)) if spindle.lines else 0
