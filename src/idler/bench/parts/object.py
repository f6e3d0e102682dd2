"""One object of a plain part of the bench."""

from __future__ import annotations

from typing import NamedTuple

Object = tuple[int, int]  # index and sub


class Kept(NamedTuple):
    """Bytes, what it is worth, whether it has a sign, whether it may be written, whether 1010h stores it."""

    size: int
    value: int
    signed: bool = False
    writable: bool = True
    stored: bool = False
