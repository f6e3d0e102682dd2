"""The pages of the Drives station on the bench: reliable pace, shaking, following error; and what they refuse."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtTest import QTest

from idler.app.qt_wait import until
from idler.core.machine import Machine
from idler.core.mechanics.torqueprint import TorquePrint
from idler.core.profile.codec import machine_from
from idler.core.proof.claims import Proof, pace_claim, state
from idler.procedures.drives.pace import Doing
from tests.app.seen import overlaps, painted
from tests.app.test_axes import DrivesCase
from tests.support import X, Y, Z, at

MUSCLE = {
    at(X, "motor.torque"): "0 1.9, 600 1.3, 1200 0.6", at(X, "motor.inertia"): Fraction(32, 10),
    at(X, "motor.friction"): Fraction(16, 100),
}  # fmt: skip


class Offline(DrivesCase):
    on_bench = False

    def test_the_torque_is_drawn_and_its_share_is_the_core_s(self) -> None:
        self.assertIsNone(self.page.pace.pace_map._scene.torque_share)
        self.session.set_values(MUSCLE)
        scene = self.page.pace.pace_map._scene
        self.assertAlmostEqual(scene.torque_share, (0.16 + 3.2e-4 * 6.2831853 * 250 / 5) / 1.3, places=4)
        speeds = [speed for speed, rise in scene.torque_line() if rise > 0]
        self.assertLess(max(speeds), 6000.1)
        self.page.turn_to("Motor")
        self.assertIsNotNone(self.page.motor.torque._muscle)

    def test_a_shape_is_chosen_in_the_picture_and_by_key(self) -> None:
        self.page.turn_to("Shape")
        picture = self.page.shape.picture
        QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=QPoint(picture.width() - 20, 30))
        self.assertEqual(self.value("pace.shape"), "smoothest")
        picture.setFocus()
        QTest.keyClick(picture, Qt.Key.Key_Left)
        self.assertEqual(self.value("pace.shape"), "limited")
        self.assertIn("jerk without limit", picture.accessibleDescription())
        self.assertIn("shaking not known", picture.accessibleDescription())
        self.session.set_values({at(X, "frame.rings"): Fraction(17)})
        self.assertIn("shakes ± ", picture.accessibleDescription())

    def test_without_a_controller_every_page_says_why_nothing_moves(self) -> None:
        self.page.turn_to("Reliable")
        for button in (self.page.reliable.search, self.page.reliable.prove):
            self.click(button)
            self.assertIn("Nothing was run. No controller is connected", self.window.notice.words)
        self.page.turn_to("Direction")
        self.click(self.page.direction.go)
        self.assertIn("Nothing was moved. No controller is connected", self.window.notice.words)

    def test_a_torque_print_is_laid_over_the_one_that_is_chosen(self) -> None:
        self.page.turn_to("Torque")
        page = self.page.torque
        self.click(page.go)
        self.assertIn("Nothing was printed. No controller is connected", self.window.notice.words)
        self.assertFalse(page.over.isEnabled())
        day = 86_400.0
        for when, share in ((1 * day, 0.1), (200 * day, 0.2), (400 * day, 0.2)):
            self.session.keep_print("X", TorquePrint(when, 600.0, -100.0, 0.0, (share,) * 48, (share,) * 48))
        page.refresh()
        self.assertEqual(page.over.count(), 2)
        self.assertIn("As on 20 Jul 1970", page.words.text())
        page.over.setCurrentIndex(1)
        page.over.activated.emit(1)
        self.assertIn("100 % more than on 2 Jan 1970", page.words.text())
        self.assertIn("20 % to +, 20 % to −, 0 tight", page.picture.accessibleName())
        self.assertEqual(list(overlaps(painted(page.picture), QRectF(page.picture.rect()))), [])
        self.page.show_axis(Y)
        self.assertIn("goes slowly from end to end", page.words.text())

    def test_a_length_that_is_none_is_refused(self) -> None:
        self.page.turn_to("Reliable")
        self.page.reliable.length.setText("far")
        self.page.reliable.length.editingFinished.emit()
        self.assertIn("length of the runs", self.window.notice.words)
        self.assertEqual(self.page.reliable.length.text(), "60 mm")


class OnBench(DrivesCase):
    pace = 40

    def held(self) -> Machine:
        """What the controller holds now, read anew."""
        before = self.session.holding
        self.session.link.read_all()
        until(lambda: self.session.holding is not before and not self.session.busy, "the values")
        assert self.session.holding is not None
        return machine_from(self.session.holding.raws, self.session.holding.shape)

    def ready(self) -> None:
        self.session.set_values(
            {at(X, "pace.acceleration"): Fraction(1600), at(X, "pace.deceleration"): Fraction(1600)}
        )
        self.wire()
        self.power()
        self.page.turn_to("Reliable")

    def test_it_finds_where_steps_are_lost_and_leaves_the_controller_as_it_was(self) -> None:
        self.ready()
        before = self.held()
        page = self.page.reliable
        for _ in range(4):  # where this computer pauses the controller stops, and a person would begin again
            self.home(X)
            self.click(page.search)
            until(lambda: page.run.doing is Doing.NOTHING, "the search", seconds=240)
            if page.run.search is not None and page.run.search.proposal is not None:
                break
        self.assertFalse(self.session.link.axes[X].homed)  # steps were lost: its coordinates mean nothing any more
        search = page.run.search
        assert search is not None and search.proposal is not None
        self.assertEqual(self.held(), before)
        self.assertFalse([t for t in search.trials if t.held and abs(t.shift) > 0.05])
        self.assertTrue([t for t in search.trials if not t.held and abs(t.shift) > 0.05])
        self.click(page.take)
        self.assertEqual(self.value("pace.top_speed"), search.proposal[0])
        self.session.send()
        until(lambda: not self.session.count().to_send, "the pace to be sent")
        self.click(page.prove)
        until(lambda: "pace.X" in self.session.proofs, "the proof", seconds=120)
        claim = pace_claim(self.session.machine, X)
        self.assertIs(state(self.session.machine, claim, self.session.proofs), Proof.PROVEN)
        self.assertIn("4 times 60 mm each way", self.session.proofs["pace.X"].result)

    def test_esc_ends_it_at_any_point_and_puts_the_old_pace_back(self) -> None:
        self.ready()
        before = self.held()
        page = self.page.reliable

        def tried() -> int:
            return len(page.run.search.trials) if page.run.search is not None else 0

        for _ in range(4):
            self.home(X)
            self.click(page.search)
            until(lambda: page.run.doing is Doing.NOTHING or tried() > 1, "a trial", seconds=90)
            if page.run.doing is not Doing.NOTHING:
                break
        until(lambda: self.session.moving, "motion")
        self.escape()
        self.assertIs(page.run.doing, Doing.NOTHING)
        self.assertIn("It was stopped", page.words.text())
        self.rest()
        until(lambda: page.run.settled, "the old values to be back")
        self.assertEqual(self.held(), before)

    def test_an_axis_without_a_switch_is_refused(self) -> None:
        self.power()
        self.page.turn_to("Reliable")
        self.click(self.page.reliable.search)
        self.assertIn("has no home switch or index mark", self.window.notice.words)

    def test_the_gauge_of_the_bench_shows_what_was_worked_out(self) -> None:
        self.session.set_values({at(X, "frame.rings"): Fraction(17)})
        self.session.send()
        until(lambda: not self.session.count().to_send, "the value to be sent")
        self.power()
        self.page.turn_to("Shape")
        self.click(self.page.shape.run_button)
        until(lambda: self.page.shape.picture._scenes[0].seen is not None, "the gauge")
        scene = self.page.shape.picture._scenes[0]
        assert scene.seen is not None and scene.shaking is not None
        self.assertGreater(scene.seen, 0.0)

    def test_the_lag_of_a_measured_axis_is_drawn_and_a_held_one_is_stopped(self) -> None:
        self.session.set_values({at(Z, "loop.measured"): True, at(Z, "loop.window"): Fraction(1, 20)})
        self.session.send()
        until(lambda: not self.session.count().to_send, "the values to be sent")
        self.power()
        self.page.show_axis(Z)
        self.page.turn_to("Motor")
        self.click(self.window.rails._step_buttons[1])
        self.jog(Z)
        until(lambda: self.page.motor.lag.largest > 0, "a trace")
        stopped: list[object] = []
        self.session.stopped.subscribe(stopped.append)
        self.bench.hands.ask(do="jam", axis="Z")
        self.addCleanup(lambda: self.bench.hands.ask(do="free", axis="Z"))
        self.click(self.window.rails.rows[Z].minus)
        until(lambda: stopped, "the stop")
        self.assertEqual(stopped[0].code, 0x8611)  # type: ignore[attr-defined]
        self.assertEqual(stopped[0].axis, Z)  # type: ignore[attr-defined]
