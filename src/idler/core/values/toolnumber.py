"""Numbers by which programs call the lengths of tools (H of ISO 6983-1)."""

from __future__ import annotations

from ..errors import Refusal

TOOLS = 100  # H0 to H99; H0 is none


def number_of(text: str) -> int:
    """The number of a tool that was typed. Raises Refusal."""
    words = text.strip().upper().removeprefix("H")
    number = int(words) if words.isdecimal() and len(words) < 4 else 0
    if not 1 <= number < TOOLS:
        raise Refusal("tool", f"“{text.strip()[:30]}”", "is no number of a tool", f"1 to {TOOLS - 1}")
    return number
