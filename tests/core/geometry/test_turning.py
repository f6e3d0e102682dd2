"""Runout and tailstock: figures worked by hand, then properties over random machines and the hand that reads them."""

from __future__ import annotations

import math
import random
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.errors import Refusal
from idler.core.geometry import runout, tailstock
from idler.core.geometry.runout import RunoutVerdict
from idler.core.geometry.tailstock import TailstockVerdict
from idler.core.mechanics.scale import INSTRUMENTS
from idler.core.values.measures import Measures
from tests.support import verge

DIAL = next(item for item in INSTRUMENTS if item.key == "dial")
A = 3


class Runout(unittest.TestCase):
    def test_by_hand(self) -> None:
        """x = (0.03 + 0.03)/2, y = (0.04 + 0.04)/2: e = 0.05 at atan2(4, 3) = 53.13°; both pairs have the sum 0.02 − 0.02."""
        found = runout.runout([0.03, 0.04, -0.03, -0.04], DIAL)
        self.assertAlmostEqual(found.off, 0.05)
        self.assertAlmostEqual(found.toward, math.degrees(math.atan2(4, 3)))
        self.assertAlmostEqual(found.total, 0.1)
        self.assertAlmostEqual(found.shape, 0.0)
        u = math.sqrt(0.01**2 * (1 / 12 + 1 / 25) + 0.003**2 / 12)
        self.assertAlmostEqual(found.expanded, 2 * math.sqrt(2) * u)  # 2 · 2 · u/√2
        self.assertEqual(runout.can_prove(DIAL), found.expanded)

    def test_a_bar_that_is_not_round(self) -> None:
        found = runout.runout([0.05, -0.05, 0.05, -0.05], DIAL)
        self.assertAlmostEqual(found.shape, 0.1)
        self.assertIs(runout.verdict(found, 1.0), RunoutVerdict.SHAPE)

    def test_verdicts(self) -> None:
        for off, tolerance, said in (
            (0.002, 0.02, RunoutVerdict.PROVEN), (0.05, 0.02, RunoutVerdict.OFF), (0.008, 0.02, RunoutVerdict.COARSE),
        ):  # fmt: skip
            found = runout.runout([off, 0.0, -off, 0.0], DIAL)
            self.assertIs(runout.verdict(found, tolerance), said)
            self.assertTrue(runout.sentence(verge().axis(A), found, Measures(False, False), tolerance))
        self.assertIs(runout.verdict(None, 1.0), RunoutVerdict.NOTHING)
        with self.assertRaises(ValueError):
            runout.runout([0.0], DIAL)

    def test_what_was_read_counts_and_not_the_fit_alone(self) -> None:
        """±0.005 in turns: nothing is off, and the dial still goes 0.01 to and fro, which with ± 0.0102 is more than 0.015."""
        found = runout.runout([0.005, -0.005, 0.005, -0.005], DIAL)
        self.assertAlmostEqual(found.total, 0.0)
        self.assertAlmostEqual(found.span, 0.01)
        self.assertIs(runout.verdict(found, 0.015), RunoutVerdict.COARSE)
        self.assertIs(runout.verdict(found, 0.03), RunoutVerdict.PROVEN)

    def test_a_dial_that_does_not_stand_on_the_bar_is_no_witness(self) -> None:
        self.assertEqual((runout.follows(0.11), runout.follows(0.08)), ("", ""))
        self.assertIn("sign", runout.follows(-0.1))
        for said in (0.0, 0.05, 0.5):
            self.assertIn("does not stand against", runout.follows(said))

    def test_a_dial_that_slipped(self) -> None:
        self.assertTrue(runout.slipped(0.0, 0.04, DIAL))
        self.assertFalse(runout.slipped(0.0, 0.01, DIAL))

    @given(st.floats(0, 0.2), st.floats(0, 360), st.floats(0.01, 0.5), st.integers(0, 10**6))
    @settings(max_examples=150, deadline=None)
    def test_what_is_proven_is_true_and_the_push_mends_it(
        self, off: float, at: float, tolerance: float, seed: int
    ) -> None:
        dice = random.Random(seed)
        true = [off * math.cos(math.radians(angle - at)) for angle in runout.ANGLES]
        exact = runout.runout(true, DIAL)
        self.assertAlmostEqual(exact.off, off)
        # pushed away from the dial by so much while it stands at that angle, it stands in the middle
        x = off * math.cos(math.radians(at)) - exact.off * math.cos(math.radians(exact.toward))
        y = off * math.sin(math.radians(at)) - exact.off * math.sin(math.radians(exact.toward))
        self.assertAlmostEqual(math.hypot(x, y), 0, places=9)
        u = runout.one_reading(DIAL)
        found = runout.runout([each + dice.uniform(-1, 1) * u for each in true], DIAL)
        if runout.verdict(found, tolerance) is RunoutVerdict.PROVEN:
            self.assertLessEqual(2 * off, tolerance)


class Tailstock(unittest.TestCase):
    def test_by_hand(self) -> None:
        """0.06 thicker over 150 of 300 mm between centres: the line leaves the tool by 0.03 over 150, by 0.06 at the centre."""
        found = tailstock.tailstock(24.0, 24.06, 150, 300)
        self.assertAlmostEqual(found.off, 0.06)
        self.assertAlmostEqual(found.taper, 0.06)
        reading = 0.01 * math.sqrt(1 / 12 + 1 / 25)
        self.assertAlmostEqual(found.standard, math.sqrt(2) * reading / 2 * 2)

    def test_what_cannot_be_is_refused(self) -> None:
        for length, centres in ((10, 300), (310, 300)):
            with self.assertRaisesRegex(Refusal, "20 mm to"):
                tailstock.tailstock(24, 24, length, centres)

    def test_verdicts(self) -> None:
        for tail, tolerance, said in (
            (24.0, 0.02, TailstockVerdict.PROVEN), (24.1, 0.02, TailstockVerdict.OFF), (23.9, 0.02, TailstockVerdict.OFF),
            (24.0, 0.005, TailstockVerdict.COARSE),
        ):  # fmt: skip
            found = tailstock.tailstock(24.0, tail, 280, 300)
            self.assertIs(tailstock.verdict(found, tolerance), said)
            self.assertTrue(tailstock.sentence(found, Measures(False, False), tolerance))
        self.assertIs(tailstock.verdict(None, 1.0), TailstockVerdict.NOTHING)

    @given(st.floats(-0.3, 0.3), st.floats(40, 500), st.floats(0.1, 1.0), st.floats(0.01, 0.5), st.integers(0, 10**6))
    @settings(max_examples=150, deadline=None)
    def test_what_is_proven_is_true(
        self, off: float, centres: float, share: float, tolerance: float, seed: int
    ) -> None:
        length = max(tailstock.LEAST, share * centres)
        dice, u = random.Random(seed), tailstock.MICROMETER.reading
        head, more = 24.0, 2 * off * length / centres
        self.assertAlmostEqual(tailstock.tailstock(head, head + more, length, centres).off, off)
        read = [each + dice.uniform(-1, 1) * u for each in (head, head + more)]
        found = tailstock.tailstock(read[0], read[1], length, centres)
        if tailstock.verdict(found, tolerance) is TailstockVerdict.PROVEN:
            self.assertLessEqual(abs(off), tolerance)
