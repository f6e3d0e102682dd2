"""Lengths of tools: a program counts Z from where their tips are, and what was measured with another scale is not known."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from idler.core.errors import Refusal
from idler.core.machine import Address
from idler.core.program.choices import Chosen, chosen
from idler.core.program.tools import ToolSet, measured_rests
from idler.core.program.verdict import Verdict, judge
from idler.shelf import tools as kept

from .machines import mill

TEXT = b"G21 G90 F600 S500 M3\nG0 G43 H7 Z5\nG1 Z-10\nM30\n"
Z = 2


def verdict(choice: Chosen) -> Verdict:
    found = judge(TEXT, mill(), choice)
    assert found is not None
    return found


class Lengths(unittest.TestCase):
    def test_a_longer_tool_goes_higher_by_as_much(self) -> None:
        machine, tools = mill(), ToolSet().put(7, 12.5)
        found = verdict(Chosen(lengths=tools.lengths(machine)))
        self.assertIsNone(found.program.tool_unknown)
        self.assertEqual(found.envelope.extents["Z"], (2.5, 17.5))
        self.assertEqual(verdict(Chosen()).program.tool_unknown, 7)

    def test_no_tool_is_not_asked_for_its_length(self) -> None:
        found = judge(TEXT.replace(b"H7", b"H0"), mill(), Chosen())
        assert found is not None
        self.assertIsNone(found.program.tool_unknown)

    def test_what_was_measured_with_another_scale_is_not_known(self) -> None:
        machine = mill()
        tools = ToolSet().put(7, 12.5, measured_rests(machine)).put(8, 3.0)
        pitch = Address(Z, "chain.pitch")
        other = machine.with_values({pitch: machine.axis(Z).number("chain.pitch") * Fraction(2)})
        self.assertEqual((tools.lengths(machine), tools.lengths(other)), ({7: 12.5, 8: 3.0}, {8: 3.0}))

    def test_what_is_typed_comes_before_what_is_kept(self) -> None:
        machine, tools = mill(), ToolSet().put(7, 12.5).turning(mill(), "A", 25.0)
        got = chosen(machine, {}, lengths=["8=1 in"], known=tools)
        self.assertEqual((got.lengths, got.radii), ({7: 12.5, 8: 25.4}, {"A": 25.0}))
        self.assertEqual(chosen(machine, {}, lengths=["H7=-2"], radii=["A=0"], known=tools).lengths, {7: -2.0})

    def test_out_of_bounds_is_refused_with_part_value_and_bound(self) -> None:
        tools = ToolSet().put(7, 1.0)
        for wrong in (
            lambda: tools.put(0, 1.0), lambda: tools.put(100, 1.0), lambda: tools.put(7, 1000.1),
            lambda: tools.put(7, float("nan")), lambda: tools.named(8, "drill"), lambda: tools.named(7, "d" * 30),
            lambda: tools.turning(mill(), "X", 5.0),
            lambda: tools.turning(mill(), "A", -1.0),
        ):  # fmt: skip
            with self.assertRaises(Refusal):
                wrong()

    def test_the_disk_gives_back_what_it_was_given(self) -> None:
        tools = (
            ToolSet()
            .put(7, -12.5, measured_rests(mill()))
            .named(7, "  drill   6 ")
            .put(12, 40.25)
            .turning(mill(), "A", 9.5)
        )
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "tools.toml"
            self.assertEqual(kept.read(path), ToolSet())
            kept.write(path, tools)
            self.assertEqual(kept.read(path), tools)
        self.assertEqual((tools.tools[7].name, tools.free), ("drill 6", 1))


if __name__ == "__main__":
    unittest.main()
