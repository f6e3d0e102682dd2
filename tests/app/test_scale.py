"""The Scale station in the real window: passes at the real bench, causes, corrections, proofs."""

from __future__ import annotations

from fractions import Fraction
from unittest import mock

from PySide6.QtCore import Qt

from idler.app.qt_wait import until
from idler.app.stations.scale.station import ScaleStation
from idler.core.mechanics.scale import INSTRUMENTS, Pass, Verdict, verdict
from idler.core.proof.claims import Proof, Witness, direction_claim, scale_claim, state
from idler.core.table.stations import Station
from idler.link.events import AxisState
from idler.procedures.engine import Ending, Result, Run
from idler.procedures.scale.onepass import PassStage
from tests.app.gui import SessionCase
from tests.support import A, X, Y, at

CALIPER = next(item for item in INSTRUMENTS if item.key == "caliper")


class ScaleCase(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.open_station(Station.SCALE)
        page = self.window.page(Station.SCALE)
        assert isinstance(page, ScaleStation)
        self.page = page

    def choose(self, instrument: str, length: str) -> None:
        self.page.instrument.setCurrentIndex(self.page.instrument.findText(instrument, Qt.MatchFlag.MatchStartsWith))
        self.page.length.setText(length)
        self.page.length.editingFinished.emit()

    def step(self, *stages: PassStage) -> bool:
        """Presses the button until each stage is reached; False where the axis was stopped on the way."""
        for stage in stages:
            self.click(self.page.go)
            until(lambda stage=stage: self.page.procedure.stage in (stage, PassStage.START), stage.key)
            if self.page.procedure.stage is PassStage.START:
                return False
        return True

    def go_to(self, *stages: PassStage) -> None:
        """The same, begun anew where this computer paused for so long that the controller stopped the axis."""
        self.assertTrue(any(self.step(*stages) for _ in range(6)), self.window.notice.words)

    def measure(self) -> float:
        self.go_to(PassStage.ZERO, PassStage.MOVE, PassStage.READ)
        self.click(self.page.read_button)
        until(self.page.reading.text, "the reading")
        reading = float(self.page.reading.text().split()[0].rstrip("°"))
        self.click(self.page.go)
        return reading

    def proof(self, slot: int = X) -> Proof:
        return state(self.session.machine, scale_claim(self.session.machine, slot), self.session.proofs)


class OnTheBench(ScaleCase):
    pace = 50

    def test_the_wrong_screw_is_named_mended_and_proven(self) -> None:
        self.power()
        self.choose("caliper", "40 mm")
        self.assertAlmostEqual(self.measure(), 32, delta=0.05)
        self.assertEqual(self.page._title.text(), "X is off on one way: measure the other, too")
        self.assertFalse(self.page.accept.isVisible())
        self.assertEqual(self.page._length, -40)
        self.assertAlmostEqual(self.measure(), -32, delta=0.05)
        self.assertEqual(self.page._title.text(), "X is off")
        self.assertEqual(self.page.cause_buttons[0].property("role"), "main")
        until(lambda: self.page.control_of("scale.X", None) is self.page.cause_buttons[0], "the cause to be shown")
        self.assertIn("its screw has a pitch of 4 mm", self.page.cause_buttons[0].accessibleName())
        self.click(self.page.cause_buttons[0])
        self.assertEqual(self.value("chain.pitch"), 4)
        self.session.send()
        until(lambda: not self.session.count().edited, "the pitch to be sent")
        self.choose("gauge blocks", "60 mm")
        for _ in range(2):
            self.assertAlmostEqual(self.measure(), 60, delta=0.01)
        self.assertEqual(self.page._title.text(), "X is proven to 0.020 %")
        self.assertIs(self.page.control_of("scale.X", None), self.page.prove)
        self.click(self.page.prove)
        self.assertIs(self.proof(), Proof.PROVEN)
        self.session.set_values({at(X, "chain.pitch"): Fraction(5)})
        self.assertIs(self.proof(), Proof.STALE)
        self.assertIn("proven once", self.page._words.text())
        self.session.undo_stack.undo()
        self.assertIs(self.proof(), Proof.PROVEN)

    def test_the_next_pass_begins_at_the_same_mark_with_the_play_taken_up(self) -> None:
        self.power()
        self.choose("caliper", "20 mm")
        starts = []
        for _ in range(2):
            self.go_to(PassStage.ZERO)
            starts.append(self.bench.hands.look("X")["at"])
            self.assertTrue(self.step(PassStage.MOVE, PassStage.READ), self.window.notice.words)
            self.page.reading.setText("20 mm")  # off, it would go the other way
            self.click(self.page.go)
        self.assertAlmostEqual(starts[0], starts[1], delta=0.02)

    def test_an_axis_that_goes_the_other_way_is_told_so(self) -> None:
        self.power()
        self.page.show_axis(Y)
        self.choose("caliper", "20 mm")
        self.assertLess(self.measure(), 0)
        self.assertEqual(self.page._title.text(), "Y went the other way")
        self.assertIn("at Drives first", self.page._words.text())

    def test_a_rotary_axis(self) -> None:
        self.power()
        self.page.show_axis(A)
        self.choose("whole turns", "90")
        self.click(self.page.go)
        self.assertIn("only 360° and its multiples can be told", self.window.notice.words)
        self.choose("protractor", "90")
        self.assertAlmostEqual(self.measure(), 90, delta=0.2)
        self.assertIn("°", self.page.length.text())

    def test_bad_readings_are_refused_in_words_and_asked_for_again(self) -> None:
        self.power()
        self.choose("steel rule", "20 mm")
        self.go_to(PassStage.ZERO, PassStage.MOVE, PassStage.READ)
        for text, words in (("", "reading of X"), ("5 s", "5 s")):
            self.page.reading.setText(text)
            self.click(self.page.go)
            self.assertIn(words, self.window.notice.words)
        self.page.reading.setText("0.8 in")
        self.click(self.page.go)
        self.assertAlmostEqual(self.page.passes[0].measured, 20.32)

    def test_a_reading_of_nothing_is_no_pass_and_says_what_to_look_at(self) -> None:
        self.power()
        self.choose("caliper", "20 mm")

        def read_nothing() -> None:
            self.go_to(PassStage.ZERO, PassStage.MOVE, PassStage.READ)
            self.page.reading.setText("0.02")  # within half a pole of where it began
            self.click(self.page.go)
            until(lambda: self.page.procedure.stage is PassStage.START, "the pass to end")
            self.assertEqual(self.page.passes, [])
            self.assertIn("X stood still: it was told to go 20 mm at ", self.window.notice.words)

        read_nothing()
        self.assertIn("Look at its drive and its wires", self.window.notice.words)
        self.assertFalse(self.page.gentler.isVisible())
        self.session.prove(direction_claim(self.session.machine, X), True, "the table was seen to go", Witness.EYES)
        rise = self.value("pace.acceleration")
        read_nothing()
        self.assertIn("has not the torque for that", self.window.notice.words)
        self.assertIn("has not the torque for that", self.page._words.text())  # where the notice is closed, too
        self.assertIs(self.page.control_of("scale.X", None), self.page.gentler)
        self.click(self.page.gentler)
        self.assertEqual((rise, self.value("pace.acceleration")), (250, 170))
        self.assertFalse(self.page.gentler.isVisible())

    def test_passes_that_contradict_are_made_anew_less_far_and_away_from_the_short_one(self) -> None:
        self.power()
        run = self.page.procedure
        for way in (1, -1):
            passes = [Pass(way * told, way * read, 320.0, CALIPER) for told, read in ((100, 101.6), (-100, -86.0))]
            self.session.keep_passes("X", passes)
            run.length, run.instrument = 100.0, CALIPER
            self.assertIs(run.said(0.0002), Verdict.APART)
            with mock.patch.object(run, "begin"):
                self.assertEqual(run.prove(0.0002), "")
            self.assertEqual((run.length, self.page.passes), (way * 43.0, []))

    def test_an_axis_that_is_moved_while_it_is_measured_voids_the_pass(self) -> None:
        self.power()
        self.choose("steel rule", "20 mm")
        self.go_to(PassStage.ZERO, PassStage.MOVE, PassStage.READ)
        stood = self.session.axes[X].position
        self.session.link.jog_step(X, 1.0, 600.0)
        until(lambda: abs(self.session.axes[X].position - stood) > 0.9, "the jog")
        self.rest()
        self.page.reading.setText("20 mm")
        self.click(self.page.go)
        until(lambda: "moved meanwhile" in self.window.notice.words, "the pass to be void")
        self.assertEqual(self.page.passes, [])

    def test_stop_in_the_middle_voids_the_pass(self) -> None:
        self.power()
        self.choose("steel rule", "60 mm")
        self.go_to(PassStage.ZERO, PassStage.MOVE)
        self.click(self.page.go)
        until(lambda: self.session.moving, "motion")
        self.escape()
        until(lambda: self.page.procedure.stage is PassStage.START, "the pass to be void")
        self.rest()
        self.assertEqual(self.page.passes, [])

    def test_what_cannot_be_measured_now_is_said(self) -> None:
        self.click(self.page.go)
        self.assertIn("The drives are off", self.window.notice.words)
        self.power()
        self.choose("dial", "60 mm")
        self.click(self.page.go)
        self.assertIn("reaches 10 mm; the move is 60 mm", self.window.notice.words)


class Offline(ScaleCase):
    on_bench = False

    def keep(self, *passes: Pass) -> None:
        self.page._keep(list(passes))

    def test_a_small_error_is_corrected_and_the_train_stays_as_drawn(self) -> None:
        self.keep(*[Pass(100, 100.12, 320, CALIPER), Pass(-100, -100.12, 320, CALIPER)] * 2)
        self.assertEqual(self.page._title.text(), "X is off")
        self.assertEqual(self.page.cause_buttons, [])
        self.click(self.page.accept)
        self.assertAlmostEqual(float(self.value("chain.correction")), 1.0012, places=6)
        self.assertEqual(self.value("chain.pitch"), 5)
        passes = self.page.passes
        told = 320 / float(self.value("chain.correction"))
        self.assertIs(verdict(passes, told, 0.002), Verdict.AGAIN)  # what was measured before proves nothing of it
        self.assertIs(verdict([*passes, *[Pass(100, 100.0, told, CALIPER)] * 4], told, 0.002), Verdict.PROVEN)

    def test_passes_of_another_motor_prove_nothing(self) -> None:
        told, driven = self.page.procedure.told, self.page.procedure._signals
        self.assertIn("axis.output 1", driven)
        for signals, title in (
            (driven, "X is proven to 0.020 %"),
            (driven.replace("axis.output 1", "axis.output 2"), "X is not measured yet"),
        ):
            self.keep(*[Pass(way * 100, way * 100.0, told, CALIPER, signals=signals) for way in (1, -1)] * 40)
            self.assertEqual(self.page._title.text(), title)

    def test_passes_that_contradict_each_other_prove_nothing(self) -> None:
        self.keep(*[Pass(100, read, 320, CALIPER) for read in (100.0, 98.0, 102.0)])
        self.assertEqual(self.page._title.text(), "The passes of X contradict each other")
        self.assertFalse(self.page.prove.isVisible())

    def test_a_fast_pass_that_falls_short_of_a_slow_one_names_lost_steps(self) -> None:
        self.keep(Pass(100, 100.0, 320, CALIPER, speed=60), Pass(100, 99.2, 320, CALIPER, speed=3000))
        self.assertEqual(self.page._title.text(), "The passes of X contradict each other")
        self.assertIn("At 3\u202f000 mm/min it went 0.800 % less far than slowly", self.page._words.text())

    def test_what_a_rule_cannot_prove_it_does_not_and_says_what_could(self) -> None:
        rule = INSTRUMENTS[0]
        self.keep(Pass(100, 100, 320, rule))
        self.page.instrument.setCurrentIndex(0)
        self.page.refresh()
        self.assertEqual(self.page._title.text(), "X cannot be told so finely")
        self.assertIn("gauge blocks", self.page._words.text())
        self.page.tolerance.setText("1 %")
        self.page.tolerance.editingFinished.emit()
        self.assertEqual(self.page._title.text(), "X is proven to 1.00 %")

    def test_the_length_to_begin_with_follows_room_and_instrument(self) -> None:
        self.assertEqual(self.page.length.text(), "-90 mm")
        self.session.set_values({at(X, "travel.stop_low"): Fraction(-3), at(X, "travel.stop_high"): Fraction(62),
                              at(X, "travel.low"): Fraction(0), at(X, "travel.high"): Fraction(50)})  # fmt: skip
        self.page.show_axis(X)
        self.assertEqual(self.page.length.text(), "-30 mm")

    def test_what_one_axis_met_says_nothing_of_another(self) -> None:
        run = self.page.procedure
        self.page.show_axis(Y)
        away = run.usual_way
        self.page.show_axis(X)
        run._meet(float(run.usual_way), "X met something.")
        self.page.show_axis(Y)
        self.assertEqual(run.usual_way, away)

    def test_bad_lengths_tolerances_and_readings_are_refused_in_words(self) -> None:
        for editor, text, words in (
            (self.page.length, "0", "cannot be used"), (self.page.length, "ten", "ten"),
            (self.page.tolerance, "0", "0.001 % to 10 %"), (self.page.tolerance, "fine", "cannot be used"),
        ):  # fmt: skip
            editor.setText(text)
            editor.editingFinished.emit()
            self.assertIn(words, self.window.notice.words)
        self.assertEqual((self.page.length.text(), self.page.tolerance.text()), ("-90 mm", "0.020 %"))

    def test_passes_outlive_the_application_and_go_one_by_one(self) -> None:
        self.keep(Pass(100, 100, 320, CALIPER), Pass(100, 99, 320, CALIPER))
        self.application.close()
        self.open()
        self.assertEqual([p.measured for p in self.session.passes["X"]], [100, 99])
        self.window.open_station(Station.SCALE)
        page = self.window.page(Station.SCALE)
        self.click(page.drop_button)  # type: ignore[attr-defined]
        self.assertEqual([p.measured for p in self.session.passes["X"]], [100])

    def test_a_proof_of_values_that_were_not_sent_is_refused(self) -> None:
        self.keep(*[Pass(100, 100, 320, CALIPER)] * 8)
        self.click(self.page.prove)
        self.assertIn("cannot be proven now. No controller is connected", self.window.notice.words)
        self.assertEqual(self.session.proofs, {})

    def test_an_axis_that_never_arrives_voids_the_pass_with_a_sentence(self) -> None:
        axes = (AxisState(position=3.0),)
        run = self.page.procedure

        def only() -> Run:
            yield from run._go(50.0, 60.0)
            return Result(Ending.DONE, "")

        with (
            mock.patch.object(type(self.session), "axes", property(lambda _self: axes)),
            mock.patch.object(self.session.link, "jog_step", lambda *_, **__: self.session.done.publish("jog")),
        ):
            run.begin(only(), "")
            until(lambda: not run.running, "the pass to be void")
        self.assertIn("did not arrive: it was stopped", self.window.notice.words)
        self.assertIs(self.page.procedure.stage, PassStage.START)
