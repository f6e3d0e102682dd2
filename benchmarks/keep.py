"""Keeping: a send against reading values one by one, the same against a block, and the flight record after a stop."""

from __future__ import annotations

import statistics
import time
from fractions import Fraction

from tests.support import Bench, X, Y, Z, at, verge, wait_for, wired

from idler.core.incident.diagnosis import account
from idler.core.profile.flight import AFTERWARDS, PERIOD_MS, unpack_flight
from idler.link.events import Connected, Done, Event, Flight, Read
from idler.link.plan import plan
from idler.link.thread import Link

ROUNDS = 9


def _values(number: int):
    """Thirty-odd values that are other each time."""
    machine = wired() if number % 2 else verge()
    return machine.with_values({at(slot, "chain.pitch"): Fraction(4 + number % 2) for slot in (X, Y, Z)})


def run() -> list[tuple[str, str, str]]:
    bench = Bench(pace=1)
    events: list[tuple[float, Event]] = []
    link = Link(lambda event: events.append((time.perf_counter(), event)))

    def after(work, kind) -> tuple[float, Event]:
        seen, begun = len(events), time.perf_counter()
        work()
        wait_for(lambda: [e for _, e in events[seen:] if isinstance(e, kind)], str(kind))
        when, event = next((t, e) for t, e in events[seen:] if isinstance(e, kind))
        return when - begun, event

    holding = after(lambda: link.connect(bench.link), Connected)[1].holding
    reads, sends, blocks, count = [], [], [], 0
    for number in range(ROUNDS):
        made = plan(_values(number), holding)
        count = len(made.wanted)
        seconds, done = after(lambda made=made: link.send(made), Done)
        sends.append(seconds / count)
        holding = done.holding
        whole = list(holding.raws)
        reads.append(after(lambda whole=whole: link.ask_for(whole), Read)[0] / len(whole))
        blocks.append(after(link.read_all, Done)[0] / len(whole))
    ratio = statistics.median(sends) / statistics.median(reads)
    block = statistics.median(b / r for b, r in zip(blocks, reads, strict=True))
    after(lambda: link.send(plan(wired(), holding)), Done)
    after(lambda: link.power(True), Done)
    link.jog_step(X, -30, 1000)
    wait_for(lambda: link.axes[X].moving, "motion")
    seconds, flight = after(lambda: bench.hands.ask(do="press", switch="emergency stop"), Flight)
    late = seconds - AFTERWARDS * PERIOD_MS / 1000
    begun = time.perf_counter()
    account(wired(), unpack_flight(flight.data))
    told = time.perf_counter() - begun
    link.close()
    bench.close()
    return [
        (f"one value of a send of {count} (written, read back, stored) against one that is only read",
         "under 4 ×", f"{ratio:.1f} ×"),
        ("all values in a block against one by one", "under 0.3 ×", f"{block:.2f} ×"),
        ("flight record read, after the second that it records beyond the stop", "under 0.5 s",
         f"{late:.2f} s, {len(flight.data)} bytes on the wire"),
        ("what it tells worked out", "under 0.1 s", f"{told:.3f} s"),
    ]  # fmt: skip
