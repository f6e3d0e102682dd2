"""Torque prints: friction and weight are told apart, tight places found, and a later one is laid over an earlier one."""

from __future__ import annotations

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from idler.core.errors import IdlerError
from idler.core.mechanics.torqueprint import (
    BINS,
    GROWN,
    HEAVY,
    TorquePrint,
    grown,
    holds,
    print_words,
    printed,
    tight_spots,
)
from idler.core.values.measures import Measures
from idler.shelf import prints

LOW, HIGH = -300.0, 0.0
READS = Measures()


def travelled(
    friction: float, weight: float, *, tight: tuple[float, float] = (1.0, 1.0), times: float = 1.0
) -> TorquePrint:
    """What a motor gives over 300 mm, ten readings in each part; between these places friction is so many times as large."""
    up, down = [], []
    for number in range(10 * BINS):
        place = LOW + (number + 0.5) / (10 * BINS) * (HIGH - LOW)
        here = friction * (times if tight[0] <= place <= tight[1] else 1.0)
        up.append((place, abs(here + weight)))
        down.append((place, abs(here - weight)))
    return printed(up, down[::-1], LOW, HIGH, 600.0, 0.0)


class Prints(unittest.TestCase):
    @given(st.floats(0.05, 0.3), st.floats(0, 0.2))
    def test_both_ways_tell_friction_and_weight(self, friction: float, weight: float) -> None:
        found = travelled(friction, weight)
        up, down = found.usual
        self.assertAlmostEqual(up, friction + weight, 4)
        self.assertAlmostEqual(down, abs(friction - weight), 4)
        self.assertEqual(tight_spots(found), [])

    @given(st.integers(2, BINS - 6), st.integers(1, 4), st.floats(1.7, 5))
    def test_a_tight_place_is_found_where_it_is_both_ways(self, first: int, wide: int, times: float) -> None:
        part = (HIGH - LOW) / BINS
        begins, ends = LOW + first * part, LOW + (first + wide) * part
        spots = tight_spots(travelled(0.12, 0.0, tight=(begins, ends), times=times))
        self.assertEqual([spot.way for spot in spots], [1, -1])
        for spot in spots:
            self.assertAlmostEqual(spot.first, begins + part / 2)
            self.assertAlmostEqual(spot.last, ends - part / 2)
            self.assertAlmostEqual(spot.most, 0.12 * times, 4)
        self.assertFalse(holds(travelled(0.12, 0.0, tight=(begins, ends), times=times)))

    @given(st.floats(0.3, 3))
    def test_what_has_grown_is_told_by_how_much(self, times: float) -> None:
        before, now = travelled(0.1, 0.02), travelled(0.1 * times, 0.02 * times)
        self.assertAlmostEqual(grown(now, before), times, 2)
        words = print_words("X", READS, now, before, "3 Mar 2026")
        self.assertEqual("more than on 3 Mar 2026" in words, grown(now, before) >= GROWN)
        self.assertEqual("less than on 3 Mar 2026" in words, grown(now, before) <= 1 / GROWN)

    def test_prints_of_other_travels_are_laid_over_by_their_places(self) -> None:
        before, now = travelled(0.1, 0.0), replace(travelled(0.1, 0.0), low=200.0, high=500.0)
        self.assertEqual(grown(now, before), 1.0, "they have no place in common")
        half = replace(travelled(0.2, 0.0), low=-150.0, high=150.0)
        self.assertAlmostEqual(grown(half, before), 2.0)

    def test_what_a_drive_does_not_tell_is_no_print(self) -> None:
        for found in (
            travelled(0.0, 0.0),
            printed([], [], LOW, HIGH, 600.0, 0.0),
            printed([(-3.0, 0.2)], [], LOW, LOW, 1.0, 0.0),
        ):
            self.assertFalse(found.told or holds(found))
            self.assertEqual(tight_spots(found), [])
            self.assertIn("6077h", print_words("X", READS, found, None, ""))

    def test_words(self) -> None:
        heavy = print_words("Z", READS, travelled(HEAVY, 0.1), None, "")
        for part in ("60 % of its torque to +", "more than half", "more to +: a weight", "Nowhere is it tight"):
            self.assertIn(part, heavy)
        tight = print_words(
            "X", READS, travelled(0.1, 0.0, tight=(-160, -130), times=3), travelled(0.1, 0.0), "3 Mar 2026"
        )
        self.assertIn("Tight at -159 mm to -134 mm, to +: up to 30 %", tight)
        self.assertIn("As on 3 Mar 2026", tight)


class Kept(unittest.TestCase):
    def test_they_are_read_back_and_a_spoilt_file_is_said(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "verge.toml"
            self.assertEqual(prints.read(path), {})
            found = travelled(0.125, 0.0)
            found = replace(found, up=(None, *found.up[1:]))
            prints.write(path, {"X": [found] * (prints.MOST + 2), "Y": []})
            self.assertEqual(prints.read(path), {"X": [found] * prints.MOST})
            path.write_text(path.read_text().replace("high", "tall"))
            with self.assertRaises(IdlerError):
                prints.read(path)


if __name__ == "__main__":
    unittest.main()
