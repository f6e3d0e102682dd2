"""Small turns of sentences that every part of Idler writes alike."""

from __future__ import annotations

from collections.abc import Sequence


def word(shown: str) -> str:
    """A word that stands alone and is shown: in a translation it is another one. A word alone that is not marked is a key."""
    return shown


def listed(words: Sequence[str]) -> str:
    """ "X", "X and Y", "X, Y and Z"."""
    return " and ".join([", ".join(words[:-1]), words[-1]] if len(words) > 1 else words)


def capital(text: str) -> str:
    """With a capital first letter, and all others as they are."""
    return text[:1].upper() + text[1:]


def duration(seconds: float) -> str:
    """ "8 s", "2 min 05 s", "3 h 07 min"; never less than a second."""
    whole = max(1, round(seconds))
    if whole < 60:
        return f"{whole} s"
    if whole < 3600:
        return f"{whole // 60} min {whole % 60:02} s"
    return f"{whole // 3600} h {whole % 3600 // 60:02} min"
