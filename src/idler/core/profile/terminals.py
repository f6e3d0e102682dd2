"""Terminals on the wire: what the controller reports of them, and what it is asked to do with them."""

from __future__ import annotations

from enum import IntFlag

from .codec import Place

# COB-IDs without the node: the third and fourth process data objects of a controller. That of the spindle is off at first.
TERMINAL_PDO, LEVEL_PDO, SPINDLE_PDO, COMMAND_PDO = 0x380, 0x480, 0x380, 0x400

LEVELS_NOW, OUTPUTS_NOW, CONDITIONS = Place(0x2004, 1), Place(0x2004, 2), Place(0x2004, 3)
LEVEL_OUTPUT, LEVEL_OUTPUTS = 0x2005, 4  # the first four level outputs, in the order of the terminals, in ‰
SPINDLE_RUN, SPINDLE_LEVEL, TRIED, TRIED_LEVEL, SPINDLE_SPEED = (Place(0x2006, sub) for sub in (1, 2, 3, 4, 5))
SPINDLE_COUNTS, SPINDLE_MEASURED, ENGAGED, OIL_STROKES, OIL_TOWARDS, SPINDLE_CHANGED = (
    Place(0x2007, sub) for sub in (1, 2, 3, 4, 5, 6)
)
SPEED_RECORD = Place(0x2008, 1)
NEXT_EDGE, EDGES, EDGES_WAIT = Place(0x2002, 1), Place(0x2002, 2), Place(0x2002, 3)

TERMINAL_FORMAT = "<IHH"  # LEVELS_NOW, OUTPUTS_NOW, CONDITIONS
COMMAND_FORMAT = "<bHBHH"  # SPINDLE_RUN, SPINDLE_LEVEL, TRIED, TRIED_LEVEL, SPINDLE_SPEED (which goes before a level)
SPINDLE_FORMAT = "<ii"  # SPINDLE_COUNTS, SPINDLE_MEASURED


class Condition(IntFlag):
    """What the controller finds of itself: bits of 2004h:03."""

    STOP = 1
    GUARD = 2
    TROUBLE = 4
    SPINDLE = 8  # it is told to turn
    TRYING = 16
    REFUSED = 32  # what was asked for last is forbidden by one of the above
    RUNNING_UP = 64  # the spindle is not at its speed yet; motion waits
    RUNNING_DOWN = 128  # it was let go and is not believed to stand yet
    NOT_READY = 256  # its drive does not say that it is ready
    NO_RANGE = 512  # the inputs name no speed range, or several
