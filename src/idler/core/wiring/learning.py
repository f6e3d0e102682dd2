"""Learning which input a touched switch is wired to, among others that chatter.

An input counts as touched when, after a quiet time, it leaves its level, bounces at most for a moment, and then stays away
for as long as a finger does. What changes all the time never is quiet, and what falls back at once never stays away.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable
from dataclasses import dataclass

QUIET = 300_000  # µs without an edge before the touch
BOUNCE = 30_000  # µs in which a contact may bounce
STAYS = 60_000  # µs that it then stays away
RESTLESS = 6  # bursts of edges, a quiet time apart at most, that a hand does not make
TOGETHER = 150_000  # µs within which two inputs count as touched at once


@dataclass(frozen=True)
class Touch:
    """An input that was touched. closed: its level at rest, before the touch. at: µs of the controller's clock."""

    input: int
    closed: bool
    at: int
    edges: int


class _Watched:
    """One input. left: when it went away from its rest, None while it is there. held: it was counted as touched."""

    def __init__(self, level: int, last: int) -> None:
        self.level = self.rest = level
        self.last = last
        self.left: int | None = None
        self.held = False
        self.edges = 0
        self.bursts: deque[int] = deque(maxlen=RESTLESS)  # when it began to change after a moment of stillness

    def edge(self, time: int, level: int) -> None:
        if self.left is None and not self.held and level != self.rest and time - self.last >= QUIET:
            self.left, self.edges = time, 0
        if not self.bursts or time - self.last > BOUNCE:
            self.bursts.append(time)
        self.edges += 1
        self.level, self.last = level, time

    def chatters(self, now: int) -> bool:
        """Whether it goes on changing: again and again, or without a moment of stillness; a press and its release do not."""
        if not self.bursts or now - self.last > QUIET:
            return False
        again = len(self.bursts) == RESTLESS and now - self.bursts[0] < RESTLESS * QUIET
        return again or self.last - self.bursts[-1] > 3 * BOUNCE

    def settle(self, now: int) -> bool:
        """Decides what stillness until `now` means; True where it means a touch."""
        still = now - self.last
        if self.left is not None:
            bounced = self.last - self.left
            if self.level != self.rest and still >= STAYS and bounced <= BOUNCE:
                self.left, self.held = None, True
                return True
            if bounced > BOUNCE or (self.level == self.rest and still >= STAYS):
                self.left = None
        elif still >= QUIET:
            if self.level == self.rest:
                self.held = False
            elif not self.held:  # it came here while it chattered
                self.rest = self.level
        return False


class Learner:
    """Feed it edges in order of time, and the clock; `take` then gives what a hand touched.

    A switch that was touched counts again only after it has been back at its rest.
    """

    def __init__(self, levels: Iterable[int], now: int, chattering: Iterable[int] = ()) -> None:
        """levels: 0 open or 1 closed for each input at `now`. chattering: inputs that had edges just before."""
        self._watched = [_Watched(int(level), now - QUIET) for level in levels]
        for slot in chattering:
            self._watched[slot].last = now
        self._touches: list[Touch] = []
        self._now = now

    def feed(self, times: Iterable[int], inputs: Iterable[int], closed: Iterable[int], now: int) -> None:
        """Edges with their times in µs, and what time it is now."""
        for time, slot, level in zip(times, inputs, closed, strict=True):
            self._settle(int(slot), int(time))
            self._watched[slot].edge(int(time), int(level))
        self._now = now
        for slot in range(len(self._watched)):
            self._settle(slot, now)

    def _settle(self, slot: int, now: int) -> None:
        item = self._watched[slot]
        left = item.left
        if item.settle(now) and left is not None:
            self._touches.append(Touch(slot, bool(item.rest), left, item.edges))

    @property
    def chattering(self) -> list[int]:
        """Inputs that go on changing, and are left aside meanwhile."""
        return [slot for slot, item in enumerate(self._watched) if item.chatters(self._now)]

    def take(self) -> list[Touch]:
        """The inputs of the next touch, as soon as it is certain that no other one belongs to it; else nothing yet."""
        if not self._touches or self._now < self._touches[0].at + TOGETHER + STAYS:
            return []
        first = min(touch.at for touch in self._touches)
        taken = [touch for touch in self._touches if touch.at - first <= TOGETHER]
        self._touches = [touch for touch in self._touches if touch not in taken]
        return taken
