"""The records that the compiled reader works on: what it was told of the machine, and what holds from block to block.

Lengths mm, angles °, times s; positions are machine coordinates. Slots are those of the machine's axes.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from idler.core.table import MOST_AXES
from idler.core.values.toolnumber import TOOLS

from .language import CODES, KEPT_LINES, P

Row = Any  # one record, and arrays of them: the compiled code sees their fields, a type checker cannot
Array = Any

ZEROS = 6  # G54 to G59

TOLD = np.dtype(
    [
        ("axes", "i8"),
        ("letter", "i8", MOST_AXES), ("letters", "i8"),  # of each axis, A is 0; and a bit for each letter
        ("rotary", "i8", MOST_AXES), ("turning", "i8"),  # of each axis, and the bits of those that turn
        ("zeros", "f8", (ZEROS, MOST_AXES)),
        ("lengths", "f8", TOOLS), ("length_known", "i8", TOOLS),
        ("homes", "f8", MOST_AXES), ("parks", "i8", MOST_AXES),  # where G28 goes, and whether that is a parking place
        ("x_diameter", "i8"), ("lathe", "i8"), ("zero", "i8"),  # the work zero that is shown
        ("coolant", "i8"), ("spindle", "i8"), ("cutter", "i8"), ("turret", "i8"),
        ("speed_low", "f8"), ("speed_high", "f8"), ("run_up", "f8"), ("run_down", "f8"),
        ("radius", "f8", MOST_AXES),  # mm at which a feed of an axis that turns is meant; 0 degrees
        ("raised", "f8"), ("ceiling", "f8"),  # mm by which all of Z goes higher, and where its places of the machine end then
        ("x", "i8"), ("y", "i8"), ("z", "i8"),  # slots of the axes of planes; -1 none
    ]
)  # fmt: skip

STATE = np.dtype(
    [
        ("position", "i8"),  # in the text
        ("line", "i8"), ("blocks", "i8"), ("skipped", "i8"),
        ("motion", "i8"),  # G0 to G3, G81 to G89; -1 none yet
        ("plane", "i8"), ("incremental", "i8"), ("feed_mode", "i8"), ("unit", "i8"), ("zero", "i8"), ("returns", "i8"),
        ("exact", "i8"), ("surface", "i8"), ("spindle", "i8"), ("length", "i8"), ("tool", "i8"), ("ended", "i8"),
        ("moves", "i8"), ("arcs", "i8"), ("signs", "i8"),  # bit 0 a dot was seen, bit 1 a comma
        ("stops", "i8"), ("moved", "i8"), ("stated", "i8"),
        ("feed", "f8"), ("speed", "f8"), ("tolerance", "f8"), ("offset", "f8"),
        ("level", "f8"), ("depth", "f8"), ("peck", "f8"), ("dwell", "f8"), ("initial", "f8"),
        ("at", "f8", MOST_AXES), ("target", "f8", MOST_AXES), ("start", "f8", MOST_AXES),
        ("known", "i8", MOST_AXES), ("first", "i8", MOST_AXES),  # whether it was named, and by which move first
        ("fresh", "i8"),  # an axis was named for the first time
        ("goes", "i8"),  # bits of the axes whose target is not where they stand
    ]
)  # fmt: skip

BLOCK = np.dtype(
    [
        ("values", "f8", 26), ("seen", "i8"),  # words by letter, as they were written; a bit for each that is there
        ("g", "i8", 16), ("gs", "i8"), ("m", "i8", 16), ("ms", "i8"),  # in tenths
    ]
)  # fmt: skip

FOUND = np.dtype(
    [
        ("counts", "i8", P.COUNT), ("worst", "f8", P.COUNT), ("lines", "i8", (P.COUNT, KEPT_LINES)),
        ("g_first", "i8", CODES), ("g_count", "i8", CODES), ("m_first", "i8", CODES), ("m_count", "i8", CODES),
        ("sign_first", "i8", 256), ("sign_count", "i8", 256),  # letters and other signs that say nothing here
    ]
)  # fmt: skip

MOVE = np.dtype(
    [
        ("kind", "u1"),  # a Kind, MACHINE_PLACE, INCREMENTAL, and the work zero in force
        ("line", "i4"),  # of the text, from 1
        ("rate", "f4"),  # mm/s along the path (°/s where only axes that turn move); seconds of what waits; 0 a rapid
        ("tolerance", "f4"),  # mm by which its end may be cut; 0 it is stopped at
        ("reference", "i4"),  # of its arc; of what waits for the spindle its speed then, rpm, to the left below 0,
        # or OTHERWISE; of the coolant its word; of a tool change the tool, of another stop -1
    ]
)  # fmt: skip

ARC = np.dtype(
    [
        ("u", "i8"), ("v", "i8"),  # slots of the plane
        ("cu", "f8"), ("cv", "f8"), ("radius", "f8"), ("begin", "f8"), ("sweep", "f8"), ("grows", "f8"),
    ]
)  # fmt: skip
