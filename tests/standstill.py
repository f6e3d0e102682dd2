"""Whether the whole computer stood still while tests ran: a machine that is shared with others is stopped now and then for
seconds, and a controller that hears nothing for so long ends whatever moves, rightly."""

from __future__ import annotations

import threading
import time

NAP = 0.25  # s
LONG = 2.0  # s: more than any test need bear


class Standstill:
    """Naps in a thread of a process that does nothing else, and notes which naps were far too long."""

    def __init__(self) -> None:
        self.spans: list[tuple[float, float]] = []  # from and until, time.monotonic
        self._last = time.monotonic()

    def watch(self) -> None:
        threading.Thread(target=self._nap, name="standstill", daemon=True).start()

    def _nap(self) -> None:
        while True:
            time.sleep(NAP)
            self.look(time.monotonic())

    def look(self, now: float) -> None:
        if now - self._last > LONG:
            self.spans.append((self._last, now))
        self._last = now

    def within(self, begun: float, ended: float) -> float:
        """The longest standstill, in s, that touches this time; 0 where there was none."""
        return max((until - since for since, until in self.spans if since < ended and until > begun), default=0.0)
