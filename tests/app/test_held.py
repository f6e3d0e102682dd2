"""Motion that somebody holds: it ends when the hand is gone, whatever took it away; and only one thing moves the machine."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QDialog, QPushButton

from idler.app.qt_wait import until
from idler.app.widgets.machinebutton import MachineButton
from idler.core.profile.cia402 import State
from idler.core.table.stations import Station
from tests.app.gui import SessionCase
from tests.support import X, Y, at

_MODIFIERS = (Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.MetaModifier)
# What has a key but does not move the machine, or only ends something.
_STATIONS = (Station.WIRING, Station.DRIVES, Station.SCALE, Station.HOMING, Station.TRAVEL, Station.SPINDLE)


class Held(SessionCase):
    def hold(self, press=None) -> None:  # type: ignore[no-untyped-def]
        """X runs to − while something is held; a computer that pauses ends it, rightly, and a person presses again."""
        self.window.jog.set_step("")

        def again() -> None:
            self.window.jog.arm(True)
            if press is None:
                QTest.keyPress(self.window, Qt.Key.Key_Left)
            else:
                press()

        self.again(again, lambda: self.session.link.axes[X].velocity < -100, "motion")

    def test_a_key_lets_go_whatever_is_pressed_beside_it(self) -> None:
        self.power()
        for modifier in _MODIFIERS:
            self.hold()
            QTest.keyRelease(self.window, Qt.Key.Key_Left, modifier)
            self.rest()
            self.assertTrue(self.window.jog.armed)

    def test_a_key_lets_go_whichever_window_gets_its_release(self) -> None:
        self.power()
        other = QPushButton("beside")
        other.show()
        self.addCleanup(other.close)
        self.hold()
        QTest.keyRelease(other, Qt.Key.Key_Left)
        self.rest()

    def test_a_key_lets_go_whatever_is_chosen_meanwhile(self) -> None:
        self.power()
        jog = self.window.jog
        for choose in (
            lambda: jog.set_fast(not jog.fast),
            lambda: jog.set_speed("300"),
            lambda: jog.set_step(jog.steps[0]),
        ):
            self.hold()
            choose()
            QTest.keyRelease(self.window, Qt.Key.Key_Left)
            self.rest()

    def test_a_menu_a_list_and_a_dialog_let_go_and_disarm(self) -> None:
        self.power()
        box = QComboBox(self.window)
        box.addItems(["one", "two"])
        box.show()
        dialog = QDialog(self.window)
        menu = self.window.rails.rows[X]._state.menu()
        for appear, vanish in (
            (lambda: menu.popup(QPoint(10, 10)), menu.close), (box.showPopup, box.hidePopup), (dialog.open, dialog.close),
        ):  # fmt: skip
            self.hold()
            appear()
            until(lambda: not self.window.jog.armed, "disarming")
            self.rest()
            vanish()
            self.window.activateWindow()
            until(self.window.isActiveWindow, "the window")

    def test_a_finger_that_slides_off_its_button_holds_nothing(self) -> None:
        self.power()
        button = self.window.rails.rows[X].minus
        screen, handle = QTest.createTouchDevice(), self.window.windowHandle()
        place = button.mapTo(self.window, QPoint(20, 20))
        self.hold(lambda: QTest.touchEvent(handle, screen).press(0, place, handle).commit())
        QTest.touchEvent(handle, screen).move(0, place + QPoint(0, -300), handle).commit()
        self.rest()
        self.assertFalse(button.isDown())
        QTest.touchEvent(handle, screen).move(0, place, handle).commit()  # and not again before it was lifted
        QTest.touchEvent(handle, screen).release(0, place, handle).commit()
        self.assertFalse(self.session.moving)

    def test_space_and_return_move_and_power_nothing_unless_the_keyboard_is_armed(self) -> None:
        self.power()
        rails = self.window.rails
        for key in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            QTest.keyClick(rails.rows[X].minus, key)
            self.assertIn("only while the keyboard is armed", self.window.notice.words)
            self.session.tell("plain", "")
        self.assertEqual(self.session.link.axes[X].position, 0.0)
        QTest.keyClick(rails.power, Qt.Key.Key_Space)  # power may always be taken away
        until(lambda: not self.session.powered, "the drives to be off")
        until(lambda: rails.power.text() == "Power drives", "the button")
        QTest.keyClick(rails.power, Qt.Key.Key_Space)
        self.assertEqual(self.session.power_asked, 1)
        self.power()
        self.window.jog.arm(True)
        QTest.keyClick(rails.rows[X].minus, Qt.Key.Key_Space)
        until(lambda: self.session.link.axes[X].position < -0.9, "the armed step")
        self.rest()

    def test_whatever_moves_or_powers_at_any_station_is_such_a_button(self) -> None:
        words = {
            "Home X", "Home all, in turns", "Repeat 8 times", "Run round it slowly", "Park", "Prove both ends of X",
            "Find it", "Prove the pace as it is", "Move clear", "Power the drives", "Run the spindle", "Measure the curve",
        }  # fmt: skip
        found: set[str] = set()
        for station in _STATIONS:
            self.window.open_station(station)
            for button in self.window.page(station).findChildren(QPushButton):
                if button.text() in words:
                    found.add(button.text())
                    self.assertIsInstance(button, MachineButton, button.text())
        self.assertEqual(found, words)

    def test_power_off_in_the_middle_of_a_jog_stops_first(self) -> None:
        self.power()
        self.session.link.home_here(X)
        until(lambda: self.session.link.axes[X].homed, "home")
        self.hold()
        before = self.bench.hands.look("X")["at"] - self.session.link.axes[X].position
        self.click(self.window.rails.power)
        until(lambda: not self.session.powered, "the drives to be off")
        self.rest()
        self.assertTrue(self.session.link.axes[X].homed)
        now = self.bench.hands.look("X")
        # the controller counted what the carriage did: its screw is told as 5 and is 4, which a short way does not hide
        self.assertAlmostEqual(now["at"], 150 + 0.8 * (self.session.link.axes[X].position - 2.0), delta=0.1)
        self.assertNotEqual(before, 0.0)

    def test_a_press_that_moves_nothing_says_why(self) -> None:
        self.session.set_values(
            {at(11, "input.role"): "limit_low", at(11, "input.axis"): "X", at(11, "input.rest"): "open"}
        )
        self.session.send()
        until(lambda: not self.session.count().to_send, "the limit switch")
        self.power()
        self.session.set_values({at(11, "input.rest"): "closed"})  # as if it were made: nothing is wired there
        self.session.send()
        until(lambda: self.session.link.axes[X].limit_made == "low", "the limit switch to be made")
        self.click(self.window.rails.rows[X].minus)
        until(lambda: "X did not move to −: a limit switch of it is made" in self.window.notice.words, "the reason", 6)
        self.click(self.window.rails.rows[X].plus)
        until(lambda: self.session.link.axes[X].position > 0.9, "the way off")
        self.rest()

    def test_a_limit_chain_that_is_made_says_who_may_still_move_and_how(self) -> None:
        self.session.set_values({at(1, "input.role"): "limit_chain", at(1, "input.rest"): "closed"})
        self.again(self.session.send, lambda: not self.session.count().to_send, "the chain")
        self.power()
        self.bench.hands.ask(do="press", switch="X home")
        until(lambda: self.session.link.axes[X].unwatched, "the chain to be made")
        self.assertEqual(self.session.link.axes[X].limit_made, "")
        self.click(self.window.rails.rows[X].plus)
        until(lambda: self.session.link.axes[X].position > 0.9, "the step")
        self.assertIn("The limit chain is made, and nobody knows by which axis", self.window.notice.words)
        self.rest()
        self.bench.hands.ask(do="release", switch="X home")
        until(lambda: not self.session.link.axes[X].unwatched, "the chain to be clear")
        self.hold()
        self.bench.hands.ask(do="press", switch="X home")
        until(lambda: self.session.link.axes[X].limit_made == "low", "the end that X went to")
        self.rest()
        for slot, sign, moves in ((Y, "plus", False), (Y, "minus", False), (X, "minus", False), (X, "plus", True)):
            self.window.jog.set_step(self.window.jog.steps[0])
            before = self.session.link.axes[slot].position
            self.click(getattr(self.window.rails.rows[slot], sign))
            if moves:
                until(lambda before=before: self.session.link.axes[X].position > before + 0.5, "the way back")
            else:
                why = "another axis has gone onto" if slot == Y else "Only the way off it is open"
                until(lambda why=why: why in self.window.notice.words, why, 6)
                self.assertEqual(self.session.link.axes[slot].position, before)
        self.rest()
        self.bench.hands.ask(do="release", switch="X home")


class OneThing(SessionCase):
    def test_while_one_thing_runs_nothing_else_begins_and_says_what_runs(self) -> None:
        self.wire()
        self.power()
        self.window.open_station(Station.HOMING)
        homing = self.window.page(Station.HOMING)
        self.click(homing.all)  # type: ignore[attr-defined]
        until(lambda: self.session.moving, "motion")
        runs = "The homing of Z X Y A is running. Esc or STOP ends it."
        self.click(self.window.rails.rows[X].plus)
        self.assertIn(runs, self.window.notice.words)
        for station, press in (
            (Station.TRAVEL, lambda page: page.prove), (Station.SCALE, lambda page: page.go),
            (Station.DRIVES, lambda page: page.direction.go),
        ):  # fmt: skip
            self.session.tell("plain", "")
            self.window.open_station(station)
            press(self.window.page(station)).click()
            self.assertIn(runs, self.window.notice.words, station)
        self.assertTrue(self.session.moving)
        self.session.stop()
        self.rest()
        self.assertEqual(self.session.floor.words, "")
        self.assertIs(self.session.link.axes[Y].state, State.QUICK_STOP)
