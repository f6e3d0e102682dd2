"""A simulated hand device and the real window and bench: assigned by moving it, and no motion without the dead man."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest import mock

from idler.app.qt_wait import until
from idler.app.tools.handdialog import HandDialog
from idler.core.hand.assignment import Assigned, Control, Does, Sort
from idler.core.machine import Address
from idler.link.hand import sources
from idler.link.hand.simulated import SimulatedHand
from tests.app.gui import SessionCase
from tests.support import X, Y, wiring

DEAD, WHEEL, STICK = Control(Sort.BUTTON, 288), Control(Sort.WHEEL, 8), Control(Sort.STICK, 0)


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
        self.assertIn("gone", self.window.notice.words)
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
