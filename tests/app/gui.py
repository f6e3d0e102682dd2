"""The base of tests with a window: one application, an application of its own for each class, and no slot that fails unseen."""

from __future__ import annotations

import atexit
import contextlib
import shutil
import sys
import tempfile
import threading
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt, QtMsgType, qInstallMessageHandler
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from idler.app import bridge
from idler.app.qt_wait import TooLong, until
from idler.app.run import Application, qt_application
from idler.app.shell import window as shell
from idler.app.widgets.fields import Field
from idler.core.machine import Address
from idler.core.proof.claims import Witness, direction_claim, input_claim
from idler.core.table.stations import Station
from idler.core.wiring import home_switch, inputs
from tests.support import Bench, shared_bench, wiring

PICTURES_MS = 80  # between two pictures of what moves: tests look at what is drawn, not at how often
_HARMLESS = ("This plugin does not support",)


class GuiCase(unittest.TestCase):
    """Exceptions in slots and threads, and warnings of Qt, fail the test in which they came."""

    def setUp(self) -> None:
        self.app = qt_application()
        for module, name in ((shell, "MOVING_MS"), (bridge, "CALM_MS")):
            slower = mock.patch.object(module, name, PICTURES_MS)
            slower.start()
            self.addCleanup(slower.stop)
        self._seen: list[str] = []
        hooks = sys.excepthook, threading.excepthook
        sys.excepthook = lambda kind, value, _trace: self._seen.append(f"{kind.__name__}: {value}")
        threading.excepthook = lambda args: self._seen.append(f"{args.exc_type.__name__}: {args.exc_value}")
        before = qInstallMessageHandler(self._message)

        def restore() -> None:
            sys.excepthook, threading.excepthook = hooks
            qInstallMessageHandler(before)
            self.assertEqual(self._seen, [])

        self.addCleanup(restore)

    def _message(self, kind: QtMsgType, _context: object, words: str) -> None:
        if kind is not QtMsgType.QtDebugMsg and not words.startswith(_HARMLESS):
            self._seen.append(words)

    def escape(self, widget: QWidget | None = None) -> None:
        """Esc as the desktop gives it: to the window that has the keyboard; that of the widget, if one is named."""
        if widget is not None:
            until(lambda: self.app.focusWindow() is widget.window().windowHandle(), "its window to have the keyboard")
        QTest.keyClick(self.app.focusWindow(), Qt.Key.Key_Escape)

    def click(self, widget: QWidget) -> None:
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton)


_shelves: dict[
    tuple[str, bool], Path
] = {}  # of each rig: a shelf on which its machine stands, and has met its bench or not


class SessionCase(GuiCase):
    """An application on a shelf of its own; with `on_bench` it is connected to the class's bench, which is as delivered,
    and which the shelf has met once, unless `fresh`."""

    on_bench = True
    fresh = False
    rig = "verge"
    pace: float = 20  # of the bench's clock; more where much is gone over slowly
    bench: Bench

    @classmethod
    def setUpClass(cls) -> None:
        if cls.on_bench:
            cls.bench = shared_bench(cls, cls.rig, cls.pace)

    def setUp(self) -> None:
        super().setUp()
        if self.on_bench:
            self.bench.hands.ask(do="deliver")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)
        if not self.fresh:
            self.furnish()
        self.open()

    def furnish(self) -> None:
        """The shelf, as the first application of this process left it: reading and keeping all values takes its time."""
        known = (self.rig, self.on_bench)
        if known not in _shelves:
            self.open()
            until(lambda: not self.session.history.being_read, "the revisions")
            self.application.close()
            kept = tempfile.TemporaryDirectory()
            atexit.register(kept.cleanup)
            shutil.copytree(self.root, kept.name, dirs_exist_ok=True)
            _shelves[known] = Path(kept.name)
        else:
            shutil.copytree(_shelves[known], self.root, dirs_exist_ok=True)

    def open(self) -> None:
        self.application = Application(self.root, demo=False, rig=self.rig)
        self.addCleanup(self.application.close)
        self.window, self.session = self.application.window, self.application.session
        self.application.show()
        self.window.activateWindow()
        until(self.window.isActiveWindow, "the window")
        if self.on_bench:
            self.connect()

    def connect(self) -> None:
        """A computer that pauses may miss an answer; a person would press Connect again."""
        for seconds in (10.0, 10.0, 30.0):
            self.application.use_bench(self.bench.ready)
            with contextlib.suppress(TooLong):
                until(lambda: self.session.connected and self.session.history.found is not None, "the bench", seconds)
                return
        raise AssertionError("the bench was not connected")

    def wire(self) -> None:
        """Tells the controller how Verge is wired, as the Wiring station would have."""
        self.session.set_values(wiring())
        self.again(self.session.send, lambda: not self.session.count().edited, "the wiring to be sent")

    def believe(self, *slots: int) -> None:
        """Direction and switches of these axes, as if they had been seen and touched: their homing need not crawl."""
        machine = self.session.machine
        for slot in slots:
            self.session.prove(direction_claim(machine, slot), True, "seen", Witness.EYES)
            number = home_switch(machine, slot)
            if number is not None:
                self.session.prove(input_claim(machine, inputs(machine)[number]), True, "touched", Witness.EYES)

    def power(self) -> None:
        self.again(lambda: self.click(self.window.rails.power), lambda: self.session.powered, "power")

    def again(self, work: Callable[[], object], condition: Callable[[], object], what: str) -> None:
        """Does something until it has worked: a computer that pauses may lose it, and a person would press again."""
        for _ in range(4):
            until(lambda: self.session.connected and not self.session.busy, "the link")
            work()
            with contextlib.suppress(TooLong):
                until(condition, what, 8.0)
                return
        raise AssertionError(f"not even at the fourth time: {what}")

    def home(self, *slots: int) -> None:
        """Homes these axes at once; a computer that pauses ends it, rightly, and a person begins again."""

        def homed() -> bool:
            axes = self.session.link.axes
            return bool(axes) and all(axes[slot].homed for slot in slots)

        for _ in range(4):
            until(lambda: self.session.connected and not self.session.busy, "the link")
            if not self.session.powered:
                self.power()
            self.session.link.home(slots)
            with contextlib.suppress(TooLong):
                until(lambda: homed() or not self.session.powered, "home", 20.0)
            self.rest()
            if homed():
                return
        raise AssertionError("not even at the fourth time: home")

    def rest(self) -> None:
        until(lambda: not self.session.moving, "rest")

    def field(self, key: str, station: Station = Station.DRIVES) -> Field:
        page = self.window.page(station)
        return next(f for f in page.findChildren(Field) if f.address.key == key and f.isVisible())

    def type_into(self, key: str, text: str) -> None:
        editor = self.field(key).editor  # type: ignore[attr-defined]
        editor.setFocus()
        editor.selectAll()
        QTest.keyClicks(editor, text)
        QTest.keyClick(editor, Qt.Key.Key_Return)

    def value(self, key: str, slot: int = 0) -> object:
        return self.session.machine[Address(slot, key)]
