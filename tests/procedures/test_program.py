"""Programs and figures on the bench: what the sheet under the pen shows, stops in the middle, and what is gone on from."""

from __future__ import annotations

import unittest
from collections.abc import Mapping
from fractions import Fraction
from pathlib import Path
from typing import Any, ClassVar
from unittest import mock

import numpy as np

from idler.core.errors import Refusal
from idler.core.machine import Address
from idler.core.profile.terminals import Condition
from idler.core.program.tools import ToolSet
from idler.core.proof.claims import Proof, Witness, curve_claim, spindle_way_claim
from idler.core.spindle import told_range
from idler.core.values.parameter import Value
from idler.link.along import Along
from idler.link.events import Asked
from idler.link.own.client import Client as OwnClient
from idler.procedures.engine import Ending
from idler.procedures.questions import Question
from idler.procedures.registry import Wishes
from idler.procedures.trial.aftertrial import StepsAfter
from idler.procedures.trial.figure import FigureRun
from idler.procedures.trial.program import Interrupted, ProgramRun, Way
from tests.procedures.ready import Ready
from tests.support import X, Y, at, wait_for, wiring

HOOK = Wishes(figure="hook", of=("width=30", "height=20", "clear=2"))


CROSSING = "G21 G90\nG0 Z5\nG1 Z0 F1200\nG1 X25 Y10 F600\nX-25 Y20\nX0 Y0\nG0 Z5\nM30\n"
CUTS = "G21 G90\nS1000 M3\nG1 X20 F600\nG1 X0\nM5\nM30\n"


class Sheet(Ready):
    def test_what_the_sheet_shows_names_the_cause_and_its_edit_mends_it(self) -> None:
        """Verge comes with its Y mirrored."""
        self.ready()
        got = self.mill.run("figure", answers=self.pen, wishes=HOOK)
        self.assertEqual((got.end, self.pen.seen), (Ending.NOT_PROVEN, "upside_down"))
        self.assertEqual(set(got.edit), {at(Y, "axis.reversed")})
        self.assertIs(self.mill.proofs["figure.XY"], Proof.FAILED)
        self.mill.take(got)
        self.ready()
        got = self.mill.run("figure", answers=self.pen, wishes=HOOK)
        self.assertEqual((got.end, self.pen.seen), (Ending.PROVEN, "as_asked"), got.words)
        self.assertIs(self.mill.proofs["figure.XY"], Proof.PROVEN)

    def test_two_motors_that_were_swapped_are_named(self) -> None:
        outputs = [self.mill.machine[at(slot, "axis.output")] for slot in (X, Y)]
        self.ready({at(X, "axis.output"): outputs[1], at(Y, "axis.output"): outputs[0]})
        self.mill.session.restart()
        self.assertTrue(self.mill.wait(lambda: not self.mill.session.busy, 20))
        self.ready()
        got = self.mill.run("figure", answers=self.pen, wishes=HOOK)
        self.assertTrue(self.pen.seen.startswith("swapped"), self.pen.seen)
        self.mill.take(got)
        self.ready()
        got = self.mill.run("figure", answers=self.pen, wishes=HOOK)
        self.assertEqual((got.end, self.pen.seen), (Ending.PROVEN, "as_asked"), got.words)

    def test_an_axis_that_is_not_to_scale_is_measured_on_the_sheet(self) -> None:
        """Verge comes with an X of which a fifth is missing."""
        self.ready()
        got = self.mill.run("figure", answers=self.pen, wishes=Wishes(figure="circle", of=("width=30", "clear=2")))
        self.assertIs(got.end, Ending.NOT_PROVEN)
        self.assertAlmostEqual(float(got.figures["X"]), -6.0, delta=0.3)
        self.assertAlmostEqual(float(got.figures["Y"]), 0.0, delta=0.3)
        self.assertIn("X goes 20", got.words)
        for key, proof in (("scale.X", Proof.FAILED), ("figure.XY", Proof.FAILED), ("scale.Y", Proof.ENTERED)):
            self.assertIs(self.mill.proofs[key], proof, key)

    def test_play_is_told_by_the_flats_of_a_circle(self) -> None:
        """Verge's Y has 0.05 mm of play in the middle of its screw, and its X 0.03 mm: a sharp eye sees both."""
        machine = self.mill.machine
        pitch = machine.axis(X).number("chain.pitch") * Fraction(4, 5)
        self.ready({at(Y, "axis.reversed"): not machine.axis(Y).flag("axis.reversed"), at(X, "chain.pitch"): pitch})
        got = self.mill.run("figure", answers=self.pen, wishes=Wishes(figure="circle", of=("width=30", "clear=2")))
        self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
        self.assertAlmostEqual(float(got.figures["play_Y"]), 0.05, delta=0.02)
        self.assertAlmostEqual(float(got.figures["play_X"]), 0.03, delta=0.02)
        self.assertIn("Geometry", got.words)


class Programs(Ready):
    roles: ClassVar[Mapping[Address, Value]] = {}

    def setUp(self) -> None:
        super().setUp()
        machine = self.mill.machine
        pitch = machine.axis(X).number("chain.pitch") * Fraction(4, 5)
        self.ready(
            {
                at(Y, "axis.reversed"): not machine.axis(Y).flag("axis.reversed"),
                at(X, "chain.pitch"): pitch,
                **self.roles,
            }
        )

    def spindle_proven(self) -> None:
        machine = self.mill.machine
        for claim in (spindle_way_claim(machine), curve_claim(machine, told_range(machine))):
            self.mill.session.prove(claim, True, "as if it had been seen", Witness.EYES)


class Tripped(Programs):
    """The touch plate plays the contact of the spindle's drive that says that it is ready."""

    roles: ClassVar[Mapping[Address, Value]] = {at(6, "input.role"): "ready"}

    def setUp(self) -> None:
        super().setUp()
        self.hands.ask(do="press", switch="touch plate")
        self.addCleanup(lambda: self.hands.ask(do="release", switch="touch plate"))

    def test_a_spindle_that_trips_ends_the_path(self) -> None:
        self.spindle_proven()
        self.assertTrue(self.mill.wait(lambda: not self.mill.session.panel.conditions & Condition.NOT_READY, 20))
        run = self.began(CUTS, switches=True)
        self.hands.ask(do="release", switch="touch plate")
        self.assertTrue(self.mill.wait(lambda: not run.running, 20))
        self.assertIs(run.result.end if run.result else None, Ending.STOPPED)
        self.assertIn("spindle", run.words)
        self.assertLess(self.mill.axes[X].position, 19)
        self.assertTrue(self.mill.wait(lambda: run.interrupted is not None, 20))
        self.assertNotEqual(run.go_on_from(), "")


class Running(Programs):
    def test_it_takes_as_long_as_was_reckoned_and_asks_at_its_stops(self) -> None:
        self.hands.ask(do="pace", factor=8)  # a busy computer keeps the buffer filled at this
        self.addCleanup(lambda: self.hands.ask(do="pace", factor=40))
        got = self.program(f"{CROSSING[:-4]}M0 (turn the part)\nG0 X5\nM30\n")
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertEqual(len(self.pen.stops), 1)
        self.assertIn("turn the part", self.pen.stops[0])
        predicted, taken = float(got.figures["predicted_s"]), float(got.figures["taken_s"])
        self.assertLess(abs(taken - predicted), 0.01 * predicted)
        self.assertIn("mm/min on the mean", got.words)
        self.assertAlmostEqual(self.mill.axes[X].position, 5.0, delta=0.01)

    def test_a_stop_right_behind_another_is_asked_too(self) -> None:
        """The path is at the next one before anybody has seen that it left the one before."""
        got = self.program("G21 G90\nG0 X1\nM0 (one)\nM0 (two)\nG0 X1.01\nM0 (three)\nM30\n")
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertEqual([word for stop in self.pen.stops for word in ("one", "two", "three") if word in stop],
                         ["one", "two", "three"])  # fmt: skip

    def test_stop_ends_it_on_the_path_and_it_is_gone_on_from(self) -> None:
        run = self.began(CROSSING)
        self.mill.stop()
        self.assertIs(run.result.end if run.result else None, Ending.STOPPED)
        self.assertTrue(self.mill.wait(lambda: run.interrupted is not None, 20))
        left = run.interrupted
        assert isinstance(left, Interrupted)
        self.assertFalse(left.beside)
        self.assertEqual(run.go_on_from(), "")
        self.assertTrue(self.mill.wait(lambda: not run.running, 60))
        self.assertIs(run.result.end if run.result else None, Ending.DONE, run.words)
        lines = self.hands.ask(do="drawn")["lines"]
        whole = np.concatenate([np.array(line) for line in lines if len(line) > 1])
        corners = np.array([(0, 0), (25, 10), (-25, 20), (0, 0)], float)
        begin = np.array(lines[0][0])
        for corner in corners:
            self.assertLess(float(np.hypot(*(whole - begin - corner).T).min()), 0.2, corner)

    def test_stop_in_a_pause_and_gone_on_from_there(self) -> None:
        run = self.began(CROSSING)
        run.pause()
        self.assertTrue(self.mill.wait(lambda: self.mill.session.link.path.along is Along.HELD, 20))
        self.mill.stop()
        self.assertTrue(self.mill.wait(lambda: run.interrupted is not None, 20))
        self.assertEqual(run.go_on_from(), "")
        self.assertTrue(self.mill.wait(lambda: not run.running, 60))
        self.assertIs(run.result.end if run.result else None, Ending.DONE, run.words)

    def test_an_axis_that_was_moved_since_is_not_gone_on_with(self) -> None:
        run = self.began(CROSSING)
        self.mill.stop()
        self.assertTrue(self.mill.wait(lambda: run.interrupted is not None, 20))
        self.mill.run("move", "X", wishes=Wishes(length="-3 mm"))
        self.assertIn("X", run.go_on_from())
        run.give_up()
        self.assertEqual(run.go_on_from(), "Nothing was interrupted.")

    def test_a_screen_that_stands_still_changes_nothing(self) -> None:
        """The session is not worked in at all: the link keeps the buffer filled by itself."""
        run = self.began(CROSSING)
        link, least = self.mill.session.link, [10**9]

        def look() -> None:
            if link.path.along is Along.RUNS and link.path.at < 3000:
                least[0] = min(least[0], link.path.ahead)

        wait_for(lambda: link.path.along is Along.ENDED, "the end of the path", look)
        self.assertTrue(run.running, "nobody has looked yet")
        self.assertTrue(self.mill.wait(lambda: not run.running, 20))
        self.assertIs(run.result.end if run.result else None, Ending.DONE)
        self.assertGreater(least[0], 0)

    def test_pause_feed_and_single_block_by_words(self) -> None:
        run = self.began(CROSSING, pace=4)  # so that what goes on between two looks is seen
        link = self.mill.session.link
        self.assertTrue(run.hear("pause"))
        self.assertTrue(self.mill.wait(lambda: link.path.along is Along.HELD, 20))
        stands = link.path.at
        self.assertTrue(run.hear("feed 40"))
        self.assertTrue(run.hear("single"))
        self.assertEqual((run.feed, link.path.at), (0.4, stands))
        run.hear("go")
        self.assertTrue(self.mill.wait(lambda: link.path.at > stands, 20))
        lines = set()
        for _ in range(12):
            self.assertTrue(self.mill.wait(lambda: link.path.along is Along.HELD or not run.running, 30))
            if not run.running:
                break
            lines.add(link.path.line)
            stands = link.path.at
            run.hear("go")
            self.assertTrue(self.mill.wait(lambda stands=stands: link.path.at > stands or not run.running, 20))
        self.assertGreaterEqual(len(lines), 3)
        self.assertFalse(run.hear("sideways"))
        for words in ("feed 140", "feed far", "rapid -3"):
            with self.subTest(words), self.assertRaises(Refusal):
                run.hear(words)

    def test_spindle_and_coolant_go_with_the_path_and_the_guard_ends_all(self) -> None:
        text = "G21 G90\nS2000 M3\nM8\nG1 X20 F600\nM9\nG1 X-20 F300\nM5\nG0 X0\nM30\n"
        got = self.program(text, spindle=True)
        self.assertIn("not proven", got.words)
        self.spindle_proven()
        file = Path(self.mill.session.folder) / "part.nc"
        run, link, panel = ProgramRun(self.mill.session), self.mill.session.link, lambda: self.mill.session.panel
        self.hands.ask(do="pace", factor=8)
        self.addCleanup(lambda: self.hands.ask(do="pace", factor=40))
        self.assertEqual(run.run_file(file, Way(dry=False)), "")
        self.assertTrue(self.mill.wait(lambda: link.path.line == 4 and link.path.at > 1, 30), run.words)
        self.assertTrue(self.mill.wait(lambda: panel().conditions & Condition.SPINDLE and panel().is_energised(4), 10))
        self.assertTrue(self.mill.wait(lambda: link.path.line == 6 and link.path.at > 1, 30))
        self.assertTrue(self.mill.wait(lambda: not panel().is_energised(4), 10))
        self.assertTrue(panel().conditions & Condition.SPINDLE)
        self.hands.ask(do="press", switch="guard")
        self.assertTrue(self.mill.wait(lambda: not run.running, 20))
        self.assertIs(run.result.end if run.result else None, Ending.STOPPED)
        self.assertTrue(self.mill.wait(lambda: run.interrupted is not None, 20))
        self.assertTrue(self.mill.wait(lambda: not panel().conditions & Condition.SPINDLE, 10))
        self.assertIn("guard", run.go_on_from())
        self.hands.ask(do="release", switch="guard")
        self.assertTrue(self.mill.wait(lambda: not panel().conditions & Condition.GUARD, 10))
        self.assertFalse(panel().conditions & Condition.SPINDLE, "nothing starts by itself")
        self.assertEqual(run.go_on_from(), "")
        self.assertTrue(self.mill.wait(lambda: panel().conditions & Condition.SPINDLE, 20))
        self.assertTrue(self.mill.wait(lambda: not run.running, 60))
        self.assertIs(run.result.end if run.result else None, Ending.DONE, run.words)
        self.assertTrue(self.mill.wait(lambda: not panel().conditions & Condition.SPINDLE, 10))

    def test_at_a_stop_the_spindle_stands_and_turns_again_when_it_goes_on(self) -> None:
        self.spindle_proven()
        seen: list[tuple[str, bool]] = []

        def look(question: Question[Any]) -> str:
            seen.append((question.text, bool(self.mill.session.panel.conditions & Condition.SPINDLE)))
            return ""

        with mock.patch.object(self.pen, "of_program", look):
            text = "G21 G90\nS1000 M3\nG1 X1 F600\nM0 (turn it)\nG1 X2\nM5\nG1 X0\nM0 (measure)\nM30\n"
            got = self.program(text, spindle=True)
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertEqual([turned for _, turned in seen], [False, False])
        self.assertEqual(["Going on starts the spindle." in stop for stop, _ in seen], [True, False], seen)

    def test_no_leg_begins_before_the_spindle_is_told_to_turn(self) -> None:
        """The frame that asks for it has no answer, and may be lost."""
        self.spindle_proven()
        honest, lost = OwnClient.ask, 0

        def loses(client: OwnClient, asked: Asked) -> None:
            nonlocal lost
            if asked.run and (lost := lost + 1) <= frames:
                client._asked = asked
                return
            honest(client, asked)

        for frames, end in ((1, Ending.DONE), (1000, Ending.FAILED)):
            with self.subTest(frames), mock.patch.object(OwnClient, "ask", loses):
                before, lost = self.mill.axes[X].position, 0
                got = self.program(CUTS, spindle=True)
                self.assertIs(got.end, end, got.words)
                self.assertGreaterEqual(lost, 2)
                if end is Ending.FAILED:
                    self.assertIn("spindle", got.words)
                    self.assertAlmostEqual(self.mill.axes[X].position, before, delta=0.01)

    def test_frames_that_are_lost_where_it_begins_are_said_again(self) -> None:
        for number in (9, 20):
            with self.subTest(number):
                self.hands.ask(do="fault", kind="deaf", after=number)
                got = self.program("G21 G90\nG0 Z2\nG1 X4 F900\nM0\nG0 X0\nG0 Z0\nM30\n")
                self.hands.ask(do="fault", kind="", after=0)
                self.assertIs(got.end, Ending.DONE, got.words)

    def test_what_does_not_fit_or_was_changed_does_not_start(self) -> None:
        got = self.program("G21 G90\nG0 X200\nM30\n")
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("fit", got.words)
        got = self.program("G21 G90\nG0 X2 Z2\nM30\n", raised="90 mm")
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("Z", got.words)
        got = self.program("G21 G90\nG55 G1 X10 F1000\nM30\n")
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("G55 of X", got.words)
        got = self.program("G21 G90\nG0 G43 H3 Z-1\nM30\n")
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("H3: nobody knows how long it is", got.words)
        self.mill.session.tools.put(3, -0.5)
        got = self.program("G21 G90\nG0 G43 H3 Z-1\nM30\n")
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertAlmostEqual(self.mill.axes[2].position, -1.5, delta=0.02)
        self.mill.session.tools.set = ToolSet()  # it went stale, and the program was not read anew yet
        run = ProgramRun(self.mill.session)
        self.assertEqual(run.start(run.way), "")
        self.assertTrue(self.mill.wait(lambda: not run.running, 20))
        self.assertIn("how long H3 is any more", run.words)
        run = ProgramRun(self.mill.session)
        file = Path(self.mill.session.folder) / "part.nc"
        file.write_text("G21 G90\nG0 X200 Y2\nM30\n")
        self.assertNotEqual(run.start(run.way), "")


class Afterwards(Ready):
    def test_steps_that_were_kept_are_proven_by_the_switches(self) -> None:
        self.mill.session.set_values(
            {**wiring(), at(Y, "axis.reversed"): not self.mill.machine.axis(Y).flag("axis.reversed")}
        )
        self.mill.send()
        self.home("Z", "X", "Y")
        for name in "XYZ":
            self.mill.run("move", name, wishes=Wishes(length="-40 mm"))
        run = FigureRun(self.mill.session)
        steps = StepsAfter(self.mill.session, run)
        self.assertNotEqual(steps.check(), "")
        self.mill.run("zero", wishes=Wishes(zero="here"))
        file = Path(self.mill.session.folder) / "part.nc"
        file.write_text(CROSSING.replace("25", "10"))
        for _ in range(4):  # a computer that pauses lets the controller stop the path, rightly
            if not self.mill.session.powered:
                self.mill.power()
            self.assertEqual(run.run_file(file, run.way), "")
            self.assertTrue(self.mill.wait(lambda: not run.running, 60))
            if run.result is not None and run.result.end is Ending.DONE:
                break
        self.judge()  # what comes now goes to the switches, beyond the soft limits
        self.assertEqual(steps.check(), "", run.words)
        self.assertTrue(self.mill.wait(lambda: not steps.running, 60))
        self.assertIs(steps.result.end if steps.result else None, Ending.PROVEN)
        self.assertEqual([self.mill.proofs[f"trial.{name}"] for name in "XYZ"], [Proof.PROVEN] * 3)
        self.mill.run("home", "X")
        self.assertIn("since the axes were homed", steps.check(), "what the run lost is gone with another home")


if __name__ == "__main__":
    unittest.main()
