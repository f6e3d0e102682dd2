"""What a driver counts for a turn, by the steps of its switches."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.machine import Machine
from idler.core.mechanics.drivers import STEPS, counts_at, other_counts
from tests.support import at


def axis(motor: str, counts: int):
    key = "chain.microsteps" if motor == "stepper" else "chain.motor_counts"
    return Machine(("X",)).with_values({at(0, "chain.motor"): motor, at(0, key): counts}).axis(0)


class Steps(unittest.TestCase):
    def test_a_driver_that_makes_more_of_a_turn_goes_less_far(self) -> None:
        for motor, told, goes, counts in (
            ("stepper", 8, 0.5, 16), ("stepper", 8, 2.0, 4), ("stepper", 8, 0.26, 32), ("stepper", 8, 0.8, 10),
            ("counts", 3600, 0.46875, 7200), ("counts", 4000, 10.2, 400), ("stepper", 1, 2.0, None), ("counts", 3, 0.8, None),
        ):  # fmt: skip
            with self.subTest(motor=motor, told=told, goes=goes):
                self.assertEqual(other_counts(axis(motor, told), goes), counts)
        self.assertEqual(counts_at(axis("counts", 400)).key, "chain.motor_counts")

    @given(st.floats(1 / 32, 32))
    def test_what_is_left_is_small(self, goes: float) -> None:
        counts = other_counts(axis("counts", 1_000_000), goes)
        if counts is not None and not 0.9 < goes < 1.1:
            self.assertTrue(0.75 < goes * counts / 1_000_000 < 1.34, (goes, counts))

    def test_no_step_is_none(self) -> None:
        self.assertNotIn(Fraction(1), STEPS)
        self.assertEqual({1 / step for step in STEPS}, set(STEPS))
