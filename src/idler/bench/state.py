"""The arrays that the stepping code works on: records of the firmware, and records of what is really there.

Firmware units: counts, counts/s, counts/s², counts/s³, along the direction that the person calls +.
Plant units: radians of the motor, N·m, kg·m², and mm (or °) of the carriage from its low hard stop.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from idler.core.table import MOST_AXES
from idler.core.table.rows.spindle import MOST_RANGES
from idler.core.values.speedpoints import MOST_POINTS

# One record of such an array, and an array of them. The stepping code is compiled for the fields that the arrays below have;
# a type checker cannot see those.
Row = Any
Rows = Any

TICK = 0.001  # s, simulated
SUBSTEPS = 4
LONGEST_WINDOW = 512  # ticks
RING = 1024

# fw.mode
IDLE, TO_POSITION, AT_VELOCITY, STOPPING, FOLLOWING = 0, 1, 2, 3, 4
# fw.limit_chain, beside 1 and -1
AT_REST = 2
# fw.unwatched: its ends are not watched, so that it goes slowly, or not at all
SLOWLY, BARRED = 1, 2
# fw.shape
CONSTANT, LIMITED, SMOOTHEST = 0, 1, 2

FIRMWARE = np.dtype(
    [
        # what it was told, latched by the node
        ("counts_per_unit", "f8"), ("turn_counts", "f8"), ("sign", "f8"), ("speed_limit", "f8"), ("acceleration", "f8"),
        ("deceleration", "f8"), ("stop_deceleration", "f8"), ("jerk", "f8"), ("shape", "i8"), ("step_ceiling", "f8"),
        ("limits_on", "i8"), ("low", "f8"), ("high", "f8"), ("cushion", "f8"), ("cushion_speed", "f8"),
        # which motors it drives (-1: none), and how: the second one may turn against the first
        ("output", "i8"), ("second", "i8"), ("second_sign", "f8"), ("wraps", "i8"), ("backlash", "f8"),
        ("measured", "i8"), ("lag_window", "f8"), ("lag_ticks", "i8"),
        ("span", "f8"),  # between its hard stops, as told; 0: not told
        # what it is asked to do
        ("mode", "i8"), ("target", "f8"), ("target_velocity", "f8"), ("move_speed", "f8"), ("fresh", "i8"),
        # where it is: bare trapezoid, then after the windows, then in whole steps
        ("bare_position", "f8"), ("bare_velocity", "f8"), ("scale", "f8"), ("peak", "f8"),
        ("window", "i8"), ("second_window", "i8"), ("sum_1", "f8"), ("sum_2", "f8"), ("cursor", "i8"), ("quiet", "i8"),
        ("position", "f8"), ("velocity", "f8"), ("steps", "i8"), ("emitted", "i8"), ("budget", "f8"),
        ("enabled", "i8"),  # its drive obeys (CiA 402: operation enabled)
        ("powered", "i8"), ("wait_ticks", "i8"), ("homed", "i8"), ("moving", "i8"), ("at_limit", "i8"),
        # play that was taken up, in counts; -1 before the first motion, for then its side is not known
        ("slack", "i8"), ("slack_wanted", "i8"), ("slack_speed", "f8"), ("slack_part", "f8"),
        # measured position: counts sent to the motor, their offset to its encoder, lag now, and how long it is too large
        ("sent", "f8"), ("lag_zero", "f8"), ("lag", "f8"), ("lagging", "i8"), ("lag_hit", "i8"),
        # position at the last edge of its home switch, the number of such edges, whether a move ends there
        ("latched", "f8"), ("latches", "i8"), ("until", "i8"),
        ("marked", "f8"), ("marks", "i8"),  # the same of its index mark
        # homing: what it was told
        ("home_way", "f8"), ("home_index", "i8"), ("home_chain", "i8"), ("home_approach", "f8"), ("home_touch", "f8"),
        ("home_acceleration", "f8"), ("home_back", "f8"), ("home_leave", "f8"), ("home_coordinate", "f8"),
        ("home_search", "f8"), ("home_index_within", "f8"), ("home_mark_distance", "f8"), ("home_mark_spread", "f8"),
        ("home_stop", "i8"), ("home_effort", "f8"), ("home_squaring", "f8"), ("home_apart", "f8"), ("switches_on", "i8"),
        ("usual_acceleration", "f8"), ("usual_deceleration", "f8"), ("usual_shape", "i8"),
        # its phase, how the last one ended, whether its switch and that of the other end are made, and what it found
        # limit switches made, and the one that stopped the axis (1 high, -1 low) until the node has spoken of it
        ("limit_low", "i8"), ("limit_high", "i8"), ("limit_hit", "i8"), ("limit_input", "i8"),
        # the way in which each of them was met, which it blocks, and whether it was made just now
        ("low_way", "f8"), ("high_way", "f8"), ("low_new", "i8"), ("high_new", "i8"),
        # the limit chain of all axes: the way in which this axis went when it was made, AT_REST where it stood; 0 when clear
        ("limit_chain", "i8"), ("unwatched", "i8"),
        # ticks since each of them was made last: until it has been clear for a moment, it is the same meeting still
        ("low_clear", "i8"), ("high_clear", "i8"), ("chain_clear", "i8"),
        ("homing", "i8"), ("home_result", "i8"), ("switch", "i8"), ("other_end", "i8"), ("edge_seen", "i8"),
        # the limit switch of its own end; where it began on the switch of the other end, and whether it still is on that
        ("own_end", "i8"), ("home_begun", "f8"), ("home_clearing", "i8"),
        ("home_first", "f8"), ("home_place", "f8"), ("index_distance", "f8"),
        # a side of a beam that stands still (1 the first motor, 2 the second), the other side's switch and its edges
        ("held", "i8"), ("home_two", "i8"), ("switch_second", "i8"), ("second_latched", "f8"), ("second_latches", "i8"),
        ("second_seen", "i8"), ("sides", "f8"), ("ran_on", "f8"),
        ("skew", "f8"),  # steps that the second motor was given more than the first since they have power
        # share of its torque that the motor gives, for how many ticks it was too much, and what it usually is on the approach
        ("effort", "f8"), ("felt", "i8"), ("usual_effort", "f8"),
        ("phase", "i8"),  # of the events below: 0 at rest, else the last one written down
    ]
)  # fmt: skip

PLANT = np.dtype(
    [
        # the truth of the rig
        ("counts_per_turn", "f8"), ("rotor_teeth", "f8"), ("direction", "f8"), ("lead", "f8"), ("backlash", "f8"),
        ("inertia", "f8"), ("friction", "f8"), ("viscous", "f8"), ("gravity", "f8"), ("torque", "f8"),
        ("knee", "f8"), ("low_stop", "f8"), ("high_stop", "f8"), ("start", "f8"), ("gives_up", "f8"),
        # what its driver needs of the signals: least pulse and setup in µs, ticks to wake, lines inverted or not heard
        ("least_pulse", "f8"), ("least_setup", "f8"), ("wake_ticks", "i8"), ("enable_inverted", "i8"),
        ("step_inverted", "i8"), ("always_on", "i8"),
        # the frame that rings, and the other side of a beam
        ("rings", "f8"), ("damping", "f8"), ("beam", "i8"), ("stiffness", "f8"),
        # where it is
        ("field", "f8"), ("field_speed", "f8"), ("angle", "f8"), ("speed", "f8"), ("carriage", "f8"),
        ("effort", "f8"), ("enabled", "i8"), ("on", "i8"), ("waking", "i8"), ("way", "f8"), ("seen", "f8"),
        ("trouble", "i8"), ("jammed", "i8"),
        # how far the frame is shaken (mm or °), how fast, ticks since the last step, and what was left when they ended
        ("shake", "f8"), ("shake_speed", "f8"), ("still", "i8"), ("left", "f8"),
        # speed over the last 20 ms in mm/s (°/s), the most that it ever was on meeting a hard stop, and whether it is at one
        ("lately", "f8"), ("struck", "f8"), ("against", "i8"),
        # whether the last tick changed nothing of it, and what it stood against then
        ("asleep", "i8"), ("leant", "f8"),
        # truth again: how much more play there is in the middle of the travel than at its ends
        ("worn", "f8"),
        # how far its screw moves the carriage when it has run warm (mm), in how many s, and how warm it is now, 0 to 1
        ("grows", "f8"), ("warms", "f8"), ("warmth", "f8"),
    ]
)  # fmt: skip

# Times of inputs are µs of the rig's clock.
INPUT = np.dtype(
    [
        # what the firmware was told
        ("role", "i8"), ("axis", "i8"), ("closed_at_rest", "i8"), ("filter", "i8"),
        # what it sees: the level at the screw, since when, and what is left of it after the filter
        ("raw", "i8"), ("since", "i8"), ("level", "i8"), ("made", "i8"), ("reached", "i8"),
        ("latched", "i8"),  # made when positions were latched last
        ("made_at", "i8"), ("let_go_at", "i8"),  # when the level at the screw left its rest, and came back to it
    ]
)  # fmt: skip

# wire.source
NOTHING, FINGER, CARRIAGE, MARK, TROUBLE, PULSE, READY, BELT, PLATE = range(9)
MOST_PENDING = 24
WIRE = np.dtype(
    [
        # the truth of the rig: what is at the other end, and how clean its wire is; joins: the input that it is in series with
        ("joins", "i8"), ("source", "i8"), ("axis", "i8"), ("at", "f8"), ("side", "f8"), ("hysteresis", "f8"), ("period", "f8"),
        ("closed_at_rest", "i8"), ("bounce", "f8"), ("noise_rate", "f8"), ("noise_mean", "f8"), ("noise_longest", "f8"),
        # what happens to it: a finger, a break, a loose end
        ("held", "i8"), ("broken", "i8"), ("loose_rate", "f8"), ("dice", "u8"),
        # where it is
        ("made", "i8"), ("level", "i8"), ("waiting", "i8"), ("pending", "i8", (MOST_PENDING,)),
    ]
)  # fmt: skip

OUTPUT = np.dtype([("role", "i8"), ("inverted", "i8"), ("level_kind", "i8"), ("energised", "i8"), ("level", "f8")])

CONTROLLER = np.dtype(
    [
        # what it was told of its signals, in µs
        ("pulse_width", "f8"), ("direction_setup", "f8"), ("enable_inverted", "i8"), ("step_inverted", "i8"),
        # what it was told of the spindle and of the way oil; times in ticks, levels in ‰, speeds in rpm
        ("engaged_told", "i8"), ("rest", "f8"), ("start_speed", "f8"), ("waits", "i8"), ("needs_drives", "i8"),
        ("counts_per_turn", "f8"), ("counts_reversed", "i8"), ("oil_on", "i8"), ("oil_every", "i8"), ("oil_of", "i8"),
        # what it is asked: the spindle's way, level and speed, an output to try
        ("wanted", "i8"), ("asked_level", "f8"), ("asked_speed", "f8"), ("tried", "i8"), ("tried_level", "f8"),
        # what it makes of it: the way and level that outputs are told, the range it runs in, and its wait
        ("run", "i8"), ("run_level", "f8"), ("run_range", "i8"), ("phase", "i8"), ("phase_ticks", "i8"),
        ("engaged", "i8"), ("not_ready", "i8"), ("no_range", "i8"),
        ("counts", "i8"), ("counts_seen", "i8"), ("measured", "f8"), ("changed", "i8"), ("recorded", "i8"),
        ("oil_done", "i8"), ("oil_left", "i8"), ("strokes", "i8"),
        # what it finds: now, and latched until the node has spoken of it
        ("stop", "i8"), ("guard", "i8"), ("trouble", "i8"), ("refused", "i8"),
        ("stop_hit", "i8"), ("guard_hit", "i8"), ("trouble_hit", "i8"), ("hit_input", "i8"), ("guard_input", "i8"),
        ("faulted", "i8"), ("reset_ticks", "i8"), ("was_running", "i8"),
        ("written", "i8"),  # edges since power-on
        ("in_place", "i8"),  # all axes with index stops stand at the one that was picked last
        ("not_in_place", "i8"),  # one of them was told what it cannot do, or has missed its stop
        # the flight record: its state, samples since power-on, the one at the stop, how many are still to come
        ("flight_state", "i8"), ("flight_written", "i8"), ("flight_moment", "i8"), ("flight_left", "i8"),
        # the input that stopped the machine (-1: none) and for how many µs it was not at its rest (-1: it still is not)
        ("flight_input", "i8"), ("flight_held", "i8"),
    ]
)  # fmt: skip

# A path that several axes follow by one clock. Records are counted from its begin; a rate is the speed of time.
PATH = np.dtype(
    [
        ("state", "i8"), ("axes", "i8"), ("given", "i8"), ("final", "i8"), ("period", "f8"),  # s between two records
        ("at", "f8"), ("rate", "f8"), ("feed", "f8"), ("rapid", "f8"), ("wait_at", "f8"),  # of a record; below 0 none
        ("slope", "f8"),  # by how much the rate changes in a second
        ("stopping", "i8"), ("ran", "i8"),  # ticks in which it did not wait
    ]
)  # fmt: skip
PATH_RING = 8192  # records that are held

# Index stops of one axis: places and distances in counts, times in ticks.
INDEXER = np.dtype(
    [
        # what it was told; turn: 0 where it is not endless
        ("pick", "i8"), ("way", "i8"), ("count", "i8"), ("settle", "i8"), ("over", "f8"), ("near", "f8"), ("turn", "f8"),
        ("places", "f8", (63,)),
        # what is asked of it: a stop to go to, the state that its lines are taken for (-1: as they are)
        ("asked", "i8"), ("lines_as", "i8"), ("speed", "f8"),  # the most for these, counts/s; 0: as fast as the axis may
        # its lines: their state and for how long it stood, the number that settled last (-1: none yet), the strobe, pulses
        ("state", "i8"), ("stood", "i8"), ("settled", "i8"), ("strobed", "i8"), ("pulses", "i8"),
        ("counting", "i8"), ("count_stood", "i8"), ("starting", "i8"), ("start_stood", "i8"),
        # the stop that it goes to, which leg of it, the one that it stands at (0: none), how it stands
        ("goal", "i8"), ("leg", "i8"), ("at", "i8"), ("word", "i8"),
    ]
)  # fmt: skip

# Something that conducts on the bed, and the tool over it: places of the carriages of X, Y and Z, mm.
WORK = np.dtype(
    [
        ("on", "i8"), ("x", "i8"), ("y", "i8"), ("z", "i8"),  # WORK_LIES or PROBES, and the motors
        ("left", "f8"), ("right", "f8"), ("front", "f8"), ("back", "f8"), ("top", "f8"),
        ("bore_x", "f8"), ("bore_y", "f8"), ("bore", "f8"),  # middle and radius; 0: none
        ("tool", "f8"),  # radius
        ("deepest", "f8"),  # how far it was ever pressed into it
        # of a touch probe: how far its ball hangs below the foot of Z, and the bed under it
        ("reach", "f8"), ("along_x", "f8"), ("along_y", "f8"), ("wave", "f8"), ("length", "f8"),
    ]
)  # fmt: skip
WORK_LIES, PROBES = 1, 2  # what the tool may touch: something that lies on the bed, or the bed by a probe

# A sheet under a pen: carriages of all motors, every so many ticks, where the tool is so low that it writes.
PEN = np.dtype([("on", "i8"), ("up_motor", "i8"), ("height", "f8"), ("written", "i8")])
PEN_RING, PEN_TICKS = 1 << 15, 4
PEN_MARK = np.dtype([("tick", "i8"), ("carriages", "f8", (2 * MOST_AXES,))])

SPINDLE = np.dtype(
    [
        # the truth of the rig: outputs that it hangs on, motor, curve, belt, encoder
        ("run_output", "i8"), ("left_output", "i8"), ("direction_output", "i8"), ("level_output", "i8"),
        ("top", "f8"), ("run_up", "f8"), ("gain", "f8"), ("brake", "f8"), ("inertia", "f8"),
        ("dead", "f8"), ("full", "f8"), ("bend", "f8"), ("wave", "f8"), ("slack", "f8"),
        ("ratios", "f8", (MOST_RANGES,)), ("lines", "f8"), ("on_bus", "i8"),
        # what a hand does to it (turns left), and what its bus was told: way, share of its top speed, ticks until it gives up
        ("belt", "i8"), ("hand", "f8"), ("ready", "i8"), ("bus_run", "i8"), ("bus_level", "f8"), ("bus_left", "i8"),
        # where it is: level behind the play, motor and spindle in rpm, turns and encoder counts
        ("felt", "f8"), ("motor", "f8"), ("speed", "f8"), ("angle", "f8"), ("counts", "i8"),
    ]
)  # fmt: skip

# What the firmware was told of one speed range: speeds in rpm, levels in ‰, times in ticks.
RANGE = np.dtype(
    [
        ("low", "f8"), ("high", "f8"), ("run_up", "i8"), ("run_down", "i8"),
        ("count", "i8"), ("levels", "f8", (MOST_POINTS,)), ("speeds", "f8", (MOST_POINTS,)),
    ]
)  # fmt: skip
EDGE_RING = 16384
EDGE = np.dtype([("time", "i8"), ("input", "u1"), ("closed", "u1")])

# One sample of the flight record: positions in mm (°), velocities per second; flags as the wire has them.
FLIGHT = np.dtype(
    [
        ("closed", "i8"), ("energised", "i8"), ("conditions", "i8"), ("spindle", "f8"),
        ("position", "f8", (MOST_AXES,)), ("velocity", "f8", (MOST_AXES,)), ("lag", "f8", (MOST_AXES,)),
        ("flags", "i8", (MOST_AXES,)),
    ]
)  # fmt: skip

# Measured speed since the spindle was told something else, every so many ticks.
RECORD, RECORD_TICKS = 1000, 20

# Kinds of event that the stepping code writes down, for measuring how quickly it answers.
STARTED, SLOWED = 1, 2
EVENT = np.dtype([("tick", "i8"), ("axis", "i8"), ("kind", "i8")])


def blank_firmware(axes: int) -> np.ndarray:
    made = np.zeros(axes, FIRMWARE)
    made["counts_per_unit"] = made["sign"] = made["scale"] = made["second_sign"] = 1.0
    made["output"] = made["second"] = made["slack"] = -1
    made["low_clear"] = made["high_clear"] = made["chain_clear"] = 1 << 20  # it was never made
    made["low_way"], made["high_way"] = -1.0, 1.0
    return made
