"""What measures the speed of the spindle is believed once a hand has turned it."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from idler.core.proof.claims import Proof
from idler.core.spindle.encoder import pulses_from_hand
from idler.procedures.engine import Ending
from tests.person import Person
from tests.procedures.ready import Ready
from tests.support import at

MAGNET = {at(7, "input.role"): "pulse", at(7, "input.rest"): "open"}  # Verge's, once in a turn
PULSES = at(None, "spindle.pulses")


class OnPaper(unittest.TestCase):
    @given(st.integers(1, 200), st.integers(4, 20), st.integers(-1, 1))
    def test_a_magnet_that_stood_at_its_switch_misleads_nobody(self, pulses: int, turns: int, beside: int) -> None:
        found = pulses_from_hand(pulses * turns + beside, turns)
        assert found is not None
        self.assertEqual((found.counts, found.again), (pulses, 0))

    def test_what_is_no_whole_number_in_a_turn_is_given_up(self) -> None:
        for moved in (0, 1, 2, 3, 7, 8):
            self.assertIsNone(pulses_from_hand(moved, 5), moved)


class ByAMagnet(Ready):
    def test_speeds_that_agree_with_pulses_that_were_told_wrong_prove_nothing(self) -> None:
        """A curve that was measured by them would agree with itself."""
        self.ready({**MAGNET, PULSES: 2})
        person = Person(self.mill, self.hands)
        for word in ("spindle-curve", "spindle-speeds", "spindle-times"):
            with self.subTest(word):
                got = self.mill.run(word, answers=person)
                self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
                self.assertEqual(dict(got.edit), {PULSES: 1})
                self.assertIs(self.mill.proofs["spindle.pulses"], Proof.FAILED)
        self.mill.take(got)
        self.mill.send()
        self.assertIs(self.mill.run("spindle-encoder", answers=person).end, Ending.PROVEN)

    def test_a_wire_that_is_off_counts_nothing(self) -> None:
        self.ready(MAGNET)
        self.hands.ask(do="break", switch="spindle magnet")
        got = self.mill.run("spindle-speeds", answers=Person(self.mill, self.hands))
        self.assertIs(got.end, Ending.FAILED, got.words)
        self.assertIn("No pulse came", got.words)
        self.assertIsNot(self.mill.proofs["spindle.pulses"], Proof.PROVEN)
