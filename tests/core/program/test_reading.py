"""Reading and extents: properties over programs made by chance, and texts that nobody meant as programs."""

from __future__ import annotations

import unittest
from fractions import Fraction
from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from idler.core.machine import Address
from idler.core.program import blocks
from idler.core.program.choices import Chosen, chosen
from idler.core.program.drawing import svg_text
from idler.core.program.envelope import envelope_of
from idler.core.program.language import Kind
from idler.core.program.reading import read_program
from idler.core.program.saying import sentences
from idler.core.program.strokes import MANY, strokes_of
from idler.core.program.verdict import judge
from tests.core.program.machines import mill
from tests.core.program.made import polyline

WORDS = st.text("GXYZIJKRFSMNTHPQLA0123456789.-+ \n()/;%", max_size=200)


def extents(text: bytes) -> dict[str, tuple[float, float]]:
    program = read_program(text, mill(), Chosen())
    assert program is not None
    return envelope_of(program).extents


class Extents(unittest.TestCase):
    def test_of_arcs_are_those_of_very_many_places_on_them(self) -> None:
        rng = np.random.default_rng(1)
        for _ in range(60):
            (x, y), radius, begin = rng.uniform(60, 140, 2), rng.uniform(0.5, 50), rng.uniform(0, 2 * np.pi)
            sweep = rng.uniform(0.01, 2 * np.pi - 0.01) * rng.choice([-1, 1])
            at = begin + sweep * np.linspace(0, 1, 100_000)
            first, last = ((x + radius * np.cos(angle), y + radius * np.sin(angle)) for angle in (begin, begin + sweep))
            text = (f"G21 G90 F500\nG0 X{first[0]:.12f} Y{first[1]:.12f}\nG{2 if sweep < 0 else 3} X{last[0]:.12f}"
                    f" Y{last[1]:.12f} I{x - first[0]:.12f} J{y - first[1]:.12f}")  # fmt: skip
            found = extents(text.encode())
            for name, places in (("X", x + radius * np.cos(at)), ("Y", y + radius * np.sin(at))):
                self.assertAlmostEqual(found[name][0], places.min(), delta=1e-6)
                self.assertAlmostEqual(found[name][1], places.max(), delta=1e-6)

    def test_stay_where_a_path_is_gone_backwards_or_in_smaller_parts(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(20):
            lines = polyline(rng, 20, feed=500).decode().splitlines()
            there = extents("\n".join(lines).encode())
            self.assertEqual(there, extents("\n".join((lines[0], *reversed(lines[1:]))).encode()))
            places = [[float(word[1:]) for word in line.split()[1:]] for line in lines[1:]]
            parted = [lines[0], lines[1]]
            for before, after in pairwise(places):
                middle = [(one + other) / 2 for one, other in zip(before, after, strict=True)]
                parted += [
                    f"G1 X{middle[0]!r} Y{middle[1]!r} Z{middle[2]!r}",
                    f"X{after[0]!r} Y{after[1]!r} Z{after[2]!r}",
                ]
            self.assertEqual(there, extents("\n".join(parted).encode()))

    def test_the_shift_that_is_told_makes_it_fit(self) -> None:
        rng = np.random.default_rng(3)
        for _ in range(30):
            zero = {"X": float(rng.uniform(-400, 400)), "Y": float(rng.uniform(-400, 400)), "Z": 0.0}
            text = polyline(rng, 10, feed=500)
            found = judge(text, mill(), Chosen({0: zero}))
            assert found is not None
            if not found.envelope.inside:
                shift = found.envelope.shift
                assert shift is not None  # all of it lies within the travel
                moved = {name: at + shift.get(name, 0.0) for name, at in zero.items()}
                again = judge(text, mill(), Chosen({0: moved}))
                assert again is not None
                self.assertTrue(again.envelope.inside, again.envelope.beyond)


class Ends(unittest.TestCase):
    def test_an_axis_whose_ends_nobody_told_is_held_against_none(self) -> None:
        for stops, fits in (((Fraction(-1), Fraction(1)), True), ((Fraction(-5), Fraction(400)), False)):
            machine = mill(travel_limits_on=False, travel_stop_low=stops[0], travel_stop_high=stops[1])
            found = judge(b"G21 G90\nG0 X-9\nX500 Y3 Z1\n", machine, Chosen())
            assert found is not None
            self.assertEqual(found.fits, fits)
            self.assertTrue(svg_text(found))
            self.assertEqual("its ends are not told" in " ".join(sentences(found)), fits)


class Drawn(unittest.TestCase):
    def test_fewer_strokes_stay_within_what_their_level_errs_by(self) -> None:
        rng = np.random.default_rng(4)
        places = np.clip(np.cumsum(rng.normal(0, 0.05, (MANY + 5000, 2)), axis=0) + 100, 1, 199)
        words = "".join(f"G{int(at % 900 > 20)}X{x:.3f}Y{y:.3f}\n" for at, (x, y) in enumerate(places))
        program = read_program(f"G21G90F500\n{words}".encode(), mill(), Chosen())
        assert program is not None
        strokes = strokes_of(program)
        self.assertGreater(len(strokes.levels), 1)
        for level in strokes.levels:
            self.assertLess(len(level.kept), len(strokes.rows))
            self.assertEqual(level.kept[-1], len(strokes.rows) - 1)
            for begin, end in pairwise((-1, *level.kept.tolist())):
                joined = strokes.points[begin + 1 : end + 1]
                self.assertLessEqual(np.abs(joined - strokes.points[begin + 1]).max(initial=0.0), level.error)
                self.assertEqual(len(set(strokes.rapid[begin + 1 : end + 1].tolist())), 1)
        self.assertIs(strokes.level(1e9), strokes.levels[-1])
        self.assertIsNone(strokes.level(0.0))


class Figures(unittest.TestCase):
    @given(
        st.from_regex(r"[+-]?(\d{1,8}(\.\d{0,5})?|\.\d{1,5})", fullmatch=True, alphabet=st.characters(codec="ascii")),
        st.sampled_from(("", " ", "\n", "Y1.5", "\r\nM30                   ", "(" + 20 * "9" + ")")),
    )
    def test_a_figure_is_the_nearest_number_wherever_it_stands(self, figure: str, behind: str) -> None:
        program = read_program(f"G21G90G0X{figure}{behind}".encode(), mill(), Chosen())
        assert program is not None
        self.assertEqual(program.sheet.ends[0, 0], float(figure))


class Hostile(unittest.TestCase):
    @given(WORDS)
    def test_whatever_is_written_is_judged(self, text: str) -> None:
        found = judge(text.encode("latin-1"), mill(), Chosen())
        assert found is not None
        self.assertTrue(found.as_json())
        if found.fits:  # what is cut has a feed
            self.assertTrue((found.program.rates[np.isin(found.program.kinds, (Kind.LINE, Kind.ARC))] > 0).all())

    @given(st.binary(max_size=200))
    def test_bytes_that_nobody_wrote_are_told_by_sign(self, text: bytes) -> None:
        found = judge(text, mill(), Chosen())
        assert found is not None
        self.assertGreaterEqual(found.timing.total, 0)
        self.assertTrue(np.isfinite(found.timing.total))

    def test_texts_of_a_hostile_shape_are_one_sentence_each(self) -> None:
        for text, code in (
            (b"G21 G90 G0 X1" + b" " * 3_000_000, ""),
            (b"G21 (" * 100_000, "open_comment"),
            (b"(" + b"(" * 1_000_000 + b")", "nested_comment"),
            (b"G21 G0 X" + b"1" * 5000, "long_figure"),
            (b"G21 G0 X1" + b"0" * 400, "long_figure"),
            (b"G21 G0 X." + b"0" * 5000 + b"1", "many_decimals"),
            (b"X1" * 500_000, "word_twice"),
            (b"G1" * 500_000, "two_of_group"),
            (b"\x00" * 1_000_000, "left_out"),
            (b"NaN inf 1e400", "left_out"),
        ):
            with self.subTest(text[:20]):
                found = judge(text, mill(), Chosen())
                assert found is not None
                self.assertLess(len(found.problems), 20)
                if code:
                    self.assertIn(code, {problem.code for problem in found.problems})

    def test_a_text_is_read_by_what_was_compiled_whatever_it_is_held_in(self) -> None:
        for text in (b"G21 G0 X1", bytearray(b"G21 G0 X1")):
            self.assertIsNotNone(judge(text, mill(), Chosen()))
        self.assertEqual(len(blocks.read.signatures), 1)

    def test_a_reading_can_be_ended(self) -> None:
        text = b"G21 G90 F500\nG1" + b"".join(b"X%d\n" % (at % 100) for at in range(450_000))
        shares: list[float] = []

        def once(share: float) -> bool:
            shares.append(share)
            return False

        self.assertIsNone(judge(text, mill(), Chosen(), once))
        self.assertEqual(len(shares), 1)


class Stops(unittest.TestCase):
    def test_the_spindle_stands_at_each_stop_and_is_not_started_by_a_tool_change(self) -> None:
        found = read_program(b"G21 G90 F900 S900 M3\nG1 X1\nM0\nX2\nT1 M6\nX3\nM1\nM30\n", mill(), Chosen())
        assert found is not None
        told = [(Kind(int(kind)).name, int(word)) for kind, word in zip(
            found.kinds, found.sheet.moves["reference"][: found.moves], strict=True) if kind >= Kind.DWELL]  # fmt: skip
        self.assertEqual(told, [("SPINDLE", 900), ("SPINDLE", 0), ("STOP", -1), ("SPINDLE", 900),
                                ("SPINDLE", 0), ("STOP", 1), ("STOP", -1)])  # fmt: skip
        self.assertEqual([met.fault.code for met in found.met], ["spindle_off"])  # X3, which nobody said M3 before

    def test_a_turret_changes_its_tool_while_the_spindle_turns(self) -> None:
        turret = mill().with_values({Address(3, "index.stops"): "0 one; 60 two", Address(3, "index.tools"): True})
        found = read_program(b"G21 G90 F900 S900 M3\nG1 X1\nT2 M6\nX3\nM30\n", turret, Chosen())
        assert found is not None
        self.assertEqual((found.speeds, found.met), ((900,), ()))

    def test_all_of_a_program_goes_higher_and_no_higher_than_z_does(self) -> None:
        text = b"G21 G90 G0\nZ-30\nG53 Z-60\nG53 Z10\nG55 Z-50\nG28 Z-50\n"
        found = read_program(text, mill(), Chosen(raised=20.0))
        assert found is not None
        self.assertEqual(found.sheet.ends[: found.moves, 2].tolist(), [-10, -40, 20, -30, 20])


class Choices(unittest.TestCase):
    def test_what_is_typed_is_taken_or_refused_in_a_sentence(self) -> None:
        from idler.core.errors import Refusal

        machine = mill()
        taken = chosen(machine, {0: {"X": 1.0}}, "X=2 in, A=90", ["3=12.5", "H4=1in"], ["A=25"], "0.1")
        self.assertEqual(dict(taken.shown), {"X": 50.8, "A": 90.0})
        self.assertEqual((taken.lengths, taken.radii, taken.tolerance), ({3: 12.5, 4: 25.4}, {"A": 25.0}, 0.1))
        self.assertEqual(chosen(machine, {0: {"X": 1.0}}, "g56").zero, 2)
        for words in (
            ("B=2",), ("X",), ("X=",), ("X=nan",), ("G60",), ("", ["100=5"]), ("", ["1"]), ("", ["x=5"]), ("", [], ["X=5"]),
            ("", [], ["A=-1"]), ("", [], [], "-1"), ("", [], [], "11"), ("", [], [], "five"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaises(Refusal):
                chosen(machine, {}, *words)


if __name__ == "__main__":
    unittest.main()
