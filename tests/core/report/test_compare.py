"""Two machines side by side."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.machine import Address, Machine
from idler.core.report.compare import NOT_THERE, as_json, compared, part_name, taken_over
from tests.support import A, X, Y, at, verge, wired

CHANGES = {
    at(X, "chain.pitch"): Fraction(4), at(Y, "axis.reversed"): True, at(1, "input.filter"): Fraction(3),
    at(2, "range.high"): Fraction(5900), Address(None, "oil.every"): Fraction(20), at(4, "output.role"): "mist",
}  # fmt: skip


class Compared(unittest.TestCase):
    def test_only_differences_by_part_in_the_order_of_the_machine(self) -> None:
        parts = compared(wired(), wired().with_values(CHANGES))
        self.assertEqual([part.name for part in parts], ["machine", "X", "Y", "input 2", "output E", "range 3"])
        (line,) = parts[1].lines
        self.assertEqual((line.label, line.first_text, line.second_text), ("pitch of the screw", "5 mm", "4 mm"))
        self.assertEqual(compared(wired(), wired()), [])

    def test_everything_where_it_is_wanted(self) -> None:
        parts = compared(verge(), verge(), everything=True)
        self.assertEqual(sum(len(part.lines) for part in parts), len(list(verge().addresses())))
        self.assertEqual([part.differing for part in parts], [0] * len(parts))

    def test_axes_go_by_their_letters_and_what_only_one_has_is_told(self) -> None:
        first = Machine(("X", "Z"), {at(1, "pace.top_speed"): Fraction(1000)})
        second = Machine(("Z", "C"), {at(0, "pace.top_speed"): Fraction(1000)})
        parts = {part.name: part for part in compared(first, second)}
        self.assertEqual(set(parts), {"X", "C"})
        self.assertTrue(all(line.second_text == NOT_THERE for line in parts["X"].lines))
        self.assertTrue(all(line.first is None for line in parts["C"].lines))

    def test_both_columns_are_in_the_unit_of_the_first(self) -> None:
        inch = wired().with_values({Address(None, "names.screen_unit"): "in", at(X, "chain.pitch"): Fraction(127, 25)})
        parts = {part.name: part for part in compared(inch, wired())}
        self.assertEqual((parts["X"].lines[0].first_text, parts["X"].lines[0].second_text), ("0.2 in", "0.19685 in"))

    @given(st.sets(st.sampled_from(sorted(CHANGES, key=str)), min_size=1))
    def test_taking_all_lines_over_leaves_no_difference(self, keys) -> None:
        other = wired().with_values({key: CHANGES[key] for key in keys})
        lines = tuple(line for part in compared(wired(), other) for line in part.lines)
        self.assertEqual(len(lines), len(keys))
        self.assertEqual(wired().with_values(taken_over(wired(), other, lines)), other)
        back = tuple(line for part in compared(wired(), other) for line in part.lines)
        self.assertEqual(other.with_values(taken_over(other, wired(), back, from_first=True)), wired())

    def test_what_a_controller_says_of_itself_is_not_taken(self) -> None:
        other = verge().with_values({at(0, "input.terminal"): "other"})
        lines = tuple(line for part in compared(verge(), other) for line in part.lines)
        self.assertEqual(taken_over(verge(), other, lines), {})

    def test_for_programs(self) -> None:
        (part,) = as_json(compared(wired(), wired().with_values({at(A, "pace.top_speed"): Fraction(100)})))
        self.assertEqual(part["part"], "A")
        self.assertEqual(part_name(wired(), at(8, "output.role")), "output V")
