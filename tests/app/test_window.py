"""The real window on the real bench: what a builder does at first."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys
import tempfile
import unittest
from fractions import Fraction
from itertools import combinations
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton, QWidget

from idler.app import theme
from idler.app.growth import SMALLEST, USUAL
from idler.app.pictures.chain import FinalPicture
from idler.app.qt_wait import TooLong, until
from idler.app.run import Application
from idler.app.stations.drives.station import DrivesStation
from idler.app.stations.link.station import LinkStation
from idler.app.widgets.values import ValuePanel
from idler.core.controller.standing import Standing
from idler.core.machine import Address
from idler.core.proof.claims import Proof
from idler.core.table import AXIS
from idler.core.table.stations import Station
from idler.session.motion_words import motion_words
from tests.app.gui import GuiCase, SessionCase
from tests.support import A, X, Y, Z, at, verge

PITCH = at(X, "chain.pitch")


class Offline(SessionCase):
    on_bench = False

    def setUp(self) -> None:
        super().setUp()
        self.window.open_station(Station.DRIVES)
        self.page = self.window.page(Station.DRIVES)
        assert isinstance(self.page, DrivesStation)

    def words(self) -> str:
        return " ".join(label.text() for label in self.window.margin.findChildren(QLabel) if label.isVisible())

    def test_a_typed_value_is_taken_and_says_what_it_became(self) -> None:
        self.type_into("chain.pitch", "0.25 in")
        self.assertEqual(self.value("chain.pitch"), Fraction(127, 20))
        self.assertEqual(self.field("chain.pitch").editor.text(), "6.35")
        self.assertIn("0.25 in became 6.35 mm", self.window.notice.words)

    def test_bad_input_stays_in_the_field_with_its_reason_and_changes_nothing(self) -> None:
        self.type_into("chain.pitch", "5 m")
        self.assertEqual(self.session.machine, verge())
        self.assertEqual(self.field("chain.pitch").editor.text(), "5 m")
        self.assertIn("too large", self.window.notice.words)
        self.assertIn("stays 5 mm", self.window.notice.words)
        self.type_into("chain.pitch", "4")
        self.assertEqual(self.value("chain.pitch"), 4)

    def test_every_edit_can_be_undone_and_done_again(self) -> None:
        self.type_into("chain.pitch", "4")
        self.type_into("pace.acceleration", "0.1 s")
        self.session.set_values({at(X, "axis.reversed"): True})
        edited = self.session.machine
        for _ in range(3):
            QTest.keyClick(self.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.session.machine, verge())
        for _ in range(3):
            QTest.keyClick(self.window, Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.session.machine, edited)

    def test_dragging_the_point_is_one_step_of_undo(self) -> None:
        pace_map = self.page.pace.pace_map
        scene, box = pace_map._scene, pace_map.box()
        start = scene.position(box, scene.speed, scene.acceleration).toPoint()
        QTest.mousePress(pace_map, Qt.MouseButton.LeftButton, pos=start)
        for step in range(1, 6):
            QTest.mouseMove(pace_map, start + QPoint(-6 * step, -4 * step))
        QTest.mouseRelease(pace_map, Qt.MouseButton.LeftButton, pos=start + QPoint(-30, -20))
        self.assertLess(self.value("pace.top_speed"), 3000)
        self.assertGreater(self.value("pace.acceleration"), 250)
        self.assertEqual(self.value("pace.deceleration"), self.value("pace.acceleration"))
        self.assertEqual(self.session.undo_stack.count(), 1)
        self.session.undo_stack.undo()
        self.assertEqual(self.session.machine, verge())

    def test_the_point_moves_by_keys(self) -> None:
        self.page.pace.pace_map.setFocus()
        QTest.keyClick(self.page.pace.pace_map, Qt.Key.Key_Right)
        self.assertGreater(self.value("pace.top_speed"), 3000)
        QTest.keyClick(self.page.pace.pace_map, Qt.Key.Key_Down)
        self.assertLess(self.value("pace.acceleration"), 250)
        self.assertEqual(self.session.undo_stack.count(), 2)

    def test_stages_are_added_changed_and_taken_out_in_place(self) -> None:
        self.page.chain.add("3 : 1")
        self.assertEqual([str(s) for s in self.session.machine.axis(X).stages], ["20 to 20 teeth", "3 : 1"])
        from idler.app.stations.drives.chain import StageField

        second = self.page.chain.findChildren(StageField)[-1]
        second.editor.setText("12 to 48 teeth")
        second.editor.setModified(True)
        second.editor.editingFinished.emit()
        self.assertEqual(self.session.machine.axis(X).stages[1].reduction, 4)
        third = [f for f in self.page.chain.findChildren(StageField) if f.isVisible()][-1]
        third.editor.setText("twelve")
        third.editor.setModified(True)
        third.editor.editingFinished.emit()
        self.assertIn("is not a stage", self.window.notice.words)
        self.assertEqual(self.session.machine.axis(X).stages[1].reduction, 4)
        self.click(next(f for f in self.page.chain.findChildren(StageField) if f.isVisible()).findChild(QPushButton))
        self.assertEqual([str(s) for s in self.session.machine.axis(X).stages], ["12 to 48 teeth"])

    def test_the_margin_shows_before_and_after_and_every_axis(self) -> None:
        self.type_into("chain.pitch", "4")
        self.field("chain.pitch").editor.setFocus()
        words = self.words()
        for part in (
            "X pitch of the screw",
            "How to find it",
            "5 mm →",
            "4 mm",
            "320 →",
            "400",
            "600 rpm →",
            "750 rpm",
            "worm",
        ):
            self.assertIn(part, words)
        self.assertIn("it rests on this: Drives, Scale, Homing, Travel, Geometry, Trial.", words)

    def test_a_finding_is_settled_by_its_button(self) -> None:
        self.type_into("pace.top_speed", "30 m/min")
        self.type_into("pace.motor_speed", "9000 rpm")
        self.assertIn("22\u202f500 mm/min", self.words())
        self.click(
            next(
                b for b in self.window.margin.findChildren(QPushButton) if b.isVisible() and b.text().startswith("Set ")
            )
        )
        self.assertEqual([item for item in self.session.findings() if item.holds_back], [])
        self.assertEqual(self.value("pace.top_speed"), 22_500)

    def test_the_move_follows_length_and_shape(self) -> None:
        self.page.pace.length.setText("1 in")
        self.page.pace.length.editingFinished.emit()
        self.assertIn("takes 0.708 s", self.page.pace._takes.text())
        self.session.set_values({at(X, "pace.shape"): "limited"})
        self.assertIn("takes 0.758 s", self.page.pace._takes.text())
        self.session.set_values({at(X, "pace.top_speed"): Fraction(0)})
        self.assertIn("never ends", self.page.pace._takes.text())

    def test_every_kind_of_train_is_drawn(self) -> None:
        pictures = []
        for final in ("screw", "rack", "belt", "worm", "direct"):
            self.session.set_values({at(X, "chain.final"): final})
            self.app.processEvents()
            shown = [p for p in self.page.chain.findChildren(FinalPicture) if p.isVisible()]
            self.assertEqual(len(shown), 1)
            pictures.append(shown[0].grab().toImage())
        self.assertTrue(all(a != b for a, b in combinations(pictures, 2)))
        self.page.show_axis(A)
        self.session.set_values({at(A, "chain.motor"): "counts"})
        self.assertEqual(self.field("chain.motor_counts").address, at(A, "chain.motor_counts"))

    def test_inches_on_the_screen_change_no_value(self) -> None:
        self.session.set_values({at(None, "names.screen_unit"): "in"})
        self.assertEqual(self.field("chain.pitch").editor.text(), "0.19685")
        self.type_into("chain.pitch", "0.2")
        self.assertEqual(self.value("chain.pitch"), Fraction(127, 25))
        self.assertEqual(self.window.jog.steps[0], "1")

    def test_all_ten_stations_open_and_say_what_they_prove(self) -> None:
        for station in Station:
            self.window.open_station(station)
            said = [label.text() for label in self.window.findChildren(QLabel) if label.isVisible()]
            self.assertIn(station.proves, said, station)
        self.window.train.setFocus()
        QTest.keyClick(self.window.train, Qt.Key.Key_Right)
        self.assertIs(self.window.train.here, Station.LINK)

    def test_values_without_a_picture_are_typed_into_plain_fields(self) -> None:
        panel = ValuePanel(self.session, [row for row in AXIS.values() if row.group == "travel"])
        panel.show_axis(Y)
        low = next(f for f in panel._fields if f.address.key == "travel.low")
        low.editor.setText("-100")
        low.editor.setModified(True)
        low.editor.editingFinished.emit()
        self.assertEqual(self.value("travel.low", Y), -100)

    def test_name_and_unit(self) -> None:
        from idler.app.tools.dialogs import NamesDialog

        dialog = NamesDialog(self.window, self.session)
        unit = next(f for f in dialog.panel._fields if f.address.key == "names.screen_unit")
        unit.editor.setCurrentIndex(1)
        unit.editor.activated.emit(1)
        self.assertTrue(self.session.machine.inch)
        dialog.reject()

    def test_nothing_is_wider_or_higher_than_the_smallest_window(self) -> None:
        self.window.resize(*SMALLEST)
        for station in Station:
            self.window.open_station(station)
            until(lambda: self.window.minimumSizeHint().height() <= SMALLEST[1], f"{station.label} to find room")
            self.assertEqual((self.window.width(), self.window.height()), SMALLEST)
            self.assertLessEqual(self.window.minimumSizeHint().width(), SMALLEST[0], station)

    def test_night_and_paper(self) -> None:
        self.window.set_night(True)
        night = self.window.grab().toImage().pixelColor(5, 780).lightness()
        self.window.set_night(False)
        self.assertLess(night, 60)
        self.assertGreater(self.window.grab().toImage().pixelColor(5, 780).lightness(), 180)

    def test_revisions_are_kept_listed_and_gone_back_to(self) -> None:
        self.type_into("chain.pitch", "4")
        dialog = self.window.open_keep()
        QTest.keyClicks(dialog.note, "measured")
        self.click(dialog.keep_button)
        self.assertEqual(self.session.base, self.session.machine)
        self.window.open_revisions()
        listing = self.window.page(Station.SIGN_OFF).revisions
        self.assertEqual(len(listing.texts), 2)
        self.click(listing.back_buttons[1])
        self.assertEqual(self.value("chain.pitch"), 5)
        self.session.undo_stack.undo()
        self.assertEqual(self.value("chain.pitch"), 4)

    def test_closed_and_opened_again_everything_is_there(self) -> None:
        self.type_into("chain.pitch", "4")
        self.session.history.keep("measured")
        self.type_into("chain.starts", "2")
        self.application.close()
        self.open()
        self.assertEqual((self.value("chain.pitch"), self.value("chain.starts")), (4, 2))
        self.assertEqual(self.session.history.whole()[0].note, "measured")
        self.assertEqual(self.session.base[at(X, "chain.starts")], 1)

    def test_a_full_disk_is_said_and_the_edit_stays_on_the_screen(self) -> None:
        drafts = self.root / "drafts"
        drafts.write_text("in the way")
        self.type_into("chain.pitch", "4")
        self.assertIn("not on the disk", self.window.notice.words)
        self.assertEqual(self.value("chain.pitch"), 4)


class Killed(unittest.TestCase):
    def test_a_draft_survives_a_kill_of_the_application(self) -> None:
        script = (
            "import sys\nfrom pathlib import Path\nfrom idler.app.run import Application, qt_application\n"
            "from tests.support import X, at\napp = qt_application()\n"
            "application = Application(Path(sys.argv[1]), demo=False)\napplication.show()\n"
            "application.session.edit(at(X, 'chain.pitch'), '4 mm')\nprint('edited', flush=True)\napp.exec()\n"
        )
        with tempfile.TemporaryDirectory() as folder:
            environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
            process = subprocess.Popen(
                [sys.executable, "-c", script, folder], stdout=subprocess.PIPE, text=True, env=environment,
                cwd=Path(__file__).resolve().parents[2],
            )  # fmt: skip
            assert process.stdout is not None
            self.assertEqual(process.stdout.readline(), "edited\n")
            process.send_signal(signal.SIGKILL)
            process.communicate()
            from idler.shelf.shelf import Shelf

            drafted, lost = Shelf(Path(folder)).draft("verge", verge())
            self.assertEqual((drafted, lost), (verge().with_values({PITCH: Fraction(4)}), []))


class Demo(GuiCase):
    def test_the_demo_starts_its_bench_connects_and_ends_it(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            application = Application(Path(folder), demo=True, pace=20)
            self.addCleanup(application.close)
            application.show()
            until(
                lambda: application.session.connected and application.session.history.found is not None,
                "the bench",
                120,
            )
            application.close()
            self.assertFalse(application.bench.running)


class FirstContact(SessionCase):
    fresh = True

    def test_first_contact_keeps_what_was_found(self) -> None:
        self.assertTrue(self.session.history.found)
        newest = self.session.history.whole()[0]
        self.assertTrue(newest.as_found)
        self.assertEqual(self.session.history.at(newest), verge())
        page = self.window.page(Station.LINK)
        assert isinstance(page, LinkStation)
        self.assertEqual(page._facts["serial number"].text(), "26110417")
        self.assertIn("Kept as found: revision 2", page._found.text())
        self.assertIs(self.window.train._states[Station.LINK], Proof.PROVEN)


class OnTheBench(SessionCase):
    def run_to_speed(self, slot: int = X) -> None:
        until(lambda: abs(self.session.link.axes[slot].velocity) > 100, "motion")

    def test_edit_send_and_standing(self) -> None:
        self.window.open_station(Station.DRIVES)
        self.type_into("chain.pitch", "4 mm")
        self.session.edit(at(None, "signals.step_rate"), "60 kHz")
        self.assertIs(self.session.standing(PITCH), Standing.EDITED)
        self.assertEqual(self.window.header.send_button.text(), "Send 2…")
        self.assertEqual(self.field("chain.pitch")._frame.property("standing"), "edited")
        dialog = self.window.open_send()
        self.assertTrue(dialog.restart.isChecked())  # nothing is homed that a restart could lose
        dialog.restart.setChecked(False)
        self.click(dialog.send_button)
        until(lambda: not self.session.count().edited, "sending")
        self.assertEqual(self.session.count().waiting, (at(None, "signals.step_rate"),))
        self.assertIn("1 value waiting for a restart", self.window.header._standing.toolTip())
        self.window.open_station(Station.LINK)
        self.click(self.window.page(Station.LINK).restart_button)
        until(lambda: self.session.connected and not self.session.count().waiting, "the restart")
        self.assertIs(self.session.standing(PITCH), Standing.IN_FORCE)
        self.session.history.keep("sent and tried")
        self.assertIs(self.session.standing(PITCH), Standing.SAME)

    def test_a_restart_that_nobody_asked_for(self) -> None:
        self.power()
        self.bench.hands.ask(do="dip")
        until(lambda: "restarted by itself" in self.window.notice.words, "the notice")
        until(lambda: self.session.connected and not self.session.powered, "its values")

    def test_a_step_beyond_the_end_goes_there_or_is_refused(self) -> None:
        self.power()
        self.session.link.home_here(X)
        until(lambda: self.session.link.axes[X].homed, "home")
        self.window.jog.set_step("10")
        self.click(self.window.rails.rows[X].minus)
        until(lambda: self.session.link.axes[X].position < -7.9, "a step to minus")
        self.click(self.window.rails.rows[X].plus)
        until(lambda: self.session.link.axes[X].position == 0.0, "the end itself")
        until(lambda: self.window.rails.rows[X]._words == "at its limit", "the word")
        self.click(self.window.rails.rows[X].minus)
        until(lambda: self.session.link.axes[X].position < -9.9, "back")
        self.rest()
        self.session.set_values({at(X, "travel.beyond"): "refuse", at(X, "travel.high"): Fraction(-3)})
        self.session.send()
        until(lambda: not self.session.count().edited, "sending")
        self.click(self.window.rails.rows[X].plus)
        until(lambda: self.window.rails.rows[X]._words == "limit: refused", "the refusal")
        self.assertLess(self.session.link.axes[X].position, -9.9)

    def test_errors_are_not_sent(self) -> None:
        self.session.set_values({at(X, "pace.acceleration"): Fraction(0)})
        dialog = self.window.open_send()
        self.assertFalse(dialog.send_button.isEnabled())
        dialog.reject()
        self.session.send()
        self.assertIn("Nothing was sent. X has no acceleration", self.window.notice.words)

    def test_mouse_jogging_steps_and_holds(self) -> None:
        self.power()
        rail = self.window.rails.rows[X]
        self.click(rail.minus)
        until(lambda: abs(self.session.link.axes[X].position + 1) < 0.01, "a step of 1 mm")
        self.rest()
        self.click(next(b for b in self.window.rails._step_buttons if b.text() == "hold"))
        QTest.mousePress(rail.plus, Qt.MouseButton.LeftButton)
        self.run_to_speed()
        QTest.mouseRelease(rail.plus, Qt.MouseButton.LeftButton)
        self.rest()
        now = lambda: f"{self.session.link.axes[X].position:.3f}".replace("-", "−")  # noqa: E731
        until(lambda: rail._position.text() == now(), "the figure on the rail")

    def test_keys_jog_only_when_armed(self) -> None:
        self.power()
        QTest.keyClick(self.window, Qt.Key.Key_Right)
        self.assertFalse(self.window.jog.targets)
        QTest.keyClick(self.window, Qt.Key.Key_F6)
        self.assertTrue(self.window.jog.armed)
        QTest.keyClick(self.window, Qt.Key.Key_Right)
        until(lambda: abs(self.session.link.axes[X].position - 1) < 0.01, "the step by key")
        self.window.jog.set_step("")
        QTest.keyPress(self.window, Qt.Key.Key_Up)
        self.run_to_speed(Y)
        QTest.keyRelease(self.window, Qt.Key.Key_Up)
        self.rest()
        QTest.keyClick(self.window, Qt.Key.Key_F6)
        self.assertFalse(self.window.jog.armed)

    def test_a_second_key_lets_the_first_axis_go(self) -> None:
        self.power()
        self.window.jog.set_step("")
        self.window.jog.arm(True)
        QTest.keyPress(self.window, Qt.Key.Key_Right)
        self.run_to_speed(X)
        QTest.keyPress(self.window, Qt.Key.Key_Up)
        self.run_to_speed(Y)
        until(lambda: not self.session.link.axes[X].moving, "X to rest")
        QTest.keyRelease(self.window, Qt.Key.Key_Right)
        QTest.keyRelease(self.window, Qt.Key.Key_Up)
        self.rest()

    def test_the_window_that_loses_the_focus_disarms(self) -> None:
        self.power()
        self.window.jog.arm(True)
        self.application.show_bench()
        self.application.bench_window.activateWindow()
        until(lambda: not self.window.jog.armed, "disarming")

    def hold_and_escape(self, target) -> None:
        self.window.jog.set_step("")
        for _ in range(5):  # a computer that pauses ends a held jog, rightly; a person would press again
            self.window.jog.press(X, -1)
            with contextlib.suppress(TooLong):
                until(lambda: abs(self.session.link.axes[X].velocity) > 100, "motion", seconds=5)
                break
            self.window.jog.let_go()
        target.setFocus()
        self.escape(target)
        self.rest()
        self.assertEqual(motion_words(self.session), "drives powered, stopped")

    def test_escape_stops_from_the_window_a_field_a_dialog_and_the_bench_window(self) -> None:
        self.power()
        self.hold_and_escape(self.window)
        self.window.open_station(Station.DRIVES)
        self.hold_and_escape(self.field("chain.pitch").editor)
        dialog = self.window.open_keep()
        self.hold_and_escape(dialog)
        self.application.show_bench()
        self.hold_and_escape(self.application.bench_window)

    def test_the_stop_button_acts_when_it_goes_down(self) -> None:
        self.power()
        self.window.jog.set_step("")
        self.window.jog.press(X, -1)
        self.run_to_speed()
        QTest.mousePress(self.window.header.stop_button, Qt.MouseButton.LeftButton)
        self.rest()
        QTest.mouseRelease(self.window.header.stop_button, Qt.MouseButton.LeftButton)

    def test_the_emergency_stop_is_said_with_the_way_back(self) -> None:
        self.wire()
        self.power()
        self.application.show_bench()
        bench = self.application.bench_window
        until(lambda: bench.instruments.place.count() > 4, "the bench window")
        self.click(bench.stop)
        until(lambda: "Release the emergency stop" in self.window.incident.words, "the strip")
        until(lambda: motion_words(self.session) == "emergency stop pressed", "the state")
        self.assertEqual(self.window.incident.property("kind"), "fault")
        self.click(self.window.rails.power)
        until(lambda: "Release it at the machine" in self.window.notice.words, "the refusal")
        until(lambda: bench.stop.isChecked(), "the button to be seen pressed")
        self.click(bench.stop)
        until(lambda: "fault is gone" in self.window.notice.words, "the release")
        until(lambda: motion_words(self.session).startswith(("fault", "drives off")), "the input")
        self.power()

    def test_the_header_has_room_for_all_of_it_in_the_smallest_window(self) -> None:
        """With soft limits off and a long state: the machine's name gives way first, and nothing lies upon anything.

        It holds as soon as the words are another's, without a turn of the loop.
        """
        self.power()
        self.session.set_values({at(slot, "travel.limits_on"): False for slot in (0, 1, 2)})
        header = self.window.header
        self.addCleanup(lambda: self.window.resize(*USUAL))
        self.addCleanup(header.show_revision, "revision 1")
        for size, revision in (
            (SMALLEST, "revision 1"),
            (SMALLEST, "revision 123 of last summer"),
            (USUAL, "revision 1"),
        ):
            self.window.resize(*size)
            header.show_revision(revision)
            if size == SMALLEST:
                self.assertTrue(header.machine.text().startswith("Verge "), "its own name alone")
            boxes = [
                widget.geometry() for widget in header.children() if isinstance(widget, QWidget) and widget.isVisible()
            ]
            self.assertGreater(len(boxes), 6)
            for one, other in combinations(boxes, 2):
                self.assertFalse(one.intersects(other), (size, one, other))

    def test_the_rule_shows_what_the_screen_does_not(self) -> None:
        self.power()
        self.application.show_bench()
        bench = self.application.bench_window
        until(
            lambda: bench.instruments.place.count() > 4 and bench.instruments.instrument.count() == 7,
            "the bench window",
        )
        self.click(self.window.rails.rows[X].minus)  # takes the play out
        until(lambda: self.session.link.axes[X].position < -0.99, "the first step")
        self.rest()
        self.click(bench.instruments.zero_button)
        until(lambda: bench.instruments.reading.text() == "zero", "zero")
        self.window.jog.set_step("10")
        for _ in range(2):
            self.click(self.window.rails.rows[X].minus)
        until(lambda: self.session.link.axes[X].position < -20.99, "20 mm")
        self.rest()
        self.click(bench.instruments.read_button)
        until(lambda: bench.instruments.reading.text().endswith("mm"), "a reading")
        self.assertAlmostEqual(float(bench.instruments.reading.text().split()[0]), -16, delta=0.5)

    def test_hands_mark_the_bed_measure_between_the_marks_and_hold_a_dial_and_a_probe(self) -> None:
        self.power()
        self.application.show_bench()
        card = self.application.bench_window.instruments
        until(lambda: card.deed.count() == 4, "the hands")
        for number, way in ((1, 1), (2, 0)):
            self.assertEqual(card.deed.currentText(), f"mark {number} under the tool")
            self.click(card.do_button)
            until(lambda number=number: f"mark {number + 1}" in card.deed.itemText(0), "the mark")  # type: ignore[misc]
            self.window.jog.set_step("10")
            if way:
                self.click(self.window.rails.rows[X].minus)
                until(lambda: self.session.link.axes[X].position < -9.99, "10 mm")
                self.rest()
        card.place.setCurrentIndex(card.place.findText("mark 1 to mark 2"))
        self.assertFalse(card.zero_button.isEnabled())
        self.assertTrue(card.rule.isHidden())
        card.instrument.setCurrentIndex(card.instrument.findData("caliper"))
        self.click(card.read_button)
        until(lambda: card.reading.text().endswith("mm"), "the caliper")
        self.assertAlmostEqual(float(card.reading.text().split()[0]), 8, delta=0.3)  # 10 of a screw told too long
        card.deed.setCurrentIndex(card.deed.findText("lay the square"))
        self.click(card.do_button)
        until(lambda: card.place.findText("the blade of the square") > 0, "the square")
        card.place.setCurrentIndex(card.place.findText("the bed, from the spindle"))
        self.click(card.zero_button)
        until(lambda: card.reading.text() == "zero", "the dial")
        self.window.jog.set_step("1")
        self.click(self.window.rails.rows[Z].minus)
        until(lambda: self.session.link.axes[Z].position < -0.99, "1 mm")
        self.rest()
        self.click(card.read_button)
        until(lambda: card.reading.text().endswith("mm"), "the dial's reading")
        self.assertAlmostEqual(float(card.reading.text().split()[0]), 1, delta=0.05)
        card.deed.setCurrentIndex(card.deed.findText("put a touch probe in"))
        self.click(card.do_button)
        until(lambda: "hangs 8 mm" in card._note.text(), "the probe")

    def test_a_lost_link_keeps_the_edits_and_comes_back(self) -> None:
        self.session.set_values({PITCH: Fraction(4)})
        self.application.show_bench()
        hands = self.application.bench_window.hands
        hands.ask(lambda _: None, do="cut")
        until(lambda: not self.session.connected, "the loss")
        self.assertIn("Your edits are still here", self.window.notice.words)
        self.assertEqual(self.value("chain.pitch"), 4)
        hands.ask(lambda _: None, do="mend")
        until(lambda: self.session.connected, "the link")
        self.assertIs(self.session.standing(PITCH), Standing.EDITED)

    def test_a_jog_speed_that_cannot_be_used(self) -> None:
        speed = self.window.rails.speed
        for text in ("0", "fast", "900 s"):
            speed.setFocus()
            speed.selectAll()
            QTest.keyClicks(speed, text)
            QTest.keyClick(speed, Qt.Key.Key_Return)
            self.assertIn("jog speed", self.window.notice.words)
            self.assertEqual(speed.text(), "600")
        speed.selectAll()
        QTest.keyClicks(speed, "1.2 m/min")
        QTest.keyClick(speed, Qt.Key.Key_Return)
        self.assertEqual(self.window.jog.speed, 1200)

    def test_taking_over_what_the_controller_holds(self) -> None:
        self.session.set_values({PITCH: Fraction(4), Address(Y, "axis.reversed"): True})
        self.click(self.window.page(Station.LINK).take_button)
        self.assertEqual(self.session.machine, verge())
        self.session.undo_stack.undo()
        self.assertEqual(self.value("chain.pitch"), 4)

    def test_leaving_while_something_moves_stops_it(self) -> None:
        self.power()
        self.window.jog.set_step("10")
        self.window.jog.press(X, -1)
        self.run_to_speed()
        self.session.close()
        self.assertFalse(self.session.link.connected)


class Looks(unittest.TestCase):
    def test_text_has_contrast_on_every_ground(self) -> None:
        def luminance(color: str) -> float:
            parts = [int(color[k : k + 2], 16) / 255 for k in (1, 3, 5)]
            linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
            return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

        for tokens in (theme.PAPER, theme.NIGHT):
            for text, ground in theme.TEXT_PAIRS:
                high, low = sorted((luminance(getattr(tokens, text)), luminance(getattr(tokens, ground))), reverse=True)
                self.assertGreaterEqual((high + 0.05) / (low + 0.05), 4.5, (text, ground, tokens is theme.NIGHT))
