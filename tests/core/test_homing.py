"""Homing rehearsed: closed forms, order, confusions of signs, and what a failure means."""

from __future__ import annotations

import unittest
from fractions import Fraction
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from idler.core.findings import findings
from idler.core.homing import distance_to_switch, explain, rehearse, rehearse_all, turns
from idler.core.wire.homing import Phase, Result
from tests.support import A, X, Y, Z, at, wired


class Rehearsals(unittest.TestCase):
    @given(st.floats(0.1, 400), st.integers(100, 2000), st.integers(10, 90), st.integers(50, 500))
    def test_phases_follow_each_other_in_time_and_place(self, distance: float, fast: int, slow: int, rise: int) -> None:
        machine = wired().with_values({
            at(X, "homing.approach"): Fraction(fast), at(X, "homing.touch"): Fraction(slow),
            at(X, "homing.acceleration"): Fraction(rise),
        })  # fmt: skip
        legs = rehearse(machine, X, distance).legs
        self.assertAlmostEqual(legs[0].start, 2 - distance)
        for before, after in pairwise(legs):
            self.assertAlmostEqual(before.end, after.begin)
            self.assertAlmostEqual(before.stop, after.start)
        self.assertTrue(all(leg.seconds >= 0 for leg in legs))
        self.assertIs(legs[-1].phase, Phase.LEAVE)
        self.assertAlmostEqual(legs[-1].stop, 0.0, delta=0.01)

    def test_a_long_approach_in_closed_form(self) -> None:
        legs = rehearse(wired(), X, 150).legs  # 15 mm/s, 100 mm/s², filter 1 ms
        self.assertAlmostEqual(legs[0].seconds, 15 / 100 + (150 - 15**2 / 200) / 15 + 0.0002)
        self.assertAlmostEqual(legs[1].stop - legs[1].start, 15**2 / 200)

    def test_turns_and_their_order(self) -> None:
        self.assertEqual(turns(wired().with_values({at(A, "homing.turn"): 0})), [(Z,), (X, Y)])
        made = {item.slot: item for item in rehearse_all(wired(), {X: 100, Y: 50, Z: 40})}
        self.assertEqual(made[X].begin, made[Y].begin)
        self.assertGreaterEqual(made[X].begin, made[Z].end)

    def test_how_far_it_is(self) -> None:
        self.assertEqual(distance_to_switch(wired(), X, -98.0), 100.0)
        self.assertEqual(distance_to_switch(wired(), X, None), 314.0)


class Confusions(unittest.TestCase):
    def codes(self, **changes: object) -> set[str]:
        edits = {at(X, key.replace("__", ".")): value for key, value in changes.items()}
        return {item.code for item in findings(wired().with_values(edits))}  # type: ignore[arg-type]

    def test_home_at_the_top_wants_negative_travel(self) -> None:
        self.assertNotIn("signs_confused", self.codes())
        self.assertIn("signs_confused", self.codes(homing__towards="low"))
        self.assertIn("signs_confused", self.codes(homing__coordinate=Fraction(-300)))

    def test_speeds_that_find_nothing(self) -> None:
        self.assertIn("homing_stands_still", self.codes(homing__touch=Fraction(0)))
        self.assertIn("touch_not_slower", self.codes(homing__touch=Fraction(2000)))

    def test_one_chain_one_axis_at_a_time(self) -> None:
        machine = wired().with_values({at(1, "input.role"): "home_chain", at(1, "input.axis"): "none"})
        found = [item for item in findings(machine) if item.code == "chain_shared_turn"]
        self.assertEqual({item.where.slot for item in found}, {X, Y})
        self.assertTrue(all(item.edit for item in found))

    def test_every_failure_says_what_it_means(self) -> None:
        for result in (Result.NOT_FOUND, Result.PRESSED, Result.STILL_PRESSED, Result.OTHER_END, Result.NO_INDEX):
            seen, why, edit = explain(wired(), X, result)
            self.assertIn(result.words, seen)
            self.assertTrue(why)
            wired().with_values(edit)  # type: ignore[arg-type]
