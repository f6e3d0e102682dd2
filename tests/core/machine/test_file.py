from __future__ import annotations

import json
import tomllib
import unittest
from fractions import Fraction
from pathlib import Path

import jsonschema
from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.machine import Machine
from idler.core.machine import file as machinefile
from idler.core.machine.file import FileRefusal
from idler.core.table import AXIS
from idler.core.values.parameter import Kind
from idler.core.values.stage import Stage
from tests.support import X, Y, at, verge, verge_text, wired

DOCS = Path(__file__).resolve().parents[3] / "docs"


class RoundTrips(unittest.TestCase):
    def test_a_fresh_file_holds_every_value(self) -> None:
        for machine in (verge(), Machine(("X", "Z"))):
            text = machinefile.write(machine)
            self.assertEqual(machinefile.read(text).machine, machine)

    def test_comments_and_the_way_of_writing_stay(self) -> None:
        text = verge_text()
        self.assertEqual(machinefile.write(verge(), text), text)
        changed = verge().with_values({at(X, "pace.jerk"): Fraction(9000)})
        before, after = text.splitlines(), machinefile.write(changed, text).splitlines()
        differ = [(a, b) for a, b in zip(before, after, strict=True) if a != b]
        self.assertEqual(differ, [('jerk = "5000 mm/s³"', 'jerk = "9000 mm/s³"')])

    def test_a_comment_behind_a_changed_value_stays(self) -> None:
        changed = verge().with_values({at(X, "chain.pitch"): Fraction(4)})
        line = next(line for line in machinefile.write(changed, verge_text()).splitlines() if line.startswith("pitch"))
        self.assertIn("# from the order of 2019", line)
        self.assertIn('"4 mm"', line)

    def test_a_value_that_the_file_left_out_is_added(self) -> None:
        changed = verge().with_values({at(Y, "loop.window"): Fraction(1, 2)})
        self.assertEqual(machinefile.read(machinefile.write(changed, verge_text())).machine, changed)

    @settings(max_examples=40)
    @given(st.data())
    def test_any_values_come_back_exactly(self, data) -> None:
        values = {}
        for row in data.draw(st.lists(st.sampled_from(list(AXIS.values())), max_size=12)):
            if row.kind is Kind.QUANTITY:
                values[at(X, row.key)] = data.draw(
                    st.fractions(min_value=row.low, max_value=row.high, max_denominator=10**6)
                )
            elif row.kind is Kind.CHOICE:
                values[at(X, row.key)] = data.draw(st.sampled_from(row.choices)).key
            elif row.kind is Kind.FLAG:
                values[at(X, row.key)] = data.draw(st.booleans())
        machine = Machine(("X",)).with_values(values)
        self.assertEqual(machinefile.read(machinefile.write(machine)).machine, machine)
        self.assertEqual(
            machinefile.read(machinefile.write(machine, machinefile.write(Machine(("X",))))).machine, machine
        )

    def test_stages_are_a_list(self) -> None:
        machine = verge().with_values({at(Y, "chain.stages"): (Stage.parse("3 : 1"), Stage.parse("20 to 60 teeth"))})
        text = machinefile.write(machine, verge_text())
        self.assertIn('stages = ["3 : 1", "20 to 60 teeth"]', text)
        self.assertEqual(machinefile.read(text).machine, machine)


class Refusals(unittest.TestCase):
    def refuse(self, old: str, new: str) -> FileRefusal:
        text = verge_text().replace(old, new, 1)
        self.assertNotEqual(text, verge_text(), old)
        with self.assertRaises(FileRefusal) as caught:
            machinefile.read(text)
        return caught.exception

    def test_one_sentence_with_key_and_line(self) -> None:
        pitch = next(n for n, line in enumerate(verge_text().splitlines(), 1) if line.startswith("pitch"))
        old = 'pitch = "5 mm" '
        for new, why in (
            ('pitch = "5 s" ', "not in mm"),
            ("pitch = 5 ", "has no unit"),
            ("pitch = nan ", "not a finite number"),
            ("pitch = inf ", "not a finite number"),
            ('pitch = "nan" ', "not a finite number"),
            ('pitch = "-5 mm" ', "too small"),
            ('pitch = "1e300 mm" ', "too large"),
            ('pitch = "1e999 mm" ', "too large"),
            ("pitch = true ", "not a number with a unit"),
            ("pitch = [1, 2] ", "not a number with a unit"),
            ('ptich = "5 mm" ', "Did you mean pitch?"),
        ):
            with self.subTest(new):
                why_not = self.refuse(old, new)
                self.assertEqual(why_not.line, pitch)
                self.assertIn("axis.X.chain.p", why_not.sentence)
                self.assertIn(why, why_not.sentence)
                self.assertNotIn("\n", why_not.sentence)

    def test_structure(self) -> None:
        for old, new, why in (
            ("schema = 3", "schema = 9", "schema version 9"),
            ("schema = 3", "", "no schema version"),
            ("schema = 3", "schema = true", "schema version True"),
            ("[axis.X.chain]", "[axis.X.chian]", "Did you mean chain?"),
            ("[axis.X.chain]", "[axis.Q.chain]", "not the name of an axis"),
            ("[names]", "[nomes]", "Did you mean names?"),
            ("schema = 3", "schema = 1\nnames = 3", "not TOML"),
            ("starts = 1", "starts = 1.5", "not a whole number"),
            ("reversed = false", 'reversed = "no"', "not true or false"),
            ('final = "screw"', 'final = "rope"', "not one of its choices"),
            ('machine = "Plate mill “Verge”"', 'machine = ""', "is empty"),
            ('stages = ["20 to 20 teeth"]', 'stages = ["twenty"]', "is not a stage"),
        ):
            with self.subTest(new):
                self.assertIn(why, self.refuse(old, new).sentence)

    def test_hostile_files(self) -> None:
        for text in (
            "",
            "axis = 3",
            "schema = 2",
            "schema = 2\naxis = 3",
            "[" * 5000,
            "schema = 2\na" + "=[" * 3000,
            "\x00",
        ):
            with self.subTest(text[:20]), self.assertRaises(FileRefusal):
                machinefile.read(text)
        with self.assertRaisesRegex(FileRefusal, "at most"):
            machinefile.read("#" * (machinefile.LONGEST_FILE + 1))


class Terminals(unittest.TestCase):
    def test_they_are_written_and_read_by_their_numbers(self) -> None:
        text = machinefile.write(wired(), verge_text())
        self.assertEqual(machinefile.read(text).machine, wired())
        self.assertIn('[input.2]\nterminal = "2"\nkind = "opto"\nfilter = "0.2 ms"\nrole = "home"\naxis = "X"', text)
        self.assertIn("# The controller says what its terminals are.", text)  # comments stay

    def test_a_machine_without_any_gets_them_in_a_fresh_file(self) -> None:
        machine = Machine(("X",), {}, 2, 1).with_values({at(1, "input.role"): "stop", at(0, "output.load"): "coil"})
        self.assertEqual(machinefile.read(machinefile.write(machine, "schema = 2\n[axis.X.chain]\n")).machine, machine)

    def test_what_cannot_be_taken_names_the_terminal(self) -> None:
        for extra, words in (
            ("[input.1]\nrole = 'stopp'", "input.1.role: input - role: “stopp” is not one of its choices"),
            ("[input.1]\nrolle = 'stop'", "Did you mean role"),
            ("[input.3]\n", "input.3: is not the number of an input"),
            ("[output.01]\n", "is not the number of an output"),
            ("[output.1]\nload_volts = 24", "has no unit"),
            ("[input]\nfirst = 2", "is not the number of an input"),
            ("input = 4", "is not a table"),
        ):
            text = f"schema = 2\n{extra}\n[axis.X.chain]\n"
            with self.subTest(extra), self.assertRaises(FileRefusal) as caught:
                machinefile.read(text)
            self.assertIn(words, str(caught.exception))

    def test_more_than_a_controller_can_have(self) -> None:
        many = "".join(f"[input.{n}]\n" for n in range(1, 34))
        with self.assertRaisesRegex(FileRefusal, "up to 32"):
            machinefile.read(f"schema = 2\n{many}[axis.X.chain]\n")


class Schema(unittest.TestCase):
    def test_the_example_and_a_fresh_file_follow_it(self) -> None:
        schema = machinefile.schema()
        jsonschema.Draft202012Validator.check_schema(schema)
        for text in (verge_text(), machinefile.write(Machine(("X", "Y")))):
            jsonschema.validate(tomllib.loads(text), schema)

    def test_it_refuses_what_the_reader_refuses(self) -> None:
        for old, new in (
            ('pitch = "5 mm" ', "pitch = 5 "),
            ("starts = 1", "starts = 0"),
            ("[axis.X.chain]", "[axis.X.c]"),
        ):
            with self.subTest(new), self.assertRaises(jsonschema.ValidationError):
                jsonschema.validate(tomllib.loads(verge_text().replace(old, new, 1)), machinefile.schema())

    def test_the_files_in_docs_are_fresh(self) -> None:
        from idler.core.profile.document import profile_text

        self.assertEqual(json.loads((DOCS / "machine.schema.json").read_text("utf-8")), machinefile.schema())
        self.assertEqual((DOCS / "controller-profile.md").read_text("utf-8"), profile_text())


class Turned(unittest.TestCase):
    def test_an_axis_that_turns_now_has_its_figures_in_degrees_though_they_are_the_same(self) -> None:
        straight = Machine(("X",), {at(0, "pace.top_speed"): Fraction(900)})
        turned = straight.with_values({at(0, "axis.kind"): "rotary"})
        text = machinefile.write(turned, machinefile.write(straight))
        self.assertIn("900 °/min", text)
        self.assertNotIn("900 mm/min", text)
        self.assertEqual(machinefile.read(text).machine, turned)
