"""Starting and ending the application."""

from __future__ import annotations

import signal
import sys
import time
from dataclasses import replace
from importlib import resources
from pathlib import Path

from platformdirs import user_data_path
from PySide6.QtCore import QCoreApplication, QEvent, QObject, QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from idler.core.errors import IdlerError
from idler.core.registers import Registers
from idler.core.registers import read as read_registers
from idler.shelf.shelf import Shelf

from . import theme
from .benchside.process import BenchProcess
from .desk import Desk
from .window import Window

FIRST_RIG = "verge"
NOTE = "As its last owner left it"


def application() -> QApplication:
    """The one QApplication, with its look."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
        app.setApplicationName("Idler")
        app.setDesktopFileName("idler")
        with resources.as_file(resources.files("idler.app") / "icons" / "idler.svg") as icon:
            app.setWindowIcon(QIcon(str(icon)))
    theme.apply(app, night=False)
    return app


def open_shelf(root: Path, rig: str = FIRST_RIG) -> Shelf:
    """The shelf; an empty one gets the machine that belongs to a rig. Raises IdlerError where there is no such rig."""
    shelf = Shelf(root)
    if not shelf.names():
        data = resources.files("idler") / "data"
        known = sorted(file.name.removesuffix(".toml") for file in data.iterdir() if file.name.endswith(".toml"))
        if rig not in known:
            raise IdlerError(f"Rig {rig}: there is no example machine for it. There are: {', '.join(known)}.")
        shelf.add(rig, (data / f"{rig}.toml").read_text("utf-8"), NOTE, time.time())
    return shelf


class Session(QObject):
    """One run of the application: window, bench, bench window."""

    def __init__(self, root: Path, *, demo: bool, pace: float = 1.0, rig: str = FIRST_RIG) -> None:
        """rig: the one that “Start the bench” starts."""
        super().__init__()
        self._root, self._pace, self._rig = root, pace, rig
        shelf = open_shelf(root, rig)
        self.desk = Desk(shelf, shelf.names()[0])
        self.window = Window(self.desk, self.start_bench, self.show_bench)
        self.bench: BenchProcess | None = None
        self.bench_window = None
        self._demo = demo
        self._closed = False

    def show(self) -> None:
        self.window.show()
        QTimer.singleShot(0, self._after)

    def _after(self) -> None:
        self.window.after_first_paint()
        if self._demo:
            self.start_bench()

    def start_bench(self) -> None:
        if self.bench is not None and self.bench.running:
            self.desk.told.emit("plain", "The bench runs already.")
            return
        self.desk.told.emit("plain", "The bench is starting; the first time it takes a few seconds to compile.")
        self.bench = BenchProcess(self._rig, self._root / "bench" / f"{self._rig}.json", pace=self._pace)
        self.bench.ready.connect(self.use_bench)
        self.bench.failed.connect(lambda why: self.desk.told.emit("warn", why))

    def use_bench(self, line: dict) -> None:
        """Connects to a bench that runs, by the line that it printed."""
        from idler.core.stations import Station

        from .benchside.hands import Hands
        from .stations.link import LinkStation

        self._drop_hands()
        self.desk.bench_hands = Hands(line["hands"])
        page = self.window.page(Station.LINK)
        assert isinstance(page, LinkStation)
        page.show_bench(line["link"])
        if "drive" in line:  # the rig's spindle drive has a bus of its own
            self._introduce_drive(line["drive"])
        self.desk.connect_to(line["link"])

    def _introduce_drive(self, port: str) -> None:
        """The rig's drive comes with its description; one that was edited stays, at the port of this bench."""
        bus, paper = self.desk.bus, resources.files("idler") / "data" / "drives" / f"{self._rig}.toml"
        blank = bus.registers == Registers() and paper.is_file()
        found = read_registers(paper.read_text("utf-8")) if blank else bus.registers
        bus.keep(replace(found, port=port))

    def _drop_hands(self) -> None:
        if self.desk.bench_hands is not None:
            self.desk.bench_hands.close()
            self.desk.bench_hands = None

    def show_bench(self) -> None:
        from .benchside.window import BenchWindow

        if self.desk.bench_hands is None:
            self.desk.told.emit("plain", "The bench does not run. Start it first.")
            return
        if self.bench_window is None:
            self.bench_window = BenchWindow(self.desk.bench_hands)
        self.bench_window.show()
        self.bench_window.raise_()

    def close(self) -> None:
        """Ends everything that this run began. A second call does nothing."""
        if self._closed:
            return
        self._closed = True
        if self.bench_window is not None:
            self.bench_window.close()
            self.bench_window.deleteLater()
            self.bench_window = None
        self._drop_hands()
        self.window.close()
        self.window.deleteLater()
        if self.bench is not None:
            self.bench.stop()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def run(*, demo: bool, rig: str = FIRST_RIG) -> int:
    """Opens the window and runs until it is closed. Exit code 2 with a sentence where the shelf cannot be used.

    Each rig's demo has a shelf of its own.
    """
    app = application()
    folder = "shelf" if not demo else "demo" if rig == FIRST_RIG else f"demo-{rig}"
    try:
        session = Session(user_data_path("idler") / folder, demo=demo, rig=rig)
    except IdlerError as why:
        print(f"idler: {why.sentence}", file=sys.stderr)
        return 2
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: app.quit())
    beat = QTimer()  # lets Python see signals while Qt runs
    beat.start(200)
    beat.timeout.connect(lambda: None)
    app.setQuitOnLastWindowClosed(True)
    session.show()
    code = app.exec()
    session.close()
    return code
