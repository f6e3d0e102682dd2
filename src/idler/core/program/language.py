"""What a reading of ISO 6983-1 knows by number: its bounds, kinds of moves, kinds of faults.

Plain integers, for compiled code reads them: they are fixed when it is compiled.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum

MOST_BYTES = 500_000_000  # of a program that is read
MOST_FIGURE = 1e9  # mm, °, rpm: no word of a program is larger
MOST_DIGITS = 18  # of a figure that are read; more are told
LONG_FIGURE = 40  # digits that no person has written
MOST_DECIMALS = 5
MARK_LINES = 256  # of the text between two places that are remembered, so that any of its lines is found at once
KEPT_LINES = 50  # of each kind of fault that are listed; all are counted
OTHERWISE = (
    1 << 30
)  # stands for a speed of the spindle that follows the path or the diameter: it turns back in a thread, or G96
MOST_PECKS = 10_000  # of one hole
AXIS_LETTERS = b"XYZABCUVW"  # ISO 841
CODES = 10_000  # G and M words in tenths: G61.1 is 611


class Kind(IntEnum):
    """What a move is. The three lowest bits of the kind of a move."""

    RAPID = 0
    LINE = 1
    ARC = 2
    DWELL = 3
    SPINDLE = 4  # waits for its speed, or for its standstill
    STOP = 5  # until the person goes on: M0, M1, M6
    COOLANT = 6  # mist or coolant on, or both off: M7, M8, M9


KIND_BITS = 7
MACHINE_PLACE = 8  # bit of a move that goes to a place of the machine and not of the work
ZERO_SHIFT, ZERO_BITS = 4, 7  # bits 4 to 6: the work zero in force, 0 to 5
INCREMENTAL = 128  # bit of a move that was written as a way and not as a place


class Severity(IntEnum):
    NOTE = 0
    WARNING = 1
    REFUSES = 2  # the program is not run

    @property
    def word(self) -> str:
        return ("note", "warning", "error")[self]


@dataclass(frozen=True)
class Fault:
    """One kind of what a program may have wrong. text: a sentence; {} is the worst figure that was met."""

    code: str
    severity: Severity
    text: str


class P(IntEnum):
    """Kinds of faults, as rows of FAULTS."""

    NO_FIGURE = 0
    TWICE = 1
    TWO_OF_GROUP = 2
    LONG_FIGURE = 3
    DECIMALS = 4
    DOT_AND_COMMA = 5
    NESTED_COMMENT = 6
    OPEN_COMMENT = 7
    NO_AXIS = 8
    NO_FEED = 9
    NO_SPEED = 10
    SPEED_HIGH = 11
    SPEED_LOW = 12
    SPINDLE_OFF = 13
    ARC_ENDS = 14
    ARC_CENTRE = 15
    ARC_RADIUS = 16
    RADIUS_COMPENSATION = 17
    LENGTH_UNKNOWN = 18
    UNIT_UNSTATED = 19
    UNIT_LATE = 20
    OTHER_ZERO = 21
    RAPID_LOW = 22
    AFTER_END = 23
    LONG_DWELL = 24
    NO_DEPTH = 25
    NO_LEVEL = 26
    CYCLE = 27
    PECKS = 28
    NO_MOTION = 29
    ARC_PLANE = 30
    BLOCK_SKIP = 31
    ROTARY_FEED = 32
    NO_SPINDLE = 33
    MACHINE_ARC = 34
    UNKNOWN_HOME = 35
    NO_TURNS = 36
    COUNT = 37


_N, _W, _R = Severity.NOTE, Severity.WARNING, Severity.REFUSES
FAULTS: dict[P, Fault] = {
    P.NO_FIGURE: Fault("no_figure", _R, "A letter without a figure"),
    P.TWICE: Fault("word_twice", _R, "The same letter twice in one block"),
    P.TWO_OF_GROUP: Fault("two_of_group", _R, "Two words in one block of which only one can hold"),
    P.LONG_FIGURE: Fault("long_figure", _R, "A figure that is too long or too large to be meant: {:.6g}"),
    P.DECIMALS: Fault("many_decimals", _W, "Figures with more than 5 decimals: {:g} at most"),
    P.DOT_AND_COMMA: Fault("dot_and_comma", _W, "Decimal dots and decimal commas in one program"),
    P.NESTED_COMMENT: Fault("nested_comment", _W, "A bracket inside of a comment: the first closing one ended it"),
    P.OPEN_COMMENT: Fault("open_comment", _W, "A comment that nothing closes: it was taken to end with its line"),
    P.NO_AXIS: Fault("no_axis", _R, "A letter of an axis that this machine does not have"),
    P.NO_FEED: Fault("no_feed", _R, "A feed is wanted and none was given"),
    P.NO_SPEED: Fault("no_speed", _W, "The spindle is started and no speed was given"),
    P.NO_TURNS: Fault("no_turns", _R, "A feed per turn (G95) is wanted, and the spindle was given no speed"),
    P.SPEED_HIGH: Fault("speed_high", _R, "A spindle speed above the range that is engaged: {:g} rpm"),
    P.SPEED_LOW: Fault("speed_low", _R, "A spindle speed below the range that is engaged: {:g} rpm"),
    P.SPINDLE_OFF: Fault("spindle_off", _W, "A cutting move while the spindle stands"),
    P.ARC_ENDS: Fault("arc_ends", _R, "An arc whose end does not lie on it, off by {:.4g} mm"),
    P.ARC_CENTRE: Fault("arc_centre", _R, "An arc without centre and without radius"),
    P.ARC_RADIUS: Fault("arc_radius", _R, "An arc whose radius does not reach its end, short by {:.4g} mm"),
    P.RADIUS_COMPENSATION: Fault(
        "radius_compensation", _R, "Tool radius compensation (G41, G42) is not done: let the path be made with the radius in it"
    ),
    P.LENGTH_UNKNOWN: Fault("length_unknown", _W, "The length of tool H{:g} is not known: taken as 0 here, and not run so"),
    P.UNIT_UNSTATED: Fault("unit_unstated", _W, "The unit is not stated (G20 or G21): millimetres are taken"),
    P.UNIT_LATE: Fault("unit_late", _W, "The unit changes after the first move"),
    P.OTHER_ZERO: Fault("other_zero", _W, "The program chooses another work zero than the one shown: G{:g}"),
    P.RAPID_LOW: Fault("rapid_low", _W, "A rapid that moves below the work zero of Z, lowest {:.4g} mm"),
    P.AFTER_END: Fault("after_end", _N, "Text after the end of the program is not read"),
    P.LONG_DWELL: Fault("long_dwell", _W, "A dwell of {:g} s: seconds are taken; were milliseconds meant?"),
    P.NO_DEPTH: Fault("no_depth", _R, "A drilling cycle without a depth"),
    P.NO_LEVEL: Fault("no_level", _R, "A drilling cycle without a level to begin at (R)"),
    P.CYCLE: Fault("cycle", _R, "G87 and G88 need a hand at the machine: they are not reckoned"),
    P.PECKS: Fault("pecks", _R, "A hole in more steps than can be meant: {:.6g}"),
    P.NO_MOTION: Fault("no_motion", _R, "Coordinates before any word says how to go there"),
    P.ARC_PLANE: Fault("arc_plane", _R, "An arc in a plane whose axes this machine does not have"),
    P.BLOCK_SKIP: Fault("block_skip", _N, "Blocks that begin with “/” are done unless the switch for them is on"),
    P.ROTARY_FEED: Fault(
        "rotary_feed", _W, "The feed of an axis that turns alone is taken as ° per minute: give a radius for a speed at its rim"
    ),
    P.NO_SPINDLE: Fault("no_spindle", _W, "The program starts a spindle and this machine has none"),
    P.MACHINE_ARC: Fault("machine_arc", _R, "G53 goes with G0 and G1 only"),
    P.UNKNOWN_HOME: Fault("unknown_home", _W, "G28: this machine has no parking place; its home is taken"),
}  # fmt: skip
