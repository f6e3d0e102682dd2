"""Which own actions ran in this session, and why each was started."""

from __future__ import annotations

from collections import Counter, deque
from dataclasses import dataclass

from .topic import Topic

KEPT = 200


@dataclass(frozen=True)
class Ran:
    """number: how often it had run then, itself included. why: what started it."""

    name: str
    number: int
    why: str


class Acts:
    def __init__(self) -> None:
        self.changed: Topic[()] = Topic()
        self.runs: deque[Ran] = deque(maxlen=KEPT)
        self._counts: Counter[str] = Counter()

    def count(self, name: str) -> int:
        return self._counts[name]

    def note(self, name: str, why: str) -> None:
        self._counts[name] += 1
        self.runs.append(Ran(name, self._counts[name], why))
        self.changed.publish()
