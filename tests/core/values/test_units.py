from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.errors import Refusal
from idler.core.values.quantity import parse
from idler.core.values.units import (
    DEG,
    INCH,
    KILOHERTZ,
    MM,
    MM_MIN,
    ONE,
    RPM,
    SECOND,
    Unit,
    convert,
    exact_text,
    figure,
)


class Parsing(unittest.TestCase):
    def test_what_a_builder_writes(self) -> None:
        cases = (
            ("0.25 in", MM, Fraction(127, 20)),
            ('1 1/4"', MM, Fraction(127, 4)),
            ("12 m/min", MM_MIN, Fraction(12000)),
            ("1800 rpm", RPM, Fraction(1800)),
            ("1800 turns/min", RPM, Fraction(1800)),
            ("90°", DEG, Fraction(90)),
            ("1 turn", DEG, Fraction(360)),
            ("120000 Hz", KILOHERTZ, Fraction(120)),
            ("2,5 mm", MM, Fraction(5, 2)),
            ("−3 mm", MM, Fraction(-3)),
            ("2.5 µm", MM, Fraction(1, 400)),
            ("100 ms", SECOND, Fraction(1, 10)),
            ("8 per in", Unit("", "1/mm", 3), Fraction(40, 127)),
            ("7", ONE, Fraction(7)),
            ("12\u202f000 mm/min", MM_MIN, Fraction(12000)),
            ("1 234.5 mm", MM, Fraction(2469, 2)),
            ("1 125/1000 in", INCH, Fraction(9, 8)),
        )
        for text, unit, value in cases:
            with self.subTest(text):
                self.assertEqual(parse(text, unit), value)

    def test_a_bare_number_is_in_the_unit_of_the_screen(self) -> None:
        self.assertEqual(parse("1", MM, bare=INCH), Fraction(127, 5))
        self.assertEqual(parse("1 mm", MM, bare=INCH), 1)

    def test_what_cannot_be_taken_names_value_and_way_out(self) -> None:
        for text, why in (
            ("nan", "not a finite number"),
            ("inf mm", "not a finite number"),
            ("abc", "not a number"),
            ("3 s", "not in mm"),
            ("3 parsec", "not in mm"),
            ("1/0 mm", "divides by zero"),
            ("9" * 70, "longer than"),
            ("1; import os", "not in mm"),
            ("5 mm^9^9^9", "not in mm"),
            ("2 (", "not in mm"),
            ("1 mm/0", "not in mm"),
            ("12 5", "not a number"),
            ("", "not a number"),
        ):
            with self.subTest(text), self.assertRaises(Refusal) as caught:
                parse(text, MM, part="X pitch")
            self.assertIn("X pitch", caught.exception.sentence)
            self.assertIn(why, caught.exception.sentence)
            self.assertIn("for example", caught.exception.sentence.lower())

    def test_a_comma_before_three_digits_is_refused_with_both_ways(self) -> None:
        for text, ways in (("4,000", "4.000 or 4000"), ("−1,250 mm", "1.250 or 1250"), ("2,500e1", "2.500 or 2500")):
            with self.subTest(text), self.assertRaises(Refusal) as caught:
                parse(text, MM)
            self.assertIn(f"Write {ways}", caught.exception.sentence)
        for text, value in (("0,125", Fraction(1, 8)), ("4,0", 4), ("4,0000", 4), ("00,125", Fraction(1, 8))):
            self.assertEqual(parse(text, MM), value)

    @given(st.one_of(st.text(max_size=70), st.text("0123456789 .,/eE+-−()*^²°%\"'mµindegprturscNV", max_size=70)))
    def test_any_text_is_a_value_or_a_refusal(self, text: str) -> None:
        for unit in (MM, MM_MIN, ONE):
            try:
                self.assertIsInstance(parse(text, unit), Fraction)
            except Refusal as why:
                self.assertEqual(len(why.sentence.splitlines()), 1)


class Writing(unittest.TestCase):
    @given(st.fractions(min_value=Fraction(1, 10**6), max_value=10**6, max_denominator=10**6))
    def test_exact_text_reads_back_as_the_same_value(self, value: Fraction) -> None:
        text = exact_text(value, MM, inverse=True)
        self.assertEqual(parse(exact_text(value, MM), MM), value)
        if "/in" in text:
            turns = parse(text, Unit("", "1/mm", 3))
            self.assertEqual(1 / turns, value)
        else:
            self.assertEqual(parse(text, MM), value)

    def test_what_has_no_ending_decimal_is_written_as_a_builder_would(self) -> None:
        self.assertEqual(exact_text(Fraction(127, 35), MM, inverse=True), "7 /in")
        self.assertEqual(exact_text(Fraction(127, 40), MM), "3.175 mm")
        self.assertEqual(exact_text(Fraction(1, 7), DEG), "1/7 °")

    def test_figures(self) -> None:
        self.assertEqual(figure(1234567.5, 1), "1\u202f234\u202f567.5")
        self.assertEqual(figure(2.5, 4, trim=True), "2.5")
        self.assertEqual(figure(-0.0001, 2), "0.00")

    def test_an_inch_is_exact(self) -> None:
        self.assertEqual(convert(Fraction(1), INCH, MM), Fraction(127, 5))

    @given(st.integers(-(10**9), 10**9), st.integers(0, 4))
    def test_a_figure_as_it_is_shown_reads_back(self, number: int, places: int) -> None:
        value = Fraction(number, 10**places)
        self.assertEqual(parse(figure(value, places), MM), value)
