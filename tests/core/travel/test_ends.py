"""The verdict on the ends of an axis: what iron, switch and counts say of them."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.travel.ends import Reached, at_fault, judge_end, judge_ends, slow_from
from tests.support import X, at, wired

LOW, HIGH = -308.0, 0.0  # the ends that Verge's controller was told of X


def reached(end: str = "low", speed: float = 60, **seen: object) -> Reached:
    told = LOW if end == "low" else HIGH
    return Reached(end, told, **{"stood": told, "speed": speed, "shift": 0.004, **seen})  # type: ignore[arg-type]


class OneEnd(unittest.TestCase):
    def test_it_holds_only_with_the_switch_where_it_was(self) -> None:
        self.assertTrue(judge_end(wired(), X, reached()).held)
        for seen in (
            {"shift": 0.3}, {"iron": -291.0}, {"switch": True}, {"stood": -300.0}, {"refused": False},
        ):  # fmt: skip
            self.assertFalse(judge_end(wired(), X, reached(**seen)).held, seen)

    @given(st.floats(1, 60), st.sampled_from(("low", "high")))
    def test_a_travel_that_is_told_too_long_is_named_with_its_edit(self, short: float, end: str) -> None:
        inward = 1 if end == "low" else -1
        told = LOW if end == "low" else HIGH
        for seen in ({"shift": short * inward, "crawled": True}, {"iron": told + inward * short}):
            found = judge_end(wired(), X, reached(end, **seen))
            self.assertIn(f"mm shorter than told at its {end} end", found.words)
            taken = found.edit[at(X, f"travel.{end}")]
            assert isinstance(taken, Fraction)
            self.assertAlmostEqual(float(taken), told + inward * (short + 2), delta=0.006)  # clear of the iron
            self.assertAlmostEqual(float(found.edit[at(X, f"travel.stop_{end}")]), told + inward * short, delta=0.006)  # type: ignore[arg-type]

    def test_steps_lost_without_iron_on_a_way_that_was_not_all_slow_shorten_no_travel(self) -> None:
        edit = judge_end(wired(), X, reached(shift=16.0)).edit
        self.assertEqual({where.key.partition(".")[0] for where in edit}, {"homing", "pace"})  # no travel is shortened

    def test_what_a_slow_drive_lost_is_the_travel_s_where_the_same_way_at_touch_speed_meets_iron_or_loses_it_too(
        self,
    ) -> None:
        first = reached(shift=16.0)
        for seen in ({"shift": 16.0}, {"iron": -292.0, "shift": 2.0}, {"iron": -292.0, "shift": 0.0}):
            found = judge_end(wired(), X, at_fault(wired(), X, first, reached(crawled=True, **seen), 900))
            self.assertIn("shorter than told", found.words)
        found = judge_end(wired(), X, at_fault(wired(), X, first, reached(crawled=True), 900))
        self.assertIn("at 900 mm/min steps were lost", found.words)

    def test_steps_lost_at_top_speed_are_the_pace_s_and_not_the_travel_s(self) -> None:
        found = judge_end(wired(), X, reached(speed=3000, shift=0.4))
        self.assertIn("at 3\u202f000 mm/min steps were lost", found.words)
        self.assertIn("Try 2\u202f100 mm/min", found.words)
        self.assertEqual({where.key.partition(".")[0] for where in found.edit}, {"pace"})


class BothEnds(unittest.TestCase):
    def test_both_and_the_switch_after_each(self) -> None:
        both = [reached("low"), reached("high"), reached("low", 3000), reached("high", 3000, shift=-0.011)]
        found = judge_ends(wired(), X, both, 20)
        self.assertTrue(found.held)
        self.assertIn("the home was found again within 0.011 mm", found.words)
        self.assertFalse(judge_ends(wired(), X, both[:1], 20).held)
        self.assertFalse(judge_ends(wired(), X, [reached("low"), reached("high", shift=None)], 20).held)

    def test_what_was_refused_is_said_to_be(self) -> None:
        both = [reached("low", refused=True), reached("high", refused=True)]
        self.assertIn("a jog beyond was refused", judge_ends(wired(), X, both, 0).words)

    def test_the_last_of_the_way_is_gone_slowly(self) -> None:
        self.assertEqual(slow_from(wired().axis(X), "low"), LOW + 60)
        self.assertEqual(slow_from(wired().axis(X), "high"), HIGH - 60)
        short = wired().with_values({at(X, "travel.low"): Fraction(-20)})
        self.assertEqual(slow_from(short.axis(X), "low"), 0)
