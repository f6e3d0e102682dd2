"""The runner's own rule: a few classes that failed run once again, alone, and no more than a few."""

from __future__ import annotations

import contextlib
import io
import unittest

from tests.running import AGAIN, Report, once_again


class OnceAgain(unittest.TestCase):
    def settled(self, failing: int, then: int) -> tuple[list[str], list[int], str]:
        """Names that ran again, what is wrong in the end, and what was printed; the first ones fail."""
        asked: list[str] = []
        first = [Report(f"t{n}", run=2, wrong=int(n < failing), told="trace" * (n < failing)) for n in range(9)]

        def alone(name: str) -> Report:
            asked.append(name)
            return Report(name, run=2, wrong=then, told="trace" * then)

        with contextlib.redirect_stdout(io.StringIO()) as said:
            reports = once_again(first, alone)
        self.assertEqual([each.name for each in reports], [each.name for each in first])
        return asked, [each.wrong for each in reports], said.getvalue()

    def test_what_passes_alone_is_named_and_what_fails_again_has_failed(self) -> None:
        asked, wrong, said = self.settled(2, 0)
        self.assertEqual((asked, sum(wrong)), (["t0", "t1"], 0))
        self.assertIn("Once again, alone: t1", said)
        self.assertEqual(self.settled(2, 1)[1], [1, 1, 0, 0, 0, 0, 0, 0, 0])

    def test_where_many_failed_nothing_runs_again(self) -> None:
        self.assertEqual(self.settled(AGAIN, 0)[1].count(1), 0)
        asked, wrong, _ = self.settled(AGAIN + 1, 0)
        self.assertEqual((asked, sum(wrong)), ([], AGAIN + 1))
