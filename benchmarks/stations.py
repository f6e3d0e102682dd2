"""From the click on a wheel to the painted station, the first time and every later time."""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

from idler.app.qt_wait import until
from idler.app.run import Application, qt_application
from idler.core.table.stations import Station

TIMES = 5


def run() -> list[tuple[str, str, str]]:
    app = qt_application()
    first: dict[Station, list[float]] = {station: [] for station in Station}
    again: dict[Station, list[float]] = {station: [] for station in Station}
    for _ in range(TIMES):
        with tempfile.TemporaryDirectory() as shelf:
            application = Application(Path(shelf), demo=False)
            application.show()
            until(application.window.isVisible, "the window")
            for took in (first, again):
                for station in Station:
                    app.processEvents()
                    start = time.monotonic()
                    application.window.open_station(station)
                    app.processEvents()
                    took[station].append(time.monotonic() - start)
            application.close()
    rows = []
    for took, what, goal in ((first, "for the first time", 0.4), (again, "again", 0.1)):
        middle = {station: statistics.median(times) for station, times in took.items()}
        slowest = max(middle, key=lambda station: middle[station])
        rows.append(
            (
                f"a station opened {what}, the slowest of {len(middle)} ({slowest.label})",
                f"under {goal} s",
                f"{middle[slowest]:.3f} s (all {sum(middle.values()):.2f} s)",
            )
        )
    return rows
