"""The tour: walks the real interface through the example, as a person would, and writes one picture for each main view.

Nothing is pretended: widgets are clicked and typed into, the bench runs as its own process, and each step says what was seen.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from PySide6.QtCore import Qt, QtMsgType, qInstallMessageHandler
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QToolButton, QWidget

from idler.core.errors import IdlerError
from idler.core.hand.assignment import Assigned, Control, Does, Sort
from idler.core.table.stations import Station, Tab
from idler.session.motion_words import motion_words

from ..qt_wait import TooLong, until
from ..run import qt_application
from ..stations.sign_off.station import SignOffStation
from ..tools.describedialog import DescribeDialog
from ..tools.handdialog import HandDialog
from .drives import DrivesSteps
from .geometry import GeometrySteps
from .hands import TourHands
from .programs import TrialSteps
from .spindle import SpindleSteps
from .square import SquareSteps
from .turret import TurretSteps
from .wiring import WiringSteps
from .zero import ZeroSteps


class Tour(WiringSteps, DrivesSteps, ZeroSteps, GeometrySteps, TrialSteps, SpindleSteps):
    def walk(self) -> list[str]:
        """Walks all steps; the names of the pictures taken."""
        for step in (
            self._link,
            self._wiring,
            self._filter,
            self._prove,
            self._describe,
            self._drives,
            self._measure,
            self._scale,
            self._direction,
            self._shapes,
            self._reliable,
            self._homing,
            self._travel,
            self._play,
            self._level,
            self._trial,
            self._spindle,
            self._hand,
            self._stop,
            self._incident,
            self._keep,
        ):
            step()
        self._application.close()
        return self._taken

    def _link(self) -> None:
        window, session = self._application.window, self._application.session
        self._application.show()
        until(lambda: session.connected and session.history.found is not None, "the bench to answer", 120)
        identity = session.identity
        assert identity is not None
        self._say(f"{identity.name} answers at {identity.address}, serial number {identity.serial}; kept as found")
        self._shot("link", window)

    def _describe(self) -> None:
        """A machine that nobody has described yet, by pictures; it is not kept."""
        window = self._application.window
        dialog = window.open_dialog(DescribeDialog(window, lambda *_: None))
        for key, answer in (("kind", "router"), ("X.driven", "belt")):
            row = dialog.editors[key].parent()
            assert isinstance(row, QWidget)
            picture = row.findChild(QToolButton, answer)
            assert isinstance(picture, QToolButton)
            self._click(picture)
        self._say(f"described: {dialog.trains.text().splitlines()[0]}")
        self._shot("new-machine", dialog)
        dialog.reject()

    def _hand(self) -> None:
        """A hand device of the bench is plugged in, and its wheel assigned by turning it."""
        window, bench = self._application.window, self._application.bench_window
        assert bench is not None
        pendant = bench.pendant
        dialog = window.open_dialog(HandDialog(window, self._application.session, window.hand))
        self._click(pendant.plug)
        until(lambda: dialog.connect_button.isEnabled(), "the device to be seen")
        self._click(dialog.connect_button)
        until(lambda: pendant.made is not None and pendant.made.listeners > 0, "it to be in the hand")
        window.hand.assign(Control(Sort.BUTTON, 288), Assigned(Does.DEAD_MAN))
        pendant.wheel.setValue(1)
        until(lambda: dialog.does.count() > 1, "the wheel to be heard")
        dialog.does.setCurrentIndex(dialog.does.findData(Does.STEP))
        dialog.does.activated.emit(dialog.does.currentIndex())
        dialog.what.setCurrentText("X")
        self._click(dialog.assign)
        self._say(f"a hand device: {dialog.state.text()} {dialog.moved.text()}")
        self._shot("hand-device", dialog)
        pendant.pull_out()
        until(lambda: window.hand.device is None, "that it is gone")
        dialog.accept()

    def _stop(self) -> None:
        window, session = self._application.window, self._application.session
        self._click(next(b for b in window.rails._step_buttons if b.text() == "hold"))
        minus = window.rails.rows[0].minus
        QTest.mousePress(minus, Qt.MouseButton.LeftButton)
        until(lambda: session.heard_axes[0].velocity < -300, "X to run")
        QTest.keyClick(window.windowHandle(), Qt.Key.Key_Escape)
        self._rest()
        QTest.mouseRelease(minus, Qt.MouseButton.LeftButton)
        self._say(f"Esc stopped X; {motion_words(session)}")

    def _incident(self) -> None:
        """The emergency stop in the middle of a move: the last seconds, and what they tell."""
        window, session = self._application.window, self._application.session
        window.incident.finish()
        window.open_station(Station.TRAVEL)
        session.link.jog_step(0, -120, 2400)
        session.link.jog_step(1, -60, 1200)
        until(lambda: abs(session.heard_axes[0].velocity) > 2000, "X to run")
        self._ask(do="press", switch="emergency stop")
        until(lambda: not window.incident.seconds_button.isHidden(), "the flight record", 30)
        self._click(window.incident.seconds_button)
        page = window.open_incident()
        assert page.account is not None and page.account.first is not None
        self._say(f"incident: {page.account.first.words}; {page.account.causes[0].words}")
        self._shot("incident", window)
        self._ask(do="release", switch="emergency stop")
        window.incident.finish()
        self._click(page.back_button)

    def _keep(self) -> None:
        window, session = self._application.window, self._application.session
        dialog = window.open_keep()
        QTest.keyClicks(dialog.note, "Measured the screw of X, turned Y round, found the pace of X")
        self._click(dialog.keep_button)
        until(lambda: not session.machine.differences(session.base), "the revision to be kept")
        newest = session.history.whole()[0]
        self._say(f"kept as revision {newest.number}: {newest.note}")
        window.open_station(Station.SIGN_OFF)
        page = window.page(Station.SIGN_OFF)
        assert isinstance(page, SignOffStation)
        self._shot("sign-off", window)
        self._say(page.proofs.title.text())
        page.turn_to(Tab.COMPARE)
        page.compare.choose("as found", "draft")
        self._say(f"as found against now: {page.compare.words.text()}")


def _complain(_kind: QtMsgType, _context: object, words: str) -> None:
    """What Qt complains about, but for what it cannot do without a monitor."""
    if not words.startswith("This plugin does not support"):
        print(f"tour: Qt: {words}", file=sys.stderr)


def tour(shots: Path) -> int:
    """Runs the tour on a fresh shelf of its own. Exit code 1 where a step was not seen."""
    qt_application()
    qInstallMessageHandler(_complain)
    shots.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as root:
        walked: TourHands = (verge := Tour(shots, Path(root)))
        try:
            taken = verge.walk()
            walked = router = SquareSteps(shots, Path(root) / "router", "longcase")
            taken += router.square()
            walked = lathe = TurretSteps(shots, Path(root) / "lathe", "fusee")
            taken += lathe.turret()
        except (TooLong, IdlerError) as why:
            print(f"tour: stopped: {why}", file=sys.stderr)
            walked._application.close()
            return 1
    print(f"tour: {len(taken)} pictures in {shots}: {', '.join(taken)}")
    return 0
