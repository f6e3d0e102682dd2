"""Index stops on the wire: what an axis is asked to do and how it stands, beside the values of its table."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from ..table import axis_index
from .codec import Place

FIRST = 0x4009  # of the first axis
GO, LINES_AS, REPORT = 1, 2, 3  # sub-indices: a stop to go to (0: none), what lines are taken for, how it stands
AS_THEY_ARE = 255  # of LINES_AS: the lines say what they say


class IndexState(Enum):
    """number on the wire, and words."""

    NOWHERE = (0, "at no stop")
    REACHED = (1, "reached")
    UNDER_WAY = (2, "under way")
    WRONG = (3, "no such stop")
    NOT_READY = (4, "not ready: it goes only with power, from home, and after nothing has stopped it")
    MISSED = (5, "stands beside its stop")

    def __init__(self, raw: int, words: str) -> None:
        self.raw = raw
        self.words = words


@dataclass(frozen=True)
class IndexReport:
    """at: the stop that is reached, goal: that which was picked last; 0: none. lines: their settled number. count: pulses that
    were counted since the last start, up to 15."""

    state: IndexState
    at: int
    goal: int
    lines: int
    count: int

    @property
    def raw(self) -> int:
        return self.state.raw | self.at << 4 | self.goal << 10 | self.lines << 16 | min(self.count, 15) << 22

    @staticmethod
    def of(raw: int) -> IndexReport:
        state = next((each for each in IndexState if each.raw == raw & 0xF), IndexState.NOWHERE)
        return IndexReport(state, raw >> 4 & 0x3F, raw >> 10 & 0x3F, raw >> 16 & 0x3F, raw >> 22 & 0xF)


def index_place(slot: int, sub: int) -> Place:
    """Where one of the three lies."""
    return Place(axis_index(FIRST, slot), sub)
