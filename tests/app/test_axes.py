"""Axes in the window: menu, undo, draft, sending other axes; the direction by a move and a question; jogging."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from idler.app.qt_wait import until
from idler.app.shell.axisrail import AxisRail
from idler.app.stations.drives.direction import DirectionPage, DirectionStep
from idler.app.stations.drives.station import DrivesStation
from idler.core.mechanics.scale import INSTRUMENTS, Pass
from idler.core.proof.claims import Proof, Witness, direction_claim, state
from idler.core.table.stations import Station
from idler.procedures.engine import Ending
from idler.procedures.scale.onepass import PassStage
from tests.app.gui import SessionCase
from tests.support import A, X, Y, Z, at, verge


class DrivesCase(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.open_station(Station.DRIVES)
        page = self.window.page(Station.DRIVES)
        assert isinstance(page, DrivesStation)
        self.page = page

    @property
    def names(self) -> str:
        return "".join(self.session.machine.names)

    def jog(self, slot: int) -> None:
        was = self.session.link.axes[slot].position
        self.click(self.window.rails.rows[slot].plus)
        until(lambda: self.session.link.axes[slot].position != was, "motion")
        self.rest()


class Offline(DrivesCase):
    on_bench = False

    def test_the_menu_offers_what_can_be_done(self) -> None:
        self.page.menu._fill()
        texts = [action.text() for action in self.page.menu.menu().actions() if action.text()]
        self.assertEqual(texts[:2], ["Add an axis", "Rename X"])
        self.assertIn("Copy from Y", texts)
        self.assertFalse(self.page.menu.menu().actions()[2].isEnabled())  # X is the first already

    def test_an_axis_that_becomes_rotary_is_set_anew_in_one_step_of_undo(self) -> None:
        told: list[str] = []
        self.session.told.subscribe(lambda _kind, words: told.append(words))
        self.session.set_values({at(Y, "axis.kind"): "endless"})
        self.assertEqual((self.value("travel.high", Y), self.value("homing.coordinate", Y)), (0, 0))
        self.assertIn("Y: counts in another unit now", told[-1])
        self.session.set_values({at(Y, "axis.kind"): "linear", at(Y, "pace.top_speed"): Fraction(900)})
        self.assertEqual(self.value("pace.top_speed", Y), 900)  # what comes along with the kind is taken
        self.session.undo()
        self.session.undo()
        self.assertEqual(self.session.machine, verge())

    def test_what_was_measured_goes_with_the_axis_and_not_with_its_letter(self) -> None:
        made = [Pass(100, 99.9, 320, INSTRUMENTS[1])]
        self.session.keep_passes("X", made)
        self.session.homes.doubt({"X": 3.0})
        claim = direction_claim(self.session.machine, X)
        self.session.prove(claim, True, "seen", Witness.EYES)
        menu = self.page.menu
        menu.show_axis(X)
        menu.rename("U")
        self.assertEqual((self.session.passes, self.session.homes.in_doubt), ({"U": made}, {"U": 3.0}))
        self.assertIs(
            state(self.session.machine, direction_claim(self.session.machine, X), self.session.proofs), Proof.PROVEN
        )
        menu.add("X")
        self.assertNotIn("X", self.session.passes)
        fresh = self.session.machine.names.index("X")
        self.assertIs(
            state(self.session.machine, direction_claim(self.session.machine, fresh), self.session.proofs),
            Proof.ENTERED,
        )
        menu.show_axis(self.session.machine.names.index("U"))
        menu.remove()
        menu.add("U")  # another one of the letter that the first axis had
        self.assertNotIn("U", self.session.passes)
        for _ in range(4):
            self.session.undo()
        self.assertEqual(
            (self.session.machine, self.session.passes, self.session.homes.in_doubt), (verge(), {"X": made}, {"X": 3.0})
        )
        self.assertIs(state(self.session.machine, claim, self.session.proofs), Proof.PROVEN)
        kept = self.application._shelf.passes("verge")
        self.assertEqual(kept, {"X": made})

    def test_adding_renaming_ordering_removing_and_back_again(self) -> None:
        menu = self.page.menu
        menu.add("U")
        self.assertEqual((self.names, self.page.slot, len(self.window.rails.rows)), ("XYZAU", 4, 5))
        menu.rename("B")
        menu.move_to(0)
        self.assertEqual((self.names, self.page.slot), ("BXYZA", 0))
        menu.remove()
        self.assertEqual(self.session.machine, verge())
        for expected in ("BXYZA", "XYZAB", "XYZAU", "XYZA"):
            self.session.undo_stack.undo()
            self.assertEqual(self.names, expected)
        self.assertEqual(self.session.machine, verge())
        self.session.undo_stack.redo()
        self.assertEqual(len(self.window.rails.rows), 5)

    def test_pages_follow_an_axis_that_goes(self) -> None:
        for station in (Station.SCALE, Station.HOMING, Station.LINK, Station.DRIVES):
            self.window.open_station(station)
        self.page.show_axis(A)
        self.field("chain.wheel_teeth").editor.setFocus()
        self.page.menu.remove()
        self.assertEqual((self.names, self.page.slot), ("XYZ", Z))
        self.session.undo_stack.undo()
        self.assertEqual(self.names, "XYZA")

    def test_other_axes_are_in_the_draft_after_a_new_start(self) -> None:
        self.page.menu.add("V")
        self.session.set_values({at(4, "chain.pitch"): Fraction(3), at(X, "chain.pitch"): Fraction(4)})
        kept = self.session.machine
        self.application.close()
        self.open()
        self.assertEqual(self.session.machine, kept)
        self.session.history.keep("one more axis")
        self.assertEqual(self.session.base, kept)

    def test_copying_says_how_much(self) -> None:
        self.session.set_values({at(Y, "pace.top_speed"): Fraction(2500)})
        self.page.menu.copy(Y, ["pace"])
        self.assertEqual(self.value("pace.top_speed", X), 2500)
        self.assertIn("X from Y: ", self.window.notice.words)
        self.page.menu.copy(A, ["pace"])
        self.assertIn("cannot take values of A", self.window.notice.words)

    def test_a_reduction_in_two_steps_is_typed_into_one_field(self) -> None:
        self.page.chain.add("12 : 1 as 4 : 1 and 3 : 1")
        self.assertEqual([str(s) for s in self.session.machine.axis(X).stages][1:], ["4 : 1", "3 : 1"])

    def test_jog_speeds_and_steps_belong_to_the_machine(self) -> None:
        jog = self.window.jog
        self.assertEqual((jog.speed, jog.steps), (600, ("10", "1", "0.1", "0.01")))
        self.click(self.window.rails.speed_buttons[True])
        self.assertEqual(jog.speed, 2400)
        self.session.set_values({at(None, "jog.fast"): Fraction(1800), at(None, "jog.steps_mm"): "5 0.5"})
        self.assertEqual((jog.speed, jog.step), (1800, "0.5"))
        self.assertEqual([b.text() for b in self.window.rails._step_buttons], ["hold", "5", "0.5"])

    def test_every_target_is_large_enough_for_a_glove(self) -> None:
        rails = self.window.rails
        targets = [*rails._step_buttons, *rails.speed_buttons.values(), rails.power, rails.arm_button]
        targets += [button for row in rails.rows for button in (row.minus, row.plus)]
        for button in targets:
            self.assertGreaterEqual(min(button.width(), button.height()), 40, button.text())

    def test_a_lathe_shows_diameters(self) -> None:
        self.session.set_values({at(None, "build.kind"): "lathe", at(None, "build.cross"): "diameter"})
        self.assertIn("⌀", self.window.rails.rows[X]._unit.text())
        self.assertNotIn("⌀", self.window.rails.rows[Z]._unit.text())


class OnBench(DrivesCase):
    def sent(self) -> None:
        self.session.send()
        until(lambda: not self.session.count().to_send, "the values to be sent")

    def test_other_axes_are_sent_and_in_force_after_a_restart(self) -> None:
        self.page.show_axis(Y)
        self.page.menu.remove()
        self.assertIn("other axes", self.session.count().words)
        self.click(self.window.rails.rows[1].plus)  # Z here, Y in the controller
        self.assertIn("Nothing was moved. The axes here are X Z A", self.window.notice.words)
        next(a for a in self.window.rails.rows[1]._state.menu().actions() if "Home is here" in a.text()).trigger()
        self.assertIn("Nothing was done. The axes here are X Z A", self.window.notice.words)
        self.window.open_station(Station.SCALE)
        self.click(self.window.page(Station.SCALE).go)  # type: ignore[attr-defined]
        self.assertIn("The axes here are X Z A", self.window.notice.words)
        self.assertFalse(any(axis.homed for axis in self.session.link.axes))
        dialog = self.window.open_send()
        assert dialog is not None
        dialog.restart.setChecked(False)
        self.click(dialog.send_button)
        until(lambda: not self.session.count().to_send, "the axes to be sent")
        self.assertTrue(self.session.count().to_restart)
        self.click(self.window.rails.power)
        until(lambda: "waits for a restart" in self.window.notice.words, "the refusal")
        self.session.link.restart()
        until(lambda: not self.session.count().to_restart and not self.session.axes_obstacle, "the restart")
        self.assertEqual(len(self.session.link.axes), 3)
        self.power()
        was = self.bench.hands.look("Z")["at"]
        self.jog(1)
        self.assertAlmostEqual(self.bench.hands.look("Z")["at"], was + 1, delta=0.1)

    def test_a_reversed_axis_is_found_by_a_question_turned_round_and_proven(self) -> None:
        self.power()
        self.page.turn_to("Direction")
        self.page.show_axis(Y)
        page = self.page.direction
        for answer in (page.minus, page.plus):
            was = self.bench.hands.look("Y")["at"]
            self.click(page.go)
            until(lambda: page.step is DirectionStep.ASK, "the question")
            went = self.bench.hands.look("Y")["at"] - was
            self.assertEqual(went > 0, answer is page.plus)
            self.click(answer)
            if answer is page.minus:
                self.assertIn("goes the wrong way", page.title.text())
                self.click(page.turn)
                self.sent()
                self.power() if not self.session.powered else None
        claim = direction_claim(self.session.machine, Y)
        self.assertIs(state(self.session.machine, claim, self.session.proofs), Proof.PROVEN)
        self.assertIn("the table was seen to go towards you", self.session.proofs[claim.key].result)
        self.session.set_values({at(Y, "axis.moves"): "tool"})
        self.assertIs(
            state(self.session.machine, direction_claim(self.session.machine, Y), self.session.proofs), Proof.STALE
        )

    def looked_at(self, slot: int) -> DirectionPage:
        """The page of its direction, once it has made its small move and asks what was seen."""
        self.power()
        self.page.turn_to("Direction")
        self.page.show_axis(slot)
        page: DirectionPage = self.page.direction
        self.click(page.go)
        until(lambda: page.step is DirectionStep.ASK, "the question")
        return page

    def test_stop_while_a_hand_is_asked_for_ends_it_and_proposes_nothing(self) -> None:
        page = self.looked_at(X)
        self.click(page.nothing)
        until(lambda: page.which, "what a hand feels")
        self.session.stop()
        until(lambda: page.step is DirectionStep.START, "the end")
        self.assertIs(page.run.result.end, Ending.STOPPED)
        self.assertEqual((page.run.result.edit, page.turn.isVisible()), ({}, False))

    def test_a_motor_that_holds_and_does_not_go_is_told_longer_pulses(self) -> None:
        """The drives of this machine see no pulse of less than a microsecond."""
        width = at(None, "signals.pulse_width")
        self.session.set_values({width: Fraction(1, 2)})
        self.session.send(restart=True)
        until(lambda: not self.session.count().to_send and not self.session.count().waiting, "the signals")
        page = self.looked_at(X)
        self.click(page.nothing)
        until(lambda: page.which, "what a hand feels")
        self.assertEqual(page.title.text(), "Does the motor of X hold?")
        self.click(page.which["holds"])
        until(lambda: page.step is DirectionStep.START, "the end")
        self.assertIn("it does not see the steps. Pulses of 20 µs are proposed", page.words.text())
        claim = direction_claim(self.session.machine, X)
        self.assertIs(state(self.session.machine, claim, self.session.proofs), Proof.FAILED)
        self.click(page.turn)
        self.assertEqual(self.session.machine[width], 20)

    def test_outputs_of_two_axes_are_exchanged_where_another_one_moved(self) -> None:
        page = self.looked_at(X)
        self.click(page.other)
        until(lambda: page.which, "which axis it was")
        self.assertEqual([*page.which], ["Y", "Z", "A", "none"])
        self.click(page.which["Z"])
        until(lambda: page.step is DirectionStep.START, "the end")
        self.assertIn("The motor of Z hangs on the output that X was told to have", page.words.text())
        self.assertEqual(page.turn.text(), "Exchange the outputs")
        self.click(page.turn)
        self.assertEqual([self.session.machine[at(slot, "axis.output")] for slot in (X, Y, Z)], [3, 2, 1])

    def test_esc_while_it_moves_asks_nothing(self) -> None:
        self.power()
        self.page.turn_to("Direction")
        page = self.page.direction
        self.click(page.go)
        self.escape()
        self.assertIs(page.step, DirectionStep.START)
        self.rest()

    def test_a_finger_holds_and_lets_go(self) -> None:
        self.power()
        self.click(self.window.rails._step_buttons[0])
        button = self.window.rails.rows[X].plus
        screen, handle = QTest.createTouchDevice(), self.window.windowHandle()
        place = button.mapTo(self.window, QPoint(20, 20))
        QTest.touchEvent(handle, screen).press(0, place, handle).commit()
        until(lambda: self.session.link.axes[X].velocity > 300, "X to run")
        QTest.touchEvent(handle, screen).release(0, place, handle).commit()
        self.rest()
        self.assertFalse(button.isDown())

    def test_shift_goes_fast_just_once(self) -> None:
        self.power()
        self.click(self.window.rails._step_buttons[0])
        self.window.jog.arm(True)
        QTest.keyPress(self.window, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
        until(lambda: self.session.link.axes[X].velocity < -2000, "X to run fast")
        QTest.keyRelease(self.window, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
        self.rest()
        self.assertFalse(self.window.jog.fast)


class WorkZero(SessionCase):
    """Machine and work coordinates side by side."""

    def step(self, rail: AxisRail, to: float) -> None:
        self.click(rail.minus)
        until(lambda: abs(self.session.link.axes[X].position - to) < 1e-3, "the step")
        self.rest()

    def line(self) -> str:
        return self.window.rails.rows[X]._work.text()

    def test_it_wants_a_homed_axis(self) -> None:
        self.power()
        self.session.work.take(X)
        self.assertIn("X is not homed", self.window.notice.words)
        self.assertIsNone(self.session.work.of("X"))
        self.assertTrue(self.window.rails.rows[X]._work.isHidden())

    def test_it_is_a_mark_on_the_rail_and_a_second_line(self) -> None:
        self.power()
        self.session.link.home_here(X)
        until(lambda: self.session.link.axes[X].homed, "home")
        rail = self.window.rails.rows[X]
        self.window.jog.set_step("1")
        self.step(rail, 0.0)  # home lies outside the soft limits: the first step ends where they begin
        self.step(rail, -1.0)
        self.session.work.take(X)
        self.assertEqual(self.session.work.of("X"), -1.0)
        self.assertIsNotNone(rail.view._marks.work)  # type: ignore[union-attr]
        self.assertIn("machine\nwork", rail._unit.text())
        self.step(rail, -2.0)
        rail.show_motion()
        self.assertEqual((rail._position.text(), self.line()), ("−2.000", "−1.000"))
        self.session.link.forget_home(X)
        until(lambda: not self.session.link.axes[X].homed, "home to be forgotten")
        rail.show_motion()
        self.assertEqual(self.line(), "—")
        self.application.close()
        self.open()
        self.assertEqual(self.session.work.of("X"), -1.0)
        self.session.work.clear(X)
        self.assertTrue(self.window.rails.rows[X]._work.isHidden())

    def test_it_goes_stale_with_the_home_or_the_train_that_it_was_taken_by(self) -> None:
        self.power()
        self.session.link.home_here(X)
        until(lambda: self.session.link.axes[X].homed, "home")
        self.session.work.take(X)
        self.assertEqual(self.session.work.of("X"), 2.0)
        self.session.set_values({at(X, "homing.coordinate"): Fraction(-6)})
        self.assertEqual(self.session.work.of("X"), 2.0)  # edited, and not in force
        self.session.send()
        until(lambda: not self.session.count().to_send, "the coordinate to be sent")
        until(lambda: self.session.work.of("X") is None, "the work zero to be stale")
        rail = self.window.rails.rows[X]
        rail.show_motion()
        self.assertEqual(self.line(), "stale")
        until(lambda: not self.session.homes.known(X), "its home to be forgotten")
        self.session.work.take(X)
        self.assertIsNone(self.session.work.of("X"))
        self.again(lambda: self.session.link.home_here(X), lambda: self.session.homes.known(X), "home")
        self.session.work.take(X)
        self.assertIsNotNone(self.session.work.of("X"))

    def test_none_is_taken_while_the_axis_moves(self) -> None:
        self.power()
        self.session.link.home_here(X)
        until(lambda: self.session.link.axes[X].homed, "home")
        self.session.link.jog_step(X, -40, 300)
        until(lambda: self.session.link.axes[X].moving, "motion")
        self.session.work.take(X)
        self.assertIn("X is moving", self.window.notice.words)
        self.assertIsNone(self.session.work.of("X"))


class OtherRigs(SessionCase):
    """The lathe, with its endless spindle axis and a screw of an older machine."""

    rig = "fusee"

    def test_whole_turns_of_an_endless_axis_prove_its_scale(self) -> None:
        self.power()
        self.window.open_station(Station.SCALE)
        page = self.window.page(Station.SCALE)
        page.show_axis(2)  # type: ignore[attr-defined]
        page.instrument.setCurrentIndex(1)  # type: ignore[attr-defined]
        page.length.setText("720°")  # type: ignore[attr-defined]
        page.length.editingFinished.emit()  # type: ignore[attr-defined]
        procedure = page.procedure  # type: ignore[attr-defined]
        for stage in (PassStage.ZERO, PassStage.MOVE, PassStage.READ):
            self.click(page.go)  # type: ignore[attr-defined]
            until(lambda stage=stage: procedure.stage is stage, stage.key)
        self.click(page.read_button)  # type: ignore[attr-defined]
        until(lambda: page.reading.text(), "the reading")  # type: ignore[attr-defined]
        self.click(page.go)  # type: ignore[attr-defined]
        self.assertAlmostEqual(self.session.passes["C"][0].measured, 720, delta=0.3)

    def test_a_diameter_is_twice_the_way_of_the_slide(self) -> None:
        self.power()
        was = self.bench.hands.look("X")["at"]
        self.click(self.window.rails.rows[0].plus)  # 1 mm of the diameter
        until(lambda: self.session.link.axes[0].position > 0.49, "half a millimetre")
        self.rest()
        until(lambda: self.window.rails.rows[0]._position.text().startswith(("1.00", "0.99")), "the diameter")
        self.assertAlmostEqual(abs(self.bench.hands.look("X")["at"] - was), 0.5 * 15 / 16, delta=0.03)

    def test_the_drawing_is_that_of_a_lathe(self) -> None:
        from idler.app.pictures.lathe import LatheScene
        from idler.app.pictures.machine import scene_of

        self.assertIsInstance(scene_of(self.session.machine, {}, True), LatheScene)
        self.application.show_bench()
        until(lambda: isinstance(self.application.bench_window.picture._scene, LatheScene), "the drawing")  # type: ignore[union-attr]
