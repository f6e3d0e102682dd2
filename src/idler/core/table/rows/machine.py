"""Values of the machine as a whole: its names, the signals to its drives, and what turns the tool."""

from __future__ import annotations

from ...actions.text import brief, problem
from ...values.build import FASTEST, MICRO, SPEED_STEP, U8, U16, U32, choice, flag, quantity, text
from ...values.parameter import Apart, Choice, Parameter, Wire, WireType
from ...values.units import Dimension
from ..sizes import problem_of_inches, problem_of_sizes
from .spindle import SPINDLE_ROWS

_SIGNALS = {"restart": True}

MACHINE_ROWS: tuple[Parameter, ...] = (
    text(
        "names.machine", "name of the machine", "Machine", 48, Wire(0x2010, 1, WireType.UNICODE),
        "What this machine is called in the workshop.", "Choose a name that tells it from the one beside it.",
        apart=Apart.NAME,
    ),
    text(
        "names.workshop", "workshop", "Workshop", 48, Wire(0x2010, 2, WireType.UNICODE),
        "Whose machine it is; printed on its report.", "Your workshop's name.", apart=Apart.NAME,
    ),
    choice(
        "names.screen_unit", "unit of the screen", (Choice("mm", "millimetres", 0), Choice("in", "inches", 1)),
        Wire(0x2010, 3, U8),
        "Lengths are shown in it, and a bare number that you type is read in it. The machine itself counts in steps.",
        "Take the unit of your drawings. Any field takes the other one when you write it behind the number.",
        apart=Apart.SCREEN,
    ),
    # -- what kind of machine it is
    choice(
        "build.kind", "kind of machine",
        (
            Choice("mill", "mill", 0), Choice("router", "router", 1), Choice("lathe", "lathe", 2),
            Choice("table", "cutting table", 3),
        ),
        Wire(0x2013, 1, U8), "Pictures, and the words for each direction, follow it.",
        "A mill moves its table, a router its beam; on a lathe the work turns; a cutting table has no spindle.",
    ),
    choice(
        "build.cutter", "what cuts", (Choice("torch", "torch", 0), Choice("beam", "beam", 1), Choice("knife", "knife", 2)),
        Wire(0x2013, 5, U8),
        "On a cutting table: what is switched on and off in place of a spindle. All words follow it.",
        "A flame or an arc is a torch, light or water a beam, a blade a knife.", used_when=("build.kind", "table"),
    ),
    choice(
        "build.post", "tool post", (Choice("front", "in front of the work", 0), Choice("behind", "behind the work", 1)),
        Wire(0x2013, 2, U8),
        "On a lathe + of X is away from the centre line: towards you with the post in front, away from you behind.",
        "Stand where you work the machine and look where the tool is.", used_when=("build.kind", "lathe"),
    ),
    choice(
        "build.cross", "X is shown as", (Choice("radius", "radius", 0), Choice("diameter", "diameter", 1)),
        Wire(0x2013, 3, U8),
        "On a lathe: whether the figure and the jog steps of X are of the radius or the diameter. "
        "Limits and speeds stay those of the slide.",
        "Take what your drawings give; most give diameters.", used_when=("build.kind", "lathe"), apart=Apart.SCREEN,
    ),
    choice(
        "build.controller", "kind of controller",
        (Choice("whole", "one that holds all values", 0), Choice("parts", "plain drives and terminals", 1)),
        Wire(0x2013, 4, U8),
        "Whether one node makes all motion, or each axis is a drive of its own on the bus and Idler keeps what they do not.",
        "The controller says it.", given=True, apart=Apart.FACT,
    ),
    # -- jogging
    quantity(
        "jog.slow", "jog speed, slow", "600", Dimension.SPEED, ("1", FASTEST), Wire(0x2014, 1, U32, SPEED_STEP),
        "Speed of a jog with “slow”: no crawl, and slow enough to take the hand away.", "A fifth of the fast one.",
        apart=Apart.SCREEN,
    ),
    quantity(
        "jog.fast", "jog speed, fast", "2400", Dimension.SPEED, ("1", FASTEST), Wire(0x2014, 2, U32, SPEED_STEP),
        "Speed of a jog with “fast”, or with Shift held. No axis goes faster than its top speed.",
        "What you would trust near the work.", apart=Apart.SCREEN,
    ),
    choice(
        "jog.first", "first jog speed", (Choice("slow", "slow", 0), Choice("fast", "fast", 1)), Wire(0x2014, 3, U8),
        "What is chosen when Idler starts.", "Slow, on a machine that is not proven yet.", apart=Apart.SCREEN,
    ),
    text(
        "jog.steps_mm", "jog steps in millimetres", "10 1 0.1 0.01", 40, Wire(0x2014, 4, WireType.STRING),
        "The steps to choose from while the screen is in millimetres; a rotary axis takes them as degrees.",
        "Two to five sizes with spaces between them.", problem=problem_of_sizes, apart=Apart.SCREEN,
    ),
    text(
        "jog.steps_inch", "jog steps in inches", "1 0.1 0.01 0.001", 40, Wire(0x2014, 5, WireType.STRING),
        "The steps to choose from while the screen is in inches.", "Two to five sizes with spaces between them.",
        problem=problem_of_inches, apart=Apart.SCREEN,
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
    text(
        "actions.text", "own actions", "none", 6000, Wire(0x2016, 1, WireType.UNICODE),
        "Short sequences of your own: moves, outputs, waits, questions, on a button, a key or an event. They are checked like "
        "a program before they run.",
        "Write them at Trial, Actions. Examples stand there to begin with.", problem=problem, brief=brief, apart=Apart.PLACE,
    ),
    *SPINDLE_ROWS,
)  # fmt: skip
