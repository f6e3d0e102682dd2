"""The search for the reliable pace, against machines whose limit is known."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.mechanics.reliable import (
    MARGIN,
    NARROW,
    Bracket,
    Part,
    Search,
    ceiling_of,
    fastest_in,
    gentler,
    lower_pace,
    paced,
    run_up,
    shift_allowed,
)
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

    @given(st.floats(0.12, 0.95))
    def test_below_a_pace_that_does_not_hold_a_lower_one_is_looked_for(self, share: float) -> None:
        found = run(Search.of(1000, 200, 6000), 1000 * share, 200 * share)
        self.assertTrue(found.failed_at_once)
        self.assertTrue(all(trial.speed <= 1000 for trial in found.trials))
        assert found.proposal is not None
        self.assertLessEqual(float(found.proposal[0]), MARGIN * 1000 * share)
        self.assertGreater(float(found.proposal[0]), 0.4 * 1000 * share)

    def test_where_even_a_tenth_loses_steps_nothing_is_proposed(self) -> None:
        self.assertIsNone(run(Search.of(1000, 200, 6000), 50, 10).proposal)

    @given(st.floats(10, 1000), st.floats(50, 2000))
    def test_a_run_keeps_its_run_up_at_both_ends_of_the_room(self, room: float, rise: float) -> None:
        self.assertAlmostEqual(2 * run_up(fastest_in(room, rise), rise), room, delta=1e-6 * room)

    def test_at_the_ceiling_it_ends(self) -> None:
        self.assertIsNone(Bracket(6000, 6000).next)

    def test_bounds_of_a_real_axis(self) -> None:
        self.assertAlmostEqual(shift_allowed(verge(), X), 0.05)
        self.assertAlmostEqual(ceiling_of(verge(), X), 6000)
        slow = verge().with_values({at(None, "signals.step_rate"): Fraction(8)})
        self.assertAlmostEqual(ceiling_of(slow, X), 1500)

    def test_a_pace_that_comes_down_takes_homing_and_stop_with_it(self) -> None:
        axis = verge().axis(X)
        told = {key: axis.number(key) for key in ("homing.approach", "homing.acceleration", "pace.stop_deceleration")}
        for _ in range(8):  # as often as it is taken
            speed, rise = (float(axis.number(key)) for key in ("pace.top_speed", "pace.acceleration"))
            axis = verge().with_values(paced(axis, *lower_pace(speed, rise))).axis(X)
            rise = axis.number("pace.acceleration")
            self.assertLessEqual(axis.number("homing.acceleration"), rise)
            self.assertLessEqual(axis.number("pace.stop_deceleration"), 2 * rise)
            self.assertLessEqual(axis.number("homing.approach"), axis.number("pace.top_speed"))
        self.assertTrue(all(axis.number(key) < value for key, value in told.items()))
        slower = paced(axis, axis.number("pace.top_speed") / 2, axis.number("pace.acceleration"))
        self.assertNotIn(
            at(X, "pace.stop_deceleration"), slower, "it stops as hard as it did: only its speed was too high"
        )

    def test_where_the_approach_lost_steps_the_top_speed_is_left(self) -> None:
        axis = verge().axis(X)
        edit = gentler(axis, float(axis.number("homing.approach")))
        self.assertNotIn(at(X, "pace.top_speed"), edit)
        self.assertLess(edit[at(X, "homing.acceleration")], axis.number("homing.acceleration"))
