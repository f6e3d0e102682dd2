"""The one family of errors that a person may read.

Each carries the part, the value, its unit, the bound and the way out, and is raised before anything is changed or sent.
"""

from __future__ import annotations

import re
from enum import Enum

from .words import capital

_NO_SIGNS = re.compile("[\x00-\x1f\x7f\x85\u2028\u2029]+")  # what ends a line or is none, in what is quoted


class About(Enum):
    """What a refusal is about. Each has a page of the help (docs/help/refusals.md), by its value."""

    VALUE = "bad_value"
    FILE = "bad_file"
    FOREIGN = "foreign_file"
    DISK = "disk"
    ELSEWHERE = "elsewhere"
    LOCKED = "locked"
    PORT = "port"
    PERMISSION = "permission"
    SILENT = "silent"
    SEVERAL = "several"
    PARTS = "plain_parts"
    LOST = "lost"
    CHANGED = "changed"
    STRANGE = "strange"
    NOT_NOW = "not_now"
    OVERTAKEN = "overtaken"
    UNWRITTEN = "unwritten"
    UNCONNECTED = "unconnected"
    RUNS = "runs"
    DRIVES_OFF = "drives_off"
    UNHOMED = "unhomed"
    UNSENT = "unsent"
    OTHER_SHAPE = "other_shape"
    MOVES = "moves"
    UNSETTLED = "unsettled"
    SPINDLE = "spindle_waits"


class Sentence(str):
    """What a person is told, and the page of the help that tells more; None where that is the page of where it is told."""

    about: About | None

    def __new__(cls, words: str, about: About | None = None) -> Sentence:
        made = super().__new__(cls, words)
        made.about = about
        return made

    @classmethod
    def of(cls, words: str) -> Sentence:
        """What may be one already."""
        return words if isinstance(words, Sentence) else cls(words)

    @property
    def page(self) -> str:
        """The code of that page, or an empty text."""
        return self.about.value if self.about is not None else ""

    def after(self, words: str) -> Sentence:
        """The same behind what has come of it."""
        return Sentence(f"{words} {self}", self.about)

    def before(self, words: str) -> Sentence:
        """The same before what is so all the same."""
        return Sentence(f"{self} {words}", self.about)


class IdlerError(Exception):
    """A plain sentence for the person at the screen, in one line whatever it quotes.

    about: the page of the help that tells more; None where that is the page of where it was refused.
    """

    about: About | None = None

    @property
    def sentence(self) -> Sentence:
        return Sentence(_NO_SIGNS.sub(" ", str(self)), self.about)


class Refusal(IdlerError):
    """A value that cannot be taken.

    part     what the value belongs to, in words ("X lead of the screw")
    value    what was given, as text
    bound    what would be taken, in words; empty where there is no bound
    way_out  what to do next; empty where the bound says it
    about    the page of the help, where it is not that of values
    """

    def __init__(
        self, part: str, value: str, problem: str, bound: str = "", way_out: str = "", about: About = About.VALUE
    ) -> None:
        self.about = about
        self.part = part
        self.value = value
        self.problem = problem
        self.bound = bound
        self.way_out = way_out
        sentence = f"{part}: {value} {problem}" if value else f"{part}: {problem}"
        tail = [text for text in (bound, way_out) if text]
        super().__init__(sentence + "." + "".join(f" {capital(text)}." for text in tail))
