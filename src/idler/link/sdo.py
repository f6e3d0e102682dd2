"""What the canopen package's SDO client needs of us: answers that are waited for on our own thread, and refusals in words."""

from __future__ import annotations

import queue
import time
from collections import deque
from collections.abc import Callable
from typing import Any

from canopen.sdo import SdoAbortedError

from idler.core.wire.cia301 import ABORTS

Pump = Callable[[float], None]


class Responses:
    """Stands in for the queue between canopen's two threads: waiting for an answer reads the bus."""

    def __init__(self, pump: Pump, gone: Callable[[], bool] = lambda: False) -> None:
        """gone: whether whoever was asked has started anew meanwhile, and will not answer."""
        self._pump, self._gone = pump, gone
        self._waiting: deque[Any] = deque()

    def put(self, item: Any) -> None:
        self._waiting.append(item)

    def empty(self) -> bool:
        """canopen asks before each request, and would put a queue of its own in our place where something is left over.

        What is left over is the late answer to a request that was given up: it is dropped, and the place kept.
        """
        self._waiting.clear()
        return True

    def get(self, block: bool = True, timeout: float | None = None) -> Any:
        deadline = time.monotonic() + (timeout or 0.0)
        while not self._waiting:
            left = deadline - time.monotonic()
            if not block:
                raise queue.Empty
            if left <= 0:  # this thread may have been held up; what has come in meanwhile still counts
                self._pump(0.0)
                if not self._waiting:
                    raise queue.Empty
                break
            self._pump(left)
            if self._gone():
                raise queue.Empty
        return self._waiting.popleft()


def abort_text(why: SdoAbortedError) -> str:
    return ABORTS.get(why.code, str(why))
