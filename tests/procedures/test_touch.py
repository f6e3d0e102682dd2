"""The touch plate on the bench: what is found is where the work lies, and nothing moves before its wire was seen to work."""

from __future__ import annotations

import unittest
from fractions import Fraction
from typing import Any

from idler.core.errors import Refusal
from idler.core.trial import touching
from idler.procedures.engine import Ending, Result
from idler.procedures.questions import Question
from idler.procedures.registry import Wishes
from idler.procedures.trial.touch import TouchRun
from tests.procedures.test_program import Ready
from tests.support import X, Y, at

WORK = {"left": -12.0, "front": -9.0, "wide": 50.0, "deep": 34.0, "top": -6.0, "tool": 6.0}
QUICK = ("fast=1200", "slow=120")
NEAR = 0.06  # mm: play of the rig, the scatter of its contact, a count
PRESSED = 0.6  # mm: no touch goes deeper


class Touching(Ready):
    def setUp(self) -> None:
        super().setUp()
        machine = self.mill.machine
        pitch = machine.axis(X).number("chain.pitch") * Fraction(4, 5)
        self.ready({at(Y, "axis.reversed"): not machine.axis(Y).flag("axis.reversed"), at(X, "chain.pitch"): pitch})
        self.holds = True  # whether the person holds the plate to the tool when asked
        self.lay: dict[str, float] = {}

    def hand(self, question: Question[Any]) -> str | None:
        if question.key == "touch.plate":
            if not self.holds:
                return ""
            self.hands.ask(do="press", switch="touch plate")
            self.let_go = self.mill.loop.timer(0.02, lambda: self.release(question))
            self.let_go.start()
            return None
        self.hands.ask(do="work", **self.lay)
        return ""

    def release(self, question: Question[Any]) -> None:
        """Once it was seen, however long that takes on a busy computer."""
        run = self.mill.procedure
        if run is None or run.question is not question:
            self.let_go.stop()
            self.hands.ask(do="release", switch="touch plate")

    def touched(self, what: str, *of: str, **lay: float) -> Result:
        self.lay = {**WORK, **lay}
        got = self.mill.run("probe", answers=self.hand, wishes=Wishes(way=what, of=("tool=6", "reach=20", *QUICK, *of)))
        if got.end is Ending.DONE:
            self.assertLess(self.hands.ask(do="work")["deepest"], PRESSED)
        return got

    def test_the_top_is_the_plate_s_less_its_thickness_and_is_taken_only_when_it_is_told(self) -> None:
        before = self.mill.session.work.of("Z")
        got = self.touched("top", "thickness=2.5", "times=3")
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertAlmostEqual(float(got.figures["Z"]), -6 - 2.5, delta=NEAR)
        self.assertEqual(self.mill.session.work.of("Z"), before)
        run = self.mill.procedure
        assert isinstance(run, TouchRun)
        self.assertEqual(run.take(), "")
        self.assertAlmostEqual(self.mill.session.work.of("Z") or 0.0, -8.5, delta=NEAR)

    def test_a_tool_is_measured_against_the_one_of_the_work_zero(self) -> None:
        """A tool that is 3 mm longer touches the same plate 3 mm higher."""
        session = self.mill.session
        self.touched("top", "thickness=2.5")
        run = self.mill.procedure
        assert isinstance(run, TouchRun)
        self.assertEqual(run.take(), "")
        self.mill.run("move", "Z", wishes=Wishes(length=f"{-self.mill.axes[2].position:.3f} mm"))
        got = self.touched("length", "number=7", "thickness=2.5", top=-3.0)
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertAlmostEqual(float(got.figures["length"]), 3.0, delta=NEAR)
        self.assertEqual(session.tools.lengths, {})  # nothing is taken over without being told
        run = self.mill.procedure
        assert isinstance(run, TouchRun)
        self.assertEqual(run.take(), "")
        self.assertAlmostEqual(session.tools.lengths[7], 3.0, delta=NEAR)
        session.work.clear(2)
        self.assertIn("no work zero", self.touched("length", "number=7").words)

    def test_a_corner_and_the_top_are_found_at_once(self) -> None:
        got = self.touched("back_right", "thickness=0", "depth=3", left=-38.0, front=-25.0)
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertAlmostEqual(float(got.figures["X"]), 12.0, delta=NEAR)
        self.assertAlmostEqual(float(got.figures["Y"]), 9.0, delta=NEAR)
        self.assertAlmostEqual(float(got.figures["Z"]), -6.0, delta=NEAR)

    def test_the_middle_of_a_bore_and_of_a_boss(self) -> None:
        got = self.touched("bore", "times=1", left=-22.0, front=-15.0, wide=50.0, deep=34.0, bore=24.0, top=6.0)
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertAlmostEqual(float(got.figures["X"]), 3.0, delta=NEAR)
        self.assertAlmostEqual(float(got.figures["Y"]), 2.0, delta=NEAR)
        for name in "XY":
            slot = self.mill.machine.names.index(name)
            self.mill.run("move", name, wishes=Wishes(length=f"{-self.mill.axes[slot].position:.3f} mm"))
        got = self.touched(
            "boss", "wide=20", "deep=14", "depth=4", left=-8.0, front=-9.0, wide=20.0, deep=14.0, top=-1.0
        )
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertAlmostEqual(float(got.figures["X"]), 2.0, delta=NEAR)
        self.assertAlmostEqual(float(got.figures["Y"]), -2.0, delta=NEAR)

    def test_nothing_moves_before_the_terminal_was_seen_to_change(self) -> None:
        self.holds = False
        stands = [axis.position for axis in self.mill.axes]
        got = self.touched("top")
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("did not change", got.words)
        self.assertEqual([axis.position for axis in self.mill.axes], stands)
        self.hands.ask(do="press", switch="touch plate")
        self.assertTrue(self.mill.wait(lambda: self.mill.session.panel.is_closed(6), 10))
        self.assertIn("touched already", self.touched("top").words)
        self.hands.ask(do="release", switch="touch plate")

    def test_a_touch_that_never_comes_ends_within_its_reach_and_is_named(self) -> None:
        got = self.touched("top", "reach=4")
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("Nothing was touched within 4 mm", got.words)
        self.assertAlmostEqual(self.mill.axes[2].position, -4.0, delta=0.05)
        got = self.touched("front_left", "depth=3", left=-40.0, top=-2.0)
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("on the way", got.words)

    def test_what_is_no_touch_is_refused(self) -> None:
        machine = self.mill.machine
        for what, values in (("under", {}), ("top", {"width": 1.0}), ("top", {"reach": 0.0}), ("top", {"slow": 400.0})):
            with self.subTest(what), self.assertRaises(Refusal):
                touching.checked(machine, what, values)
        self.assertEqual(touching.read({"tool": "1/4 in", "times": "3"}), {"tool": 6.35, "times": 3.0})


if __name__ == "__main__":
    unittest.main()
