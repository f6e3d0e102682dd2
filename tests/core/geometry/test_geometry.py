"""Play and square: figures worked by hand, then properties over random machines and their readings."""

from __future__ import annotations

import math
import random
import unittest
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.geometry import not_told, play, sides, square
from idler.core.geometry.play import DialReading, PlayVerdict
from idler.core.geometry.square import Rectangle, SquareVerdict
from idler.core.mechanics.scale import INSTRUMENTS, Instrument
from tests.support import X, Y, at, verge

BY_KEY = {item.key: item for item in INSTRUMENTS}
DIAL = BY_KEY["dial"]
EXACT = Instrument("exact", "exact, 0.001 mm", 1e-6, 3000.0)
COUNT = 0.0025


def read(
    play_at: dict[float, float], dice: random.Random, times: int = 3, dial: Instrument = DIAL
) -> list[DialReading]:
    """What a dial with its lag says of a part with so much play, by a model of its own: where the part is, then the pointer."""
    found = []
    for place, left in play_at.items():
        zero, lag = dice.uniform(0, dial.resolution), dice.uniform(0, dial.lag)
        for _ in range(times):
            for way in (1, -1):
                stands = zero - way * left / 2 - way * lag / 2 + dice.gauss(0, dial.resolution / 5)
                found.append(DialReading(place, way, round(stands / dial.resolution) * dial.resolution))
    return found


class Play(unittest.TestCase):
    def test_by_hand(self) -> None:
        """From below −0.02, from above +0.02, a lag of 3 µm at most: 0.0385; the division is more than the hand's 2 µm:
        u² = (2 · 0.01² + 2 · 0.0025² + 0.003²) / 12. Readings that scatter by 0.02 count by that: u² = 2 · 0.02² / 2 + …"""
        one = play.plays([DialReading(0, 1, -0.02), DialReading(0, -1, 0.02)], DIAL, COUNT)[0]
        self.assertAlmostEqual(one.play, 0.0385)
        self.assertAlmostEqual(one.standard, math.sqrt((2e-4 + 1.25e-5 + 9e-6) / 12))
        loose = [DialReading(0, way, value) for way, value in ((1, -0.03), (-1, 0.01), (1, -0.01), (-1, 0.03))]
        scatter = 2 * 2e-4 / 2  # of each side (0.02² · 2 / 4) / 1 = 2e-4
        self.assertAlmostEqual(play.plays(loose, DIAL, COUNT)[0].standard, math.sqrt(scatter + (1.25e-5 + 9e-6) / 12))
        self.assertEqual(play.plays([DialReading(0, 1, 0.0)], DIAL, COUNT), [])  # from one side only

    def test_a_dial_that_does_not_follow_or_with_its_sign_turned_is_no_witness(self) -> None:
        self.assertEqual((play.follows(-1.02), play.follows(-0.9)), ("", ""))
        self.assertIn("sign", play.follows(1.0))
        for said in (0.0, -0.5, -2.0, 0.3):
            self.assertIn("does not follow", play.follows(said))

    def test_places_leave_room_to_turn_round(self) -> None:
        axis = verge().axis(X)
        low, high = float(axis.number("travel.low")), float(axis.number("travel.high"))
        found = play.places(axis)
        self.assertEqual((found[0], found[-1], len(found)), (low + 4, high - 4, play.PLACES))
        short = verge().with_values({at(X, "travel.low"): Fraction(-7), at(X, "travel.high"): Fraction(0)})
        self.assertEqual(play.places(short.axis(X)), ())

    def verdict(self, *left: float, told: float = 0.0, tolerance: float = 0.03) -> PlayVerdict:
        return play.verdict([play.PlayAt(k, each, 0.003) for k, each in enumerate(left)], told, tolerance)

    def test_a_dial_at_a_radius_by_hand(self) -> None:
        """At 180 / π mm one millimetre is one degree; at twice that, half of one."""
        dial = next(item for item in INSTRUMENTS if item.key == "dial")
        one, half = (play.at_radius(dial, factor * 180 / math.pi) for factor in (1, 2))
        self.assertAlmostEqual(one.resolution, 0.01)
        self.assertAlmostEqual(half.resolution, 0.005)
        self.assertAlmostEqual(half.lag, dial.lag / 2)
        self.assertEqual(play.most_radius(dial), 286)  # 10 mm over 2°, in radians
        self.assertEqual(play.places(verge().axis(3)), (30.0, 150.0, 270.0))

    def test_verdicts(self) -> None:
        self.assertIs(self.verdict(0.01, 0.02), PlayVerdict.NOTHING)  # two places are no proof
        self.assertIs(self.verdict(0.01, 0.02, 0.01), PlayVerdict.PROVEN)
        self.assertIs(self.verdict(-0.01, -0.02, 0.0, told=0.05), PlayVerdict.PROVEN)
        self.assertIs(self.verdict(-0.05, -0.05, -0.05, told=0.05), PlayVerdict.TAKE_UP)  # too much is taken up
        self.assertIs(self.verdict(0.05, 0.06, 0.05), PlayVerdict.TAKE_UP)
        self.assertIs(self.verdict(0.02, 0.14, 0.02), PlayVerdict.UNEVEN)
        self.assertIs(self.verdict(0.15, 0.3, 0.15), PlayVerdict.LARGE)
        self.assertIs(self.verdict(0.003, 0.003, 0.003, tolerance=0.005), PlayVerdict.COARSE)
        for left, said in ((0.05, PlayVerdict.MORE), (0.028, PlayVerdict.COARSE), (0.01, PlayVerdict.PROVEN)):
            found = [play.PlayAt(k, left, 0.003) for k in range(play.PLACES)]  # where nothing takes up play
            self.assertIs(play.verdict(found, 0.0, 0.03, takes_up=False), said)
            words = play.sentence(verge().axis(X), found, 0.0, 0.03, takes_up=False)
            self.assertEqual("Adjust the nut" in words, said is PlayVerdict.MORE)

    def test_what_is_proposed_leaves_half_of_the_unevenness(self) -> None:
        found = [play.PlayAt(k, each, 0.001) for k, each in enumerate((0.02, 0.05, 0.03))]
        self.assertEqual(play.edit(verge(), Y, found, 0.01), {at(Y, "play.backlash"): Fraction(45, 1000)})

    def test_the_sentences_say_what_to_do(self) -> None:
        axis = verge().axis(Y)
        for left, words in (((0.02, 0.14, 0.02), "no one figure"), ((0.15, 0.3, 0.15), "Adjust the nut"),
                            ((0.05, 0.06, 0.05), "Take it up"), ((0.01, 0.02, 0.01), "everywhere")):  # fmt: skip
            found = [play.PlayAt(k, each, 0.003) for k, each in enumerate(left)]
            self.assertIn(words, play.sentence(axis, found, 0.0, 0.03))

    @settings(max_examples=60, deadline=None)
    @given(st.integers(0, 10**9), st.floats(0, 0.2))
    def test_the_truth_lies_within_what_is_said(self, seed: int, left: float) -> None:
        """Three times the standard uncertainty: what lies beyond it in one of 370 is a slip of the reckoning."""
        dice = random.Random(seed)
        found = play.plays(read({0.0: left, 1.0: left / 2}, dice), DIAL, COUNT)
        self.assertLess(abs(found[0].play - left), 1.6 * found[0].expanded)


class Square(unittest.TestCase):
    def diagonals(self, place: Rectangle, lean: float, k: float = 1.0) -> tuple[float, float]:
        """By coordinates, and not by the formula."""
        lean /= 1000
        corners = [(k * (x + y * math.sin(lean)), k * y * math.cos(lean)) for x, y in place.corners]
        return math.dist(corners[0], corners[2]), math.dist(corners[1], corners[3])

    def test_by_hand(self) -> None:
        """600 by 600 with diagonals of 848.953 and 848.104: (p² − q²) / 4wh = 1.0 mm per m."""
        place = Rectangle(0, 0, 600, 600)
        found = square.squareness(place, [848.953], [848.104], EXACT)
        assert found is not None
        self.assertAlmostEqual(found.angle, 1.0006, places=3)
        self.assertAlmostEqual(found.scale, 0.0, places=2)
        # 0.5 mm of tape: u = √(2 · 0.5²/12 + 2 · 0.1² + 2 · 0.03²) = 0.2520 mm; u(a) = √2 · 848.53 · u / (2 · 600²)
        self.assertAlmostEqual(square.can_prove(place, BY_KEY["tape"]), 2 * 0.41999, places=3)

    @settings(max_examples=200, deadline=None)
    @given(st.floats(-50, 50), st.floats(30, 2000), st.floats(30, 2000), st.floats(0.99, 1.01))
    def test_it_undoes_what_the_corners_do(self, lean: float, width: float, height: float, k: float) -> None:
        place = Rectangle(7.0, -3.0, width, height)
        p, q = self.diagonals(place, lean, k)
        found = square.squareness(place, [p], [q], EXACT)
        assert found is not None
        self.assertAlmostEqual(found.angle, lean, delta=abs(lean) * 0.025 + 1e-6)  # the scale enters in second order
        self.assertAlmostEqual(found.scale, 1000 * (k - 1), places=5)

    def test_verdicts(self) -> None:
        for angle, standard, scale, said in (
            (0.05, 0.02, 0.0, SquareVerdict.PROVEN), (0.5, 0.1, 0.0, SquareVerdict.OFF), (0.1, 0.2, 0.0, SquareVerdict.COARSE),
            (0.0, 0.02, 9.0, SquareVerdict.SCALE),
        ):  # fmt: skip
            self.assertIs(square.verdict(square.Squareness(angle, standard, scale, 0.1), 0.1), said)
        self.assertIs(square.verdict(None, 0.1), SquareVerdict.NOTHING)
        self.assertIsNone(square.squareness(Rectangle(0, 0, 100, 100), [190.0], [10.0], EXACT))  # no machine made these

    def test_what_would_prove_it_is_said_where_what_is_held_does_not(self) -> None:
        axes = verge().axis(X), verge().axis(Y)
        tools = {item.key: item for item in INSTRUMENTS if item.key in ("rule", "trammel")}
        place = square.largest(*axes, tools["rule"]) or self.fail()
        small = Rectangle(place.x, place.y, 60, 60)
        listed = list(tools.values())
        for held, over, tolerance, words in (
            ("rule", place, 20.0, ""), ("rule", place, 1.0, "take a beam trammel"), ("trammel", small, 0.8, "larger rectangle"),
            ("trammel", place, 0.1, "a square and a dial"),
        ):  # fmt: skip
            said = square.able_for(*axes, tools[held], over, listed, tolerance)
            self.assertEqual(words in said and bool(words) is bool(said), True, (held, tolerance, said))

    def test_what_the_sides_say_by_hand(self) -> None:
        """300 by 200 told; X goes a thousandth part too far, and the far side along it is longer by 0.3 mm."""
        place, axes = Rectangle(0, 0, 300, 200), (verge().axis(X), verge().axis(Y))
        trammel = next(item for item in INSTRUMENTS if item.key == "trammel")
        even = {"near": 300.3, "far": 300.3, "left": 200.0, "right": 200.02}
        first, second = sides.sides(place, even, trammel) or self.fail()
        self.assertAlmostEqual(first.scale, 1.0)
        self.assertAlmostEqual(second.scale, 0.05)
        one = math.sqrt(2 * 0.02**2 / 12 + 2 * 0.004**2 + 2 * 0.03**2)
        self.assertAlmostEqual(first.scale_standard, 1000 * one / math.sqrt(2) / 300)
        self.assertEqual((first.scaled, first.unlike, second.scaled, second.unlike), (True, False, False, False))
        self.assertIn("X goes 1.00 ± 0.", sides.sentence(axes, (first, second)))
        slipped = sides.sides(place, {**even, "far": 300.6}, trammel) or self.fail()
        self.assertIn("along X differ by 0.30 mm", sides.sentence(axes, slipped))
        self.assertIsNone(sides.sides(place, {"near": 300.0}, trammel))

    @settings(max_examples=100, deadline=None)
    @given(st.integers(0, 10**6))
    def test_sides_of_an_honest_rectangle_seldom_accuse(self, seed: int) -> None:
        dice, trammel = random.Random(seed), next(item for item in INSTRUMENTS if item.key == "trammel")
        corners = [
            (x + dice.gauss(0, square.MARK), y + dice.gauss(0, square.MARK))
            for x, y in ((0, 0), (300, 0), (300, 200), (0, 200))
        ]
        read = {
            name: round(math.dist(corners[one], corners[other]) / 0.02 + dice.gauss(0, 0.2)) * 0.02
            for name, (one, other) in {"near": (0, 1), "far": (3, 2), "left": (0, 3), "right": (1, 2)}.items()
        }
        for found in sides.sides(Rectangle(0, 0, 300, 200), read, trammel) or self.fail():
            self.assertLess(abs(found.scale), 5 * found.scale_standard)
            self.assertLess(abs(found.apart), 5 * found.apart_standard)

    def test_the_largest_rectangle_keeps_inside_the_travel_and_the_reach(self) -> None:
        first, second = verge().axis(X), verge().axis(Y)
        for item in (BY_KEY["rule"], BY_KEY["tape"], BY_KEY["caliper"]):
            place = square.largest(first, second, item)
            assert place is not None
            self.assertEqual(square.refusal(place, first, second, item), "")
            self.assertLessEqual(place.diagonal, item.reach)
        wide = Rectangle(-400, -100, 300, 50)
        self.assertIn("does not fit into its travel", square.refusal(wide, first, second, BY_KEY["tape"]))
        self.assertIn("reaches", square.refusal(Rectangle(-300, -180, 290, 170), first, second, BY_KEY["caliper"]))

    def test_the_offset_turns_the_beam_back(self) -> None:
        found = square.Squareness(-0.4286, 0.05, 0.0, 0.1)
        edit = square.squaring(verge(), Y, found, 1400)
        self.assertEqual(edit, {at(Y, "homing.squaring"): Fraction(600, 1000)})
        self.assertEqual(square.squaring(verge(), Y, found, -1400), {at(Y, "homing.squaring"): Fraction(-600, 1000)})


if __name__ == "__main__":
    unittest.main()


class NotTold(unittest.TestCase):
    def test_a_coarse_instrument_is_not_a_figure_beside_its_bound(self) -> None:
        self.assertEqual(
            not_told(0.05, 0.02, "0.050 mm", "0.02 mm"), "It is known to 0.050 mm, and 0.02 mm are wanted."
        )
        self.assertIn("within or beyond", not_told(0.009, 0.02, "0.009 mm", "0.02 mm"))
