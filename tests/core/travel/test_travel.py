"""Travel: ends taken with a margin, running on after a switch, parking order."""

from __future__ import annotations

import math
import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.machine.finding import Finding
from idler.core.rules.findings import findings
from idler.core.travel import (
    after_a_limit,
    ends_of,
    overtravel,
    overtravel_seen,
    parking_order,
    room_after_switch,
    run_on,
    taken,
)
from idler.core.values.parameter import Value
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
        self.assertAlmostEqual(overtravel(machine, X, Fraction(3000), Fraction(600)), 50 * 0.002 + 50 * 50 / (2 * 600))
        self.assertAlmostEqual(room_after_switch(machine, X), 4.0)  # type: ignore[arg-type]
        quick = machine.with_values({at(X, "pace.stop_deceleration"): Fraction(1200)})
        self.assertLess(after_a_limit(quick, X), after_a_limit(machine, X))
        self.assertEqual(run_on(quick, X), run_on(machine, X))  # homing brakes by its own deceleration

    def test_a_run_that_went_on_too_far_proves_nothing(self) -> None:
        self.assertEqual(overtravel_seen(wired(), X, 1.1)[0], True)
        self.assertEqual(overtravel_seen(wired(), X, 4.1), (False, "ran on by 4.10 mm at the approach speed, worked out "
                         f"{run_on(wired(), X):.2f} mm, 4.00 mm lie behind it"))  # fmt: skip

    def test_an_approach_that_would_meet_iron_is_found(self) -> None:
        fast = wired().with_values({at(X, "homing.approach"): Fraction(6000)})
        self.assertIn("approach_meets_stop", {item.code for item in findings(fast)})
        self.assertNotIn("approach_meets_stop", {item.code for item in findings(wired())})
        slack = wired().with_values(
            {at(X, "homing.acceleration"): Fraction(20)}
        )  # homing brakes by its own deceleration
        self.assertAlmostEqual(run_on(slack, X), 15 * 0.0002 + 15 * 15 / 40)
        self.assertIn("approach_meets_stop", {item.code for item in findings(slack)})
        self.assertEqual(run_on(wired().with_values({at(X, "homing.acceleration"): Fraction(0)}), X), math.inf)

    def test_what_homing_meets_must_be_what_travel_was_told(self) -> None:
        def found(**changes: Value) -> dict[str, Finding]:
            machine = wired().with_values({at(X, key.replace("__", ".")): value for key, value in changes.items()})
            return {item.code: item for item in findings(machine)}

        by_stop = found(homing__method="stop", homing__coordinate=Fraction(4))
        self.assertEqual(dict(by_stop["stop_at_two_places"].edit), {at(X, "travel.stop_high"): Fraction(4)})
        self.assertNotIn("stop_at_two_places", found(homing__method="stop", homing__coordinate=Fraction(6)))
        behind = found(travel__high=Fraction(3))  # its switch is at 2 mm
        self.assertEqual(dict(behind["limit_behind_switch"].edit), {at(X, "travel.high"): Fraction(0)})
        self.assertNotIn("limit_behind_switch", found(travel__high=Fraction(2)))

    def test_limit_switches_that_are_off_are_a_finding(self) -> None:
        off = {at(X, "travel.switches_on"): False}
        self.assertNotIn("limit_switches_off", {item.code for item in findings(wired().with_values(off))})
        told = wired().with_values({**off, at(7, "input.role"): "limit_low", at(7, "input.axis"): "X"})
        self.assertIn("limit_switches_off", {item.code for item in findings(told)})

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
