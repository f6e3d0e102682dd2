"""The right angle by a square that is turned over: figures worked by hand, then a model of its own over random machines."""

from __future__ import annotations

import math
import random
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.geometry import blade
from idler.core.geometry.blade import Laying
from idler.core.geometry.square import SquareVerdict, verdict
from idler.core.mechanics.scale import INSTRUMENTS

DIAL = next(item for item in INSTRUMENTS if item.key == "dial")
COUNT = 0.0025


def laying(lean: float, own: float, turned: bool, askew: float, length: float) -> Laying:
    """What an exact dial says on a machine whose Y leans by so much (rad), with real angles and no small ones: where the tool
    stands in the plane, and where a line of the square meets the line along which the dial reads."""
    way = -1 if turned else 1
    blade_at = askew + math.pi / 2 + (-own if turned else own)
    stock = way * length * math.tan(askew)
    tool = length * math.sin(lean), length * math.cos(lean)
    return Laying(stock, tool[1] / math.tan(blade_at) - tool[0], way * length, length)


class Blade(unittest.TestCase):
    def test_by_hand(self) -> None:
        """100 mm along each leg. The stock rises by 0.05 (a = 0.5 per thousand), the blade falls off by 0.35 (b = −3.5); turned
        over 0.05 over −100 (a' = −0.5), and 0.05 (b' = 0.5): γ = −(0.5 − 3.5 − 0.5 + 0.5)/2 = 1.5, ε = (0 + 3)/2 = 1.5."""
        found = blade.by_blade([Laying(0.05, -0.35, 100, 100), Laying(0.05, 0.05, -100, 100)], DIAL, COUNT)
        assert found is not None
        self.assertAlmostEqual(found.square.angle, 1.5)
        self.assertAlmostEqual(found.own, 1.5)
        reading = 0.01**2 * (1 / 12 + 1 / 25)
        slope = math.sqrt(2 * reading + (2 * COUNT**2 + 0.003**2) / 12) / 100
        self.assertAlmostEqual(found.square.standard, 1000 * slope)  # √(4 slope²) / 2
        self.assertAlmostEqual(blade.can_prove(100, DIAL, COUNT), found.square.expanded)

    def test_one_laying_tells_nothing(self) -> None:
        self.assertIsNone(blade.by_blade([Laying(0, 0, 100, 100)], DIAL, COUNT))

    def test_a_dial_that_does_not_stand_on_the_leg_is_no_witness(self) -> None:
        self.assertEqual((blade.follows(1.02), blade.follows(0.8)), ("", ""))
        self.assertIn("sign", blade.follows(-1.0))
        for said in (0.0, 0.5, 3.0):
            self.assertIn("does not stand against", blade.follows(said))

    @given(
        st.floats(-3e-3, 3e-3), st.floats(-2e-3, 2e-3), st.floats(-3e-3, 3e-3), st.floats(-3e-3, 3e-3), st.floats(60, 400),
        st.floats(0.02, 3.0), st.integers(0, 10**6),
    )  # fmt: skip
    @settings(max_examples=200, deadline=None)
    def test_the_square_s_own_error_and_how_it_lies_drop_out(
        self, lean: float, own: float, one: float, other: float, length: float, tolerance: float, seed: int
    ) -> None:
        layings = [laying(lean, own, turned, askew, length) for turned, askew in ((False, one), (True, other))]
        found = blade.by_blade(layings, DIAL, COUNT)
        assert found is not None
        self.assertAlmostEqual(found.square.angle, 1000 * lean, delta=0.002)
        self.assertAlmostEqual(found.own, 1000 * own, delta=0.002)
        dice = random.Random(seed)
        hand = math.sqrt(2) * DIAL.reading
        read = [
            replace(lay, stock=lay.stock + dice.uniform(-1, 1) * hand, blade=lay.blade + dice.uniform(-1, 1) * hand)
            for lay in layings
        ]  # fmt: skip
        told = blade.by_blade(read, DIAL, COUNT)
        assert told is not None
        said = verdict(told.square, tolerance)
        if said is SquareVerdict.PROVEN:
            self.assertLessEqual(abs(1000 * lean), tolerance + 0.002)
