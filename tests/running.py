"""One share of the tests: a module, class or test, run in the process that is asked for it."""

from __future__ import annotations

import io
import signal
import time
import unittest
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

LONGEST = 420  # s that a class may take: one that waits for what never comes fails, and the others go on
AGAIN = 8  # classes that may run once again in a whole run (docs/decisions/033)


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
    """What came of a class of tests."""

    name: str
    run: int = 0
    skipped: int = 0
    wrong: int = 0
    told: str = ""  # what failed, with its trace
    seconds: dict[str, float] = field(default_factory=dict)

    def tell(self) -> None:
        print(f"\n{self.name}\n{self.told}" if self.told else ".", end="", flush=True)


def once_again(reports: Sequence[Report], alone: Callable[[str], Report]) -> list[Report]:
    """The reports, in their order; where few classes failed, with what each of these came to when it ran again, alone."""
    few = sum(bool(report.wrong) for report in reports) <= AGAIN
    settled = []
    for report in reports:
        if report.wrong and few:
            print(f"\nOnce again, alone: {report.name}", flush=True)
            report = alone(report.name)
            report.tell()
        settled.append(report)
    print()
    return settled


def _takes_too_long(*_: object) -> None:
    raise TimeoutError(f"a class of tests took more than {LONGEST} s")


def work(name: str) -> Report:
    """Runs what the name of a module, class or test stands for, in this process."""
    told = io.StringIO()
    signal.signal(signal.SIGALRM, _takes_too_long)
    signal.alarm(LONGEST)
    suite = unittest.defaultTestLoader.loadTestsFromName(name)
    result = unittest.TextTestRunner(told, verbosity=0, buffer=True, resultclass=Timed).run(suite)
    signal.alarm(0)
    assert isinstance(result, Timed)
    wrong = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    words = told.getvalue() if wrong else ""
    return Report(name, result.testsRun, len(result.skipped), wrong, words, result.seconds)
