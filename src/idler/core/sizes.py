"""Lists of sizes as text, for example the steps of a jog: "10 1 0.1"."""

from __future__ import annotations

import re
from fractions import Fraction

_SIZE = re.compile(r"\d{1,5}(?:\.\d{1,5})?")
FEWEST, MOST = 2, 5


def problem_of_sizes(text: str) -> str:
    """What is wrong with such a list, or an empty text."""
    words = text.split()
    if not FEWEST <= len(words) <= MOST:
        return f"is a list of {len(words)}: {FEWEST} to {MOST} sizes are wanted, with spaces between them"
    for word in words:
        if not _SIZE.fullmatch(word) or not Fraction(word):
            return f"holds “{word[:12]}”, which is not a size above zero such as 0.1"
    if len({Fraction(word) for word in words}) != len(words):
        return "holds one size twice"
    return ""


def sizes(text: str) -> tuple[str, ...]:
    """The sizes as they were written, in their order."""
    return tuple(text.split())
