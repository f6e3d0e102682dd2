"""How long what the record of a stop says of a driver is a finding."""

from __future__ import annotations

import unittest
from fractions import Fraction

from idler.core.machine.finding import Finding, Severity
from idler.session.incidents import _same
from tests.support import X, Y, at, verge


class Suspected(unittest.TestCase):
    def test_it_is_gone_with_whatever_else_mends_the_axis(self) -> None:
        told = verge()
        where = at(X, "chain.microsteps")
        found = Finding("driver_counts", Severity.ERROR, where, told.part(where), "It follows by a quarter.")
        self.assertTrue(_same(told, told, found))
        for key, value in (("chain.microsteps", 32), ("chain.pitch", Fraction(9)), ("loop.window", Fraction(3))):
            with self.subTest(key):
                self.assertFalse(_same(told.with_values({at(X, key): value}), told, found))
                self.assertTrue(_same(told.with_values({at(Y, key): value}), told, found))
