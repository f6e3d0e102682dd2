"""Travel: ends taken with a margin, running on after a switch, parking order."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.findings import findings
from idler.core.travel import ends_of, overtravel, parking_order, room_after_switch, taken
from tests.support import X, Y, Z, at, wired


class Travel(unittest.TestCase):
    @given(st.floats(-300, 300), st.floats(0, 20))
    def test_an_end_that_is_taken_keeps_its_margin_inside(self, position: float, margin: float) -> None:
        low = taken(wired(), X, "low", position, margin)
        high = taken(wired(), X, "high", position, margin)
        self.assertAlmostEqual(float(low[at(X, "travel.low")]) - position, margin, places=3)  # type: ignore[arg-type]
        self.assertAlmostEqual(position - float(high[at(X, "travel.high")]), margin, places=3)  # type: ignore[arg-type]
        self.assertIs(low[at(X, "travel.limits_on")], True)

    def test_running_on_in_closed_form(self) -> None:
        machine = wired().with_values({at(1, "input.filter"): Fraction(2)})
        self.assertAlmostEqual(overtravel(machine, X, 3000), 50 * 0.002 + 50 * 50 / (2 * 600))
        self.assertAlmostEqual(room_after_switch(machine, X), 4.0)  # type: ignore[arg-type]

    def test_an_approach_that_would_meet_iron_is_found(self) -> None:
        fast = wired().with_values({at(X, "homing.approach"): Fraction(6000)})
        self.assertIn("approach_meets_stop", {item.code for item in findings(fast)})
        self.assertNotIn("approach_meets_stop", {item.code for item in findings(wired())})

    def test_parking_clears_the_work_first_and_stays_inside(self) -> None:
        parks = {at(slot, "travel.parks"): True for slot in (X, Y, Z)}
        machine = wired().with_values(parks)
        self.assertEqual(parking_order(machine), [(Z,), (X, Y)])
        self.assertEqual(parking_order(wired()), [])
        outside = machine.with_values({at(X, "travel.park"): Fraction(50)})
        found = next(item for item in findings(outside) if item.code == "parking_outside")
        self.assertEqual(dict(found.edit), {at(X, "travel.park"): 0})

    def test_marks_of_an_axis(self) -> None:
        ends = ends_of(wired(), X)
        self.assertEqual((ends.low, ends.high, ends.stops, ends.switch, ends.home), (-308, 0, (-312, 6), 2, 0))
        self.assertEqual(ends.span, (-312, 6))
