"""The arrays that the stepping code works on: one record per axis for the firmware, one for the plant.

Firmware units: counts, counts/s, counts/s², counts/s³, along the direction that the person calls +.
Plant units: radians of the motor, N·m, kg·m², and mm (or °) of the carriage from its low hard stop.
"""

from __future__ import annotations

import numpy as np

TICK = 0.001  # s, simulated
SUBSTEPS = 4
LONGEST_WINDOW = 512  # ticks
RING = 1024

# fw.mode
IDLE, TO_POSITION, AT_VELOCITY, STOPPING = 0, 1, 2, 3
# fw.shape
CONSTANT, LIMITED, SMOOTHEST = 0, 1, 2

FIRMWARE = np.dtype(
    [
        # what it was told, latched by the node
        ("counts_per_unit", "f8"), ("turn_counts", "f8"), ("sign", "f8"), ("speed_limit", "f8"), ("acceleration", "f8"),
        ("deceleration", "f8"), ("stop_deceleration", "f8"), ("jerk", "f8"), ("shape", "i8"), ("step_ceiling", "f8"),
        ("limits_on", "i8"), ("low", "f8"), ("high", "f8"), ("cushion", "f8"), ("cushion_speed", "f8"),
        # what it is asked to do
        ("mode", "i8"), ("target", "f8"), ("target_velocity", "f8"), ("move_speed", "f8"), ("fresh", "i8"),
        # where it is: bare trapezoid, then after the windows, then in whole steps
        ("bare_position", "f8"), ("bare_velocity", "f8"), ("scale", "f8"), ("peak", "f8"),
        ("window", "i8"), ("second_window", "i8"), ("sum_1", "f8"), ("sum_2", "f8"), ("cursor", "i8"), ("quiet", "i8"),
        ("position", "f8"), ("velocity", "f8"), ("steps", "i8"), ("emitted", "i8"), ("budget", "f8"),
        ("powered", "i8"), ("wait_ticks", "i8"), ("homed", "i8"), ("moving", "i8"), ("at_limit", "i8"),
        ("phase", "i8"),  # of the events below: 0 at rest, else the last one written down
    ]
)  # fmt: skip

PLANT = np.dtype(
    [
        # the truth of the rig
        ("counts_per_turn", "f8"), ("rotor_teeth", "f8"), ("direction", "f8"), ("lead", "f8"), ("backlash", "f8"),
        ("inertia", "f8"), ("friction", "f8"), ("viscous", "f8"), ("gravity", "f8"), ("torque", "f8"),
        ("knee", "f8"), ("low_stop", "f8"), ("high_stop", "f8"), ("start", "f8"),
        ("home_at", "f8"), ("home_side", "f8"), ("home_hysteresis", "f8"),
        # where it is
        ("field", "f8"), ("field_speed", "f8"), ("angle", "f8"), ("speed", "f8"), ("carriage", "f8"), ("home_made", "i8"),
    ]
)  # fmt: skip

# Kinds of event that the stepping code writes down, for measuring how quickly it answers.
STARTED, SLOWED = 1, 2
EVENT = np.dtype([("tick", "i8"), ("axis", "i8"), ("kind", "i8")])


def blank_firmware(axes: int) -> np.ndarray:
    made = np.zeros(axes, FIRMWARE)
    made["counts_per_unit"] = made["sign"] = made["scale"] = 1.0
    return made
