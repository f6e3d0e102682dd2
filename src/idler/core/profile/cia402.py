"""Words and numbers of CiA 402-2 that both ends of the wire use: states, commands, modes, and what faults mean."""

from __future__ import annotations

from enum import Enum

from ..table import ACCELERATION_STEP, POSITION_STEP, SPEED_STEP
from .errorcodes import error_code

# Objects of one axis while it runs (first axis; 800h is added per axis).
ABORT_CONNECTION, ERROR_CODE, CONTROL, STATUS = 0x6007, 0x603F, 0x6040, 0x6041
QUICK_STOP_OPTION, MODE, MODE_SHOWN = 0x605A, 0x6060, 0x6061
COUNTS_ACTUAL, POSITION, VELOCITY, TARGET_POSITION = 0x6063, 0x6064, 0x606C, 0x607A
FOLLOWING_ERROR, LATCHED, LATCHES, TORQUE = 0x60F4, 0x60BA, 0x60D5, 0x6077
PROFILE_SPEED, DIGITAL_INPUTS, TARGET_VELOCITY, MODES_KNOWN = 0x6081, 0x60FD, 0x60FF, 0x6502
# Of interpolated position: the way between set-points, the set-point, its time, the buffer
INTERPOLATION, SET_POINT, INTERPOLATION_TIME, INTERPOLATION_BUFFER = 0x60C0, 0x60C1, 0x60C2, 0x60C4

MODE_POSITION, MODE_VELOCITY, MODE_HOMING, MODE_PATH = 1, 3, 6, 7

# Controlword 6040h
SHUTDOWN, SWITCH_ON, ENABLE, DISABLE_VOLTAGE, QUICK_STOP, FAULT_RESET = 0x06, 0x07, 0x0F, 0x00, 0x02, 0x80
NEW_SETPOINT, AT_ONCE, RELATIVE, HALT = 0x10, 0x20, 0x40, 0x100
FOLLOW = NEW_SETPOINT  # in mode 7: interpolation enabled
UNTIL_SWITCH = (
    0x800  # manufacturer's bit: a position move ends at the next edge of the axis's home switch or index mark
)
SUPPLY = 0x6079  # of its power stage, mV
# Statusword 6041h beyond the state
TARGET_REACHED, INTERNAL_LIMIT, SETPOINT_TAKEN, HOMED, MOVING = 0x0400, 0x0800, 0x1000, 0x0100, 0x4000
# Digital inputs 60FDh
INPUT_LOW, INPUT_HIGH, INPUT_HOME, INPUT_STOP = 0x1, 0x2, 0x4, 0x10000

# COB-IDs of the first axis, without the node; those of the others are looked for (see `pdo`).
STATUS_PDO, MOTION_PDO, VELOCITY_PDO, POSITION_PDO = 0x180, 0x280, 0x200, 0x300
EMERGENCY, HEARTBEAT = 0x80, 0x700
STATUS_FORMAT, MOTION_FORMAT, TARGET_FORMAT = (
    "<Hi",
    "<iI",
    "<Hi",
)  # of STATUS_PDO, of MOTION_PDO, of the two that are received


class State(Enum):
    """States of a drive (CiA 402-2, state machine): bits of the statusword under a mask."""

    NOT_READY = (0x4F, 0x00)
    OFF = (0x4F, 0x40)
    READY = (0x6F, 0x21)
    SWITCHED_ON = (0x6F, 0x23)
    ENABLED = (0x6F, 0x27)
    QUICK_STOP = (0x6F, 0x07)
    FAULT_REACTION = (0x4F, 0x0F)
    FAULT = (0x4F, 0x08)

    @staticmethod
    def of(status: int) -> State:
        """It is asked for every axis with every report, some thousand times a second."""
        return _STATES[status & 0x6F]

    @property
    def powered(self) -> bool:
        return self in (State.ENABLED, State.QUICK_STOP, State.FAULT_REACTION, State.SWITCHED_ON)


def _state_of(bits: int) -> State:
    return next((state for state in State if bits & state.value[0] == state.value[1]), State.NOT_READY)


_STATES = tuple(_state_of(bits) for bits in range(0x70))

_PLACE, _SPEED = float(POSITION_STEP), float(SPEED_STEP)
CLIENT_LOST = 0x8130  # CiA 301, 7.2.7.1: heartbeat error
LAGGED = 0x8611
LIMIT_MET = 0xFF05
STOP_PRESSED, DRIVE_TROUBLE, GUARD_OPENED = 0xFF01, 0xFF03, 0xFF04  # manufacturer's codes (CiA 301, 7.2.7.2)

_LOOK = "Look at the machine, then press “Power drives”."
# Never on the wire: what Idler itself saw; the last one is a stop that was recorded, and of which nobody said what it was.
LINK_CUT, RESTARTED, SPEED_UNTRUE, PART_SILENT, RAN_ON, UNNAMED = range(0xFFF0, 0xFFF6)
# What a code means, and the way back for the person at the screen.
FAULTS: dict[int, tuple[str, str]] = {
    0x0000: ("no fault", ""),
    0x3100: ("mains voltage failed", _LOOK),
    CLIENT_LOST: (
        "the client was not heard any more",
        "Motion was stopped. Look whether the computer was busy, then go on.",
    ),
    LAGGED: (
        "the axis lagged behind further than allowed",
        "Look what holds the axis, or lower its pace; then press “Power drives”. Home again: its position is lost.",
    ),
    STOP_PRESSED: (
        "the emergency stop is pressed",
        "Release it at the machine, then press “Power drives”. Home again: positions may be lost.",
    ),
    0xFF02: ("a step rate above the highest was asked for", _LOOK),
    DRIVE_TROUBLE: (
        "a drive reports trouble",
        "Look what holds the axis, free it, then press “Power drives”. Home again: its position is lost.",
    ),
    LIMIT_MET: (
        "a limit switch was met",
        "Jog the axis off its switch: only that way is open.",
    ),
    LINK_CUT: (
        "the link was lost while the machine moved; it stops by itself when it does not hear Idler",
        "Look at the machine and the cable. When the link is back, power the drives, and home again if it was lost.",
    ),
    RESTARTED: (
        "the controller restarted while the machine moved: it has lost its power and its home",
        "Look at its supply, then power the drives and home again.",
    ),
    SPEED_UNTRUE: (
        "the drive went at another speed than it was asked for",
        "Look in its maker's papers for the unit of its speed, and for its counts per turn of the motor; then connect again.",
    ),
    PART_SILENT: (
        "a node was asked while the machine moved and did not answer in time",
        "Everything was stopped. Look at its cable and whether the computer was busy; then press “Power drives”.",
    ),
    RAN_ON: (
        "what was let go of had not come to rest when it should have, and was stopped",
        "Look whether its drive answers slowly or its deceleration is longer than was told; then press “Power drives”.",
    ),
    UNNAMED: (
        "a cause that the controller does not name",
        "Look at its record of the last seconds, and at the machine; then press “Power drives”.",
    ),
    GUARD_OPENED: ("the guard was opened; the spindle is off", "Close the guard, then start the spindle anew."),
}


def control_words(word: int) -> str:
    """What a controlword (6040h) tells a drive."""
    if word & FAULT_RESET:
        return "fault reset"
    known = {
        SHUTDOWN: "shutdown",
        SWITCH_ON: "switch on",
        ENABLE: "go on",
        DISABLE_VOLTAGE: "power off",
        QUICK_STOP: "quick stop",
    }
    return known.get(word & 0x0F, f"{word:04X}h") + (", new setpoint" if word & NEW_SETPOINT else "")


def fault_text(code: int) -> str:
    """What an emergency or error code (603Fh, CiA 402-1) means."""
    if code in FAULTS:
        return FAULTS[code][0]
    meaning = error_code(code)[0]
    return f"{meaning} (error {code:04X}h)" if meaning else f"error {code:04X}h"


def way_back(code: int) -> str:
    """What to do about it."""
    return FAULTS[code][1] if code in FAULTS else error_code(code)[1] or _LOOK


def position_from(raw: int) -> float:
    """Position units as mm (or °)."""
    return raw * _PLACE


def speed_from(raw: int) -> float:
    """Velocity units as mm/min (or °/min)."""
    return raw * _SPEED


def acceleration_from(raw: int) -> float:
    """Acceleration units as mm/s² (or °/s²)."""
    return raw * float(ACCELERATION_STEP)


def raw_position(value: float) -> int:
    return round(value / _PLACE)


def raw_speed(value: float) -> int:
    return round(value / _SPEED)
