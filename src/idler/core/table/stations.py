"""The ten stations of commissioning, in the order of the work, and what each will prove."""

from __future__ import annotations

from enum import Enum, StrEnum


class Station(Enum):
    """key, label, and one sentence on what is proven there."""

    LINK = ("link", "Link", "The controller answers, is the one you meant, and what it held is kept as found.")
    WIRING = (
        "wiring",
        "Wiring",
        "Each terminal will be proven by touching the machine: the emergency stop first, then every switch and output.",
    )
    DRIVES = ("drives", "Drives", "Each axis moves the way you say, as fast as you say, by the train that you drew.")
    SCALE = (
        "scale",
        "Scale",
        "One unit will be proven with an instrument: move, measure, correct, until the passes agree within your tolerance.",
    )
    HOMING = (
        "homing",
        "Homing",
        "Each axis will find the same zero again: rehearsed first, then run, then repeated to see its scatter.",
    )
    TRAVEL = (
        "travel",
        "Travel",
        "Both ends of every axis will be driven to, slowly and then fast, and seen to stop before the switch.",
    )
    SPINDLE = (
        "spindle",
        "Spindle",
        "Speed, direction, run-up and every interlock of the spindle will be tried, measured and corrected.",
    )
    GEOMETRY = (
        "geometry",
        "Geometry",
        "Play will be proven by a dial that is approached from both sides, the right angle of the bed by two diagonals, its "
        "level by a dial in the spindle.",
    )
    TRIAL = (
        "trial",
        "Trial",
        "Figures and programs run over the drawn envelope, dry first, and show a mirrored or swapped axis.",
    )
    SIGN_OFF = (
        "sign_off",
        "Sign-off",
        "All proofs with their dates, the findings left, and the revision that goes to work.",
    )

    def __init__(self, key: str, label: str, proves: str) -> None:
        self.key = key
        self.label = label
        self.proves = proves


class Tab(StrEnum):
    """What the pages of the stations are called, and turned to by."""

    OUTPUTS = "Outputs"
    LEARN = "Learn"
    FILTER = "Filter"
    PROVE = "Prove"
    SIGNALS = "Signals"
    PACE = "Pace"
    DIRECTION = "Direction"
    SHAPE = "Shape"
    MOTOR = "Motor"
    RELIABLE = "Reliable"
    TORQUE = "Torque"
    CURVE = "Curve"
    TIMES = "Times"
    LADDER = "Ladder"
    WAY = "Way"
    OIL = "Oil"
    TRY = "Try"
    BUS = "Bus"
    SET_UP = "Set-up"
    PLAY = "Play"
    COMES_BACK = "Comes back"
    STEPS_KEPT = "Steps kept"
    SQUARE = "Square"
    BY_A_SQUARE = "By a square"
    LEVEL = "Level"
    RUNOUT = "Runout"
    TAILSTOCK = "Tailstock"
    PROGRAM = "Program"
    FIGURES = "Figures"
    RUN = "Run"
    WORK_ZEROS = "Work zeros"
    TOOLS = "Tools"
    TOUCH = "Touch"
    ACTIONS = "Actions"
    INDEX_STOPS = "Index stops"
    REVISIONS = "Revisions"
    COMPARE = "Compare"
    TO_SETTLE = "To settle"
