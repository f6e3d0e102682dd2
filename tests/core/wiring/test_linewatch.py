"""Lines that Idler watches itself, and the moves to an index stop: what passes does nothing, and each way ends at its stop."""

from __future__ import annotations

import random
import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.machine import Axis, Machine
from idler.core.rules.index import taken_in_haste
from idler.core.values.indexstops import IndexStop
from idler.core.wiring.indexing import StateSpan, distance, hasty, way_to
from idler.core.wiring.linewatch import LineWatch
from tests.support import at

SETTLE, LOOK = 0.05, 0.02  # s


def turret(**told: object) -> Axis:
    values = {at(0, f"index.{key}"): value for key, value in told.items()}
    return Machine(("C",), {at(0, "axis.kind"): "endless", at(0, "index.tolerance"): Fraction(1, 10), **values}).axis(0)


class Watched(unittest.TestCase):
    @given(st.integers(0, 2**32), st.booleans())
    def test_no_passing_state_is_picked_in_any_order_of_all_64_with_bounce(self, seed: int, gray: bool) -> None:
        draw, watch, now = random.Random(seed), LineWatch(SETTLE, gray), 0.0
        states = list(range(64))
        draw.shuffle(states)
        meant, picked = [], []
        for state in states:
            for _ in range(draw.randint(0, 4)):  # lines change one after the other, and bounce
                picked.append(watch.take(draw.randrange(64), now))
                now += draw.uniform(0.001, SETTLE / 2)
            begun = now
            while now < begun + SETTLE + 2 * LOOK:
                picked.append(watch.take(state, now))
                now += LOOK
            meant.append(watch.number)
        self.assertEqual([each for each in picked if each is not None], meant[1:], "the first one is not obeyed")
        self.assertEqual(sorted(meant), list(range(64)))

    def test_with_a_strobe_a_number_counts_where_it_rises(self) -> None:
        watch, found = LineWatch(SETTLE), []
        for now, state, strobe in (
            (0.0, 1, False), (0.1, 1, False), (0.2, 3, False), (0.3, 3, False), (0.4, 3, True), (0.5, 3, True), (0.6, 3, False),
            (0.7, 3, True), (0.8, 2, True), (0.9, 2, True), (1.0, 2, False), (1.1, 2, True),
        ):  # fmt: skip
            found.append(watch.take(state, now, strobe))
        self.assertEqual([each for each in found if each is not None], [3, 3, 2])

    def test_a_strobe_that_is_made_from_the_beginning_picks_nothing(self) -> None:
        watch = LineWatch(SETTLE)
        self.assertEqual([watch.take(1, now / 10, True) for now in range(5)], [None] * 5)


class Hasty(unittest.TestCase):
    def test_a_state_that_was_brief_and_was_taken_is_a_finding_until_it_settles_for_longer(self) -> None:
        spans = [
            StateSpan(0, 0, 9_000),
            StateSpan(1, 9_000, 15_000),
            StateSpan(3, 15_000, 27_000),
            StateSpan(2, 27_000, None),
        ]
        self.assertEqual([hasty(spans, settle) for settle in (5.0, 10.0, 20.0)], [12.0, 12.0, 0.0])
        self.assertEqual(hasty([StateSpan(0, 0, 9_000), StateSpan(1, 9_000, 90_000)], 5.0), 0.0)
        axis = {at(0, "index.stops"): "0 a; 90 b", at(0, "index.pick"): "binary"}
        for settle, found in ((5, 1), (20, 0)):
            machine = Machine(("C",), {at(0, "axis.kind"): "endless", at(0, "index.settle"): Fraction(settle), **axis})
            said = list(taken_in_haste(machine, {"C": 12.0}))
            self.assertEqual(len(said), found)
        self.assertEqual(list(taken_in_haste(machine, {"X": 12.0})), [])


class Ways(unittest.TestCase):
    @given(
        st.floats(-1000, 1000), st.integers(0, 359), st.sampled_from(("shorter", "up", "down")), st.sampled_from((0, 2))
    )
    def test_every_way_ends_at_the_stop_and_from_the_side_that_is_told(
        self, begins: float, place: int, way: str, over: int
    ) -> None:
        axis, stop = turret(way=way, over=Fraction(over)), IndexStop(Fraction(place), "")
        moves = way_to(axis, stop, begins)
        self.assertAlmostEqual(
            distance(axis, stop, begins + sum(moves)), 0 if moves else distance(axis, stop, begins), 6
        )
        if not moves:
            self.assertLessEqual(abs(distance(axis, stop, begins)), 0.1)
            return
        self.assertEqual(len(moves), 2 if over else 1)
        if over:
            self.assertEqual(moves[1], 2.0 if way == "down" else -2.0)
        straight = sum(moves)
        if way == "shorter":
            self.assertLessEqual(abs(straight), 180 + 1e-9)
        else:
            self.assertTrue(0 <= (straight if way == "up" else -straight) <= 360)


if __name__ == "__main__":
    unittest.main()
