"""Connecting: finding the controller, asking who it is, and reading every value."""

from __future__ import annotations

import statistics
import threading
import time

from tests.support import Bench

from idler.link.events import Connected, Event
from idler.link.thread import Link

TIMES = 15


def run() -> list[tuple[str, str, str]]:
    bench = Bench(pace=1)
    took, values = [], 0
    for _ in range(TIMES):
        arrived = threading.Event()
        events: list[Event] = []

        def tell(event: Event, events: list[Event] = events, arrived: threading.Event = arrived) -> None:
            events.append(event)
            if isinstance(event, Connected):
                arrived.set()

        link = Link(tell)
        start = time.monotonic()
        link.connect(bench.link)
        arrived.wait(30)
        took.append(time.monotonic() - start)
        values = len(next(e for e in events if isinstance(e, Connected)).holding.raws)
        link.close()
    bench.close()
    return [
        (
            f"connect and read {values} values",
            "under 0.5 s",
            f"{statistics.median(took):.3f} s (worst {max(took):.3f} s)",
        )
    ]
