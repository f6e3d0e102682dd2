"""The real window at work for long: rounds of what a builder does, with memory, threads and open files before and after.

.venv/bin/python -m benchmarks.soak MINUTES
"""

from __future__ import annotations

import contextlib
import os
import sys
import tempfile
import time
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QEvent
from tests.support import Bench, X, Y, at, wiring

from idler.app.qt_wait import TooLong, until
from idler.app.run import Application, qt_application
from idler.app.tools.reports import save_report
from idler.core.table.stations import Station

MINUTES = 30.0
WARM = 3  # rounds after which everything has been made once
KEEPS = 10  # a revision and a report every so many rounds
LOOKS = 2.0  # s that each station is looked at


def _used() -> tuple[float, int, int]:
    """Memory in MB, threads, open files."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return (
        pages * os.sysconf("SC_PAGE_SIZE") / 1e6,
        len(os.listdir("/proc/self/task")),
        len(os.listdir("/proc/self/fd")),
    )


class Soak:
    def __init__(self, root: Path, bench: Bench) -> None:
        self.bench = bench
        self.application = Application(root, demo=False)
        self.application.show()
        self.session, self.window = self.application.session, self.application.window
        self.rounds = 0

    def connect(self) -> None:
        self.application.use_bench(self.bench.ready)
        until(lambda: self.session.connected and self.session.history.found is not None, "the bench", 60)

    def again(self, work: Callable[[], object], condition: Callable[[], object], what: str) -> None:
        """A computer that pauses may lose something; a person would press again."""
        for _ in range(6):
            until(lambda: not self.session.busy, "the link", 60)
            work()
            with contextlib.suppress(TooLong):
                until(condition, what, 10)
                return
        raise TooLong(f"not even at the sixth time: {what}")

    def send(self) -> None:
        self.again(self.session.send, lambda: not self.session.busy and not self.session.count().to_send, "the send")

    def look_at_stations(self) -> None:
        for station in Station:
            self.window.open_station(station)
            end = time.monotonic() + LOOKS
            until(lambda end=end: time.monotonic() > end, "the time to look", 60)

    def edit(self) -> None:
        self.session.set_values(
            {at(X, "chain.pitch"): Fraction(4 + self.rounds % 2), at(Y, "pace.jerk"): Fraction(900)}
        )
        self.session.undo()
        self.session.redo()
        self.send()

    def move(self) -> None:
        self.again(self.window.rails.power.click, lambda: self.session.powered, "power")
        self.window.open_station(Station.HOMING)
        homing = self.window.page(Station.HOMING)
        self.again(homing.one.click, lambda: homing.run.running, "the homing")  # type: ignore[attr-defined]
        until(lambda: not homing.run.running and not self.session.moving, "its end", 180)  # type: ignore[attr-defined]
        before = self.session.axes[X].position
        self.again(self.window.rails.rows[X].minus.click, lambda: self.session.axes[X].position != before, "the step")
        until(lambda: not self.session.moving, "rest", 60)

    def stop(self) -> None:
        """The emergency stop in the middle of a jog: the flight record is read and told."""
        self.again(lambda: self.session.link.jog_step(X, -20, 1000), lambda: self.session.moving, "motion")
        self.bench.hands.ask(do="press", switch="emergency stop")
        until(lambda: not self.session.powered, "the stop", 60)
        until(lambda: not self.session.moving, "rest", 60)
        self.bench.hands.ask(do="release", switch="emergency stop")
        until(lambda: not self.session.axes[X].stop_pressed, "the stop to be released", 60)

    def keep(self, root: Path) -> None:
        self.session.history.keep(f"round {self.rounds}")
        save_report(self.session, root / "report.pdf")

    def part_and_meet(self) -> None:
        self.session.link.disconnect()
        until(lambda: not self.session.connected, "the end of the link", 60)
        self.connect()

    def round(self, root: Path) -> None:
        self.rounds += 1
        self.look_at_stations()
        self.edit()
        self.move()
        self.stop()
        if self.rounds % KEEPS == 0:
            self.keep(root)
        self.part_and_meet()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # as the application's own loop does


def run(minutes: float = MINUTES) -> list[tuple[str, str, str]]:
    qt_application()
    bench = Bench(pace=5)
    with tempfile.TemporaryDirectory() as folder:
        soak = Soak(Path(folder), bench)
        soak.connect()
        soak.session.set_values(wiring())
        soak.send()
        for _ in range(WARM):
            soak.round(Path(folder))
        soak.keep(Path(folder))
        before, begun = _used(), time.monotonic()
        rows = [before]
        while time.monotonic() - begun < 60 * minutes:
            soak.round(Path(folder))
            rows.append(_used())
            print(
                f"{soak.rounds:4} rounds  {rows[-1][0]:.1f} MB  {rows[-1][1]} threads  {rows[-1][2]} files", flush=True
            )
        after, half = _used(), rows[len(rows) // 2]
        soak.application.close()
    bench.close()
    return [
        (f"memory of the window over {minutes:g} minutes of work ({soak.rounds} rounds through every station)", "steady",
         f"{before[0]:.0f} MB before, {half[0]:.0f} MB half-way, {after[0]:.0f} MB after"),
        ("its threads and open files", "as many after as before",
         f"{before[1]} and {before[2]} before, {after[1]} and {after[2]} after"),
    ]  # fmt: skip


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for row in run(*(float(word) for word in sys.argv[1:])):
        print(" | ".join(row))
