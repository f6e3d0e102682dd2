"""What is done with a spanner, by figures worked by hand; and that it makes the angle right."""

from __future__ import annotations

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.geometry.spanner import Part, part_of, sentence, turn
from idler.core.machine import Address
from tests.support import X, Y, Z, verge


class Spanner(unittest.TestCase):
    def test_which_part_carries_the_other(self) -> None:
        self.assertIs(part_of(verge(), X, Y), Part.WAYS)
        self.assertIs(part_of(verge(), X, Z), Part.COLUMN)
        self.assertIs(part_of(verge(), Y, Z), Part.COLUMN)
        self.assertIs(part_of(verge().with_values({Address(None, "build.kind"): "router"}), X, Y), Part.BEAM)

    def test_by_hand(self) -> None:
        """0.5 mm per m over 800 by 600: 0.30 mm at the far end of the ways, 0.40 mm at the end of a beam."""
        axes = verge().axis(X), verge().axis(Y)
        for part, angle, words in (
            (Part.WAYS, 0.5, "far end of the ways of Y stands 0.30 mm too far to + of X"),
            (Part.WAYS, -0.5, "too far to \u2212 of X. Loosen them there and move them by as much to +"),
            (Part.BEAM, 0.5, "move that end by 0.40 mm to \u2212 of Y for the 800 mm"),
            (Part.BEAM, -0.5, "move that end by 0.40 mm to + of Y"),
            (Part.COLUMN, 0.5, "put 0.050 mm under its side towards + of X for each 100 mm"),
            (Part.COLUMN, -0.5, "its top stands 0.30 mm too far to \u2212 of X"),
        ):
            self.assertIn(words, sentence(part, *axes, angle, 800, 600), part)

    @settings(max_examples=200, deadline=None)
    @given(st.floats(-5, 5), st.floats(50, 2000), st.floats(50, 2000), st.sampled_from(Part))
    def test_what_is_turned_makes_the_angle_right(self, angle: float, width: float, height: float, part: Part) -> None:
        """To first order: what is left is of the second one."""
        done, lean = turn(part, angle, width, height), angle / 1000
        first, second = (width, 0.0), (height * math.sin(lean), height * math.cos(lean))
        if part is Part.BEAM:
            first = (width, done.shift)
        else:
            second = (second[0] + done.shift, second[1])
        left = (first[0] * second[0] + first[1] * second[1]) / math.hypot(*first) / math.hypot(*second)
        self.assertLessEqual(abs(left), lean * lean + 1e-12)


if __name__ == "__main__":
    unittest.main()
