"""Lists of sizes as text, for example the steps of a jog: "10 1 0.1"."""

from __future__ import annotations

import re
from collections.abc import Sequence
from fractions import Fraction

from ..values.build import POSITION_STEP

_SIZE = re.compile(r"\d{1,5}(?:\.\d{1,5})?")
FEWEST, MOST = 2, 5


def problem_of_sizes(text: str, least: Fraction = POSITION_STEP) -> str:
    """What is wrong with such a list, or an empty text. least: the smallest that the controller can be told."""
    words = text.split()
    if not FEWEST <= len(words) <= MOST:
        return f"is a list of {len(words)}: {FEWEST} to {MOST} sizes are wanted, with spaces between them"
    for word in words:
        if not _SIZE.fullmatch(word) or not Fraction(word):
            return f"holds “{word[:12]}”, which is not a size above zero such as 0.1"
        if Fraction(word) < least:
            return f"holds {word}, which is finer than the controller can be told: from {float(least):.6f} on"
    if len({Fraction(word) for word in words}) != len(words):
        return "holds one size twice"
    return ""


def problem_of_inches(text: str) -> str:
    """The same of a list in inches."""
    return problem_of_sizes(text, POSITION_STEP / Fraction(254, 10))


def nearest(listed: Sequence[str], size: Fraction) -> str:
    """The size of a list that is nearest to one and not larger; the smallest where all are larger."""
    by_size = sorted(listed, key=Fraction)
    return next((text for text in reversed(by_size) if Fraction(text) <= size), by_size[0])


def sizes(text: str) -> tuple[str, ...]:
    """The sizes as they were written, in their order."""
    return tuple(text.split())
