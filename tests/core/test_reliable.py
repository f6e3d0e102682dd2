"""The search for the reliable pace, against machines whose limit is known."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.reliable import MARGIN, NARROW, Bracket, Part, Search, ceiling_of, shift_allowed
from tests.support import X, at, verge


def run(search: Search, speed: float, acceleration: float) -> Search:
    """A machine that loses steps above this speed, and above this acceleration."""
    while (asked := search.next) is not None:
        held = asked[0] <= speed and asked[1] <= acceleration
        search = search.after(0.0 if held else 0.4, held=held)
    return search


class Searches(unittest.TestCase):
    @given(st.floats(1.0, 9.0), st.floats(1.0, 30.0))
    def test_it_brackets_what_the_machine_can_and_stays_below(self, speed: float, rise: float) -> None:
        found = run(Search.of(1000, 200, 6000), 1000 * speed, 200 * rise)
        self.assertLessEqual(found.speed.held, min(1000 * speed, 6000))
        if found.speed.lost is None:
            self.assertGreaterEqual(found.speed.held, 5990)
        else:
            self.assertGreater(found.speed.lost, 1000 * speed)
            self.assertLessEqual(found.speed.lost / found.speed.held, NARROW)
        assert found.proposal is not None
        self.assertLessEqual(float(found.proposal[0]), MARGIN * 1000 * speed)
        self.assertLessEqual(float(found.proposal[1]), MARGIN * 200 * rise)
        self.assertGreater(float(found.proposal[0]), 0.6 * min(1000 * speed, 6000))
        self.assertLess(len(found.trials), 30)

    def test_speed_first_then_acceleration(self) -> None:
        search = Search.of(1000, 200, 2000)
        self.assertEqual(search.next, (1000, 200))
        parts = []
        while search.next is not None:
            parts.append(search.part)
            search = search.after(0.0, held=search.next[0] <= 1500 and search.next[1] <= 500)
        self.assertEqual(sorted(parts, key=[Part.SPEED, Part.ACCELERATION].index), parts)

    def test_a_pace_that_does_not_hold_is_not_raised(self) -> None:
        search = Search.of(1000, 200, 6000).after(0.4, held=False)
        self.assertTrue(search.failed_at_once)
        self.assertIsNone(search.next)
        self.assertIsNone(search.proposal)

    def test_at_the_ceiling_it_ends(self) -> None:
        self.assertIsNone(Bracket(6000, 6000).next)

    def test_bounds_of_a_real_axis(self) -> None:
        self.assertAlmostEqual(shift_allowed(verge(), X), 0.05)
        self.assertAlmostEqual(ceiling_of(verge(), X), 6000)
        slow = verge().with_values({at(None, "signals.step_rate"): Fraction(8)})
        self.assertAlmostEqual(ceiling_of(slow, X), 1500)
