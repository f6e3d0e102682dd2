"""Faults in the middle of a run: it ends on its path or the axes stand, the place is known, nothing starts again. All kinds
of them, many times each, are a benchmark."""

from __future__ import annotations

import random
import unittest

from tests.procedures.faults import KINDS, Faulty

TRIED = ("stop", "guard", "cut", "emergency stop", "dip", "deaf", "behind")


class Faults(Faulty):
    def test_whatever_goes_wrong_in_a_run_it_ends_where_it_should(self) -> None:
        dice = random.Random(20)
        self.assertLessEqual(set(TRIED), set(KINDS))
        for kind in TRIED:
            with self.subTest(kind):
                outcome = self.fault(kind, dice)
                self.assertEqual(outcome.wrong, "", str(outcome))


if __name__ == "__main__":
    unittest.main()
