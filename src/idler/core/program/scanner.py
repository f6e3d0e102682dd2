"""Reads one block of a program, sign by sign, into words by their letters."""

from __future__ import annotations

import numpy as np

from .compiled import compiled, inlined
from .digits import AT_ONCE, digits_at
from .language import CODES, KEPT_LINES, LONG_FIGURE, MOST_DECIMALS, MOST_DIGITS, MOST_FIGURE, P
from .state import Array, Row

NEWLINE, RETURN, SPACE, TAB = 10, 13, 32, 9
OPEN, CLOSE, SEMICOLON, SLASH, PERCENT = 40, 41, 59, 47, 37
PLUS, MINUS, DOT, COMMA = 43, 45, 46, 44
LETTER_G, LETTER_M = 6, 12
UNKNOWN_LETTER = 4  # E; all others are axes, feed, speed, tool, arcs, or belong to a word of this language
SHORT = 9  # digits of a figure that needs no look at how long it is
_POWERS = np.array([10.0**power for power in range(23)])  # all of them exact
_TENS = np.array([10**power for power in range(AT_ONCE + 1)])


@compiled
def tell(found: Row, code: int, line: int, figure: float) -> None:
    """Counts a fault; keeps the first lines of its kind, and the worst figure."""
    count = found.counts[code]
    if count < KEPT_LINES and (count == 0 or found.lines[code, count - 1] != line):
        found.lines[code, count] = line
        count += 1
        found.counts[code] = count
    elif count >= KEPT_LINES:
        found.counts[code] = count + 1
    if abs(figure) > abs(found.worst[code]):
        found.worst[code] = figure


@compiled
def strange(found: Row, sign: int, line: int) -> None:
    """Counts a sign that is no word of this language."""
    if found.sign_count[sign] == 0:
        found.sign_first[sign] = line
    found.sign_count[sign] += 1


@compiled
def _long_figure(text: Array, at: int, end: int, state: Row, found: Row) -> tuple[float, int, int]:
    """A figure without its sign that is not a short one: (value, position behind it, digits). Digits beyond MOST_DIGITS are
    counted, not read."""
    mantissa, digits, decimals, read, pointed = 0, 0, 0, 0, False
    larger = 0
    while at < end:
        c = text[at]
        if 48 <= c <= 57:
            digits += 1
            if read < MOST_DIGITS:
                mantissa = mantissa * 10 + (c - 48)
                if mantissa:
                    read += 1
                if pointed:
                    decimals += 1
            elif not pointed:
                larger += 1
        elif (c in (DOT, COMMA)) and not pointed:
            pointed = True
            state.signs |= 1 if c == DOT else 2
        else:
            break
        at += 1
    value = 1.0 * mantissa
    if decimals:
        value /= _POWERS[min(decimals, 22)]
    if decimals > MOST_DECIMALS:
        tell(found, P.DECIMALS, state.line, float(decimals))
    if larger or digits > LONG_FIGURE or value > MOST_FIGURE:
        tell(found, P.LONG_FIGURE, state.line, max(float(digits), value))
        value = 0.0
    return value, at, digits


@inlined
def figure(text: Array, at: int, end: int, state: Row, found: Row) -> tuple[float, int, int]:
    """The figure that begins here: (value, position behind it, digits).

    A mantissa below 2^53 over an exact power of ten is rounded once, so that short figures are the nearest doubles.
    """
    sign = 1.0
    if at < end:
        c = text[at]
        if c == MINUS:
            sign = -1.0
            at += 1
        elif c == PLUS:
            at += 1
    begin = at
    if at + 2 * AT_ONCE + 1 > end:
        value, at, digits = _long_figure(text, begin, end, state, found)
        return sign * value, at, digits
    mantissa, digits = digits_at(text, at)
    at += digits
    decimals = 0
    if text[at] == DOT and digits < AT_ONCE:
        fraction, decimals = digits_at(text, at + 1)
        mantissa = mantissa * _TENS[decimals] + fraction
        at += 1 + decimals
        state.signs |= 1
    value = 1.0 * mantissa
    if digits == AT_ONCE or decimals > MOST_DECIMALS or digits + decimals > SHORT or text[at] == COMMA:
        value, at, digits = _long_figure(text, begin, end, state, found)
    elif decimals:
        value /= _POWERS[decimals]
        digits += decimals
    return sign * value, at, digits


@inlined
def read_block(text: Array, end: int, state: Row, block: Row, found: Row) -> bool:
    """Reads up to the end of the line. False where the text has ended; else `block` holds its words."""
    at = state.position
    if at >= end:
        return False
    block.gs = block.ms = seen = 0
    line = state.line = state.line + 1
    first = True
    while at < end:
        c = text[at]
        letter = (c | 32) - 97
        if 0 <= letter < 26:
            at += 1
            while at < end and (text[at] == SPACE or text[at] == TAB):
                at += 1
            value, at, digits = figure(text, at, end, state, found)
            if digits == 0:
                tell(found, P.NO_FIGURE, line, 0.0)
            elif letter == LETTER_G or letter == LETTER_M:  # noqa: SIM109 - a tuple is gone through, sign by sign
                code = int(round(value * 10))
                if code < 0 or code >= CODES:
                    strange(found, c & 0xDF, line)
                elif letter == LETTER_G:
                    if block.gs < 16:
                        block.g[block.gs] = code
                        block.gs += 1
                    else:
                        tell(found, P.TWO_OF_GROUP, line, 0.0)
                elif block.ms < 16:
                    block.m[block.ms] = code
                    block.ms += 1
                else:
                    tell(found, P.TWO_OF_GROUP, line, 0.0)
            elif letter == UNKNOWN_LETTER:
                strange(found, c & 0xDF, line)
            else:
                if seen >> letter & 1:
                    tell(found, P.TWICE, line, 0.0)
                seen |= 1 << letter
                block.values[letter] = value
            first = False
        elif c == NEWLINE:
            at += 1
            break
        elif c == RETURN:
            at += 2 if at + 1 < end and text[at + 1] == NEWLINE else 1
            break
        elif c == OPEN:
            at += 1
            closed = False
            while at < end and text[at] != NEWLINE and text[at] != RETURN:
                if text[at] == CLOSE:
                    closed = True
                    at += 1
                    break
                if text[at] == OPEN:
                    tell(found, P.NESTED_COMMENT, line, 0.0)
                at += 1
            if not closed:
                tell(found, P.OPEN_COMMENT, line, 0.0)
        elif c == SEMICOLON:
            while at < end and text[at] != NEWLINE and text[at] != RETURN:
                at += 1
        elif c == SPACE or c == TAB or c == PERCENT or c == 0:  # noqa: SIM109 - as above
            if c == 0:
                strange(found, 0, line)
            at += 1
        elif c == SLASH and first:
            tell(found, P.BLOCK_SKIP, line, 0.0)
            state.skipped += 1
            at += 1
        else:
            strange(found, c, line)
            at += 1
    state.position, block.seen = at, seen
    if state.signs == 3:
        tell(found, P.DOT_AND_COMMA, line, 0.0)
        state.signs = 7
    return True
