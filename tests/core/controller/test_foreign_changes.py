"""What somebody else has changed in a controller, told with the axes of then and of now."""

from __future__ import annotations

import unittest
from fractions import Fraction

from idler.core.controller.foreign_changes import changed_places, changes_in_words, machine_heard
from idler.core.controller.standing import ControllerImage
from idler.core.machine import Machine, axes
from idler.core.profile.codec import LETTERS, image, place
from tests.support import X, Y, Z, at, verge, wired


def held(machine: Machine) -> ControllerImage:
    return ControllerImage(machine.shape, image(machine))


class Behind(unittest.TestCase):
    def test_nothing_has_changed(self) -> None:
        self.assertEqual(changed_places(image(verge()), held(verge()), ()), [])
        self.assertEqual(changes_in_words(verge(), verge()), "")

    def test_what_idler_itself_may_have_changed_does_not_count(self) -> None:
        pitch, jerk = at(X, "chain.pitch"), at(Y, "pace.jerk")
        now = verge().with_values({pitch: Fraction(4), jerk: Fraction(1000)})
        found = changed_places(image(verge()), held(now), {place(jerk)})
        self.assertIn(place(pitch), found)
        self.assertNotIn(place(jerk), found)

    def test_the_machine_that_was_heard_has_the_axes_of_then(self) -> None:
        now = axes.remove(wired(), Z)
        before = machine_heard(image(wired()), held(now))
        assert before is not None
        self.assertEqual(before, wired())
        self.assertIn("Axes X Y Z A → X Y A", changes_in_words(before, now))
        self.assertIn(LETTERS, changed_places(image(wired()), held(now), ()))

    def test_too_little_that_was_heard_is_no_machine(self) -> None:
        self.assertIsNone(machine_heard({LETTERS: "XYZAB"}, held(wired())))
        self.assertEqual(machine_heard({}, held(wired())), wired())

    def test_a_long_list_is_cut(self) -> None:
        now = verge().with_values({at(slot, "chain.pitch"): Fraction(4) for slot in (X, Y, Z)} | {
            at(slot, "pace.jerk"): Fraction(1000) for slot in (X, Y, Z)
        })  # fmt: skip
        words = changes_in_words(verge(), now)
        self.assertEqual(words.count("→"), 3)
        self.assertTrue(words.endswith("and 3 more"))
