"""What docs/promises.md promises is held by tests that exist."""

from __future__ import annotations

import re
import unittest
from pathlib import Path

PROMISES = Path(__file__).resolve().parent.parent / "docs" / "promises.md"


class Promises(unittest.TestCase):
    def test_each_names_a_test_that_there_is(self) -> None:
        text = PROMISES.read_text("utf-8")
        named = re.findall(r"`(tests\.[\w.]+)`", text)
        self.assertGreater(len(named), 50)
        for name in named:
            if name.count(".") < 3:
                continue  # a module
            suite = unittest.defaultTestLoader.loadTestsFromName(name)
            self.assertEqual(suite.countTestCases(), 1, name)
            self.assertNotIn("_FailedTest", str(suite), name)

    def test_each_promise_names_one(self) -> None:
        text = PROMISES.read_text("utf-8").partition("\n## ")[2]
        for promise in re.findall(r"^\*\*.*?(?=^\*\*|^## |\Z)", text, re.M | re.S):
            self.assertIn("`tests.", promise, promise[:80])
