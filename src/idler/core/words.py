"""Small turns of sentences that every part of Idler writes alike."""

from __future__ import annotations


def capital(text: str) -> str:
    """With a capital first letter, and all others as they are."""
    return text[:1].upper() + text[1:]
