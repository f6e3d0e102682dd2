"""Processor time of the application while 24 inputs chatter and are drawn live at the Wiring station.

The rig is Verge with 24 loose wires; every edge goes over the wire, into the trace, and onto the screen.
"""

from __future__ import annotations

import re
import tempfile
import time
from importlib import resources
from pathlib import Path

from PySide6.QtCore import QEventLoop, QTimer
from tests.support import Bench

from idler.app.qt_wait import until
from idler.app.run import Application, qt_application
from idler.core.table.stations import Station
from idler.shelf.shelf import Shelf

INPUTS, OPENINGS, SECONDS = 24, 50.0, 10.0


def _rig(folder: Path) -> str:
    """Rig and machine files of a Verge with so many loose wires; the path of the rig file."""
    told = (resources.files("idler") / "data" / "verge.toml").read_text("utf-8")
    extra = "".join(f'[input.{n}]\nterminal = "{n}"\n\n' for n in range(13, INPUTS + 1))
    (folder / "told.toml").write_text(told.replace("[output.1]", extra + "[output.1]"), "utf-8")
    rig = (resources.files("idler.bench") / "rigs" / "verge.toml").read_text("utf-8")
    rig = rig[: rig.index("# Which wire ends")].replace("verge.toml", "told.toml")
    rig = re.sub(r"(?ms)^\[spindle\]$.*?(?=^\[|\Z)", "", rig)
    for n in range(1, INPUTS + 1):
        rig += f'\n[[wire]]\ninput = {n}\nname = "wire {n}"\ncontact = "closed"\nloose = {OPENINGS}\n'
    path = folder / "rig.toml"
    path.write_text(rig, "utf-8")
    return str(path)


def run() -> list[tuple[str, str, str]]:
    qt_application()
    with tempfile.TemporaryDirectory() as root:
        folder = Path(root)
        bench = Bench(pace=1, rig=_rig(folder))
        Shelf(folder / "shelf").add(
            "verge", (folder / "told.toml").read_text("utf-8"), "for the benchmark", time.time()
        )
        application = Application(folder / "shelf", demo=False)
        application.show()
        application.use_bench(bench.ready)
        session, window = application.session, application.window
        until(lambda: session.connected, "the bench")
        window.open_station(Station.WIRING)
        page = window.page(Station.WIRING)
        until(lambda: session.link.trace.now and len(page.inputs.rows) == INPUTS, "24 inputs")  # type: ignore[attr-defined]
        until(lambda: session.link.trace.now > 3e6, "the traces to fill")
        frames = page._frames  # type: ignore[attr-defined]
        seen, clock = sum(session.link.trace.counts()), session.link.trace.now
        wall, used = time.monotonic(), time.process_time()
        loop = QEventLoop()
        QTimer.singleShot(int(SECONDS * 1000), loop.quit)
        loop.exec()
        took = time.monotonic() - wall
        share = (time.process_time() - used) / took
        rate = (sum(session.link.trace.counts()) - seen) / ((session.link.trace.now - clock) / 1e6)
        shown = (page._frames - frames) / took  # type: ignore[attr-defined]
        missed = session.link.trace.missed
        application.close()
        bench.close()
    what = f"{INPUTS} inputs with {rate:.0f} edges a second drawn live, {shown:.0f} pictures a second, {missed} edges missed"
    return [(what, "under 40 % of a core", f"{share * 100:.0f} %")]
