"""How much faster than real time the rig's clock goes with four axes moving, on its wire and flat out."""

from __future__ import annotations

import threading
import time

from tests.support import Bench

from idler.link.events import Connected, Done, Event
from idler.link.thread import Link

SECONDS = 4.0


def run() -> list[tuple[str, str, str]]:
    bench = Bench(pace=1)
    happened = {Connected: threading.Event(), Done: threading.Event()}

    def tell(event: Event) -> None:
        if type(event) in happened:
            happened[type(event)].set()

    link = Link(tell)
    link.connect(bench.link)
    happened[Connected].wait(30)
    link.power(True)
    happened[Done].wait(30)
    for slot in range(4):
        link.jog_step(slot, -100, 60)
    bench.hands.ask(do="pace", factor=20)
    wall, clock = time.monotonic(), bench.hands.ask(do="look")["clock"]
    threading.Event().wait(SECONDS)
    look = bench.hands.ask(do="look")
    held = (look["clock"] - clock) / (time.monotonic() - wall)
    moving = sum(axis["moving"] for axis in look["axes"])
    bench.hands.ask(do="pace", factor=0)
    wall = time.monotonic()
    bench.hands.ask(do="run", seconds=20)
    flat = 20 / (time.monotonic() - wall)
    link.close()
    bench.close()
    return [
        (f"bench at --pace 20 with {moving} axes moving, client connected", "20 ×", f"{held:.1f} ×"),
        ("bench flat out, the same axes", "20 ×", f"{flat:.0f} ×"),
    ]
