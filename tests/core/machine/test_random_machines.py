"""Whatever values a machine has within the bounds of the table, nothing of the core fails on it."""

from __future__ import annotations

import json
import unittest
from fractions import Fraction

from hypothesis import assume, given
from hypothesis import strategies as st

from idler.core.controller.standing import ControllerImage, Standing, consequences, standing
from idler.core.machine import Machine
from idler.core.machine import file as machinefile
from idler.core.machine.changes import differences
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.pace import Pace
from idler.core.profile.codec import counts_on_wire, derived, image, machine_from
from idler.core.report.manual import page_of
from idler.core.report.progress import train
from idler.core.rules.findings import Severity, check_json, findings
from idler.core.values.parameter import Kind, Parameter, Value, WireType
from idler.core.values.stage import Stage
from idler.procedures.registry import help_pages
from tests.support import X, at

stages = st.builds(
    Stage, st.booleans(), st.integers(1, 300).map(Fraction), st.integers(1, 300).map(Fraction), st.booleans()
)  # fmt: skip


_LISTS = {
    "motor": ("0 1.9, 300 1.7, 900 0.95", "none"), "jog": ("5 0.5", "10 1 0.1 0.01"),
    "range": ("4 63.3, 50 3010, 97 5948", "none", "1 0.5, 2 1"),
    "index": ("none", "0 a; 360/7 b; 90", "0; 0.01"),
    "actions": ("none", 'action "up" on homed { move by Z 5 mm; }', 'action "a" { say "grüß dich"; } action "b" { call "a"; }'),
}  # fmt: skip


def values_of(row: Parameter) -> st.SearchStrategy[Value]:
    """Any value that the table allows, on the steps of the wire."""
    match row.kind:
        case Kind.QUANTITY:
            step = row.wire.resolution
            return st.integers(int(row.low / step), int(row.high / step)).map(
                lambda raw: min(max(raw * step, row.low), row.high)
            )
        case Kind.WHOLE:
            return st.integers(int(row.low), int(row.high))
        case Kind.CHOICE:
            return st.sampled_from([choice.key for choice in row.choices])
        case Kind.FLAG:
            return st.booleans()
        case Kind.STAGES:
            return st.lists(stages, max_size=4).map(tuple)
    if row.problem is not None:
        return st.sampled_from(_LISTS[row.group])
    codec = "ascii" if row.wire.type is WireType.STRING else "utf-8"
    return st.text(st.characters(codec=codec, categories=("L", "N")), min_size=1, max_size=8)


@st.composite
def machines(draw: st.DrawFn) -> Machine:
    """A machine of two axes and four terminals with a dozen values of any kind changed."""
    machine = Machine(("X", "A"), {}, 2, 2)
    chosen = draw(st.lists(st.sampled_from(list(machine.addresses())), max_size=12, unique=True))
    return machine.with_values({address: draw(values_of(address.row)) for address in chosen})


class AnyMachine(unittest.TestCase):
    @given(machines())
    def test_it_goes_through_file_and_wire_unchanged(self, machine: Machine) -> None:
        self.assertEqual(machinefile.read(machinefile.write(machine)).machine, machine)
        back = machine_from(image(machine), machine.shape)
        holding = ControllerImage(machine.shape, image(machine))
        self.assertEqual([a for a in back.addresses() if standing(back, holding, a) is not Standing.SAME], [])

    @given(machines())
    def test_its_findings_are_sentences_and_their_edits_settle_them(self, machine: Machine) -> None:
        for item in findings(machine):
            self.assertRegex(item.text, r"^[A-Z“].*[.]$")
            self.assertIn(item.code, page_of(help_pages(), item.code).codes)
            if item.edit:
                after = machine.with_values(dict(item.edit))
                again = [other for other in findings(after) if (other.code, other.where) == (item.code, item.where)]
                self.assertEqual(again, [], item)
        json.loads(check_json(machine))

    @given(machines())
    def test_its_counts_reach_the_wire_or_a_finding_says_no(self, machine: Machine) -> None:
        refused = {item.where.axis for item in findings(machine) if item.code == "rounding_on_wire"}
        for axis in machine.axes:
            error = abs(counts_on_wire(dict(derived(axis)), axis.slot) / Chain.of(axis).counts_per_unit - 1)
            self.assertEqual(error > Fraction(1, 10_000), axis.slot in refused)

    @given(machines(), machines())
    def test_any_two_can_be_compared(self, before: Machine, after: Machine) -> None:
        listed = differences(before, after)
        self.assertEqual({line.address for line in listed}, set(after.differences(before)))
        taken = before.with_values({line.address: after[line.address] for line in listed})
        self.assertEqual(taken, after)
        for line in consequences(before, after, 0):
            self.assertNotEqual(line.before, line.after)

    @given(machines(), st.floats(0.01, 500))
    def test_a_move_of_it_can_be_told_where_no_error_forbids_it(self, machine: Machine, distance: float) -> None:
        bad = {item.where.axis for item in findings(machine) if item.severity is Severity.ERROR}
        assume(0 not in bad)
        pace = Pace.of(machine.axis(0))
        self.assertIsNotNone(pace)
        move = pace.move(distance)
        self.assertGreater(move.duration, 0)
        self.assertTrue(0 < move.velocity(move.duration / 2) <= move.peak * (1 + 1e-9))
        self.assertEqual((move.velocity(0), move.velocity(move.duration)), (0, 0))

    @given(machines())
    def test_the_train_has_a_state_for_every_station(self, machine: Machine) -> None:
        states = train(machine, connected=False, found_kept=False)
        self.assertEqual(len(states), 10)


class Titles(unittest.TestCase):
    def test_a_name_of_any_letters_fits_where_the_table_says(self) -> None:
        row = at(None, "names.machine").row
        for name in ("Ж" * 24, "a" * 48):
            self.assertEqual(Machine(("X",)).with_values({at(None, "names.machine"): name}).title, name)
        for name in ("Ж" * 25, "a" * 49, "", "two\nlines"):
            with self.subTest(name), self.assertRaises(Exception) as caught:
                row.check(name)
            self.assertIn("name of the machine", str(caught.exception))
        self.assertEqual(Machine(("X",)).part(at(X, "chain.pitch")), "X pitch of the screw")
