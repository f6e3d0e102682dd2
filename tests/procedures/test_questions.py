"""Questions: answers are taken or refused, and every key that is asked stands in the table."""

from __future__ import annotations

import re
import unittest
from pathlib import Path

import idler.procedures
from idler.core.errors import Refusal
from idler.procedures.questions import QUESTIONS, QuestionKind, choice, done, yes


class Answers(unittest.TestCase):
    def test_yes_and_no_in_any_case(self) -> None:
        take = yes("stop.loose", "Is it loose?").take
        self.assertEqual([take(text) for text in ("yes", "Y", " no ", "FALSE")], [True, True, False, False])
        for text in ("", "maybe", "1"):
            with self.assertRaises(Refusal) as why:
                take(text)
            self.assertIn("Yes", why.exception.sentence)

    def test_a_choice_is_one_of_its_keys(self) -> None:
        question = choice("direction.seen", "Which way?", {"plus": "to the left", "minus": "to the right"}, "X")
        self.assertEqual(question.take(" plus "), "plus")
        with self.assertRaises(Refusal) as why:
            question.take("to the left")
        self.assertIn("Plus, minus", why.exception.sentence)
        self.assertEqual([way["key"] for way in question.described()["choices"]], ["plus", "minus"])

    def test_done_takes_anything(self) -> None:
        self.assertIsNone(done("scale.zero", "Set it to zero.").take("whatever"))


class Table(unittest.TestCase):
    def test_the_keys_that_are_asked_are_those_of_the_table(self) -> None:
        folder = Path(idler.procedures.__file__).parent
        core = folder.parent / "core" / "wiring" / "trials.py"
        sources = [path.read_text("utf-8") for path in folder.rglob("*.py") if path.name != "questions.py"]
        found = {key for text in [*sources, core.read_text("utf-8")] for key in re.findall(r'"([a-z]+\.[a-z]+)"', text)}
        self.assertEqual(set(QUESTIONS) - found, set())
        for key, (kind, about) in QUESTIONS.items():
            self.assertIsInstance(kind, QuestionKind)
            self.assertTrue(about, key)
