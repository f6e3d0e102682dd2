"""From the press of a jog button to the first step, and from Esc to the first slower step, in the real window.

The bench writes down the wall clock of both (time.monotonic is one clock for all processes of a computer).
"""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from tests.support import Bench

from idler.app.qt_wait import until
from idler.app.run import Application, qt_application

TIMES = 100


def run() -> list[tuple[str, str, str]]:
    qt_application()
    bench = Bench(pace=1)
    starts, stops = [], []
    with tempfile.TemporaryDirectory() as root:
        application = Application(Path(root), demo=False)
        application.show()
        application.use_bench(bench.ready)
        session, window = application.session, application.window
        until(lambda: session.connected, "the bench")
        session.link.power(True)
        until(lambda: session.powered, "power")
        window.jog.set_step("")
        rail = window.rails.rows[0]
        for turn in range(TIMES + 1):  # the first one waits out the drives' delay after power and does not count
            button = rail.minus if turn % 2 else rail.plus
            bench.hands.ask(do="events")
            pressed = time.monotonic()
            QTest.mousePress(button, Qt.MouseButton.LeftButton)
            until(lambda: abs(session.link.axes[0].velocity) > 400, "motion")
            escaped = time.monotonic()
            QTest.keyClick(window.windowHandle(), Qt.Key.Key_Escape)
            until(lambda: not session.moving, "rest")
            QTest.mouseRelease(button, Qt.MouseButton.LeftButton)
            events = bench.hands.ask(do="events")["events"]
            if not turn:
                continue
            starts.append(next(e["at"] for e in events if e["kind"] == "started") - pressed)
            stops.append(next(e["at"] for e in events if e["kind"] == "slowed") - escaped)
        application.close()
    bench.close()
    goal = "median under 30 ms, 99 of 100 under 50 ms"
    return [
        (f"press to first step, {TIMES} times", goal, figures(starts)),
        (f"Esc to first slower step, {TIMES} times", goal, figures(stops)),
    ]


def figures(values: list[float]) -> str:
    ordered = sorted(values)
    ninety_nine = ordered[int(len(ordered) * 0.99) - 1]
    middle, worst = statistics.median(ordered), ordered[-1]
    return f"{middle * 1000:.1f} ms, 99 of 100 under {ninety_nine * 1000:.1f} ms, worst {worst * 1000:.1f} ms"
