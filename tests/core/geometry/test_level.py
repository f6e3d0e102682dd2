"""Level of the bed: figures worked by hand, then properties over random beds and the hand that reads them."""

from __future__ import annotations

import math
import random
import unittest
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.errors import Refusal
from idler.core.geometry import level
from idler.core.geometry.level import Grid, LevelVerdict
from idler.core.mechanics.scale import INSTRUMENTS
from tests.support import X, Y, at, verge

DIAL = next(item for item in INSTRUMENTS if item.key == "dial")
COUNT = 0.0025
SQUARE = Grid(0, 0, 200, 100)


def heights(grid: Grid, a: float, b: float, c: float) -> list[float]:
    return [a + b * x + c * y for x, y in grid.places]


class Level(unittest.TestCase):
    def test_places_go_to_and_fro(self) -> None:
        self.assertEqual(
            SQUARE.places,
            ((0, 0), (100, 0), (200, 0), (200, 50), (100, 50), (0, 50), (0, 100), (100, 100), (200, 100)),
        )
        self.assertEqual(SQUARE.corners, ((0, 0), (200, 0), (200, 100), (0, 100)))

    def test_the_largest_grid_stays_inside_of_the_soft_limits(self) -> None:
        first, second = verge().axis(X), verge().axis(Y)
        grid = level.largest(first, second)
        assert grid is not None
        for axis, ends in ((first, (grid.left, grid.left + grid.width)), (second, (grid.low, grid.low + grid.height))):
            self.assertEqual(ends, (float(axis.number("travel.low")) + 4, float(axis.number("travel.high")) - 4))
        short = verge().with_values({at(X, "travel.low"): Fraction(-47), at(X, "travel.high"): Fraction(0)})
        self.assertIsNone(level.largest(short.axis(X), short.axis(Y)))  # 39 mm for three places are too few

    def test_a_side_has_two_to_seven_places(self) -> None:
        for across, along in ((1, 3), (3, 8), (10**9, 10**9)):
            with self.assertRaisesRegex(Refusal, "2 to 7"):
                Grid(0, 0, 100, 100, across, along)

    def test_by_hand(self) -> None:
        """0.3 mm per m along X over 200 mm and −0.4 along Y over 100: 0.06 and 0.04 from side to side, 0.1 over all; six places
        stand 100 mm beside the middle of X, and six 50 mm beside that of Y."""
        found = level.bed(SQUARE, heights(SQUARE, 0.5, 3e-4, -4e-4), DIAL, COUNT)
        self.assertAlmostEqual(found.mean, 0.5 + 0.03 - 0.02)
        self.assertAlmostEqual(found.along_first, 3e-4)
        self.assertAlmostEqual(found.along_second, -4e-4)
        self.assertAlmostEqual(found.spread, 0.1)
        self.assertAlmostEqual(found.unevenness, 0)
        u = math.sqrt(0.01**2 * (1 / 12 + 1 / 25) + COUNT**2 / 12)
        self.assertAlmostEqual(found.standard, u)
        self.assertAlmostEqual(found.expanded, 2 * math.sqrt(2) * u)
        for sure, side in zip(found.slopes_expanded, (100, 50), strict=True):
            self.assertAlmostEqual(sure, 2 * u / (math.sqrt(6) * side))
        # the highest corner is X+ Y−; the others lack 0.06, 0.04 and both
        for raised, wanted in zip(found.raises, (0.06, 0.0, 0.04, 0.1), strict=True):
            self.assertAlmostEqual(raised, wanted)

    def test_a_hump_is_left_when_it_is_levelled(self) -> None:
        """0.09 at the middle of nine: the plane takes a ninth of it everywhere, and nothing is askew."""
        humped = [0.0] * 4 + [0.09] + [0.0] * 4
        found = level.bed(SQUARE, humped, DIAL, COUNT)
        self.assertAlmostEqual(found.mean, 0.01)
        self.assertAlmostEqual(found.left_over[4], 0.08)
        self.assertAlmostEqual(found.unevenness, 0.09)
        self.assertAlmostEqual(max(found.raises), 0)

    def test_verdicts(self) -> None:
        for b, hump, tolerance, said in (
            (3e-4, 0.0, 0.1, LevelVerdict.PROVEN), (3e-4, 0.0, 0.04, LevelVerdict.TILTED),
            (0.0, 0.3, 0.1, LevelVerdict.UNEVEN), (0.0, 0.09, 0.1, LevelVerdict.COARSE), (0.0, 0.0, 0.005, LevelVerdict.COARSE),
        ):  # fmt: skip
            told = heights(SQUARE, 0.0, b, 0.0)
            told[4] += hump
            found = level.bed(SQUARE, told, DIAL, COUNT)
            self.assertIs(level.verdict(found, tolerance), said, (b, hump, tolerance))
            axes = verge().axis(X), verge().axis(Y)
            self.assertTrue(level.sentence(found, *axes, tolerance))
        self.assertIs(level.verdict(None, 1.0), LevelVerdict.NOTHING)

    def test_a_dial_that_slipped_is_seen_and_a_hand_that_wavers_is_none(self) -> None:
        self.assertTrue(level.slipped(0.0, 0.05, DIAL, COUNT))
        self.assertFalse(level.slipped(0.0, 0.01, DIAL, COUNT))

    def test_a_dial_that_does_not_stand_on_the_bed_is_no_witness(self) -> None:
        self.assertEqual((level.follows(-1.02), level.follows(-0.8)), ("", ""))
        self.assertIn("sign", level.follows(1.0))
        for said in (0.0, -0.4, -3.0):
            self.assertIn("does not stand against", level.follows(said))

    def test_too_few_heights_are_a_mistake(self) -> None:
        with self.assertRaises(ValueError):
            level.bed(SQUARE, [0.0], DIAL, COUNT)

    @given(
        st.floats(-2e-3, 2e-3), st.floats(-2e-3, 2e-3), st.floats(0, 0.3), st.integers(2, 5), st.integers(2, 5),
        st.floats(0.02, 1.0), st.integers(0, 10**6),
    )  # fmt: skip
    @settings(max_examples=150, deadline=None)
    def test_what_is_proven_is_true_and_what_is_raised_levels(
        self, b: float, c: float, wave: float, across: int, along: int, tolerance: float, seed: int
    ) -> None:
        dice, grid = random.Random(seed), Grid(-50, 20, 400, 300, across, along)
        true = [h + wave * dice.uniform(-0.5, 0.5) for h in heights(grid, 0, b, c)]
        # u stands for 95 of 100 readings; here none lies further off than it says
        told = [h + dice.uniform(-1, 1) * level.reading(DIAL, COUNT) for h in true]
        found = level.bed(grid, told, DIAL, COUNT)
        said, span = level.verdict(found, tolerance), max(true) - min(true)
        if said is LevelVerdict.PROVEN:
            self.assertLessEqual(span, tolerance)
        if said is LevelVerdict.TILTED:
            self.assertGreater(span, tolerance)
        raised = dict(zip(grid.corners, found.raises, strict=True))
        levelled = [found.plane(corner) + by for corner, by in raised.items()]
        self.assertAlmostEqual(max(levelled), min(levelled))
        self.assertGreaterEqual(min(found.raises), 0)
