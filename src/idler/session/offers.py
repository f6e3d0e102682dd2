"""Something that the person should decide, until it is decided: what is so, and a way for each answer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Offer:
    """ways: words and what is done; the first one is the usual way. An offer with the same key takes the other's place."""

    key: str
    words: str
    ways: tuple[tuple[str, Callable[[], object]], ...]
