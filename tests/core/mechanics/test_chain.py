from __future__ import annotations

import math
import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.machine import Machine
from idler.core.mechanics.chain import Chain
from idler.core.values.stage import Stage
from tests.support import X, at


def chain(**values: object) -> Chain:
    """A chain of the defaults (200 × 8, screw of 5 mm) with some values of the group "chain" changed."""
    kind = values.pop("kind", "linear")
    changed = {at(X, f"chain.{name}"): value for name, value in values.items()}
    return Chain.of(Machine(("X",), {**changed, at(X, "axis.kind"): kind}).axis(0))


class ClosedForms(unittest.TestCase):
    def test_trains_worked_out_by_hand(self) -> None:
        stages = (Stage.parse("20 to 40 teeth"), Stage.parse("3 : 1"))
        cases = (
            (chain(), Fraction(320), "200 × 8 ÷ 5"),
            (chain(pitch=Fraction(127, 40)), Fraction(1600 * 40, 127), "200 × 8 ÷ 3.175"),
            (chain(pitch=Fraction(2), starts=2), Fraction(400), "200 × 8 ÷ (2 × 2)"),
            (chain(stages=stages), Fraction(1920), "200 × 8 × 40/20 × 3 ÷ 5"),
            (chain(final="belt", belt_pitch=Fraction(3), pulley_teeth=20), Fraction(80, 3), "200 × 8 ÷ (3 × 20)"),
            (chain(kind="rotary", final="worm"), Fraction(400), "200 × 8 × 90 ÷ 360"),
            (chain(kind="rotary", final="worm", worm_starts=2), Fraction(200), "200 × 8 × 45 ÷ 360"),
            (chain(motor="counts", motor_counts=10_000), Fraction(2000), "10\u202f000 ÷ 5".replace("\u202f", "")),
            (chain(kind="rotary", final="direct"), Fraction(40, 9), "200 × 8 ÷ 360"),
        )
        for made, counts, text in cases:
            with self.subTest(text):
                self.assertEqual(made.counts_per_unit, counts)
                self.assertEqual(made.derivation, text)

    def test_rack_goes_by_pi(self) -> None:
        made = chain(final="rack", module=Fraction(3, 2), pinion_teeth=24)
        self.assertAlmostEqual(float(made.counts_per_unit), 1600 / (math.pi * 1.5 * 24), places=12)

    def test_steps_and_motor_speed(self) -> None:
        made = chain()
        self.assertEqual(made.motor_rpm(Fraction(3000)), 600)
        self.assertEqual(made.step_rate(Fraction(3000)), 16_000)
        self.assertEqual(made.speed_at_step_rate(Fraction(120_000)), 22_500)
        self.assertEqual(made.resolution_text, "3.125 µm")


class Properties(unittest.TestCase):
    lengths = st.fractions(min_value=Fraction(1, 10), max_value=100, max_denominator=1000)

    @given(lengths, st.integers(1, 128), st.lists(st.tuples(st.integers(8, 200), st.integers(8, 200)), max_size=4))
    def test_a_turn_of_the_motor_is_its_counts(self, pitch: Fraction, micro: int, teeth) -> None:
        stages = tuple(Stage(True, Fraction(a), Fraction(b)) for a, b in teeth)
        made = chain(pitch=pitch, microsteps=micro, stages=stages)
        self.assertEqual(made.counts_per_unit * made.travel_per_turn, 200 * micro)
        self.assertEqual(made.resolution * made.counts_per_unit, 1)
        speed = Fraction(1234)
        self.assertEqual(made.speed_at_rpm(made.motor_rpm(speed)), speed)
        self.assertEqual(made.speed_at_step_rate(made.step_rate(speed)), speed)

    @given(st.integers(8, 200), st.integers(8, 200))
    def test_a_stage_and_its_reverse_cancel(self, a: int, b: int) -> None:
        there, back = Stage(True, Fraction(a), Fraction(b)), Stage(True, Fraction(b), Fraction(a))
        self.assertEqual(chain(stages=(there, back)).counts_per_unit, chain().counts_per_unit)
