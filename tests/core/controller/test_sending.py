"""What has become of a send, worked out from what the controller says: for every way in which values can be mixed."""

from __future__ import annotations

import unittest
from dataclasses import replace
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.controller.sending import SendEnd, Sending, labels, outcome, sentence
from idler.core.controller.standing import ControllerImage
from idler.core.profile.codec import LETTERS, Place, image, place
from idler.core.proof.claims import claims
from idler.core.report.compare import proofs_between
from tests.support import X, Y, at, verge, wired

OLD, NEW, OTHER = range(3)
PLACES = [Place(0x6000 + k, 1) for k in range(8)]
SENDING = Sending(7, 0.0, dict.fromkeys(PLACES, 100), dict.fromkeys(PLACES, 200))
VALUES = {OLD: 100, NEW: 200, OTHER: 150}


def held(states: list[int], unstored: int = 0) -> ControllerImage:
    raws = {where: VALUES[state] for where, state in zip(PLACES, states, strict=False)}
    return ControllerImage(verge().shape, raws, {}, unstored)


class Outcomes(unittest.TestCase):
    @given(st.lists(st.sampled_from([OLD, NEW, OTHER]), min_size=8, max_size=8), st.integers(0, 3))
    def test_every_place_is_counted_once_and_the_end_follows(self, states: list[int], unstored: int) -> None:
        found = outcome(SENDING, held(states, unstored))
        for kind, listed in ((OLD, found.old), (NEW, found.new), (OTHER, found.other)):
            self.assertEqual(list(listed), [w for w, state in zip(PLACES, states, strict=True) if state == kind])
        pure = {OLD: SendEnd.OLD, NEW: SendEnd.NEW}.get(states[0]) if len(set(states)) == 1 else None
        self.assertIs(found.end, pure or SendEnd.PARTLY)
        self.assertEqual(found.settled, pure is not None and not unstored)

    @given(st.lists(st.sampled_from([OLD, NEW, OTHER]), min_size=8, max_size=8), st.integers(0, 1))
    def test_the_sentence_names_what_differs(self, states: list[int], unstored: int) -> None:
        found = outcome(SENDING, held(states, unstored))
        words = sentence(found, {}, most=8)
        if found.end is not SendEnd.PARTLY:
            self.assertEqual("a restart would bring others back" in words, bool(unstored))
            return
        self.assertIn(f"{states.count(NEW)} of 8 values are new", words)
        for where, state in zip(PLACES, states, strict=True):
            self.assertEqual(str(where) in words, state != NEW)

    def test_a_long_list_is_cut_with_its_number(self) -> None:
        words = sentence(outcome(SENDING, held([NEW] + [OLD] * 7)), {}, most=4)
        self.assertIn("and 3 more", words)

    def test_places_that_the_controller_does_not_use_do_not_count(self) -> None:
        found = outcome(SENDING, held([NEW] * 5))
        self.assertEqual((found.end, len(found.new), found.settled), (SendEnd.NEW, 5, True))

    def test_every_place_of_an_image_has_a_name(self) -> None:
        names = labels(wired())
        self.assertEqual(set(names), set(image(wired())))
        self.assertEqual(names[place(at(Y, "chain.pitch"))], "Y pitch of the screw")
        self.assertEqual(names[LETTERS], "letters of the axes")


class ProofsBetween(unittest.TestCase):
    def test_only_what_rests_on_a_difference(self) -> None:
        self.assertEqual(proofs_between(wired(), wired()), [])
        other = wired().with_values({at(X, "chain.pitch"): Fraction(4)})
        touched = {claim.key for claim in proofs_between(wired(), other)}
        expected = {claim.key for claim in claims(wired()) if at(X, "chain.pitch") in claim.rests}
        self.assertTrue(expected)
        self.assertEqual(touched, expected)

    def test_an_axis_that_the_other_has_not_takes_its_proofs_with_it(self) -> None:
        fewer = replace(wired(), names=("X", "Y", "Z"), changed={
            address: value for address, value in wired().changed.items() if address.axis != 3
        })  # fmt: skip
        labelled = [claim.label for claim in proofs_between(wired(), fewer)]
        self.assertIn("scale of A", labelled)
        self.assertNotIn("scale of X", labelled)
