"""Steps kept: how the ways are gone over, and what a switch that was found elsewhere says."""

from __future__ import annotations

import unittest
from itertools import pairwise

from idler.core.geometry import kept
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.reliable import shift_allowed
from tests.support import X, Y, verge


class Kept(unittest.TestCase):
    def test_the_ways_are_gone_over_evenly_and_not_alike(self) -> None:
        """Radical inverses by hand: 1 to 4 to the bases 2 and 3."""
        self.assertEqual([kept.shares(n, 1)[0] for n in (1, 2, 3, 4)], [0.5, 0.25, 0.75, 0.125])
        for n, wanted in ((1, 1 / 3), (2, 2 / 3), (3, 1 / 9), (4, 4 / 9)):
            self.assertAlmostEqual(kept.shares(n, 2)[1], wanted)
        for base in range(4):
            told = sorted(kept.shares(n, 4)[base] for n in range(1, 211))
            gaps = [b - a for a, b in pairwise(told)]
            self.assertLess(max(gaps), 0.05)
            self.assertTrue(told[0] > 0 and told[-1] < 1)

    def test_more_than_the_switch_scatters_is_lost_and_never_more_than_half_a_pole_is_allowed(self) -> None:
        """Y of Verge has 320 counts a mm: two of them are 0.00625 mm."""
        machine = verge()
        counts = float(Chain.of(machine.axis(Y)).counts_per_unit)
        self.assertAlmostEqual(kept.kept(machine, Y, 0.0, 0.01).allowed, 0.01 + 2 / counts)
        self.assertAlmostEqual(kept.kept(machine, Y, 0.0, 1.0).allowed, shift_allowed(machine, Y))
        fine, lost = kept.kept(machine, X, 0.0, 0.0), kept.kept(machine, Y, -3 / counts, 0.0)
        self.assertTrue(fine.held)
        self.assertFalse(lost.held)
        self.assertAlmostEqual(lost.counts, -3)
        self.assertIn("no steps were lost", kept.sentence((fine,)))
        self.assertIn("Y has lost steps", kept.sentence((fine, lost)))
        self.assertIn("Y and Y have", kept.sentence((lost, lost)))
        self.assertIn("-3 counts", kept.figures(machine, (fine, lost)))
        self.assertEqual(kept.sentence(()), "")

    def test_the_way_stays_inside_of_the_soft_limits(self) -> None:
        axis = verge().axis(X)
        low, high = kept.way_of(axis)
        self.assertEqual((low, high), (float(axis.number("travel.low")) + 4, float(axis.number("travel.high")) - 4))
        self.assertEqual(kept.way_of(verge().axis(3)), (0.0, 360.0))
