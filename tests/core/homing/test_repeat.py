"""Repeatability: statistics in closed form, starts that are spread, and what the scatter says."""

from __future__ import annotations

import statistics
import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.homing.repeat import Scatter, advice, expected, lost, lost_by_turns, starts, turns_to_tell
from idler.core.mechanics.chain import Chain
from tests.support import X, at, wired


class Repeats(unittest.TestCase):
    @given(st.lists(st.floats(-0.1, 0.1), min_size=2, max_size=12))
    def test_mean_and_standard_deviation(self, deviations: list[float]) -> None:
        scatter = Scatter(tuple(deviations))
        self.assertAlmostEqual(scatter.mean, statistics.mean(deviations))
        self.assertAlmostEqual(scatter.standard, statistics.stdev(deviations))
        self.assertLessEqual(scatter.standard, scatter.range + 1e-12)

    def test_one_touch_proves_nothing(self) -> None:
        self.assertFalse(Scatter((0.0,)).good)
        self.assertTrue(Scatter((0.001, -0.001, 0.0, 0.002)).good)

    def test_a_switch_that_is_met_elsewhere_each_time_tells_lost_steps_however_little_that_scatters(self) -> None:
        steady = Scatter((0.4, 0.401, 0.399, 0.4))
        self.assertTrue(steady.good)
        self.assertTrue(lost(wired(), X, steady))
        self.assertIn("met 0.400 mm from its place each time: steps are lost", advice(wired(), X, steady)[0])
        self.assertFalse(lost(wired(), X, Scatter((0.4, -0.401, 0.399, -0.4))))
        few = Scatter((0.012, 0.013, 0.012, 0.012))  # four counts each time
        self.assertTrue(few.good and lost(wired(), X, few))
        self.assertEqual(advice(wired(), X, few)[1], {}, "between the touches, and nobody knows where")
        self.assertFalse(lost(wired(), X, Scatter((0.006, 0.003, 0.006, 0.003))))
        self.assertFalse(lost(wired(), X, Scatter((0.012,))))
        taken_up = wired().with_values({at(X, "play.backlash"): Fraction(8, 100)})
        self.assertFalse(lost(taken_up, X, Scatter((0.085, 0.085, 0.085, 0.085))))  # otherwise at each touch
        self.assertTrue(lost(taken_up, X, steady))
        self.assertFalse(lost(wired(), X, Scatter(())))

    def test_what_is_lost_where_it_turns_round_adds_up_and_tells_what_mends_it(self) -> None:
        setup, edge = (at(None, f"signals.{name}") for name in ("direction_setup", "step_inverted"))
        still = (0.001, 0.0, 0.002, -0.001)
        self.assertEqual(lost_by_turns(wired(), X, Scatter(still, 0.003, 10)), 0)
        self.assertEqual(lost_by_turns(wired(), X, Scatter(still)), 0)
        self.assertFalse(lost(wired(), X, Scatter(still, 0.003, 10)))
        shaken = Scatter((0.012, 0.011, 0.012, 0.013), 0.012 + 0.0625, 10)  # two counts of 1/320 mm each time
        self.assertAlmostEqual(lost_by_turns(wired(), X, shaken), 2 / 320)
        self.assertTrue(lost(wired(), X, shaken))
        played = wired().with_values({at(X, "play.backlash"): Fraction(8, 100)})
        self.assertTrue(lost(played, X, shaken), "its play stands where it stood")
        self.assertEqual(turns_to_tell(wired(), X, Scatter(still)), 10)
        fine = wired().with_values({at(X, "chain.microsteps"): 128})
        turns = turns_to_tell(fine, X, Scatter(still))
        count = float(Chain.of(fine.axis(X)).resolution)
        self.assertGreater(turns, 30)
        self.assertAlmostEqual(lost_by_turns(fine, X, Scatter(still, 0.0005 + turns * count, turns)), count)
        self.assertEqual(turns_to_tell(fine, X, Scatter((0.0, 0.04, 0.02, 0.03))), 60, "and no more")
        told, proposed = wired(), []
        while edit := advice(told, X, shaken)[1]:
            told = told.with_values(edit)
            proposed.append(edit)
            if edge in edit:
                break
        self.assertEqual(proposed, [{setup: 15}, {setup: 100}, {edge: True}])
        said, back = advice(told, X, shaken, {False})
        self.assertEqual(back, {edge: False})
        self.assertIn("what slips", said)
        self.assertEqual(advice(told.with_values(back), X, shaken, {True})[1], {}, "both were tried")
        for first in (False, True):  # from either it ends, and never where only the other was seen to lose
            told, tried, left = wired().with_values({setup: Fraction(100), edge: first}), set[bool](), 5
            while left and (edit := advice(told, X, shaken, tried)[1]):
                tried, told, left = {bool(told[edge])}, told.with_values(edit), left - 1
            self.assertEqual((told[edge], left > 0), (False, True))

    def test_starts_are_spread_and_never_the_same(self) -> None:
        found = starts(8)
        self.assertEqual(len({round(start, 6) for start in found}), 8)
        self.assertTrue(all(6 <= start <= 20 for start in found))
        gaps = [b - a for a, b in zip(sorted(found), sorted(found)[1:], strict=False)]
        self.assertLess(max(gaps), 3.5)

    def test_what_the_touch_speed_alone_spreads(self) -> None:
        self.assertAlmostEqual(expected(wired(), X), ((1 / 1000) ** 2 + (1 / 320) ** 2) ** 0.5 / 12**0.5)
        quick = wired().with_values({at(X, "homing.touch"): Fraction(2400)})
        said, slower = advice(quick, X, Scatter((0.02, -0.02, 0.015, -0.018)))
        self.assertEqual(slower, {at(X, "homing.touch"): 60})  # before the switch is blamed
        self.assertIn("at 60 mm/min first", said)
        brisk = wired().with_values({at(X, "homing.touch"): Fraction(50), at(1, "input.filter"): Fraction(0)})
        fine = brisk.with_values({at(X, "chain.pitch"): Fraction(25)})
        said, slower = advice(fine, X, Scatter((0.012, -0.012, 0.009, -0.011)))
        self.assertIn("more slowly", said)
        said, slower = advice(wired(), X, Scatter((0.1, -0.1, 0.05, -0.02)))
        self.assertEqual(slower, {})
        self.assertIn("the switch itself", said)
