"""A simulated hand device and the real window and bench: assigned by moving it, and no motion without the dead man."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt

from idler.app.benchside.pendant import NAME, PendantRow
from idler.app.qt_wait import until
from idler.app.tools.handdialog import HandDialog
from idler.core.hand.assignment import Assigned, Control, Does, Sort
from idler.core.machine import Address
from idler.core.profile.terminals import Condition
from idler.core.spindle import ranges, told_range
from idler.link.hand import sources
from idler.link.hand.simulated import SimulatedHand
from tests.app.gui import SessionCase
from tests.support import X, Y, wiring

DEAD, WHEEL, STICK = Control(Sort.BUTTON, 288), Control(Sort.WHEEL, 8), Control(Sort.STICK, 0)
KNOB = Control(Sort.WHEEL, 7)


class Held(SessionCase):
    on_bench = True

    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        stand = mock.patch.object(sources, "SOCKETS", Path(folder.name))
        stand.start()
        self.addCleanup(stand.stop)
        self.made = SimulatedHand("Pendant", Path(folder.name))
        self.addCleanup(self.made.close)
        self.desk = self.window.hand
        self.desk.connect(sources.find()[0][0])
        until(lambda: self.made.listeners > 0, "the device")

    def powered(self) -> None:
        self.session.set_values(wiring())
        self.session.send()
        until(lambda: not self.session.busy and not self.session.count().to_send, "the wiring", 20)
        self.session.power(True)
        until(lambda: self.session.powered, "the drives", 20)
        for control, assigned in (
            (DEAD, Assigned(Does.DEAD_MAN)), (WHEEL, Assigned(Does.STEP, "X")), (STICK, Assigned(Does.SPEED, "Y")),
        ):  # fmt: skip
            self.desk.assign(control, assigned)

    def test_the_first_one_that_this_computer_ever_had_is_seen_when_it_is_plugged_in(self) -> None:
        with mock.patch.object(sources, "SOCKETS", sources.SOCKETS / "nothing was here yet"):
            dialog = self.window.open_dialog(HandDialog(self.window, self.session, self.desk))
            self.assertNotIn("First", dialog.devices.currentText())
            made = SimulatedHand("First")
            self.addCleanup(made.close)
            until(lambda: dialog.devices.findText("First", Qt.MatchFlag.MatchStartsWith) >= 0, "the device")
            dialog.reject()

    def test_it_is_assigned_by_moving_it_and_kept_for_its_kind(self) -> None:
        dialog = self.window.open_dialog(HandDialog(self.window, self.session, self.desk))
        self.made.do("wheel 8 1")
        until(lambda: self.desk.last == WHEEL, "the wheel")
        self.assertIn("wheel 8", dialog.moved.text())
        dialog.does.setCurrentIndex(dialog.does.findData(Does.STEP))
        dialog._offer()
        dialog.what.setCurrentText("Y")
        dialog.assign.click()
        self.assertEqual(self.desk.profile.of(WHEEL), Assigned(Does.STEP, "Y"))
        self.assertIn("wheel 8", dialog.list.item(0).text())
        device = self.desk.device
        assert device is not None
        self.desk.disconnect()
        self.desk.connect(device)
        self.assertEqual(self.desk.profile.of(WHEEL), Assigned(Does.STEP, "Y"))
        self.made.close()
        until(lambda: self.desk.device is None, "that it is gone")
        self.assertIn("was unplugged", self.window.notice.words)
        dialog.close()

    def test_a_wheel_and_a_stick_move_only_while_the_dead_man_is_held(self) -> None:
        self.powered()
        axes = lambda: self.session.axes  # noqa: E731
        stood = axes()[X].position
        self.made.do("wheel 8 2")
        until(lambda: "dead man" in self.window.notice.words, "that it is said")
        self.made.do("stick 0 1")
        self.made.do("button 288 down")
        until(lambda: self.desk.held, "the dead man")
        self.assertEqual(axes()[X].position, stood)
        self.made.do("wheel 8 2")
        until(lambda: abs(axes()[X].position - stood - 2) < 0.05 and not axes()[X].moving, "two steps", 20)
        self.made.do("stick 0 0.2")
        self.made.do("stick 0 -1")
        until(lambda: axes()[Y].moving, "the stick", 20)
        self.made.do("button 288 up")
        until(lambda: not axes()[Y].moving, "its end", 5)
        self.made.do("stick 0 0.9")
        self.made.do("button 288 down")
        until(lambda: self.desk.held, "the dead man")
        self.made.do("stick 0 -0.9")
        until(lambda: axes()[Y].moving, "the stick", 20)
        self.made.close()  # it is unplugged while it moves
        until(lambda: not axes()[Y].moving, "its end", 5)
        self.assertIsNone(self.desk.device)

    def test_after_a_stop_a_stick_that_trembles_moves_nothing(self) -> None:
        self.powered()
        self.made.do("button 288 down")
        self.made.do("stick 0 -0.9")
        until(lambda: self.session.axes[Y].moving, "the stick", 20)
        self.session.stop()
        until(lambda: not self.session.axes[Y].moving, "its end", 20)
        stood = self.session.axes[Y].position
        self.made.do("stick 0 -1")
        until(lambda: "let go of the dead man first" in self.window.notice.words, "that it is said")
        self.assertIn("let go of the dead man first", self.desk.held_words)
        self.assertEqual((self.session.axes[Y].position, self.session.axes[Y].moving), (stood, False))
        self.made.do("button 288 up")
        self.made.do("button 288 down")
        self.made.do("stick 0 -0.9")
        until(lambda: self.session.axes[Y].moving, "the stick", 20)

    def test_a_knob_turns_the_spindle_while_the_dead_man_is_held_and_gives_way_to_what_runs(self) -> None:
        self.powered()
        turns = lambda: bool(self.session.panel.conditions & Condition.SPINDLE)  # noqa: E731
        self.desk.assign(KNOB, Assigned(Does.SPINDLE))
        self.made.do("wheel 7 4")
        until(lambda: "dead man" in self.window.notice.words, "that it is said")
        self.made.do("button 288 down")
        self.made.do("wheel 7 4")
        until(turns, "the spindle", 20)
        (engaged,) = ranges(self.session.machine)[told_range(self.session.machine) :][:1]
        for more, share in ((0, 0.2), (2, 0.3)):
            self.made.do(f"wheel 7 {more}")
            speed = max(engaged.low, share * engaged.high)
            until(lambda: abs(self.rpm() - speed) < 0.05 * speed, f"{speed} rpm", 30)  # noqa: B023
        self.made.do("button 288 up")
        until(lambda: not turns(), "its end", 20)
        self.made.do("button 288 down")
        self.made.do("wheel 7 1")
        until(turns, "the spindle", 20)
        self.session.floor.take(self, "something else")
        until(lambda: not turns(), "its end", 20)
        self.made.do("wheel 7 1")
        until(lambda: "Something else is running" in self.window.notice.words, "that it is said")
        self.session.floor.leave(self)
        self.assertFalse(turns())

    def rpm(self) -> float:
        """As eyes see it."""
        return float(self.bench.hands.ask(do="look")["spindle"])

    def test_one_that_comes_back_is_in_the_hand_again_and_one_that_was_put_away_is_not(self) -> None:
        self.made.close()
        until(lambda: self.desk.device is None, "that it is gone")
        other = SimulatedHand("Another", sources.SOCKETS)
        self.addCleanup(other.close)
        back = SimulatedHand("Pendant", sources.SOCKETS)
        self.addCleanup(back.close)
        until(lambda: self.desk.device is not None and self.desk.device.name == "Pendant", "that it is back", 20)
        self.assertIn("in the hand again", self.window.notice.words)
        self.desk.disconnect()
        self.desk._look_for_it()
        self.assertIsNone(self.desk.device)

    def test_the_one_of_the_bench_is_plugged_in_seen_by_the_dialog_and_pulled_out(self) -> None:
        self.desk.disconnect()
        dialog = self.window.open_dialog(HandDialog(self.window, self.session, self.desk))
        pendant = PendantRow()
        self.addCleanup(pendant.pull_out)
        pendant.show()
        self.click(pendant.plug)
        until(lambda: dialog.devices.count() == 2, "that it is seen")
        dialog.devices.setCurrentIndex(next(n for n in range(2) if NAME in dialog.devices.itemText(n)))
        self.click(dialog.connect_button)
        until(lambda: pendant.made.listeners > 0, "the device")
        for moved, control in (
            (lambda: pendant.wheel.setValue(19), Control(Sort.WHEEL, 8)),
            (lambda: pendant.stick.setValue(500), STICK),
            (lambda: self.click(pendant.buttons["2"]), Control(Sort.BUTTON, 290)),
            (lambda: self.click(pendant.buttons["hold"]), DEAD),
        ):
            moved()
            until(lambda: self.desk.last == control, "it")  # noqa: B023
        self.desk.assign(DEAD, Assigned(Does.DEAD_MAN))
        self.click(pendant.buttons["hold"])
        self.click(pendant.buttons["hold"])
        until(lambda: self.desk.held, "the dead man")
        self.click(pendant.plug)
        until(lambda: self.desk.device is None, "that it is gone")
        dialog.close()

    def test_a_wheel_never_runs_after_the_hand(self) -> None:
        self.powered()
        self.session.edit(Address(None, "jog.slow"), "60")
        stood = self.session.axes[X].position
        self.made.do("button 288 down")
        for _ in range(40):
            self.made.do("wheel 8 1")
        until(lambda: self.desk.dropped > 20, "steps that are dropped", 20)
        self.made.do("button 288 up")
        until(lambda: not self.session.axes[X].moving, "its end", 5)
        self.assertLess(abs(self.session.axes[X].position - stood), 5)
