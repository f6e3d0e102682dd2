"""Processor time of the whole application (window, link, pictures) while four axes move, as a share of one core."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication
from tests.support import Bench

from idler.app.qt_wait import until
from idler.app.run import Application, qt_application
from idler.core.table.stations import Station

SECONDS = 10.0


def run() -> list[tuple[str, str, str]]:
    rows = []
    qt_application()
    for station in (Station.DRIVES, Station.LINK):
        bench = Bench(pace=1)
        with tempfile.TemporaryDirectory() as root:
            application = Application(Path(root), demo=False)
            application.show()
            application.use_bench(bench.ready)
            session = application.session
            until(lambda session=session: session.connected, "the bench")
            application.window.open_station(station)
            session.link.power(True)
            until(lambda session=session: session.powered, "power")
            for slot in range(4):
                session.link.jog_step(slot, -(SECONDS + 4) * 400 / 60, 400)
            until(lambda session=session: all(axis.moving for axis in session.link.axes), "four axes")
            wall, used = time.monotonic(), time.process_time()
            loop = QEventLoop()  # as the application runs, and not asking again and again
            QTimer.singleShot(int(SECONDS * 1000), loop.quit)
            loop.exec()
            share = (time.process_time() - used) / (time.monotonic() - wall)
            moving = sum(axis.moving for axis in session.link.axes)
            application.close()
        bench.close()
        QApplication.processEvents()
        rows.append(
            (
                f"processor share while {moving} axes move, {station.label} station",
                "under 30 % of a core",
                f"{share * 100:.0f} %",
            )
        )
    return rows
