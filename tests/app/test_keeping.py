"""Machines of the shelf, the lock of the set-up, start-up, the wire, the log: whatever is kept beside the values."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import unittest
import zipfile
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from idler.app.qt_wait import until
from idler.app.run import Application
from idler.app.tools.dialogs import FactoryDialog
from idler.core.controller.sending import Sending
from idler.core.profile.codec import Place, place
from idler.core.profile.words import Sort
from idler.core.proof.claims import Witness, direction_claim
from idler.core.table.stations import Station
from idler.shelf.files import write_text
from idler.shelf.hold import Busy
from tests.app.gui import GuiCase, SessionCase
from tests.support import X, Y, at, wait_for

PITCH, RATE = at(X, "chain.pitch"), at(Y, "pace.jerk")


class Machines(SessionCase):
    on_bench = False

    def test_a_new_machine_from_another_is_opened_and_edited_apart(self) -> None:
        dialog = self.application.show_machines()
        QTest.keyClicks(dialog.name, "second")
        dialog.source.setCurrentText("machine verge")
        self.click(dialog.new_button)
        self.assertEqual(dialog.trouble.text(), "")
        self.click(dialog.open_button)
        until(lambda: self.application.session.name == "second", "the other machine")
        self.application.session.set_values({PITCH: Fraction(4)})
        self.application.open_machine("verge")
        self.assertEqual(self.application.session.machine[PITCH], 5)
        self.application.close()
        self.open()
        self.assertEqual(self.session.name, "verge")
        self.application.open_machine("second")
        self.assertEqual(self.application.session.machine[PITCH], 4)

    def test_names_that_cannot_be_and_the_archive(self) -> None:
        dialog = self.application.show_machines()
        for name in ("verge", "No", ""):
            dialog.name.setText(name)
            self.click(dialog.new_button)
            self.assertIn("name", dialog.trouble.text())
        dialog.name.setText("lathe")
        dialog.source.setCurrentText("example fusee")
        self.click(dialog.new_button)
        self.click(dialog.archive_button)
        self.assertEqual(dialog.list.count(), 1)
        dialog.archived.setChecked(True)
        dialog.list.setCurrentRow(1)
        self.click(dialog.archive_button)
        self.assertEqual(self.application._shelf.names(), ["lathe", "verge"])

    def test_a_second_window_on_the_same_shelf_is_refused(self) -> None:
        with self.assertRaisesRegex(Busy, "Another Idler"):
            Application(self.root, demo=False)


class Damaged(SessionCase):
    on_bench = False

    def test_revisions_that_take_long_are_read_beside_the_window(self) -> None:
        begun, go_on = threading.Event(), threading.Event()
        read = self.session._shelf.revisions

        def slowly(name: str) -> object:
            begun.set()
            go_on.wait(60)
            return read(name)

        with (
            mock.patch.object(self.session._shelf, "revisions", slowly),
            mock.patch("idler.session.revisions.PATIENCE", 0.01),
        ):
            self.addCleanup(go_on.set)
            self.session.history._changed()
            self.assertTrue(begun.is_set() and self.session.history.being_read)
            self.window.open_station(Station.SIGN_OFF)
            self.assertIn("reading revisions", self.window.header._revision)
            go_on.set()
            until(lambda: not self.session.history.being_read, "the revisions")
        self.assertEqual(self.session.history.all(), read(self.session.name))
        self.assertNotIn("reading revisions", self.window.header._revision)

    def test_one_file_that_cannot_be_read_takes_no_other_with_it(self) -> None:
        claim = direction_claim(self.session.machine, X)
        self.session.prove(claim, True, "it did", Witness.EYES)
        self.application.close()
        write_text(self.root / "startup" / "verge.toml", "[connect\n")
        write_text(self.root / "machines" / "passes" / "verge.toml", "passes = 3")
        self.open()
        self.assertEqual(self.session.proofs[claim.key].result, "it did")
        self.assertEqual(len(self.session.lost_edits), 2)


class Locked(SessionCase):
    def test_what_is_locked_is_not_changed_and_motion_stays_free(self) -> None:
        self.type_into("chain.pitch", "4")
        dialog = self.window.open_lock()
        QTest.keyClicks(dialog.pin, "4711")
        QTest.keyClicks(dialog.again, "4711")
        self.click(dialog.main_button)
        self.session.set_values({PITCH: Fraction(3)})
        self.session.undo()
        self.type_into("chain.pitch", "2")
        self.assertEqual(self.value("chain.pitch"), 4)
        self.assertIn("locked", self.session.send_obstacle())
        self.assertEqual(self.field("chain.pitch").editor.text(), "4")
        held, description = self.session.holding.raws, self.session.bus.registers
        self.session.controller.store()
        self.session.controller._sending = Sending(0, 0.0, {place(PITCH): 1}, {place(PITCH): 2})
        for way in (self.session.controller.finish, self.session.controller.put_back):
            way()
        self.session.controller._sending = None
        self.session.bus.keep(replace(description, unit=7))
        self.assertEqual(self.session.bus.registers, description)
        self.assertFalse(self.session.link._requests)
        self.assertEqual(self.session.holding.raws, held)
        self.assertIn("set-up locked", self.window.header._standing.toolTip())
        self.session.power(True)
        until(lambda: self.session.powered, "power")
        self.session.link.jog_step(X, -1, 500)
        until(lambda: self.session.axes[X].position == -1, "a jog")
        dialog = self.window.open_lock()
        QTest.keyClicks(dialog.pin, "1234")
        self.click(dialog.main_button)
        self.assertIn("not the PIN", dialog.trouble.text())
        dialog.pin.setText("4711")
        self.click(dialog.main_button)
        self.session.undo()
        self.assertEqual(self.value("chain.pitch"), 5)

    def test_factory_values_and_the_way_back(self) -> None:
        page = self.window.page(Station.LINK)
        self.window.open_station(Station.LINK)
        self.click(page.factory_button)
        dialog = self.window.findChild(FactoryDialog)
        self.click(dialog.main_button)
        until(lambda: len(self.session.in_force.names) == 8, "factory values", 30)
        self.assertEqual(self.session.holding.unstored, 0)
        self.assertIn("other axes", self.session.count().words)
        self.assertTrue(any(revision.as_found for revision in self.session.history.whole()))


class StartUp(SessionCase):
    def test_values_for_each_connect_are_set_and_not_stored(self) -> None:
        dialog = self.application.show_start()
        dialog.which.setCurrentText("Y jerk")
        QTest.keyClicks(dialog.text, "20 mm")
        QTest.keyClick(dialog.text, Qt.Key.Key_Return)
        self.assertIn("mm", dialog.trouble.text())
        dialog.text.setText("1000")
        QTest.keyClick(dialog.text, Qt.Key.Key_Return)
        self.assertEqual(dialog.trouble.text(), "")
        dialog.station.setCurrentIndex(dialog.station.findData(Station.TRAVEL.key))
        self.click(dialog.main_button)
        self.application.close()
        self.open()
        where = place(RATE)
        until(lambda: self.session.holding is not None and self.session.holding.raws[where] == 1_000_000, "the value")
        self.assertEqual(self.session.holding.unstored, 1)
        self.assertEqual(self.window.offers.words, "")
        self.assertIs(self.window._station, Station.TRAVEL)
        self.assertNotEqual(self.session.machine[RATE], 1000)


class Wire(SessionCase):
    def test_frames_in_words_and_one_object_by_hand(self) -> None:
        window = self.window.open_wire()
        self.addCleanup(window.close)
        window.object.setText("6092h:01")
        self.click(window.read_button)
        until(lambda: "feed, in position units" in window.answer.text(), "the object")
        until(lambda: any("read 6092h:01 X feed" in words.words for _, words in window.model.rows), "the request")
        self.assertFalse(any(words.sort is Sort.HEARTBEAT for _, words in window.model.rows))
        window.sorts[Sort.HEARTBEAT].setChecked(True)
        window.text.setText("alive")
        until(
            lambda: {w.words for _, w in window.model.rows} >= {"Idler is alive", "the controller is alive"},
            "heartbeats",
        )
        window.object.setText(str(place(PITCH)))
        window.value.setText("7 mm")
        self.click(window.write_button)
        until(lambda: "= 7 mm" in window.answer.text(), "the value")
        until(lambda: self.session.holding.raws[place(PITCH)] == 7_000_000, "it to be counted")
        self.assertTrue(self.session.count().to_send)
        window.value.setText("0")
        self.click(window.write_button)
        until(lambda: "too low" in window.answer.text(), "the refusal")
        window.object.setText("200B:01")
        self.click(window.read_button)
        self.assertIn("is read as a block", window.answer.text())
        for text, words in (("60", "four hexadecimal"), ("7FFF:01", "no such object")):
            window.object.setText(text)
            self.click(window.write_button)
            self.assertIn(words, window.answer.text())
        window.save(self.root / "wire.log")
        lines = (self.root / "wire.log").read_text("ascii").splitlines()
        self.assertRegex(lines[0], r"^\(\d+\.\d{6}\) can0 [0-9A-F]{3}#[0-9A-F]* ?[RT]?$")

    def test_a_recording_holds_every_frame_from_its_begin_to_its_end(self) -> None:
        window = self.window.open_wire()
        path = self.root / "long.log"
        frames = self.session.link.frames
        first = frames.since(0)[-1].number
        window.record(path)
        until(lambda: frames.since(0)[-1].number > first + 40, "frames")
        window.reject()  # as Esc does
        written = path.read_text("ascii").splitlines()
        passed = [f"({f.when:.6f}) can0 {f.identifier:03X}#{f.data.hex().upper()} {'T' if f.sent else 'R'}"
                  for f in frames.since(first)]  # fmt: skip
        begin = passed.index(written[0])
        self.assertLess(begin, 10)
        self.assertGreater(len(written), 30)
        self.assertEqual(written, passed[begin : begin + len(written)])
        self.assertIn(f"{len(written)} frames in long.log.", window.answer.text())

    def test_a_recording_that_cannot_be_written_ends_with_a_sentence(self) -> None:
        window = self.window.open_wire()
        self.addCleanup(window.close)
        window.record(self.root / "none" / "wire.log")
        self.assertIn("wire.log: cannot be written (no such file or directory)", self.window.notice.words)
        window.record(Path("/dev/full"))
        until(lambda: "/dev/full: cannot be written (no space left on device)" in self.window.notice.words, "the end")
        self.assertEqual(window.record_button.text(), "Record…")

    def test_nothing_is_written_by_hand_while_something_moves(self) -> None:
        self.power()
        self.session.link.jog_step(X, -40, 300)
        until(lambda: self.session.moving, "motion")
        self.session.link.write_object(Place(0x60A4, 1), 5)
        until(lambda: "nothing is written by hand" in self.window.notice.words, "the refusal")
        self.session.stop()
        self.rest()


class Incidents(SessionCase):
    def test_the_last_seconds_are_kept_shown_and_reported(self) -> None:
        self.wire()
        self.power()
        self.session.link.jog_step(X, -40, 600)
        until(lambda: self.session.moving, "motion")
        self.bench.hands.ask(do="press", switch="emergency stop")
        until(lambda: not self.window.incident.seconds_button.isHidden(), "the record", 30)
        self.click(self.window.incident.seconds_button)
        page = self.window.open_incident()
        self.assertEqual(page.account.first.words, "input 1, emergency stop: pressed")
        self.assertTrue(self.window.incident.seconds_button.isHidden())
        here = list(Station).index(self.window.train.here)
        wheel = QPoint(int((here + 0.5) * self.window.train.width() / len(Station)), 20)
        QTest.mouseClick(self.window.train, Qt.MouseButton.LeftButton, pos=wheel)
        self.assertIs(self.window._stages.currentWidget(), self.window.page(self.window.train.here))
        self.click(self.window.incident.seconds_button)
        self.assertIn("X: at rest", [item.words for item in page.account.followed])
        self.assertIn("Somebody pressed the emergency stop", page.account.causes[0].words)
        self.application.write_problem(self.root / "problem.zip", self.session.incidents.names()[0])
        with zipfile.ZipFile(self.root / "problem.zip") as made:
            self.assertEqual(set(made.namelist()), {"README.txt", "machine.toml", "controller.toml", "log.txt", "wire.log",
                                                    "incident.json", "flight.csv"})  # fmt: skip
            self.assertEqual(len(made.read("flight.csv").splitlines()), 1001)
            self.assertIn(b"started, process", made.read("log.txt"))
        self.click(page.step_buttons[0])
        self.assertIs(self.window._station, Station.WIRING)
        self.bench.hands.ask(do="release", switch="emergency stop")


class Crash(GuiCase, unittest.TestCase):
    def test_the_next_start_offers_draft_and_log(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        script = (
            "import sys\nfrom pathlib import Path\nfrom fractions import Fraction\n"
            "from idler.app.run import Application, qt_application\nfrom tests.support import X, at\napp = qt_application()\n"
            "application = Application(Path(sys.argv[1]), demo=False)\napplication.show()\n"
            "application.session.set_values({at(X, 'chain.pitch'): Fraction(4)})\nprint('edited', flush=True)\napp.exec()\n"
        )
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        process = subprocess.Popen([sys.executable, "-c", script, folder.name], stdout=subprocess.PIPE, env=environment)
        wait_for(lambda: process.stdout.readline() == b"edited\n", "the edit")
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        application = Application(Path(folder.name), demo=False)
        self.addCleanup(application.close)
        application.show()
        until(lambda: application.window.offers.words, "the offer")
        self.assertIn("did not end by itself", application.window.offers.words)
        self.assertIn("with 1 edit.", application.window.offers.words)
        self.click(application.window.offers.buttons[1])
        self.assertEqual(application.session.machine[PITCH], 4)


class DiskThatTakesNothing(unittest.TestCase):
    def test_the_application_works_on_and_says_so(self) -> None:
        """A limit on the size of files stands for a full disk: the system itself refuses every write."""
        script = (
            "import resource, signal, sys\nfrom fractions import Fraction\nfrom pathlib import Path\n"
            "from idler.app.qt_wait import until\nfrom idler.app.run import Application, qt_application\n"
            "from tests.support import X, at\nqt_application()\nroot = Path(sys.argv[1])\n"
            "first = Application(root, demo=False)\nfirst.close()\n"
            "signal.signal(signal.SIGXFSZ, signal.SIG_IGN)\nresource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))\n"
            "application = Application(root, demo=False)\nheard = []\n"
            "application.session.told.subscribe(lambda kind, words: heard.append(words))\napplication.show()\n"
            "until(lambda: heard, 'the start')\n"
            "application.session.set_values({at(X, 'chain.pitch'): Fraction(4)})\n"
            "assert application.session.machine[at(X, 'chain.pitch')] == 4\n"
            "assert len(application.session.history.whole()) == 1\n"
            "application.close()\nsys.stderr.write('\\n'.join(heard))\n"
        )
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        with TemporaryDirectory() as folder:
            done = subprocess.run(
                [sys.executable, "-c", script, folder], stderr=subprocess.PIPE, text=True, env=environment
            )
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("cannot be written (file too large). You can read, compare, jog and send", done.stderr)
        self.assertIn("Your edits are not on the disk yet", done.stderr)
