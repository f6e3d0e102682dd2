"""The Wiring station in the real window, with fingers at the real bench."""

from __future__ import annotations

import contextlib
import time
from fractions import Fraction
from unittest.mock import patch

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu, QPushButton, QWidget

from idler.app.qt_wait import TooLong, until
from idler.app.run import Application
from idler.app.stations.wiring.station import WiringStation
from idler.app.stations.wiring.study import ALL
from idler.core.controller.standing import Standing
from idler.core.profile.cia402 import State
from idler.core.profile.terminals import Condition
from idler.core.proof.claims import (
    Proof,
    Witness,
    claims,
    evidence,
    quiet_claim,
    spindle_way_claim,
    state,
    wiring_claims,
)
from idler.core.table.stations import Station
from idler.core.wiring import inputs
from idler.core.wiring.learning import Touch
from idler.core.wiring.trials import Held
from idler.link.events import Asked
from idler.session.motion_words import motion_words
from idler.session.session import Session
from tests.app.gui import SessionCase
from tests.support import at, shared_bench, wiring


def action(menu: QMenu, words: str):
    """An entry of a menu, submenus included."""
    for entry in menu.actions():
        inside = entry.menu()
        if entry.text().startswith(words):
            return entry
        if inside is not None and (found := action(inside, words)) is not None:
            return found
    return None


class WiringCase(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.open_station(Station.WIRING)
        page = self.window.page(Station.WIRING)
        assert isinstance(page, WiringStation)
        self.page = page
        until(lambda: not self.on_bench or self.session.link.trace.now, "the first look at the inputs")

    @property
    def clock(self) -> int:
        return self.session.link.trace.now

    def pass_time(self, seconds: float) -> None:
        """Lets the controller's clock go on."""
        end = self.clock + seconds * 1e6
        until(lambda: self.clock > end, "time to pass")

    def hand(self, what: str, switch: str) -> None:
        self.bench.hands.ask(do=what, switch=switch)

    def touch(self, switch: str, seconds: float = 2.0) -> None:
        """A finger for a while of the rig's clock, which runs 20 times as fast."""
        self.hand("press", switch)
        self.pass_time(seconds)
        self.hand("release", switch)
        self.pass_time(seconds)

    def has(self, condition: Condition) -> bool:
        return bool(self.session.link.panel.conditions & condition)

    def role(self, number: int) -> str:
        return inputs(self.session.machine)[number - 1].duty.label


class Learning(WiringCase):
    def learn(self, switch: str) -> list[str]:
        """Touches a switch; the texts of what is offered."""
        until(lambda: self.page.learn.watching, "a look at every input")
        self.touch(switch)
        until(lambda: self.page.learn.touches, f"{switch} to be seen")
        return [button.text() for button in self.page.learn.buttons]

    def test_touching_gives_role_and_contact_in_one_step_of_undo(self) -> None:
        self.page.turn_to("Learn")
        self.pass_time(1)
        self.assertIn("emergency stop", self.page.learn.ask.text())
        offers = self.learn("emergency stop")
        self.assertEqual(offers[0], "Emergency stop, closed at rest")
        self.click(self.page.learn.buttons[0])
        self.assertEqual((self.role(1), self.value("input.rest", 0)), ("emergency stop", "closed"))
        self.assertIn("guard", self.page.learn.ask.text())
        self.session.undo_stack.undo()
        self.assertEqual(self.role(1), "free")

    def test_learning_all_day_makes_the_page_no_higher(self) -> None:
        self.page.turn_to("Learn")
        for _ in range(12):
            self.page.learn.run.touches = [Touch(1, True, 0, 1)]
            self.page.learn._show_touches()
            self.page.learn.start()
        QGuiApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        self.assertLess(self.page.minimumSizeHint().height(), 450)  # the stage of the smallest window

    def test_an_open_contact_and_a_role_from_the_menu(self) -> None:
        self.page.turn_to("Learn")
        self.pass_time(1)
        self.learn("touch plate")
        more = next(b for b in self.page.learn.buttons if b.menu() is not None)
        action(more.menu(), "Touch probe").trigger()
        self.assertEqual((self.role(7), self.value("input.rest", 6)), ("touch probe", "open"))

    def test_what_chatters_is_left_aside_and_named(self) -> None:
        self.page.turn_to("Learn")
        self.assertIn("touch nothing yet", self.page.learn.seen.text())
        until(lambda: self.page.learn.watching, "a look at every input")
        self.assertIn("Watching every input", self.page.learn.seen.text())
        self.hand("loosen", "guard")
        self.pass_time(3)
        until(lambda: "input 4" in self.page.learn._chatter.text(), "the chatter to be named")
        self.learn("X home")
        self.assertEqual([touch.input for touch in self.page.learn.touches], [1])

    def test_leaving_it_alone(self) -> None:
        self.page.turn_to("Learn")
        self.pass_time(1)
        self.learn("X home")
        self.click(next(b for b in self.page.learn.buttons if b.text() == "Leave it"))
        self.assertEqual((self.role(2), self.page.learn.touches), ("free", []))


class Rows(WiringCase):
    def test_role_rest_and_filter_are_changed_in_the_row(self) -> None:
        row = self.page.inputs.rows[1]
        row.role._menu.aboutToShow.emit()
        for words in ("Limit, low end", "Home switch, second motor", "Home chain of all axes", "Emergency stop"):
            self.assertIsNotNone(action(row.role._menu, words) or action(row.role._menu, f"X {words.lower()}"), words)
        action(row.role._menu, "X home switch").trigger()
        self.assertEqual(self.role(2), "X home switch")
        self.assertIs(self.session.standing(at(1, "input.role")), Standing.EDITED)
        self.assertEqual(row.role._frame.property("standing"), "edited")
        self.click(row.rest.editor)
        self.assertEqual(self.value("input.rest", 1), "open")
        row.filter.editor.setFocus()
        row.filter.editor.selectAll()
        QTest.keyClicks(row.filter.editor, "1500 us\r")
        self.assertEqual(self.value("input.filter", 1), Fraction(3, 2))
        self.assertEqual(self.session.focus, at(1, "input.filter"))

    def test_levels_edges_and_meaning(self) -> None:
        self.session.set_values(wiring())
        row = self.page.inputs.rows[1]
        until(lambda: row.says.text() == "clear", "the level")
        self.hand("press", "X home")
        until(lambda: row.says.text() == "<b>made</b>", "the press")
        until(lambda: int(row.edges.text()) > 0, "its edges")
        row.touched.emit(1)
        until(lambda: self.page.inputs._line.text().startswith("Input 2, X home switch: open now"), "the line below")
        self.hand("release", "X home")

    def test_a_terminal_that_nobody_uses_and_that_changes_is_a_finding(self) -> None:
        for _ in range(3):
            self.touch("loose end", 0.5)
        until(lambda: any(i.code == "unused_changes" for i in self.session.findings()), "the finding")

    def test_traces_are_drawn_high_where_they_are_away_from_rest(self) -> None:
        self.session.set_values(wiring())
        self.hand("press", "X home")
        until(lambda: self.page.inputs.rows[1].says.text() == "<b>made</b>", "the press")
        self.pass_time(8)
        self.page.show_motion()
        image = self.page.inputs.traces._image()
        ink = [y for y in range(image.height()) if image.pixelColor(image.width() // 2, y).name() == "#0e6470"]
        by_row = {y // 31: y % 31 for y in ink}
        self.assertLess(by_row[1], 12)  # X home, made
        self.assertGreater(by_row[2], 18)  # Y home, at rest


class Outputs(WiringCase):
    def setUp(self) -> None:
        super().setUp()
        self.wire()
        self.coolant = self.page.outputs.rows[4]

    def on(self, slot: int = 4) -> bool:
        return self.session.link.panel.is_energised(slot)

    def hold(self, button: QPushButton) -> None:
        QTest.mousePress(button, Qt.MouseButton.LeftButton)

    def hold_until_on(self) -> None:
        """Pressed again where this computer paused for so long that the controller let go."""
        for _ in range(4):
            self.hold(self.coolant.button)
            with contextlib.suppress(TooLong):
                until(self.on, "the coolant", 5)
                return
            QTest.mouseRelease(self.coolant.button, Qt.MouseButton.LeftButton)
        raise AssertionError("the coolant was never on")

    def test_held_it_is_on_and_released_it_is_off(self) -> None:
        self.hold_until_on()
        until(lambda: self.coolant.state.text() == "on", "the screen to say so")
        QTest.mouseRelease(self.coolant.button, Qt.MouseButton.LeftButton)
        until(lambda: not self.on() and self.coolant.state.text() == "off", "its end")

    def test_it_ends_when_the_finger_leaves_the_focus_goes_or_stop_is_pressed(self) -> None:
        def leave() -> None:
            away = QPointF(-50, -50)
            event = QMouseEvent(QEvent.Type.MouseMove, away, away, Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton,
                                Qt.KeyboardModifier.NoModifier)  # fmt: skip
            QGuiApplication.sendEvent(self.coolant.button, event)

        def other_window() -> None:
            other = QWidget()
            self.addCleanup(other.deleteLater)
            other.show()
            other.activateWindow()

        for end in (leave, self.escape, other_window):
            self.hold_until_on()
            end()
            until(lambda: not self.on(), "its end")
            self.assertEqual(self.page.dead_man.asked, Asked())
            QTest.mouseRelease(self.coolant.button, Qt.MouseButton.LeftButton)

    def test_it_ends_with_the_link(self) -> None:
        self.hold(self.coolant.button)
        until(self.on, "the coolant")
        self.bench.hands.ask(do="cut")
        until(lambda: self.page.dead_man.asked == Asked(), "the screen to let go")
        self.bench.hands.ask(do="mend")
        until(lambda: self.session.connected and not self.on(), "the link to come back")
        QTest.mouseRelease(self.coolant.button, Qt.MouseButton.LeftButton)

    def test_what_forbids_it_is_said(self) -> None:
        self.hand("press", "guard")
        until(lambda: self.has(Condition.GUARD), "the guard")
        spindle = self.page.outputs.rows[0].button
        self.hold(spindle)
        self.assertIn("the guard is open", self.window.notice.words)
        QTest.mouseRelease(spindle, Qt.MouseButton.LeftButton)
        self.assertEqual(self.page.dead_man.asked, Asked())

    def test_an_edit_that_was_not_sent_is_not_tried(self) -> None:
        self.session.set_values({at(2, "output.role"): "mist"})
        self.hold(self.page.outputs.rows[2].button)
        self.assertIn("edited here, not sent", self.window.notice.words)
        QTest.mouseRelease(self.page.outputs.rows[2].button, Qt.MouseButton.LeftButton)

    def test_roles_and_loads(self) -> None:
        row = self.page.outputs.rows[9]
        row.role._menu.aboutToShow.emit()
        self.assertEqual([a.text() for a in row.role._menu.actions()], ["Free", "Spindle speed   (on output V)"])
        row.touched.emit(9)
        self.assertIn("What hangs on W, a pulse width level", self.page.outputs._load_title.text())
        volts = next(f for f in self.page.outputs._fields if f.address.key == "output.load_volts")
        volts.editor.setText("48 V")
        volts.editor.setModified(True)
        volts.editor.editingFinished.emit()
        self.assertEqual(self.value("output.load_volts", 9), 48)


class Study(WiringCase):
    def setUp(self) -> None:
        super().setUp()
        self.wire()
        self.page.turn_to("Filter")
        self.session.prove(spindle_way_claim(self.session.machine), True, "as if it had been seen", Witness.EYES)

    def record(self) -> None:
        """Again where this computer paused for so long that the controller let the spindle go."""
        study = self.page.study

        def over() -> bool:
            if study.run.question is not None:
                self.click(study.asking.answers.get("right", study.asking.done))
            return not study.recording

        for _ in range(8):
            self.click(study.record)
            until(over, "the record")
            if self.page.study.studies and self.page.study.studies[1].seconds > 20:
                return

    def test_recorded_with_the_spindle_it_proposes_what_lets_nothing_through(self) -> None:
        self.page.study.seconds.setCurrentIndex(3)
        self.page.study.spindle.setChecked(True)
        self.page.study.choose(1)
        self.record()
        found = self.page.study.studies[1]
        self.assertGreater(len(found.widths), 30)
        self.assertLessEqual(found.longest, 740)
        self.assertIn("twice the longest, lets none through", self.page.study._words.text())
        self.assertIn("at the approach speed of X", self.page.study._words.text())
        self.assertFalse(self.session.proofs["quiet"].passed)
        self.click(self.page.study.take_button)
        self.assertEqual(self.value("input.filter", 1), found.proposal)
        self.page.study.choose(ALL)
        self.click(self.page.study.take_all)
        self.assertEqual(self.page.study.proposals(), {})
        self.session.undo_stack.undo()
        self.assertTrue(self.page.study.proposals())
        until(lambda: not self.has(Condition.SPINDLE), "the spindle to be off again")

    def test_with_its_filters_sent_it_is_proven_that_the_inputs_stay_quiet(self) -> None:
        self.session.set_values({at(item.slot, "input.filter"): Fraction(2) for item in inputs(self.session.machine)})
        self.again(self.session.send, lambda: not self.session.count().edited, "the filters to be sent")
        self.page.study.seconds.setCurrentIndex(3)
        self.assertIs(self.page.control_of("quiet", None), self.page.study.record)
        self.record()
        kept = self.session.proofs["quiet"]
        self.assertTrue(kept.passed, kept.result)
        self.assertIn("X home switch, input 2, picked up", kept.result)
        self.session.set_values({at(1, "input.filter"): Fraction(0)})
        self.assertIs(state(self.session.machine, quiet_claim(self.session.machine), self.session.proofs), Proof.STALE)

    def test_with_the_guard_open_it_says_why_not(self) -> None:
        self.hand("press", "guard")
        until(lambda: self.has(Condition.GUARD), "the guard")
        self.page.study.spindle.setChecked(True)
        self.click(self.page.study.record)
        self.assertFalse(self.page.study.recording)
        self.assertIn("The spindle stays off: the guard is open", self.window.notice.words)

    def test_ended_early_and_left(self) -> None:
        self.page.study.seconds.setCurrentIndex(3)
        self.click(self.page.study.record)
        self.pass_time(1)
        self.assertTrue(self.page.study.record.text().startswith("End"))
        self.page.turn_to("Outputs")
        self.assertFalse(self.page.study.recording)
        self.assertEqual(self.page.study.studies[1].widths, ())


def label_of(key: str) -> str:
    """ "home.X" as the page names it."""
    role, _, axis = key.partition(".")
    words = {"home": "home switch", "probe": "touch probe", "index": "index mark"}[role]
    return f"{axis} {words}".strip()


class Proving(WiringCase):
    def setUp(self) -> None:
        super().setUp()
        self.wire()
        self.page.turn_to("Prove")

    def test_what_is_drawn_anew_keeps_the_keyboard(self) -> None:
        before = self.page.prove.begin_buttons["wiring.guard"]
        before.setFocus()
        until(before.hasFocus, "the keyboard")
        self.session.changed.publish()
        until(lambda: self.page.prove.begin_buttons["wiring.guard"].hasFocus(), "the keyboard again")
        self.assertIsNot(before, self.page.prove.begin_buttons["wiring.guard"])

    def step(self, words: str) -> None:
        until(lambda: words in self.page.prove.step.text(), words)

    def proof(self, key: str) -> Proof:
        claim = next(claim for claim in claims(self.session.machine) if claim.key == key)
        return state(self.session.machine, claim, self.session.proofs)

    def test_the_stop(self) -> None:
        self.power()
        self.click(self.page.prove.begin_buttons["wiring.stop"])
        self.step("Press the emergency stop")
        self.hand("press", "emergency stop")
        self.step("Push each axis")
        self.assertNotIn("wiring.stop", self.session.proofs)
        self.click(self.page.prove.push)
        self.step("Release the stop")
        until(self.window.incident.isVisible, "the strip")
        self.assertIn("Emergency stop (input 1)", self.window.incident.words)
        self.assertEqual(motion_words(self.session), "emergency stop pressed")
        self.hand("release", "emergency stop")
        self.step("power the drives again")
        until(lambda: self.page.prove.power.isVisible(), "the button")
        self.click(self.page.prove.power)
        until(lambda: self.proof("wiring.stop") is Proof.PROVEN, "the proof")
        until(lambda: not self.window.incident.isVisible(), "the strip to go by itself")
        self.assertIn("each axis that a hand pushed was loose", self.session.proofs["wiring.stop"].result)

    def test_an_enable_line_told_the_wrong_way_round_proves_no_stop(self) -> None:
        """The controller says that the drives are off while all motors have current: a hand at an axis feels it."""
        self.session.set_values({at(None, "signals.enable_inverted"): True})
        self.session.send(restart=True)
        until(lambda: not self.session.count().to_send and not self.session.count().waiting, "the signals")
        self.power()
        self.click(self.page.prove.begin_buttons["wiring.stop"])
        self.step("Press the emergency stop")
        self.hand("press", "emergency stop")
        prove = self.page.prove
        for key in ("stop.loose", "stop.holds"):
            until(
                lambda key=key: prove.guided.question is not None and prove.guided.question.key == key, "the question"
            )
            self.assertIs(prove.felt[Held.SINKS].isVisible(), key == "stop.holds")
            self.click(prove.push)
        until(lambda: self.proof("wiring.stop") is Proof.FAILED, "the proof to fail")
        self.assertIn("every motor holds", self.session.proofs["wiring.stop"].result)
        self.hand("release", "emergency stop")
        self.click(prove.turn_round)
        self.assertIs(self.session.machine[at(None, "signals.enable_inverted")], False)
        self.assertFalse(prove.turn_round.isVisible())

    def test_a_motor_without_current_is_told_at_the_first_jog(self) -> None:
        self.session.set_values({at(None, "signals.enable_inverted"): True})
        self.session.send(restart=True)
        until(lambda: not self.session.count().to_send and not self.session.count().waiting, "the signals")
        self.power()
        for way in (-1, 1) * 4:  # a computer that pauses reads too few efforts of one move
            begun = time.monotonic()
            self.session.link.jog_step(0, 20 * way, 300)
            until(
                lambda begun=begun: self.session.link.efforts(0, begun) or "torque" in self.window.notice.words,
                "efforts",
            )
            self.rest()
            if "takes no torque at all" in self.window.notice.words:
                break
        until(lambda: "takes no torque at all" in self.window.notice.words, "the sentence")

    def test_the_guard(self) -> None:
        self.click(self.page.prove.begin_buttons["wiring.guard"])
        for _ in range(8):
            until(lambda: self.page.prove.run.isVisible(), "to be asked for the spindle")
            self.click(self.page.prove.run)
            self.step("Open the guard")
            self.hand("press", "guard")
            self.step("lose")
            if "must not start" in self.page.prove.step.text():
                break
            self.hand("release", "guard")
        until(lambda: "guard was opened" in self.window.incident.words, "the strip")
        self.hand("release", "guard")
        until(lambda: self.proof("wiring.guard") is Proof.PROVEN, "the proof")

    def test_a_touch_round_and_the_wheel(self) -> None:
        self.click(self.page.prove.round_button)
        for key, switch in (
            ("home.X", "X home"), ("home.Y", "Y home"), ("home.Z", "Z home"), ("home.A", "A home"),
            ("probe", "touch plate"), ("index.A", "A index"),
        ):  # fmt: skip
            self.step(f"Press and release the {label_of(key)}")
            for _ in range(8):  # where this computer pauses, a short touch may go unseen
                self.touch(switch, 6)
                if self.proof(f"wiring.{key}") is Proof.PROVEN:
                    break
        until(lambda: "all are proven" in self.window.notice.words, "the round to end")
        for key in ("wiring.stop", "wiring.guard", "quiet"):
            claim = next(claim for claim in claims(self.session.machine) if claim.key == key)
            self.session.prove(claim, True, "seen", Witness.EYES)
        self.assertIs(self.window.train._states[Station.WIRING], Proof.PROVEN)
        self.session.set_values({at(1, "input.filter"): Fraction(2)})
        self.assertIs(self.window.train._states[Station.WIRING], Proof.STALE)
        self.assertIn("X home switch, input 2", self.margin_words(at(1, "input.filter")))
        self.application.close()
        self.open()
        self.assertEqual(
            set(self.session.proofs), {"quiet", *(claim.key for claim in wiring_claims(self.session.machine))}
        )

    def test_another_terminal_s_answer_is_told_and_proves_nothing(self) -> None:
        """X and Y home are wired to each other's terminals: touching the one answers at the other."""
        self.click(self.page.prove.round_button)
        self.step("Press and release the X home switch")
        self.hand("press", "Y home")
        self.step("Terminal 3 answered, told to be the Y home switch; terminal 2 did not")
        self.hand("release", "Y home")
        self.assertNotIn("wiring.home.Y", self.session.proofs)
        self.click(self.page.prove.swap)
        self.assertIs(self.proof("wiring.home.X"), Proof.ENTERED)  # it failed, with what was exchanged now
        self.assertEqual(
            (self.session.machine[at(1, "input.axis")], self.session.machine[at(2, "input.axis")]), ("Y", "X")
        )

    def margin_words(self, address) -> str:
        from PySide6.QtWidgets import QLabel

        self.session.set_focus(address)
        return " ".join(made.text() for made in self.window.margin.findChildren(QLabel) if made.isVisible())

    def test_nothing_is_proven_on_values_that_were_not_sent(self) -> None:
        self.session.set_values({at(0, "input.filter"): Fraction(2)})
        self.click(self.page.prove.begin_buttons["wiring.stop"])
        self.assertIn("cannot be proven now. Input 1 filter: edited here, not sent", self.window.notice.words)


class SignalsTrial(WiringCase):
    pace = 40

    def try_them(self, **signals: object) -> str:
        self.wire()
        self.session.set_values(
            {
                at(0, "chain.pitch"): Fraction(4),
                **{at(None, f"signals.{key}"): value for key, value in signals.items()},
            }
        )  # type: ignore[dict-item]
        self.session.send(restart=True)
        until(lambda: not self.session.count().to_send and not self.session.count().waiting, "the signals")
        self.power()
        self.page.turn_to("Signals")
        page = self.page.signals
        self.session.link.jog_step(0, 100, 2000)  # near its switch, so that the way there is short
        until(lambda: self.session.link.axes[0].position > 99, "the way there")
        self.rest()
        with (
            patch("idler.procedures.wiring.signals.REVERSALS", 24),
            patch("idler.procedures.wiring.signals.POWERINGS", 3),
        ):
            self.click(page.begin)
            if "power_delay" in signals:  # the drive wakes by the room's clock
                until(lambda: page.run.words.startswith("Powering"), "the powerings", 60)
                self.bench.hands.ask(do="pace", factor=0.2)
                self.addCleanup(lambda: self.bench.hands.ask(do="pace", factor=self.pace))
                last = "Powering 3"  # or whatever follows it, where this computer paused for as long as that takes
                until(lambda: not page.run.words.startswith(("Powering 1", "Powering 2")), "the last one", 90)
                until(lambda: self.session.moving or not page.run.words.startswith(last), "its move", 90)
                self.bench.hands.ask(do="pace", factor=self.pace)
            until(lambda: not page.run.running, "the trial", 120)
        return page.words.text()

    def test_good_signals_lose_nothing(self) -> None:
        self.assertIn("the switch was found within 0.0", self.try_them())
        self.assertFalse(self.page.signals.mend.isVisible())

    def test_too_short_a_setup_adds_up_over_reversals(self) -> None:
        self.assertIn("steps go the old way", self.try_them(direction_setup=Fraction(2)))
        self.click(self.page.signals.mend)
        self.assertEqual(self.session.machine[at(None, "signals.direction_setup")], 15)

    def test_too_short_a_delay_after_power_loses_the_first_steps(self) -> None:
        self.assertIn("before the drive is awake", self.try_them(power_delay=Fraction(0)))


class Incidents(WiringCase):
    def test_a_motor_that_gives_up_is_named_with_the_way_back(self) -> None:
        self.wire()
        self.power()
        for slot in range(4):
            self.session.link.home_here(slot)
        until(lambda: all(axis.homed for axis in self.session.link.axes), "home")
        until(lambda: self.session._link_events._homed == (True,) * 4, "the picture to have seen it")
        self.bench.hands.ask(do="jam", axis="Z")
        self.session.link.jog_step(2, -20, 900)
        until(self.window.incident.isVisible, "the strip")
        self.assertIn("The drive of Z reports trouble (input 9)", self.window.incident.words)
        until(lambda: "Home Z again" in self.window.incident.words, "what was lost")
        self.bench.hands.ask(do="free", axis="Z")
        until(lambda: self.window.incident.power_button.isVisible(), "the button")
        self.click(self.window.incident.power_button)
        until(lambda: self.session.powered, "power")
        self.assertIn("it is seen to be free when it has moved", self.window.incident.words)
        self.session.link.jog_step(2, -2, 900)
        until(lambda: "✓  Move it a little" in self.window.incident.words, "the move to be seen")
        self.rest()
        self.session.link.home_here(2)
        until(lambda: not self.window.incident.isVisible(), "the strip to go when all is done")
        self.assertTrue(all(axis.state is State.ENABLED for axis in self.session.link.axes))


class Offline(WiringCase):
    on_bench = False

    def test_without_a_controller_everything_can_be_looked_at_and_nothing_tried(self) -> None:
        for name in ("Learn", "Filter", "Prove", "Signals", "Outputs"):
            self.page.turn_to(name)
            self.page.show_motion()
        button = self.page.outputs.rows[0].button
        QTest.mousePress(button, Qt.MouseButton.LeftButton)
        self.assertIn("No controller is connected", self.window.notice.words)
        QTest.mouseRelease(button, Qt.MouseButton.LeftButton)
        self.page.turn_to("Filter")
        self.click(self.page.study.record)
        self.assertFalse(self.page.study.recording)

    def test_a_damaged_file_of_proofs_is_said_and_kept_beside(self) -> None:
        self.application.close()
        path = self.root / "machines" / "proofs" / "verge.toml"
        path.parent.mkdir(exist_ok=True)
        path.write_text("proof = 3")
        self.open()
        until(lambda: "proofs" in self.window.notice.words, "the sentence")
        self.assertEqual((path.read_text(), self.session.proofs), ("proof = 3", {}))
        self.session.prove(claims(self.session.machine)[0], True, "seen", Witness.EYES)
        self.assertEqual(path.with_name("verge.toml.damaged").read_text(), "proof = 3")

    def test_proofs_go_into_the_next_revision(self) -> None:
        self.session.set_values(wiring())
        claim = claims(self.session.machine)[0]
        self.session.prove(claim, True, "seen", Witness.EYES)
        self.assertEqual(
            self.session._shelf.proofs("verge")[claim.key].rests,
            evidence(self.session.machine, claim, 0, True, "", Witness.EYES).rests,
        )
        self.session.history.keep("wired")
        self.assertIn(b"proofs/verge.toml", self.session._shelf.history._repo.open_index())

    def test_the_times_of_the_signals_are_drawn_and_typed(self) -> None:
        self.page.turn_to("Signals")
        self.assertEqual(self.page.signals.picture._scene.width, "2.5 µs")
        self.session.edit(at(None, "signals.pulse_width"), "3 us")
        self.assertEqual(self.page.signals.picture._scene.width, "3 µs")


class FewerTerminals(SessionCase):
    """Verge's profile at another machine's controller, and a machine whose terminals are not known yet."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.bench = shared_bench(cls, "longcase")

    def test_what_does_not_fit_is_said_and_nothing_is_sent(self) -> None:
        self.assertIn("12 inputs and 10 outputs; the controller has", self.session.send_obstacle())
        self.window.open_station(Station.WIRING)
        page = self.window.page(Station.WIRING)
        self.assertEqual(len(page.inputs.rows), 12)  # type: ignore[attr-defined]

    def test_a_machine_without_terminals_takes_those_of_its_controller(self) -> None:
        from importlib import resources

        text = (resources.files("idler") / "data" / "longcase.toml").read_text("utf-8")
        self.application.close()
        (self.root / "drafts" / "verge.toml").unlink(missing_ok=True)
        (self.root / "machines" / "verge.toml").write_text(text[: text.index("[input.1]")])
        self.application = Application(self.root, demo=False)
        self.addCleanup(self.application.close)
        self.application.show()
        session = self.application.session
        self.assertEqual(session.machine.inputs, 0)
        self.application.use_bench(self.bench.ready)
        until(lambda: session.connected, "the bench")
        self.assertEqual((session.machine.inputs, session.machine.outputs), (8, 5))
        self.assertEqual(session.machine[at(4, "output.kind")], "pulse")
        self.assertEqual(session.count().edited, ())
        self.application.window.open_station(Station.WIRING)
        page = self.application.window.page(Station.WIRING)
        assert isinstance(page, WiringStation)
        self.assertEqual(len(page.inputs.rows), 8)
        page.turn_to("Learn")
        for switch, words, rest in (
            ("Y home", "Y home switch", "closed"), ("Y home, second motor", "Y home switch, second motor", "open"),
            ("X home", "Home chain of all axes", "closed"),
        ):  # fmt: skip
            until(lambda: session.link.trace.now > 0 and page.learn.watching, "the inputs")
            self.hold_for(session, switch)
            until(lambda: page.learn.touches, f"{switch} to be seen")
            menu = next(b for b in page.learn.buttons if b.menu() is not None).menu()
            slot = page.learn.touches[0].input
            action(menu, words).trigger()
            self.assertEqual(inputs(session.machine)[slot].duty.label.lower(), words.lower())
            self.assertEqual(session.machine[at(slot, "input.rest")], rest)

    def hold_for(self, session: Session, switch: str) -> None:
        """A finger for two seconds of the rig's clock, and as long away from it."""
        for what in ("press", "release"):
            self.bench.hands.ask(do=what, switch=switch)
            end = session.link.trace.now + 2_000_000
            until(lambda end=end: session.link.trace.now > end, "time to pass")
