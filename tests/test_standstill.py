"""The runner's own rule: only what ran while the computer stood still may run once again."""

from __future__ import annotations

import unittest
from unittest import mock

from tests.standstill import LONG, NAP, Standstill


class Spans(unittest.TestCase):
    def test_only_a_nap_that_was_far_too_long_counts_and_only_for_what_ran_then(self) -> None:
        with mock.patch("tests.standstill.time.monotonic", return_value=100.0):
            still = Standstill()
        for now in (100.25, 100.5, 100.5 + LONG, 112.0, 112.0 + NAP):
            still.look(now)
        began = 100.5 + LONG
        self.assertEqual(still.spans, [(began, 112.0)])
        for span, there in (
            ((90.0, 101.0), False),
            ((113.0, 120.0), False),
            ((101.0, 104.0), True),
            ((111.0, 120.0), True),
        ):
            self.assertEqual(still.within(*span), 112.0 - began if there else 0.0, span)
