"""The Homing station: rehearsed, run on the bench, stopped, failed and explained."""

from __future__ import annotations

from fractions import Fraction
from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from idler.app.qt_wait import until
from idler.app.stations.homing.station import HomingStation
from idler.core.profile.homing import HomingResult, Phase
from idler.core.proof.claims import Proof, home_claim, repeat_claim, state
from idler.core.table.stations import Station
from tests.app.gui import SessionCase
from tests.support import A, X, Y, Z, at, wiring


class HomingCase(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.enter()

    def enter(self) -> None:
        self.window.open_station(Station.HOMING)
        page = self.window.page(Station.HOMING)
        assert isinstance(page, HomingStation)
        self.page = page

    def ended(self, seconds: float = 60) -> None:
        until(lambda: not self.page.run.running and self.page.run.records, "the end of homing", seconds=seconds)


class Offline(HomingCase):
    on_bench = False

    def test_it_is_rehearsed_before_anything_moves(self) -> None:
        rows = self.page.line._rows
        self.assertEqual([row.name for row in rows], ["Z", "X", "Y", "A"])
        crawls = rows[1].legs[-1].end
        self.believe(X, Y, Z)
        rows = self.page.line._rows
        self.assertLess(rows[1].legs[-1].end, crawls / 4)  # nothing is proven yet: it would go at touch speed
        self.assertEqual(rows[1].begin, rows[2].begin)
        before = rows[1].legs[-1].end
        self.session.set_values({at(X, "homing.approach"): Fraction(1800)})
        self.assertLess(self.page.line._rows[1].legs[-1].end, before)

    def test_an_axis_is_chosen_on_the_time_line(self) -> None:
        QTest.mouseClick(self.page.line, Qt.MouseButton.LeftButton, pos=QPoint(200, 10))
        self.assertEqual(self.page.slot, Z)

    def test_without_a_controller_nothing_is_homed_and_it_is_said(self) -> None:
        self.click(self.page.all)
        self.assertIn("Nothing was homed. No controller is connected", self.window.notice.words)

    def test_towards_a_hard_stop_the_names_say_what_the_speeds_do(self) -> None:
        self.session.set_values({at(X, "homing.method"): "stop"})
        captions = {key: self.page.sheet.fields[key]._caption.text() for key in ("homing.approach", "homing.touch")}
        self.assertEqual(
            captions, {"homing.approach": "back-off and leaving speed", "homing.touch": "speed towards the stop"}
        )
        self.assertIn("Towards its stop it never goes faster than 60 mm/min", self.page.outcome.words.text())

    def test_axes_that_take_no_part_say_so(self) -> None:
        self.session.set_values(
            {at(A, "homing.turn"): 0, at(Z, "homing.method"): "stop", at(Y, "homing.method"): "here"}
        )
        words = {row.name: row.words for row in self.page.line._rows if not row.legs}
        self.assertIn("takes no part", words["A"])
        self.assertNotIn("Z", words)
        self.assertIn("where it stands", words["Y"])


class OnBench(HomingCase):
    def ready(self) -> None:
        self.wire()
        self.believe(X, Y, Z)
        self.power()

    def test_all_axes_home_in_their_turns_and_are_proven(self) -> None:
        self.session.set_values({at(A, "homing.turn"): 0, at(Y, "axis.reversed"): True})  # its wires are swapped
        self.ready()
        self.click(self.page.all)
        self.ended()
        self.assertEqual(
            {slot: r.result for slot, r in self.page.run.records.items()}, dict.fromkeys((Z, X, Y), HomingResult.FOUND)
        )
        self.assertGreaterEqual(self.page.run.records[X].begin, self.page.run.records[Z].end)
        until(lambda: "overtravel.X" in self.session.proofs, "how far it ran on")
        ran_on = self.session.proofs["overtravel.X"].result
        self.assertRegex(ran_on, r"ran on by 1\.\d+ mm .*, worked out 1\.\d+ mm, ")
        self.assertIn("home.all", self.session.proofs)
        for slot in (X, Y, Z):
            self.assertTrue(self.session.link.axes[slot].homed)
            self.assertIs(
                state(self.session.machine, home_claim(self.session.machine, slot), self.session.proofs), Proof.PROVEN
            )
        self.assertIn(Phase.APPROACH, [phase for phase, _ in self.page.run.records[X].phases])
        self.assertTrue(self.page.line._rows[0].ran)
        self.session.set_values({at(X, "homing.back_off"): Fraction(3)})
        self.assertIs(
            state(self.session.machine, home_claim(self.session.machine, X), self.session.proofs), Proof.STALE
        )

    def test_a_failure_is_explained_and_its_edit_helps(self) -> None:
        self.session.set_values({at(X, "homing.back_off"): Fraction(1, 10)})
        self.ready()
        self.click(self.page.one)
        self.ended()
        self.assertIs(self.page.run.records[X].result, HomingResult.STILL_PRESSED)
        self.assertIn("still pressed after the back-off", self.page.title.text())
        self.assertEqual(self.page.outcome._causes[0][0].text(), "Back-off too short")
        self.assertFalse(self.page.outcome.trace.isHidden())
        self.assertTrue(any(made for _, _, made in self.page.run.records[X].points))
        self.assertIs(
            state(self.session.machine, home_claim(self.session.machine, X), self.session.proofs), Proof.FAILED
        )
        self.click(self.page.outcome.fix)
        self.assertGreaterEqual(self.value("homing.back_off"), Fraction(11, 10))

    def test_a_switch_that_is_pressed_already_is_moved_clear_of(self) -> None:
        self.ready()
        self.bench.hands.ask(do="press", switch="X home")
        until(lambda: self.session.link.axes[X].home_made, "the switch")
        self.click(self.page.one)
        self.ended()
        self.assertIs(self.page.run.records[X].result, HomingResult.PRESSED)
        before = self.session.link.axes[X].position
        self.click(self.page.outcome.clear)
        until(lambda: self.session.link.axes[X].position < before - 2.9, "to move clear")
        self.click(self.page.outcome.watch)
        self.bench.hands.ask(do="release", switch="X home")
        until(lambda: "clear now; it changed 1 times" in self.page.outcome.live.text(), "the watched terminal")

    def test_a_home_of_which_nobody_could_read_where_it_was_found_is_none(self) -> None:
        self.ready()
        refused = lambda _: self.session.failed.publish("read")  # noqa: E731
        with mock.patch.object(self.session.link, "ask_for", refused):
            self.click(self.page.one)
            until(lambda: self.page.run.records.get(X) is not None, "the homing")
            self.ended()
        self.assertIs(self.page.run.records[X].result, HomingResult.FOUND)
        until(lambda: not self.session.link.axes[X].homed, "its home to be forgotten")
        self.assertNotIn("home.X", self.session.proofs)

    def test_esc_stops_it_and_proves_nothing(self) -> None:
        self.ready()
        self.click(self.page.all)
        until(lambda: self.session.moving, "motion")
        self.escape()
        self.rest()
        self.assertFalse(self.page.run.running)
        self.assertEqual({r.result for r in self.page.run.records.values()}, {HomingResult.STOPPED})
        self.assertNotIn("home.Z", self.session.proofs)

    def test_a_lost_link_ends_it(self) -> None:
        self.ready()
        self.click(self.page.one)
        until(lambda: self.page.run.records[X].phases, "the approach")
        self.session.link.disconnect()
        until(lambda: not self.session.connected, "the link to end")
        self.assertFalse(self.page.run.running)
        self.assertIs(self.page.run.records[X].result, HomingResult.STOPPED)
        self.assertTrue(self.page.all.isEnabled())

    def test_home_is_here_still_takes_the_place_where_it_stands(self) -> None:
        self.ready()
        self.session.link.home_here(X)
        until(lambda: self.session.link.axes[X].homed, "home")
        self.assertEqual(self.session.link.axes[X].position, 2.0)
        self.click(self.page.one)  # and the method that it was told is still in force
        until(lambda: self.page.run.records[X].phases, "the approach")
        self.session.stop()
        self.rest()

    def test_the_scatter_of_repeated_homing_is_drawn_and_proven(self) -> None:
        self.ready()
        self.click(self.page.again)
        self.assertIn("X is not homed yet", self.window.notice.words)
        for _ in range(4):  # where this computer pauses the controller stops, and a person would begin again
            self.click(self.page.one)
            self.ended()
            self.click(self.page.again)
            until(lambda: not self.page.repeats.running, "the repeats", seconds=120)
            if X in self.page.repeats.scatters and len(self.page.repeats.scatters[X].deviations) == 8:
                break
        scatter = self.page.repeats.scatters[X]
        self.assertEqual(len(scatter.deviations), 8)
        self.assertLess(scatter.range, 0.03)
        claim = repeat_claim(self.session.machine, X)
        self.assertIs(state(self.session.machine, claim, self.session.proofs), Proof.PROVEN)
        self.assertFalse(self.page.outcome.scatter.isHidden())

    def test_a_home_can_be_forgotten_on_purpose(self) -> None:
        self.ready()
        self.session.link.home_here(X)
        until(lambda: self.session.link.axes[X].homed, "home")
        self.session.link.forget_home(X)
        until(lambda: not self.session.link.axes[X].homed, "home to be forgotten")

    def lose_steps(self) -> None:
        """Something holds X while it is told to go: an open loop counts on."""
        self.bench.hands.ask(do="jam", axis="X")
        self.session.link.jog_step(X, -10, 600)
        until(lambda: self.session.link.axes[X].position < -9.9, "the counts")
        self.rest()
        self.bench.hands.ask(do="free", axis="X")

    def home_x(self) -> None:
        self.click(self.page.one)
        self.ended()
        until(lambda: self.page.run.records[X].found, "what was measured")

    def test_a_home_that_moved_is_none_until_it_was_said_why(self) -> None:
        self.ready()
        self.home_x()
        until(lambda: "home.X" in self.session.proofs, "the proof")
        claim = home_claim(self.session.machine, X)
        self.assertIs(state(self.session.machine, claim, self.session.proofs), Proof.PROVEN)
        self.lose_steps()
        for _ in range(2):  # found there again, it is none as long as nobody has said why
            self.home_x()
            until(lambda: not self.session.link.axes[X].homed, "its home to be forgotten")
            self.assertIs(state(self.session.machine, claim, self.session.proofs), Proof.FAILED)
            self.assertEqual(self.page.title.text(), "X found its home elsewhere")
        lost = self.page.outcome.answers[0]
        self.assertIn("Steps were lost", lost.text())
        self.assertIs(self.page.control_of("home.X", None), lost)
        self.click(lost)
        self.assertIs(self.page.control_of("home.X", None), self.page.one)
        self.home_x()
        until(lambda: self.session.link.axes[X].homed, "its home")
        until(lambda: state(self.session.machine, claim, self.session.proofs) is Proof.PROVEN, "the proof")
        self.assertRegex(self.session.proofs["home.X"].result, r"0\.0\d\d mm from where it was last")

    def test_a_home_in_doubt_is_still_in_doubt_after_a_restart(self) -> None:
        self.ready()
        self.home_x()
        self.lose_steps()
        self.home_x()
        until(lambda: X in self.page.run.doubts, "the doubt")
        self.application.close()
        self.open()
        self.enter()
        self.assertAlmostEqual(abs(self.page.run.doubts[X].off), 10, delta=0.3)
        until(lambda: self.session.powered, "the drives, which kept their power")
        self.home_x()
        until(lambda: not self.session.link.axes[X].homed, "its home to be forgotten")
        self.assertEqual(self.page.title.text(), "X found its home elsewhere")
        self.click(self.page.outcome.answers[0])
        self.home_x()
        until(lambda: self.session.link.axes[X].homed and not self.session.homes.in_doubt, "its home")

    def test_a_switch_that_was_moved_gets_its_new_coordinate(self) -> None:
        self.ready()
        self.home_x()
        self.lose_steps()
        self.home_x()
        until(lambda: self.page.outcome.answers[1].isVisible(), "the question")
        self.click(self.page.outcome.answers[1])
        self.assertIn("moved", self.page.outcome.answers[1].text())
        self.assertAlmostEqual(abs(float(self.value("homing.coordinate")) - 2), 10, delta=0.3)

    def test_another_axis_s_switch_that_answers_ends_it_before_iron_and_is_named(self) -> None:
        self.session.set_values({at(1, "input.axis"): "Y", at(2, "input.axis"): "X"})
        self.session.set_values({at(X, "chain.pitch"): Fraction(4)})
        wired = {**wiring(), at(1, "input.axis"): "Y", at(2, "input.axis"): "X"}
        self.session.set_values(wired)
        self.again(self.session.send, lambda: not self.session.count().edited, "the wiring to be sent")
        self.power()
        for believed in (False, True):
            if believed:
                self.believe(X)
                self.bench.hands.ask(do="run", seconds=1)
                self.session.link.jog_step(X, -12, 900)
                self.bench.hands.ask(do="run", seconds=2)
                self.rest()
            for _ in range(3):  # where this computer pauses the controller stops it, and a person would press again
                self.click(self.page.one)
                self.ended(120)
                self.rest()
                if self.page.run.records[X].result is not HomingResult.STOPPED:
                    break
                self.power()
            title = self.page.outcome._causes[0][0]
            until(lambda title=title: title.text() == "The wires of X and Y are swapped", self.page.title.text(), 10)
            self.assertTrue(self.page.outcome.clear.isVisible())
            # A believed axis approaches at its search speed, and what this computer's pauses add is the bench's pace.
            struck = max(axis["struck"] for axis in self.bench.hands.ask(do="look")["axes"])
            self.assertLess(struck, 16 if believed else 1.2)  # mm/s
        self.click(self.page.outcome.fix)
        self.assertEqual(self.session.machine[at(1, "input.axis")], "X")


class Gantry(HomingCase):
    """Longcase: its motors of Y face each other, and its second switch lies 0.6 mm further out."""

    pace = 50

    rig = "longcase"

    def ready(self, **values: object) -> None:
        told = {(4, "home", "closed"), (5, "home_second", "open")}
        self.session.set_values(
            {at(Y, key.replace("__", ".")): value for key, value in values.items()}
            | {at(2, "input.role"): "stop", at(2, "input.rest"): "closed"}
        )  # type: ignore[dict-item]
        for slot, role, rest in told:
            self.session.set_values({
                at(slot, "input.role"): role, at(slot, "input.axis"): "Y", at(slot, "input.rest"): rest,
            })  # fmt: skip
        self.again(
            lambda: self.session.send(restart=True),
            lambda: not self.session.count().edited and not self.session.count().waiting, "the values to be sent",
        )  # fmt: skip
        self.believe(Y)
        self.power()
        self.page.show_axis(Y)

    def test_what_lies_between_the_two_switches_is_proposed_as_the_squaring_offset_with_its_picture(self) -> None:
        self.ready(axis__second_reversed=True)
        self.click(self.page.one)
        self.ended()
        until(lambda: self.page.outcome.beam.isVisible(), "the picture of the beam")
        self.assertIn("further to −", self.page.outcome.beam.accessibleName())
        self.assertIn("Set squaring offset: 0.6", self.page.outcome.fix.text())
        self.click(self.page.outcome.fix)
        self.assertAlmostEqual(float(self.value("homing.squaring", Y)), 0.6, delta=0.06)  # type: ignore[arg-type]

    def test_two_motors_that_turn_against_each_other_are_named_with_their_edit(self) -> None:
        self.ready()
        self.click(self.page.one)
        self.ended(120)
        title = self.page.outcome._causes[0][0]
        until(lambda: title.text() == "The second motor of Y turns the other way", "its effort to be told")
        self.click(self.page.outcome.fix)
        self.assertTrue(self.value("axis.second_reversed", Y))
