from __future__ import annotations

import math
import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from idler.core.mechanics.pace import Pace, VelocityShape
from tests.support import X, at, verge

paces = st.builds(
    Pace,
    st.floats(1, 300),
    st.floats(10, 5000),
    st.floats(10, 5000),
    st.sampled_from(list(VelocityShape)),
    st.floats(500, 100_000),
)
distances = st.floats(-3, 3).map(lambda power: 10**power)


def sampled(pace: Pace, distance: float, points: int = 2000) -> tuple[float, list[float]]:
    move = pace.move(distance)
    step = move.duration / points
    return step, [move.velocity(k * step) for k in range(points + 1)]


class ByHand(unittest.TestCase):
    def test_trapezoid(self) -> None:
        move = Pace(50, 250, 250).move(25)  # 0.2 s up over 5 mm, 0.3 s over 15 mm, 0.2 s down
        self.assertAlmostEqual(move.duration, 0.7)
        self.assertTrue(move.reaches_speed)

    def test_triangle(self) -> None:
        move = Pace(50, 250, 250).move(1)
        self.assertAlmostEqual(move.peak, math.sqrt(250))
        self.assertAlmostEqual(move.duration, 2 * math.sqrt(250) / 250)
        self.assertFalse(move.reaches_speed)

    def test_limited_jerk_of_seven_segments(self) -> None:
        # V/a + a/j up and down, and the rest at V: 2(0.2 + 0.05) + (25 − 50·0.25)/50
        move = Pace(50, 250, 250, VelocityShape.LIMITED, 5000).move(25)
        self.assertAlmostEqual(move.duration, 2 * 0.25 + 0.25)

    def test_limited_jerk_of_four_segments(self) -> None:
        # Neither a nor V is reached: four equal times ∛(D/2j)
        move = Pace(50, 250, 250, VelocityShape.LIMITED, 5000).move(0.1)
        self.assertAlmostEqual(move.duration, 4 * math.cbrt(0.1 / (2 * 5000)))

    def test_smoothest_adds_half_a_window(self) -> None:
        limited = Pace(50, 250, 250, VelocityShape.LIMITED, 5000).move(25)
        smoothest = Pace(50, 250, 250, VelocityShape.SMOOTHEST, 5000).move(25)
        self.assertAlmostEqual(smoothest.duration - limited.duration, 0.025)

    def test_ramp(self) -> None:
        self.assertEqual(Pace(50, 250, 500).ramp(500), (0.1, 2.5))
        seconds, distance = Pace(50, 250, 250, VelocityShape.LIMITED, 5000).ramp(250)
        self.assertAlmostEqual(seconds, 0.25)
        self.assertAlmostEqual(distance, 6.25)

    def test_nothing_moves_without_speed_or_way(self) -> None:
        for wrong in ((0, 1, 1), (1, 0, 1), (1, 1, 0)):
            with self.assertRaises(ValueError):
                Pace(*wrong)
        with self.assertRaises(ValueError):
            Pace(1, 1, 1, VelocityShape.LIMITED, 0)
        with self.assertRaises(ValueError):
            Pace(1, 1, 1).move(0)
        dead = verge().with_values({at(X, "pace.top_speed"): at(X, "pace.top_speed").row.low})
        self.assertIsNone(Pace.of(dead.axis(X)))
        self.assertEqual(Pace.of(verge().axis(X)).speed, 50)


class Properties(unittest.TestCase):
    @given(paces, distances)
    def test_the_area_under_the_velocity_is_the_distance(self, pace: Pace, distance: float) -> None:
        step, velocities = sampled(pace, distance)
        self.assertAlmostEqual(sum(velocities) * step / distance, 1, delta=2e-3)

    @given(paces, distances)
    def test_no_bound_is_passed(self, pace: Pace, distance: float) -> None:
        step, v = sampled(pace, distance)
        rates = [(b - a) / step for a, b in pairwise(v)]
        self.assertLessEqual(max(v), pace.speed * (1 + 1e-5))
        self.assertGreaterEqual(min(v), -1e-9 * pace.speed)
        self.assertLessEqual(max(rates), pace.acceleration * 1.001)
        self.assertGreaterEqual(min(rates), -pace.deceleration * 1.001)
        if pace.shape is not VelocityShape.CONSTANT:
            jerks = [abs(b - a) / step for a, b in pairwise(rates)]
            self.assertLessEqual(max(jerks), pace.jerk * 1.01 + 1e-6)

    @given(paces, distances, st.floats(1.01, 3))
    def test_longer_takes_longer(self, pace: Pace, distance: float, more: float) -> None:
        self.assertGreater(pace.move(distance * more).duration, pace.move(distance).duration)

    @given(paces, distances)
    def test_a_softer_shape_is_never_faster(self, pace: Pace, distance: float) -> None:
        times = [
            Pace(pace.speed, pace.acceleration, pace.deceleration, shape, pace.jerk).move(distance).duration
            for shape in (VelocityShape.CONSTANT, VelocityShape.LIMITED, VelocityShape.SMOOTHEST)
        ]
        self.assertEqual(times, sorted(times))
