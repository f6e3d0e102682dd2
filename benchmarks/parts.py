"""Plain parts: connecting, how far each kind of drive runs on when Idler is killed or its line cut, and faults of a send."""

from __future__ import annotations

import random
import statistics
import subprocess
import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path

from tests.link.strangers import Stranger
from tests.link.test_plain import PARTS
from tests.support import Bench, at

from idler.core.controller.standing import ControllerImage
from idler.core.profile.codec import machine_from
from idler.link.events import Connected, Disconnected, Done, Event, Failed
from idler.link.plan import plan
from idler.link.thread import Link

SPEED = 600.0  # mm/min, 10 mm/s
TIMES, FAULTS = 8, 300
_JOG = """
import sys, time
from idler.link.thread import Link
from idler.link.events import Done
events = []
link = Link(events.append)
link.connect(sys.argv[1])
def until(ready):
    while not ready(): link.keep_holding(); time.sleep(0.01)
until(lambda: link.connected)
link.power(True)
until(lambda: any(isinstance(e, Done) and e.what == "power" for e in events))
slot, speed, wait = int(sys.argv[2]), float(sys.argv[3]), float(sys.argv[4])
if wait:  # until it is let off the leash
    link.jog_hold(slot, speed); end = time.monotonic() + wait
    until(lambda: time.monotonic() > end)
    link.jog_hold(slot, 0); until(lambda: not link.axes[slot].moving)
link.jog_hold(slot, speed); end = time.monotonic() + 0.8
until(lambda: time.monotonic() > end)
print("goes", flush=True)
until(lambda: False)
"""


def _place(bench: Bench, name: str) -> float:
    return float(bench.hands.look(name)["at"])


def _killed(bench: Bench, address: str, slot: int, *, trusted: bool, see: Stranger | None = None) -> float:
    """mm that an axis went on after SIGKILL of whoever jogged it at 10 mm/s; its screw moves as many mm as it counts."""
    words = [
        sys.executable,
        "-c",
        _JOG,
        address,
        str(slot),
        str(-SPEED if not see else SPEED),
        "1.2" if trusted else "0",
    ]
    client = subprocess.Popen(words, stdout=subprocess.PIPE)
    assert client.stdout is not None
    client.stdout.readline()
    look = (lambda: see.place / see.counts * 5) if see else (lambda: _place(bench, "XYZ"[slot]) / (1.6, 2.0, 2.0)[slot])
    before = look()
    client.kill()
    client.wait()
    client.stdout.close()
    last = before
    for _ in range(200):
        time.sleep(0.05)
        now = look()
        if now == last and now != before:
            break
        last = now
    return abs(look() - before)


def _answer(events: list[Event], first: int) -> Event:
    while True:
        for event in events[first:]:
            if isinstance(event, Connected | Done | Failed | Disconnected):
                return event
        time.sleep(0.002)


def _faults(bench: Bench, count: int) -> tuple[int, int, int]:
    """Sends over four nodes with a fault at a random moment: whole, put back, neither (which must be none)."""
    dice, whole, back, neither = random.Random(22), 0, 0, 0
    with tempfile.TemporaryDirectory() as folder:
        events: list[Event] = []
        link = Link(events.append, keep=Path(folder))

        def ask(what: object) -> Event:
            first = len(events)
            what()  # type: ignore[operator]
            return _answer(events, first)

        found = ask(lambda: link.connect(f"{bench.link}?parts={PARTS}"))
        assert isinstance(found, Connected)
        holding: ControllerImage = found.holding
        for number in range(count):
            machine = machine_from(holding.raws, holding.shape)
            wanted = machine.with_values(
                {at(slot, f"pace.{key}"): Fraction(dice.randint(200, 2000)) for slot in range(3)
                 for key in ("acceleration", "deceleration")}
            )  # fmt: skip
            kind = dice.choice(("refuse", "clip", "store", "deaf"))
            most = {"refuse": 6, "clip": 6, "store": 3, "deaf": 40}[kind]
            bench.hands.ask(do="fault", kind=kind, after=dice.randrange(most))
            ask(lambda wanted=wanted, holding=holding: link.send(plan(wanted, holding)))
            bench.hands.ask(do="fault", kind="", after=0)
            read = ask(link.read_all)
            assert isinstance(read, Done) and read.holding is not None, (number, read)
            new = plan(wanted, holding).wanted
            states = {read.holding.raws[where] == raw for where, raw in new.items() if where in read.holding.raws}
            old = {read.holding.raws[where] == holding.raws[where] for where in new}
            whole, back = whole + (states == {True}), back + (old == {True})
            neither += states != {True} and old != {True}
            holding = read.holding
        link.close()
    return whole, back, neither


def run() -> list[tuple[str, str, str]]:
    bench = Bench(pace=1, rig="pieces")
    lines = []
    took = []
    for _ in range(TIMES):
        events: list[Event] = []
        link = Link(events.append)
        start = time.monotonic()
        link.connect(f"{bench.link}?parts={PARTS}")
        assert isinstance(_answer(events, 0), Connected)
        took.append(time.monotonic() - start)
        link.close()
    lines.append(
        (
            "plain parts: connect to four nodes and read them",
            "under 1 s",
            f"{statistics.median(took):.2f} s (worst {max(took):.2f} s)",
        )
    )
    for words, slot, trusted in (
        ("a drive that hears the heartbeat", 0, True), ("the same, still on its leash", 0, False),
        ("a drive that hears none, on its leash", 2, False),
    ):  # fmt: skip
        gone = []
        for _ in range(TIMES):
            bench.hands.ask(do="deliver")
            gone.append(_killed(bench, f"{bench.link}?parts={PARTS}", slot, trusted=trusted))
        lines.append(
            (
                f"Idler killed in a held jog at 10 mm/s: {words}",
                "under 4 mm",
                f"{statistics.median(gone):.2f} mm (worst {max(gone):.2f} mm)",
            )
        )
    gone = []
    for number in range(TIMES):
        stranger = Stranger(bench.port, 40 + number)
        gone.append(_killed(bench, f"{bench.link}?parts={40 + number}=X", 0, trusted=False, see=stranger))
        stranger.close()
    lines.append(
        (
            "the same with a drive on another's stack",
            "under 4 mm",
            f"{statistics.median(gone):.2f} mm (worst {max(gone):.2f} mm)",
        )
    )
    bench.hands.ask(do="deliver")
    whole, back, neither = _faults(bench, FAULTS)
    lines.append(
        (
            f"{FAULTS} faults of a send over four nodes",
            "all new or all old",
            f"{whole} new, {back} old, {neither} neither",
        )
    )
    bench.close()
    return lines
