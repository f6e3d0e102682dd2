"""Coming back: figures worked by hand, then properties over random machines and the hand that reads them."""

from __future__ import annotations

import math
import random
import unittest
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.geometry import comeback as c
from idler.core.geometry.comeback import Approach, Arrival, ComebackVerdict
from idler.core.mechanics.scale import INSTRUMENTS
from tests.support import X, at, verge

DIAL = next(item for item in INSTRUMENTS if item.key == "dial")
U = math.sqrt(0.01**2 * (1 / 12 + 1 / 25))  # of one reading


def told(
    rounds: int, *, drift: float = 0.0, far: float = 0.0, fast: float = 0.0, noise: list[float] | None = None
) -> list[Arrival]:
    """Arrivals of a machine that wanders by `drift` a turn, and ends so much further on from far and fast."""
    noise = noise or [0.0] * (4 * rounds)
    return [
        Arrival(kind, drift * t + far * kind.far + fast * kind.fast + off, t)
        for t, (kind, off) in enumerate(zip(c.order(rounds), noise, strict=True))
    ]


class Comeback(unittest.TestCase):
    def test_each_round_begins_with_another(self) -> None:
        first = c.order(4)[::4]
        self.assertEqual(set(first), set(Approach))
        self.assertEqual(c.order(1), tuple(Approach))

    def test_the_place_leaves_a_long_way(self) -> None:
        axis = verge().axis(X)
        low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
        found = c.place(axis)
        assert found is not None
        self.assertAlmostEqual(found[0], low + 4 + 0.75 * (high - low - 8))
        self.assertAlmostEqual(found[0] - found[1], low + 4)
        short = verge().with_values({at(X, "travel.low"): Fraction(-18), at(X, "travel.high"): Fraction(0)})
        self.assertIsNone(c.place(short.axis(X)))  # 7.5 mm are no long way

    def test_by_hand(self) -> None:
        """Two rounds: kinds 0 1 2 3, then 1 2 3 0. 1 µm a turn, 10 µm from far, 20 µm fast: 7 µm of drift over all; outermost
        are 0 (first arrival) and 0.036 (far and fast, seventh). Kind 0 is 7 turns apart, the others 3:
        Σ (t − t̄_k)² = 24.5 + 3 · 4.5."""
        found = c.comeback(told(2, drift=0.001, far=0.01, fast=0.02), DIAL)
        assert found is not None
        self.assertAlmostEqual(found.half, 0.018)
        self.assertAlmostEqual(found.drift.value, 0.007)
        self.assertAlmostEqual(found.far.value, 0.01)
        self.assertAlmostEqual(found.fast.value, 0.02)
        self.assertAlmostEqual(found.scatter, U)  # nothing is left over, and a reading is no better than its own
        self.assertAlmostEqual(found.drift.standard, 7 * U / math.sqrt(38))
        # far: kinds 2 and 3 at (2, 5) and (3, 6), near: 0 and 1 at (0, 7) and (1, 4): means 4 and 3
        self.assertAlmostEqual(found.far.standard, math.hypot(U * math.sqrt(1 / 2), 1 * U / math.sqrt(38)))

    def test_too_few_tell_nothing(self) -> None:
        self.assertIsNone(c.comeback(told(1), DIAL))
        self.assertIsNone(c.comeback(told(2)[:-1], DIAL))
        self.assertIs(c.verdict(None, 1.0), ComebackVerdict.NOTHING)

    def test_what_matters_is_named(self) -> None:
        for machine, tolerance, said in (
            ({}, 0.02, ComebackVerdict.PROVEN), ({"drift": 0.01}, 0.02, ComebackVerdict.DRIFTS),
            ({"far": 0.1}, 0.02, ComebackVerdict.FAR), ({"fast": 0.1}, 0.02, ComebackVerdict.FAST),
            ({}, 0.005, ComebackVerdict.COARSE), ({"fast": 0.03, "far": -0.1}, 0.02, ComebackVerdict.FAR),
            ({"noise": [0.05, -0.05, -0.05, 0.05, -0.05, 0.05, 0.05, -0.05, 0.05, -0.05, 0.05, -0.05]}, 0.02,
             ComebackVerdict.SCATTERS),
        ):  # fmt: skip
            found = c.comeback(told(3, **machine), DIAL)  # type: ignore[arg-type]
            assert found is not None
            self.assertIs(c.verdict(found, tolerance), said, machine)
            self.assertTrue(c.sentence(found, verge().axis(X), tolerance))

    @given(
        st.floats(-0.005, 0.005), st.floats(-0.1, 0.1), st.floats(-0.1, 0.1), st.integers(2, 5), st.floats(0.01, 0.2),
        st.integers(0, 10**6),
    )  # fmt: skip
    @settings(max_examples=150, deadline=None)
    def test_what_is_proven_is_true(
        self, drift: float, far: float, fast: float, rounds: int, tolerance: float, seed: int
    ) -> None:
        dice = random.Random(seed)
        true = told(rounds, drift=drift, far=far, fast=fast)
        read = [Arrival(each.approach, each.value + dice.uniform(-2, 2) * U, each.turn) for each in true]
        found = c.comeback(read, DIAL)
        assert found is not None
        values = [each.value for each in true]
        if c.verdict(found, tolerance) is ComebackVerdict.PROVEN:
            self.assertLessEqual((max(values) - min(values)) / 2, tolerance + 1e-9)
        exact = c.comeback(true, DIAL)
        assert exact is not None
        for name, wanted in (("drift", drift * (4 * rounds - 1)), ("far", far), ("fast", fast)):
            self.assertAlmostEqual(getattr(exact, name).value, wanted, msg=name)
