"""Values of the machine as a whole: its names, the signals to its drives, and what turns the tool."""

from __future__ import annotations

from ..parameter import Choice, Parameter, Wire, WireType
from ..stations import Station
from ..units import Dimension
from .build import MICRO, U8, U16, U32, choice, flag, quantity, text

_SIGNALS = {"restart": True, "rests": (Station.DRIVES,)}

MACHINE_ROWS: tuple[Parameter, ...] = (
    text(
        "names.machine", "name of the machine", "Machine", 48, Wire(0x2010, 1, WireType.UNICODE),
        "What this machine is called in the workshop.", "Choose a name that tells it from the one beside it.",
    ),
    text(
        "names.workshop", "workshop", "Workshop", 48, Wire(0x2010, 2, WireType.UNICODE),
        "Whose machine it is; printed on its report.", "Your workshop's name.",
    ),
    choice(
        "names.screen_unit", "unit of the screen", (Choice("mm", "millimetres", 0), Choice("in", "inches", 1)),
        Wire(0x2010, 3, U8),
        "Lengths are shown in it, and a bare number that you type is read in it. The machine itself counts in steps.",
        "Take the unit of your drawings. Any field takes the other one when you write it behind the number.",
    ),
    # -- signals to the drives
    quantity(
        "signals.step_rate", "highest step rate", "120", Dimension.RATE, ("1", "4000"), Wire(0x2011, 1, U32, MICRO),
        "The most step pulses in a second that the controller makes on one axis. It bounds every speed.",
        "The lower of two figures: the controller's own, and what the drive's data sheet takes at its input.", **_SIGNALS,
    ),
    quantity(
        "signals.pulse_width", "step pulse width", "2.5", Dimension.PULSE, ("0.1", "100"), Wire(0x2011, 2, U32, MICRO),
        "How long each step pulse stays on. Too short a pulse is not seen by the drive, and steps are lost.",
        "The drive's data sheet gives a least width. Take a quarter more.", **_SIGNALS,
    ),
    quantity(
        "signals.direction_setup", "direction setup time", "5", Dimension.PULSE, ("0", "1000"),
        Wire(0x2011, 3, U32, MICRO),
        "How long the direction is held before the first step. Too short, and each reversal loses a step.",
        "The drive's data sheet, often called setup time of the direction input.", **_SIGNALS,
    ),
    quantity(
        "signals.power_delay", "delay after power", "200", Dimension.SHORT_TIME, ("0", "10000"), Wire(0x2011, 4, U16),
        "The wait between powering the drives and the first motion. Too short, and the first steps are lost.",
        "The drive's data sheet, or power the drive and listen until it has settled.", **_SIGNALS,
    ),
    flag(
        "signals.enable_inverted", "enable line inverted", False, Wire(0x2011, 5, U8),
        "Which level of the enable line powers the drives.",
        "The drive's data sheet. If drives are stiff when they should be loose, change it.", **_SIGNALS,
    ),
    flag(
        "signals.step_inverted", "step line inverted", False, Wire(0x2011, 6, U8),
        "At which edge of the pulse the drive steps. At the wrong one each reversal takes a step in the old direction.",
        "The drive's data sheet: it counts a rising or a falling edge. If the axis creeps at each reversal, change it.",
        **_SIGNALS,
    ),
    # -- what turns the tool
    choice(
        "spindle.kind", "kind of spindle",
        (
            Choice("none", "no spindle", 0), Choice("relay", "on and off", 1), Choice("voltage", "speed by 0–10 V", 2),
            Choice("pulse", "speed by pulse width", 3),
        ),
        Wire(0x2012, 1, U8), "What turns the tool, and how its speed is told to it.",
        "Look at the spindle's drive: a relay only, a 0–10 V input, or a pulse-width input.",
        rests=(Station.WIRING, Station.SPINDLE),
    ),
)  # fmt: skip
