"""The torque print on the bench: friction of a table, weight of a head, kept and laid over."""

from __future__ import annotations

from fractions import Fraction

from idler.core.machine import Address
from idler.procedures.engine import Ending
from tests.procedures.ready import Ready
from tests.support import X, Z


class Printing(Ready):
    pace = 30  # readings come thirty times a second, and a way needs a dozen of them

    def test_a_table_takes_as_much_both_ways_and_a_head_more_upwards(self) -> None:
        ends = (("low", -30), ("high", 30))
        self.ready({Address(slot, f"travel.{end}"): Fraction(at) for slot in (X, Z) for end, at in ends})
        for name in "XXZ":
            result = self.mill.run("torque-print", name)
            self.assertIs(result.end, Ending.DONE, result.words)
            if name == "X" and len(self.mill.session.prints["X"]) == 2:
                self.assertRegex(result.words, "As on|more than on|less than on")
        table, head = (self.mill.session.prints[name][-1] for name in "XZ")
        self.assertAlmostEqual(table.usual[0], table.usual[1], delta=0.03)
        self.assertGreater(head.usual[0] - head.usual[1], 0.08, "its weight")
        self.assertEqual(self.mill.session._shelf.prints(self.mill.session.name), self.mill.session.prints)
        self.assertEqual((table.low, table.high), (-28.0, 28.0), "both ends are left out by a little")

    def test_it_does_not_begin_where_places_are_not_known_or_ends_do_not_hold(self) -> None:
        self.ready()
        self.mill.session.set_values({Address(X, "travel.high"): Fraction(80)})
        self.assertIn(
            "into force first", self.mill.run("torque-print", "X").words, "it goes where the controller would not"
        )
        self.mill.session.undo()
        self.mill.session.set_values({Address(X, "travel.limits_on"): False})
        self.mill.send()
        self.mill.power()
        self.assertIn("is not homed", self.mill.run("torque-print", "Z").words)
        self.mill.session.link.home_here(X)
        self.mill.loop.until(lambda: self.mill.session.homes.known(X), 10)
        self.assertIn("soft limits of X are off", self.mill.run("torque-print", "X").words)
        self.assertEqual(self.mill.session.prints, {})
