"""A machine that nobody has described yet, by a handful of answers."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.errors import Refusal
from idler.core.machine import Address
from idler.core.machine import file as machinefile
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.describing import Asked, described, doubts, questions
from idler.core.rules.findings import findings
from tests.support import run_idler

MILL = {"kind": "mill", "axes": "XYZ", "X.pitch": "4 mm", "X.travel": "318 mm", "Y.motor": "counts", "Y.counts": "10000",
        "Z.home": "low", "Z.by": "stop", "spindle": "relay", "oil": "yes"}  # fmt: skip


class Answers(unittest.TestCase):
    def test_what_they_mean(self) -> None:
        machine = described(MILL, "Plate mill")
        x, y, z = machine.axes
        self.assertEqual(machine.title, "Plate mill")
        self.assertEqual((Chain.of(x).counts_per_unit, Chain.of(y).counts_per_unit), (400, 2000))
        self.assertEqual((x.number("travel.low"), x.number("travel.high"), z.number("travel.low"), z.number("travel.high")),
                         (-318, 0, 0, 300))  # fmt: skip
        self.assertEqual((x.number("homing.coordinate"), z.number("homing.coordinate")), (2, -2))
        self.assertEqual((z.choice("homing.method"), z.choice("homing.towards")), ("stop", "low"))
        self.assertTrue(all(axis.flag("travel.limits_on") for axis in machine.axes))
        self.assertEqual(machine[Address(None, "oil.seconds")], 6)

    def test_nothing_answered_is_a_machine_too(self) -> None:
        machine = described({})
        self.assertEqual(machine.names, ("X", "Y", "Z"))
        self.assertEqual(doubts(machine, {}), [])
        self.assertLess(len(questions({})), 60)

    def test_what_is_asked_follows_from_what_was_answered(self) -> None:
        def keys(**answers: str) -> list[str]:
            return [each.key for each in questions({key.replace("_", "."): text for key, text in answers.items()})]

        self.assertIn("X.pitch", keys())
        self.assertNotIn("X.pitch", keys(X_driven="belt"))
        self.assertIn("X.pulley_teeth", keys(X_driven="belt"))
        self.assertNotIn("X.home", keys(X_by="here"))
        self.assertIn("A.wheel_teeth", keys(axes="XA"))
        self.assertNotIn("A.travel", keys(axes="XA"))
        self.assertNotIn("top", keys())
        self.assertIn("top", keys(spindle="voltage"))

    def test_what_is_none_is_named_with_the_way_out(self) -> None:
        for answers, words in (
            ({"X.pich": "5 mm"}, "Write X.pitch"), ({"kind": "boat"}, "mill, router, lathe"), ({"axes": "XX"}, "letters"),
            ({"X.pitch": "wide"}, "pitch of the screw"), ({"X.travel": "-3 mm"}, "no way to go"),
            ({"Q.pitch": "5 mm"}, "no question"),
        ):  # fmt: skip
            with self.subTest(answers=answers), self.assertRaises(Refusal) as why:
                described(answers)
            self.assertIn(words, why.exception.sentence)

    def test_what_is_seldom_meant_is_asked_about(self) -> None:
        for answers, key in (
            ({"X.pitch": "25 mm"}, "X.microsteps"), ({"X.microsteps": "7"}, "X.microsteps"), ({"Y.travel": "3 mm"}, "Y.travel"),
            ({"X.pitch": "0.2 mm"}, "X.pitch"), ({"Z.motor": "counts", "Z.counts": "50000000"}, "Z.counts"),
        ):  # fmt: skip
            with self.subTest(answers=answers):
                self.assertIn(key, [doubt.key for doubt in doubts(described(answers), answers)])

    def test_inches(self) -> None:
        machine = described({"unit": "in", "X.pitch": "0.2 in", "X.travel": "12 in"})
        self.assertEqual(machine.axis(0).number("chain.pitch"), Fraction("5.08"))
        self.assertEqual(machine.axis(0).number("travel.low"), -Fraction("304.8"))

    @settings(max_examples=60, deadline=None)
    @given(st.data())
    def test_whatever_is_chosen_makes_a_machine_that_can_be_kept(self, data: st.DataObject) -> None:
        """Every way through the questions: each has its answer, none asks twice, and the file says the same again."""
        answers: dict[str, str] = {}
        while (asked := next((each for each in questions(answers) if each.key not in answers), None)) is not None:
            answers[asked.key] = data.draw(_answer(asked), asked.key)
            self.assertLess(len(answers), 200)
        machine = described(answers)
        self.assertEqual(machinefile.read(machinefile.write(machine)).machine, machine)
        self.assertEqual(
            [
                item.code
                for item in findings(machine)
                if item.holds_back and not item.missing and item.where.key.startswith("travel")
            ],
            [],
        )


def _answer(asked: Asked) -> st.SearchStrategy[str]:
    if asked.key == "axes":
        return st.sampled_from(("X", "XZ", "XYZA", "ZYXABC"))
    if asked.choices:
        return st.sampled_from([key for key, _ in asked.choices])
    return st.just(asked.usual)


class Terminal(unittest.TestCase):
    def test_from_a_file_to_what_is_next(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path, shelf = Path(folder, "answers.toml"), ("--shelf", folder)
            path.write_text('kind = "router"\n[X]\ndriven = "belt"\npulley_teeth = 20\n', "utf-8")
            doubted = run_idler("new", "mine", "--answers", str(path), *shelf)
            self.assertEqual((doubted.returncode, doubted.stdout), (1, ""))
            self.assertIn("X.microsteps: X: one count would move it 0.0625 mm", doubted.stderr)
            made = run_idler("new", "mine", "--answers", str(path), "--sure", *shelf)
            self.assertEqual(made.returncode, 0, made.stderr)
            self.assertIn("answers are what is usual", made.stdout)
            self.assertIn("Connect the controller", run_idler("next", "mine", *shelf).stdout)
            again = run_idler("new", "mine", "--answers", str(path), "--sure", *shelf)
            self.assertEqual(again.returncode, 2)
            path.write_text("kind = ", "utf-8")
            self.assertEqual(run_idler("new", "other", "--answers", str(path), *shelf).returncode, 2)
            self.assertIn("--answers FILE", run_idler("new", "other", *shelf).stderr)
