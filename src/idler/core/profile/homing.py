"""Homing on the wire: what an axis is doing and how it ended, in the manufacturer's bits of 60FDh.

Bits 20 to 23: the phase; bits 24 to 27: how the last homing ended.
"""

from __future__ import annotations

from enum import Enum

from ..words import word
from .codec import Place

PHASE_SHIFT, RESULT_SHIFT, FIELD = 20, 24, 0xF
# For the first axis: where the switch (or stop) was met on the approach and on the touch, in the coordinates before; how far
# it was from there to the index mark.
FIRST_PLACE, TOUCH_PLACE, INDEX_DISTANCE = (Place(0x4008, sub) for sub in (1, 2, 3))
FORGET = Place(0x4008, 4)  # 1 written here: home is not known any more
# How far the switch of the second motor's side lay further to + than the first's; the usual effort on the approach in ‰; and
# how far the axis ran on after its switch on the approach.
SIDES, USUAL_EFFORT, RAN_ON = (Place(0x4008, sub) for sub in (5, 6, 7))
# By how far the last edge may lie elsewhere than its place says. No controller of this profile has it: it latches the place at
# the edge. Idler answers it for plain parts, which are looked at now and then.
LATCHED_WITHIN = Place(0x4008, 8)


class _Told(Enum):
    """raw and words."""

    def __init__(self, raw: int, words: str) -> None:
        self.raw = raw
        self.words = words


class Phase(_Told):
    """What an axis is doing while it homes."""

    NONE = (0, "at rest")
    APPROACH = (1, word("approach"))
    HALT = (2, word("stops"))
    BACK_OFF = (3, word("back-off"))
    TOUCH = (4, word("touch"))
    HALT_AT_TOUCH = (5, "stops at the touch")
    INDEX = (6, "to the index mark")
    HALT_AT_INDEX = (7, "stops at the mark")
    LEAVE = (8, "leaves the switch")
    SQUARE = (9, "squares the beam")


class HomingResult(_Told):
    """How a homing ended."""

    NONE = (0, "not homed since power-up")
    FOUND = (1, "home was found")
    NOT_FOUND = (2, "home was not found within the search distance")
    PRESSED = (3, "the switch was pressed already at the start")
    STILL_PRESSED = (4, "the switch was still pressed after the back-off")
    OTHER_END = (5, "the switch of the other end came instead")
    NO_INDEX = (6, "the index mark was not found")
    STOPPED = (7, "it was stopped")
    CHAIN_BUSY = (8, "another axis was homing on the same chain")
    APART = (9, "one side met its switch, and the other did not soon enough")
    MARK_MOVED = (10, "the index mark lies elsewhere than last time")
    STILL_MADE = (11, "the switch was still made after it was left")
    UNSTEADY = (12, "the switch still bounced when it was touched again")
    LIMIT_FIRST = (13, "the limit switch of the same end came before home")
    UNSURE = (
        14,
        "the switch was met, and not seen closely enough to say where: drive, bus or computer answered too slowly",
    )


def phase_of(inputs: int) -> Phase:
    """Of digital inputs 60FDh."""
    raw = inputs >> PHASE_SHIFT & FIELD
    return next((phase for phase in Phase if phase.raw == raw), Phase.NONE)


def result_of(inputs: int) -> HomingResult:
    """Of digital inputs 60FDh."""
    raw = inputs >> RESULT_SHIFT & FIELD
    return next((result for result in HomingResult if result.raw == raw), HomingResult.NONE)
