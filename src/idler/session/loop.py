"""The time and the thread of a session are given to it: a window, a terminal and a test each have their own."""

from __future__ import annotations

import heapq
import itertools
import queue
import time
from collections.abc import Callable
from typing import Protocol


class Timer(Protocol):
    """Calls its work again and again, or once, from `start` on. A second start begins its time anew."""

    def start(self) -> None: ...

    def stop(self) -> None: ...

    @property
    def active(self) -> bool: ...


class Loop(Protocol):
    def now(self) -> float:
        """s, from any moment on; never back."""

    def timer(self, seconds: float, work: Callable[[], object], *, once: bool = False) -> Timer: ...

    def call(self, work: Callable[[], object]) -> None:
        """From any thread: the work is done on the session's, after what it does now."""


class PlainTimer:
    """One of a PlainLoop."""

    def __init__(self, loop: PlainLoop, seconds: float, work: Callable[[], object], once: bool) -> None:
        self._loop, self._seconds, self._work, self._once = loop, seconds, work, once
        self._run = 0  # counts the starts, so that what was due before a stop is known

    @property
    def active(self) -> bool:
        return bool(self._run)

    def start(self) -> None:
        self._run = self._loop.due(self._seconds, self)

    def stop(self) -> None:
        self._run = 0

    def fire(self, run: int) -> None:
        if run == self._run:
            self._run = 0
            if not self._once:
                self.start()
            self._work()


class PlainLoop:
    """Runs in whatever thread waits in it: for the terminal, the library and tests."""

    def __init__(self) -> None:
        self._calls: queue.SimpleQueue[Callable[[], object]] = queue.SimpleQueue()
        self._due: list[tuple[float, int, PlainTimer]] = []
        self._runs = itertools.count(1)

    def now(self) -> float:
        return time.monotonic()

    def timer(self, seconds: float, work: Callable[[], object], *, once: bool = False) -> PlainTimer:
        return PlainTimer(self, seconds, work, once)

    def call(self, work: Callable[[], object]) -> None:
        self._calls.put(work)

    def due(self, seconds: float, timer: PlainTimer) -> int:
        run = next(self._runs)
        heapq.heappush(self._due, (self.now() + seconds, run, timer))
        return run

    def until(self, condition: Callable[[], object], seconds: float) -> bool:
        """Does what comes until the condition holds; False where it does not within this time."""
        deadline = self.now() + seconds
        while not condition():
            now = self.now()
            if now >= deadline:
                return False
            if self._due and self._due[0][0] <= now:
                _, run, timer = heapq.heappop(self._due)
                timer.fire(run)
                continue
            wake = min(deadline, self._due[0][0] if self._due else deadline)
            work = self._wait(max(0.0, wake - now))
            if work is not None:
                work()
        return True

    def _wait(self, seconds: float) -> Callable[[], object] | None:
        """What another thread wants done, or None after this time."""
        try:
            return self._calls.get(timeout=seconds)
        except queue.Empty:
            return None
