"""Sides of a comparison, and the words of the command line that need no window."""

from __future__ import annotations

import json
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from idler.core.errors import IdlerError
from idler.shelf.shelf import Shelf
from idler.shelf.sides import machine_of
from tests.support import X, at, run_idler, verge_text


class Sides(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)
        self.shelf = Shelf(self.root)
        self.shelf.add("verge", verge_text(), "As its last owner left it", 1_700_000_000.0)
        self.first = self.shelf.load("verge").machine
        self.second = self.first.with_values({at(X, "chain.pitch"): Fraction(4)})
        self.shelf.keep("verge", self.second, "Measured the screw of X", 1_700_000_100.0)
        self.third = self.second.with_values({at(X, "pace.top_speed"): Fraction(1234)})
        self.shelf.save_draft("verge", self.third, self.second)

    def test_a_name_a_revision_a_draft_and_a_file(self) -> None:
        path = self.root / "other.toml"
        path.write_text(verge_text(), "utf-8")
        for text, machine in (
            ("verge", self.second), ("verge@1", self.first), ("verge@2", self.second), ("verge@draft", self.third),
            (str(path), self.first),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(machine_of(self.shelf, text), machine)

    def test_what_is_not_there_is_said(self) -> None:
        for text, words in (
            ("fusee", "There: verge"), ("verge@9", "It has 2"), ("verge@nine", "is no revision"),
            ("none.toml", "cannot be read"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(IdlerError, words):
                machine_of(self.shelf, text)

    def run_compare(self, *words: str):
        return run_idler("compare", *words, "--shelf", str(self.root))

    def test_compare_on_the_command_line(self) -> None:
        done = self.run_compare("verge@1", "verge@2")
        first, second, proofs = done.stdout.splitlines()
        self.assertEqual((done.returncode, first, second), (1, "X", "  pitch of the screw: 5 mm → 4 mm"))
        self.assertIn("What is proven for one is not for the other: pace of X", proofs)
        same = self.run_compare("verge", "verge@2")
        self.assertEqual((same.returncode, same.stdout), (0, "They are the same.\n"))
        machines = json.loads(self.run_compare("verge@1", "verge@draft", "--json").stdout)
        self.assertEqual([value["second"] for value in machines[0]["values"]], ["4 mm", "1\u202f234 mm/min"])
        wrong = self.run_compare("verge", "longcase")
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("is not on the shelf", wrong.stderr)

    def test_the_report_of_a_machine(self) -> None:
        path = self.root / "report.html"
        done = run_idler("report", "verge@1", "--shelf", str(self.root), "--output", str(path))
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertIn("<h2>Every value</h2>", path.read_text("utf-8"))
        self.assertEqual(run_idler("report", "nobody", "--shelf", str(self.root)).returncode, 2)

    def test_the_shelf_is_listed(self) -> None:
        done = run_idler("shelf", "list", "--shelf", str(self.root))
        self.assertEqual(done.returncode, 0)
        self.assertIn("axes XYZA, 2 revisions, 1 edit in no revision", done.stdout)
        self.assertIn("Measured the screw of X", done.stdout)
        (row,) = json.loads(run_idler("shelf", "list", "--json", "--shelf", str(self.root)).stdout)
        self.assertEqual((row["name"], row["revisions"], row["edits"]), ("verge", 2, 1))
