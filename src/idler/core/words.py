"""Small turns of sentences that every part of Idler writes alike."""

from __future__ import annotations

from collections.abc import Sequence


def listed(words: Sequence[str]) -> str:
    """ "X", "X and Y", "X, Y and Z"."""
    return " and ".join([", ".join(words[:-1]), words[-1]] if len(words) > 1 else words)


def capital(text: str) -> str:
    """With a capital first letter, and all others as they are."""
    return text[:1].upper() + text[1:]
