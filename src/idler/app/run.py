"""Starting and ending the application."""

from __future__ import annotations

import logging
import signal
import sys
import time
from dataclasses import replace
from importlib import resources
from pathlib import Path
from typing import TYPE_CHECKING, Any

from platformdirs import user_data_path
from PySide6.QtCore import QCoreApplication, QEvent, QLibraryInfo, QObject, QProcess, QTimer, QTranslator
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox, QWidget

from idler.core.errors import IdlerError
from idler.core.spindle.registers import Registers
from idler.core.spindle.registers import read as read_registers
from idler.core.table.stations import Station
from idler.core.values.units import several
from idler.session.offers import Offer
from idler.session.session import Session
from idler.shelf import settings
from idler.shelf.examples import examples
from idler.shelf.files import Careful
from idler.shelf.hold import ShelfHold
from idler.shelf.settings import Settings
from idler.shelf.shelf import Shelf
from idler.wording.spoken import now

from . import theme
from .benchside.process import BenchProcess
from .bridge import QtLoop, follow
from .collector import Collector
from .display import require_display
from .log import Log
from .shell.window import Window
from .tools.dialogs import LogDialog
from .tools.machines import MachinesDialog
from .tools.startdialog import StartDialog
from .widgets import focus

FIRST_RIG = "verge"
SETTINGS = "settings.toml"
_LOG = logging.getLogger("idler.app")
STARTING_MS = 500  # between two words about a bench that starts
NOTE = "As its last owner left it"

if TYPE_CHECKING:
    from .benchside.hands import BenchHands
    from .benchside.window import BenchWindow


def qt_application() -> QApplication:
    """The one QApplication, with its look."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
        app.setApplicationName("Idler")
        app.setDesktopFileName("idler")
        focus.attend(app)
        with resources.as_file(resources.files("idler.app") / "icons" / "idler.svg") as icon:
            app.setWindowIcon(QIcon(str(icon)))
        if (spoken := now()) is not None:  # the words of Qt's own dialogs
            words = QTranslator(app)
            if words.load(f"qtbase_{spoken.language}", QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)):
                app.installTranslator(words)
    theme.apply(app, night=False)
    return app


def open_shelf(root: Path, rig: str = FIRST_RIG) -> Shelf:
    """The shelf; an empty one gets the machine that belongs to a rig. Raises IdlerError where there is no such rig."""
    shelf = Shelf(root)
    if not shelf.names():
        known = examples()
        if rig not in known:
            raise IdlerError(f"Rig {rig}: there is no example machine for it. There are: {', '.join(known)}.")
        if rig in shelf.archived():
            shelf.bring_back(rig, time.time())
        else:
            shelf.add(rig, known[rig], NOTE, time.time())
    return shelf


class Application(QObject):
    """One run of the application: window, bench, bench window."""

    def __init__(self, root: Path, *, demo: bool, pace: float = 1.0, rig: str = FIRST_RIG) -> None:
        """rig: the one that “Start the bench” starts."""
        super().__init__()
        self._root, self._pace, self._rig = root, pace, rig
        self._hold, self._careful = ShelfHold(root), Careful()
        self._log = Log(root)
        self._log.open()
        try:
            self._recovered = self._hold.left_since is not None and Shelf(root).recover(time.time())
            self._shelf = open_shelf(root, rig)
            self._settings, self._trouble = self._read_settings()
            self._open(self._settings.first_of(self._shelf.names()))
        except IdlerError:
            self._log.close()
            self._hold.release()
            raise
        self._collector = Collector(lambda: self.session.moving)
        self.bench: BenchProcess | None = None
        self._bench_line: dict[str, Any] | None = None
        self.bench_window: BenchWindow | None = None
        self._starting, self._begun = QTimer(), 0.0
        self._compiled: float | None = None  # the share of the bench's motion, where it has to be
        self._starting.timeout.connect(self._say_starting)
        self._demo = demo
        self._hands: BenchHands | None = None
        self._closed = False

    def _read_settings(self) -> tuple[Settings, str]:
        try:
            return self._careful.read(self._root / SETTINGS, settings.read), ""
        except IdlerError as why:
            return Settings(), why.sentence

    def _open(self, name: str) -> None:
        """Session and window of one machine."""
        self._loop = QtLoop()
        self.session = Session(self._shelf, name, self._loop)
        follow(self.session.told, lambda tone, words: _LOG.info("%s: %s", tone, words), self)
        follow(self.session.held, self._note_address)
        self.window = Window(self.session, self.start_bench, self.show_bench)
        self.window.machines_wanted.connect(self.show_machines)
        self.window.start_wanted.connect(self.show_start)
        self.window.log_wanted.connect(self.show_log)
        self.window.problem_wanted.connect(self._ask_problem)
        self.window.sounds.on = self._settings.sounds
        self.window.menu.check("sounds", self._settings.sounds)
        self.session.leading.on = self._settings.leads
        self.window.menu.check("leads", self._settings.leads)
        self.window.leads_turned.connect(lambda on: self._keep_settings(replace(self._settings, leads=on)))
        self.window.sounds_turned.connect(lambda on: self._keep_settings(replace(self._settings, sounds=on)))
        self.window.open_station(self._settings.first_station)

    def show(self) -> None:
        self.window.show()
        QTimer.singleShot(0, self._after)

    def _after(self) -> None:
        self.window.after_first_paint()
        for sentence in filter(None, (self._hold.why_read_only, self._trouble)):
            self.session.tell("warn", sentence)
        if self._recovered:
            self.session.tell("plain", "What was being kept when Idler ended is a revision now.")
        if self._hold.left_since is not None:
            self._offer_log(self._hold.left_since)
        self._keep_settings(replace(self._settings, last=self.session.name))
        self._pack()
        if self._demo:
            self.start_bench()
        elif self._settings.connects and self._settings.address:
            self.session.connect_to(self._settings.address)

    def _pack(self) -> None:
        """Many revisions are packed by a process of their own, which outlives this one and disturbs nothing."""
        if self._shelf.scattered and not self._hold.why_read_only:
            packing = QProcess()
            packing.setProgram(sys.executable)
            packing.setArguments(["-m", "idler", "shelf", "pack", "--shelf", str(self._root)])
            packing.setStandardOutputFile(QProcess.nullDevice())
            packing.setStandardErrorFile(QProcess.nullDevice())
            packing.startDetached()

    # -- settings and log -----------------------------------------------------------------------------------------

    def _keep_settings(self, new: Settings) -> None:
        if new != self._settings:
            self._settings = new
            try:
                settings.write(self._careful.place(self._root / SETTINGS), new)
            except IdlerError as why:
                self.session.refuse("The settings are not kept.", why.sentence)

    def _note_address(self) -> None:
        if self.session.identity is not None and not self._demo:
            self._keep_settings(replace(self._settings, address=self.session.identity.address))

    def show_start(self) -> StartDialog:
        return self.window.open_dialog(StartDialog(self.window, self.session, self._settings, self._keep_settings))

    def show_log(self) -> LogDialog:
        return self.window.open_dialog(LogDialog(self.window, self._log.file, self._log.tail()))

    def _offer_log(self, since: float) -> None:
        began = time.strftime("%-d %B, %H:%M", time.localtime(since))
        edits = len(self.session.machine.differences(self.session.base))
        kept = f"Your draft is here, with {several(edits, 'edit')}." if edits else "No edit was open."
        words = f"Idler did not end by itself the last time (it began {began}). {kept}"
        offers = self.window.offers
        ways = (("Go on", lambda: offers.withdraw("crash")), ("Show the log", self.show_log),
                ("Report of a problem…", lambda: self._ask_problem("")))  # fmt: skip
        offers.make(Offer("crash", words, ways))

    def _ask_problem(self, incident: str) -> None:
        name, _ = QFileDialog.getSaveFileName(self.window, "Report of a problem", "problem.zip", "Archives (*.zip)")
        if name:
            self.write_problem(Path(name), incident)

    def write_problem(self, path: Path, incident: str = "") -> None:
        """One file with log, machine, controller, the last frames, and an incident."""
        from .tools.problem import problem_report

        try:
            problem_report(path, self.session, self._log.tail(), incident)
        except (IdlerError, ValueError, OSError) as why:
            self.session.refuse("The report of a problem was not written.", str(why))
            return
        self.session.tell("plain", f"The report of a problem is in {path}.")

    # -- machines -------------------------------------------------------------------------------------------------

    def show_machines(self) -> MachinesDialog:
        dialog = self.window.open_dialog(MachinesDialog(self.window, self.session, self._shelf))
        dialog.chosen.connect(lambda name: QTimer.singleShot(0, lambda: self.open_machine(name)))
        return dialog

    def open_machine(self, name: str) -> None:
        """Leaves the controller and shows another machine. A machine that moves is not left."""
        if self.session.moving:
            self.session.tell("warn", "The machine is moving. Stop it, then open another one.")
            return
        before, loop, place = self.window, self._loop, self.window.geometry()
        self._drop_hands()
        if self.bench_window is not None:
            self.bench_window.close()
            self.bench_window = None
        self._open(name)
        self.window.setGeometry(place)
        self.window.show()
        before.close()
        before.deleteLater()
        loop.deleteLater()
        self.window.after_first_paint()
        self._keep_settings(replace(self._settings, last=name))
        if self._bench_line is not None and self.bench is not None and self.bench.running:
            self.window.page(Station.LINK).show_bench(self._bench_line["link"])  # type: ignore[attr-defined]

    def start_bench(self) -> None:
        if self.bench is not None and self.bench.running:
            self.session.tell("plain", "The bench runs already.")
            return
        self.bench = BenchProcess(self._rig, self._root / "bench" / f"{self._rig}.json", pace=self._pace)
        self.bench.ready.connect(self.use_bench)
        self.bench.failed.connect(self._bench_failed)
        self.bench.compiled.connect(self._bench_compiled)
        self._begun, self._compiled = time.monotonic(), None
        self._starting.start(STARTING_MS)
        self._say_starting()

    def _say_starting(self) -> None:
        """While it starts the screen says for how long, and why it takes its time."""
        seconds = time.monotonic() - self._begun
        share = self._compiled
        first = "" if share is None else f" The first time its motion is compiled: {100 * share:.0f} % of it is."
        self.session.tell("plain", f"The bench is starting, for {seconds:.0f} s now.{first}")

    def _bench_compiled(self, share: float) -> None:
        self._compiled = share

    def _bench_failed(self, why: str) -> None:
        self._starting.stop()
        self.session.tell("warn", why)

    def use_bench(self, line: dict[str, Any]) -> None:
        """Connects to a bench that runs, by the line that it printed."""
        from .benchside.hands import BenchHands
        from .stations.link.station import LinkStation

        self._drop_hands()
        self._starting.stop()
        self._bench_line = line
        self._hands = self.session.bench_hands = BenchHands(line["hands"])
        page = self.window.page(Station.LINK)
        assert isinstance(page, LinkStation)
        page.show_bench(line["link"])
        if "drive" in line:  # the rig's spindle drive has a bus of its own
            self._introduce_drive(line["drive"])
        self.session.connect_to(line["link"])

    def _introduce_drive(self, port: str) -> None:
        """The rig's drive comes with its description; one that was edited stays, at the port of this bench."""
        bus, paper = self.session.bus, resources.files("idler") / "data" / "drives" / f"{self._rig}.toml"
        blank = bus.registers == Registers() and paper.is_file()
        found = read_registers(paper.read_text("utf-8")) if blank else bus.registers
        bus.keep(replace(found, port=port))

    def _drop_hands(self) -> None:
        if self._hands is not None:
            self._hands.close()
            self._hands = self.session.bench_hands = None

    def show_bench(self) -> None:
        from .benchside.window import BenchWindow

        if self._hands is None:
            if self._starting.isActive():
                self._say_starting()
            else:
                self.session.tell("plain", "The bench does not run. Start it first.")
            return
        if self.bench_window is None:
            self.bench_window = BenchWindow(self._hands)
            self._put_beside(self.bench_window)
        self.bench_window.show()
        self.bench_window.raise_()

    def _put_beside(self, bench: QWidget) -> None:
        """Over the margin: what is watched while a switch is pressed is not covered."""
        window, screen = self.window.frameGeometry(), self.window.screen().availableGeometry()
        left = min(window.right() - bench.width(), screen.right() - bench.width())
        top = window.top() + self.window.header.height() + self.window.train.height()
        bench.move(max(screen.left(), left), max(screen.top(), min(top, screen.bottom() - bench.height())))

    def open_program(self, path: Path | None) -> None:
        """A program that was named at the start, at its station; else the one that was chosen for it, where it is."""
        if path is None:
            self.session.program.open_first()
        else:
            self.session.program.open(path)
            self.window.open_station(Station.TRIAL)

    def close(self) -> None:
        """Ends everything that this run began. A second call does nothing."""
        if self._closed:
            return
        self._closed = True
        self._collector.end()
        self._starting.stop()
        if self.bench_window is not None:
            self.bench_window.close()
            self.bench_window.deleteLater()
            self.bench_window = None
        self._drop_hands()
        self.window.close()
        self.window.deleteLater()
        self._loop.deleteLater()
        if self.bench is not None:
            self.bench.stop()
        self._log.close()
        self._hold.release()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def run(*, demo: bool, rig: str = FIRST_RIG, program: Path | None = None) -> int:
    """Opens the window and runs until it is closed. Exit code 2 with a sentence where the shelf cannot be used.

    Each rig's demo has a shelf of its own. program: opened at once; else the one that was chosen for the start.
    """
    try:
        require_display()
    except IdlerError as why:
        print(f"idler: {why.sentence}", file=sys.stderr)
        return 2
    app = qt_application()
    folder = "shelf" if not demo else "demo" if rig == FIRST_RIG else f"demo-{rig}"
    try:
        application = Application(user_data_path("idler") / folder, demo=demo, rig=rig)
    except IdlerError as why:
        print(f"idler: {why.sentence}", file=sys.stderr)
        if app.platformName() != "offscreen":  # started from a menu nobody sees the line above
            QMessageBox.warning(None, "Idler", why.sentence)
        return 2
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: app.quit())
    beat = QTimer()  # lets Python see signals while Qt runs
    beat.start(200)
    beat.timeout.connect(lambda: None)
    app.setQuitOnLastWindowClosed(True)
    application.show()
    application.open_program(program)
    code = app.exec()
    application.close()
    return code
