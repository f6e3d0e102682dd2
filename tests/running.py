"""One share of the tests: a module, class or test, run in the process that is asked for it."""

from __future__ import annotations

import io
import time
import unittest
from dataclasses import dataclass, field
from typing import Any


class Timed(unittest.TextTestResult):
    """Remembers how long each test took, so that the slowest can be named."""

    def __init__(self, *arguments: Any, **named: Any) -> None:
        super().__init__(*arguments, **named)
        self.seconds: dict[str, float] = {}

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        super().startTest(test)
        self._begun = time.monotonic()

    def stopTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        super().stopTest(test)
        self.seconds[test.id()] = time.monotonic() - self._begun


@dataclass
class Report:
    """What came of some classes of tests."""

    run: int = 0
    skipped: int = 0
    wrong: int = 0
    told: str = ""  # what failed, with its trace
    seconds: dict[str, float] = field(default_factory=dict)
    span: tuple[float, float] = (0.0, 0.0)  # when they began and ended, time.monotonic

    def __iadd__(self, other: Report) -> Report:
        self.run, self.skipped, self.wrong = (
            self.run + other.run,
            self.skipped + other.skipped,
            self.wrong + other.wrong,
        )
        self.told += other.told
        self.seconds |= other.seconds
        return self


def work(name: str) -> Report:
    """Runs what the name of a module, class or test stands for, in this process."""
    told, begun = io.StringIO(), time.monotonic()
    suite = unittest.defaultTestLoader.loadTestsFromName(name)
    result = unittest.TextTestRunner(told, verbosity=0, buffer=True, resultclass=Timed).run(suite)
    assert isinstance(result, Timed)
    wrong = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    words = told.getvalue() if wrong else ""
    return Report(result.testsRun, len(result.skipped), wrong, words, result.seconds, (begun, time.monotonic()))
