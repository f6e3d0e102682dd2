"""Words that hold until another of their group comes, and those that switch: G and M of a block."""

from __future__ import annotations

import math

from ..values.toolnumber import TOOLS
from .compiled import compiled, inlined
from .emitting import Sheet, put, put_spindle
from .language import OTHERWISE, Kind, P
from .scanner import tell
from .state import Row

H, LETTER_P = ord("H") - 65, ord("P") - 65
INCH = 25.4


@compiled
def has(block: Row, letter: int) -> int:
    """Whether a block has a word of this letter."""
    return block.seen >> letter & 1


@compiled
def zeroed(value: float, unit: int) -> float:
    return value * INCH if unit == 20 else value


@compiled
def g_words(block: Row, state: Row, told: Row, found: Row) -> int:
    """Takes over modal words. Returns the word of this block that is not modal (4, 28, 53), or 0.

    Words of one group exclude each other (ISO 6983-1): two of them in a block are a fault.
    """
    once, groups = 0, 0
    for at in range(block.gs):
        code = block.g[at]
        word = code // 10
        group = 0
        if code % 10 and code not in (611,):
            group = -1
        elif code == 0 or code == 10 or code == 20 or code == 30:
            group, state.motion = 1, word
        elif 810 <= code <= 890:
            group, state.motion = 1, word
            if word in (87, 88):
                tell(found, P.CYCLE, state.line, 0.0)
        elif code == 800:
            group, state.motion = 1, -1
        elif 170 <= code <= 190:
            group, state.plane = 2, word
        elif code == 900 or code == 910:
            group, state.incremental = 3, word - 90
        elif 930 <= code <= 950:
            group = 5
            if word != state.feed_mode:
                state.feed = 0.0  # its figure meant something else
            state.feed_mode = word
        elif code == 200 or code == 210:
            group = 6
            if state.moved and state.unit != word and not (state.unit == 0 and word == 21):
                tell(found, P.UNIT_LATE, state.line, 0.0)
            if state.feed and (state.unit == 20) != (word == 20):
                state.feed *= 1 / INCH if word == 20 else INCH  # the feed in force stays what it is
            state.unit = word
            state.stated = 1
        elif code == 400:
            group = 7
        elif code == 410 or code == 420:
            group = 7
            tell(found, P.RADIUS_COMPENSATION, state.line, 0.0)
        elif code == 430:
            group = 8
            tool = int(block.values[H]) if has(block, H) else state.tool
            state.length = tool
            state.offset = 0.0
            if 0 <= tool < TOOLS and told.length_known[tool]:
                state.offset = told.lengths[tool]
            else:
                tell(found, P.LENGTH_UNKNOWN, state.line, float(tool))
        elif code == 490:
            group, state.length, state.offset = 8, -1, 0.0
        elif 540 <= code <= 590:
            group, state.zero = 12, word - 54
            if state.zero != told.zero:
                tell(found, P.OTHER_ZERO, state.line, float(word))
        elif code == 610 or code == 611:
            group, state.exact = 13, 1
        elif code == 640:
            group, state.exact = 13, 0
            if has(block, LETTER_P):
                state.tolerance = max(0.0, zeroed(block.values[LETTER_P], state.unit))
        elif code == 960 or code == 970:
            group, state.surface = 14, 97 - word
        elif code == 980 or code == 990:
            group, state.returns = 10, word
        elif code == 40 or code == 280 or code == 530:
            group = 15 if word != 53 else 16
            once = word
        else:
            group = -1
        if group < 0:
            if found.g_count[code] == 0:
                found.g_first[code] = state.line
            found.g_count[code] += 1
        else:
            if groups >> group & 1:
                tell(found, P.TWO_OF_GROUP, state.line, 0.0)
            groups |= 1 << group
    return once


@compiled
def rpm(state: Row, told: Row, diameter: float) -> float:
    """Turns per minute in force; with a constant surface speed (G96) those at a diameter in mm."""
    if not state.surface:
        return state.speed
    most = told.speed_high if told.speed_high > 0 else math.inf
    return most if diameter <= 0 else min(most, 1000 * state.speed / (math.pi * diameter))


@inlined
def signed_speed(state: Row, told: Row) -> float:
    """The speed that the spindle is told, in rpm, to the left (M4) below 0; 1 switches on what has none."""
    if told.cutter:
        return 1.0
    if state.surface:
        return OTHERWISE
    return state.speed if state.spindle == 3 else -state.speed


@compiled
def m_words(block: Row, state: Row, told: Row, out: Sheet, found: Row) -> int:
    """Starts and ends that come before motion. Returns what comes after it: bit 0 a stop, bit 1 the end, bit 2 spindle off."""
    after = 0
    for at in range(block.ms):
        code = block.m[at]
        word = code // 10
        if code % 10 == 0 and word in (3, 4):
            if not told.spindle:
                tell(found, P.NO_SPINDLE, state.line, 0.0)
            elif state.speed <= 0 and not told.cutter:
                tell(found, P.NO_SPEED, state.line, 0.0)
            other = state.spindle != word
            wait = told.run_up if other else 0.0
            if state.spindle not in (0, word):
                wait += told.run_down
            state.spindle = word
            if told.spindle and (wait > 0 or other):
                put_spindle(out, state, wait, signed_speed(state, told))
        elif code % 10 == 0 and word == 5:
            after |= 4
        elif code % 10 == 0 and word == 6:
            if not told.turret:  # hands go to the tool: the program says M3 again
                if state.spindle and told.spindle:
                    put_spindle(out, state, told.run_down, 0.0)
                state.spindle = 0
            put(out, state, Kind.STOP, 0.0)
            out.moves[state.moves - 1].reference = max(0, state.tool)
            state.stops += 1
        elif code % 10 == 0 and word in (0, 1):
            after |= 1
        elif code % 10 == 0 and word in (2, 30):
            after |= 2
        elif code % 10 == 0 and word in (7, 8, 9):
            if told.coolant:
                put(out, state, Kind.COOLANT, 0.0)
                out.moves[state.moves - 1].reference = word
        else:
            if found.m_count[code] == 0:
                found.m_first[code] = state.line
            found.m_count[code] += 1
    return after


@compiled
def check_speed(state: Row, told: Row, found: Row) -> None:
    if told.spindle and not state.surface and state.speed > 0:
        if told.speed_high > 0 and state.speed > told.speed_high * (1 + 1e-9):
            tell(found, P.SPEED_HIGH, state.line, state.speed)
        elif state.speed < told.speed_low * (1 - 1e-9):
            tell(found, P.SPEED_LOW, state.line, state.speed)
