"""The one family of errors that a person may read.

Each carries the part, the value, its unit, the bound and the way out, and is raised before anything is changed or sent.
"""

from __future__ import annotations

import re

from .words import capital

_NO_SIGNS = re.compile("[\x00-\x1f\x7f\x85\u2028\u2029]+")  # what ends a line or is none, in what is quoted


class IdlerError(Exception):
    """A plain sentence for the person at the screen, in one line whatever it quotes."""

    @property
    def sentence(self) -> str:
        return _NO_SIGNS.sub(" ", str(self))


class Refusal(IdlerError):
    """A value that cannot be taken.

    part     what the value belongs to, in words ("X lead of the screw")
    value    what was given, as text
    bound    what would be taken, in words; empty where there is no bound
    way_out  what to do next; empty where the bound says it
    """

    def __init__(self, part: str, value: str, problem: str, bound: str = "", way_out: str = "") -> None:
        self.part = part
        self.value = value
        self.problem = problem
        self.bound = bound
        self.way_out = way_out
        sentence = f"{part}: {value} {problem}" if value else f"{part}: {problem}"
        tail = [text for text in (bound, way_out) if text]
        super().__init__(sentence + "." + "".join(f" {capital(text)}." for text in tail))
