from __future__ import annotations

import dataclasses
import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.errors import Refusal
from idler.core.machine import Address, Machine
from idler.core.mechanics.entry import became, read_field
from idler.core.table import (
    AXIS,
    MOST_AXES,
    MOST_INPUTS,
    MOST_OUTPUTS,
    MOST_RANGES,
    TABLE,
    all_rows,
    part_index,
    used_with,
)
from idler.core.values.parameter import Kind, Scope, Wire, WireType
from idler.core.values.stage import MOST_STAGES, Stage, parse_stages, stages_text
from tests.support import A, X, at, verge


class Rows(unittest.TestCase):
    def test_every_row_reads_its_own_default_back(self) -> None:
        for row in all_rows():
            with self.subTest(row.key):
                self.assertEqual(row.read(row.write(row.default)), row.default)
                self.assertTrue(row.show(row.default))

    def test_no_two_rows_of_different_parts_meet_on_the_wire(self) -> None:
        most = {
            Scope.MACHINE: 1,
            Scope.AXIS: MOST_AXES,
            Scope.INPUT: MOST_INPUTS,
            Scope.OUTPUT: MOST_OUTPUTS,
            Scope.RANGE: MOST_RANGES,
        }
        places = [
            (part_index(row, None if scope is Scope.MACHINE else slot), row.wire.sub)
            for scope, rows in TABLE.items() for slot in range(most[scope]) for row in rows.values()
        ]  # fmt: skip
        self.assertEqual(len(places), len(set(places)))

    def test_a_row_that_contradicts_itself_fails_when_it_is_made(self) -> None:
        row = AXIS["chain.pitch"]
        for change in (
            {"default": Fraction(0)},
            {"key": "pitch"},
            {"what": ""},
            {"high": Fraction(10**9)},
            {"wire": Wire(0x4001, 7, WireType.STRING)},
            {"kind": Kind.CHOICE},
        ):
            with self.subTest(change), self.assertRaises(ValueError):
                dataclasses.replace(row, **change)

    @given(
        st.sampled_from([row for row in AXIS.values() if row.kind is Kind.QUANTITY]), st.fractions(max_denominator=1000)
    )
    def test_what_is_out_of_bounds_is_refused_with_its_bounds(self, row, value: Fraction) -> None:
        try:
            row.check(value)
        except Refusal as why:
            self.assertFalse(row.low <= value <= row.high)
            self.assertIn("can be stored", why.sentence)
        else:
            self.assertTrue(row.low <= value <= row.high)


class Use(unittest.TestCase):
    def test_what_comes_into_use_with_a_choice(self) -> None:
        self.assertEqual([row.name for row in used_with("chain.final", "screw")], ["pitch", "starts"])
        self.assertEqual([row.name for row in used_with("chain.motor", "counts")], ["motor_counts"])
        for row in AXIS.values():
            if row.used_when is not None:
                owner, *choices = row.used_when
                self.assertLessEqual(set(choices), {c.key for c in AXIS[owner].choices}, row.key)
                self.assertTrue(choices, row.key)


class Fields(unittest.TestCase):
    def test_a_lead_takes_turns_per_inch(self) -> None:
        for text in ("8 /in", "8/in", "8 turns per inch", "8 turns/in", "8 tpi", "8 TPI", "8 threads per inch"):
            self.assertEqual(read_field(verge(), at(X, "chain.pitch"), text), Fraction(127, 40), text)

    def test_no_turns_per_inch_is_refused(self) -> None:
        with self.assertRaisesRegex(Refusal, "endless lead"):
            read_field(verge(), at(X, "chain.pitch"), "0 /in")

    def test_an_acceleration_takes_the_time_to_top_speed(self) -> None:
        self.assertEqual(read_field(verge(), at(X, "pace.acceleration"), "0.1 s"), 500)
        with self.assertRaisesRegex(Refusal, "no time to speed"):
            read_field(verge(), at(X, "pace.acceleration"), "0 s")

    def test_a_speed_takes_motor_speed_through_the_train(self) -> None:
        self.assertEqual(read_field(verge(), at(X, "pace.top_speed"), "1000 rpm"), 5000)
        self.assertEqual(read_field(verge(), at(A, "pace.top_speed"), "900 rpm motor"), 3600)
        self.assertEqual(read_field(verge(), at(A, "pace.top_speed"), "10 rev/min table"), 3600)
        self.assertEqual(read_field(verge(), at(A, "pace.top_speed"), "2 °/s"), 120)

    def test_turns_that_may_be_those_of_motor_or_table_are_refused_with_both_ways(self) -> None:
        for text in ("900 rpm", "900 turns/min", "900 rev per min"):
            with self.assertRaises(Refusal) as caught:
                read_field(verge(), at(A, "pace.top_speed"), text)
            self.assertIn(f"“{text} motor” (3600 °/min)", caught.exception.sentence)
            self.assertIn(f"“{text} table” (324000 °/min)", caught.exception.sentence)
        with self.assertRaisesRegex(Refusal, "does not turn"):
            read_field(verge(), at(X, "pace.top_speed"), "900 rpm table")

    def test_a_text_that_became_another_figure_is_told(self) -> None:
        for text, told in (
            ("0.25 in", "became 6.35 mm"), ("1/4", ""), ("2.00006", "became 2.0001 mm"), ("5,5", ""),
            ("5.50", ""), ("5.5 mm", ""), ("5.5mm", ""), ("8 tpi", "became 3.175 mm"), ("1e1", ""),
        ):  # fmt: skip
            with self.subTest(text):
                where = at(X, "chain.pitch")
                now = verge().with_values({where: read_field(verge(), where, text)})
                (self.assertIn if told else self.assertEqual)(told, became(now, where, text))

    def test_a_whole_number_takes_no_share_and_its_advice_is_whole(self) -> None:
        for text in ("200 %", "12.5", "two"):
            with self.assertRaises(Refusal) as caught:
                read_field(verge(), at(X, "chain.full_steps"), text)
            self.assertTrue(caught.exception.sentence.endswith("For example 200."), caught.exception.sentence)

    def test_a_bare_number_follows_the_screen(self) -> None:
        inch = verge().with_values({at(None, "names.screen_unit"): "in"})
        self.assertEqual(read_field(inch, at(X, "travel.low"), "-1"), Fraction(-127, 5))
        self.assertEqual(read_field(inch, at(A, "travel.low"), "-1"), -1)
        self.assertEqual(inch.show(at(X, "travel.cushion")), "0.23622 in")

    def test_bad_input_names_part_value_unit_and_bound(self) -> None:
        with self.assertRaises(Refusal) as caught:
            read_field(verge(), at(X, "chain.pitch"), "5 m")
        for word in ("X pitch of the screw", "5\u202f000 mm", "too large", "1\u202f000 mm"):
            self.assertIn(word, caught.exception.sentence)

    def test_choices_and_flags_by_word(self) -> None:
        self.assertEqual(read_field(verge(), at(X, "pace.shape"), "limited jerk"), "limited")
        self.assertIs(read_field(verge(), at(X, "axis.reversed"), "on"), True)
        with self.assertRaisesRegex(Refusal, "take one of|Take one of"):
            read_field(verge(), at(X, "pace.shape"), "wobbly")


class Stages(unittest.TestCase):
    def test_teeth_and_ratio(self) -> None:
        self.assertEqual(Stage.parse("20 to 40 teeth").reduction, 2)
        self.assertEqual(Stage.parse("3 : 1").reduction, 3)
        self.assertEqual(Stage.parse("12.5:1").reduction, Fraction(25, 2))

    def test_two_bare_numbers_of_teeth_mean_what_they_mean_with_the_word(self) -> None:
        for text in ("20 to 40 teeth", "20 to 40", "20:40", "20 : 40", "20/40", "20 → 40 t", "20:40, belt"):
            self.assertEqual(Stage.parse(text).reduction, 2, text)
            self.assertEqual(Stage.parse(text).words, "20 teeth drive 40: halves the speed")
        for text in ("20:40 turns", "20 to 40, reversing"):
            self.assertEqual(Stage.parse(text).words, "20 turns in make 40 out: doubles the speed")
        self.assertEqual(Stage.parse("5:2").words, "5 turns in make 2 out: 2.5 times slower")
        self.assertEqual(Stage.parse("20:40", turns=True).reduction, Fraction(1, 2))

    @given(st.booleans(), st.integers(1, 10**6), st.integers(1, 10**6), st.booleans(), st.sampled_from((1, 8, 1000)))
    def test_a_stage_as_it_is_written_reads_back(self, teeth: bool, a: int, b: int, turned: bool, part: int) -> None:
        stage = Stage(teeth, Fraction(a, 1 if teeth else part), Fraction(b), turned)
        if not teeth or max(a, b) < 10**6:
            self.assertEqual(Stage.parse(str(stage)), stage)
            self.assertEqual(Stage.parse(str(stage), turns=True), stage)

    def test_a_train_that_the_controller_cannot_hold_is_refused_when_it_is_typed(self) -> None:
        with self.assertRaisesRegex(Refusal, "too long to be stored. At most 200 characters"):
            read_field(verge(), at(X, "chain.stages"), " and ".join(["123456 to 654321 teeth, belt"] * 7))

    @given(st.lists(st.tuples(st.booleans(), st.integers(1, 500), st.integers(1, 500)), max_size=MOST_STAGES))
    def test_text_reads_back(self, parts) -> None:
        stages = tuple(Stage(teeth, Fraction(first), Fraction(second)) for teeth, first, second in parts)
        self.assertEqual(parse_stages(stages_text(stages)), stages)

    def test_what_is_no_stage(self) -> None:
        for text in ("20", "a to b teeth", "0 to 4 teeth", "3 : 0"):
            with self.subTest(text), self.assertRaises(Refusal):
                Stage.parse(text)
        self.assertEqual(len(parse_stages("20 to 40 teeth; ")), 1)
        with self.assertRaisesRegex(Refusal, "more than can be stored"):
            parse_stages("; ".join(["2 : 1"] * (MOST_STAGES + 1)))


class Machines(unittest.TestCase):
    def test_values_are_checked_and_the_old_machine_stays(self) -> None:
        machine = verge()
        with self.assertRaises(Refusal):
            machine.with_values({at(X, "chain.starts"): 0})
        self.assertEqual(machine, verge())

    def test_axis_letters(self) -> None:
        for names in (("X", "X"), ("Q",), (), tuple("XYZABCUVW")):
            with self.subTest(names), self.assertRaises(Refusal):
                Machine(names)

    def test_differences_are_by_value(self) -> None:
        machine = verge()
        same = machine.with_values({at(X, "chain.pitch"): Fraction(5)})
        self.assertEqual(machine.differences(same), [])
        other = machine.with_values({at(X, "chain.pitch"): Fraction(4)})
        self.assertEqual(other.differences(machine), [Address(X, "chain.pitch")])
