"""./idler test: static checks, then all tests. `./idler test tests.core` runs a part without the static checks."""

from __future__ import annotations

import os
import subprocess
import sys
import time
import unittest
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
SLOWEST = 30  # tests that are named with their time
STATIC = (
    ("ruff check", ["-m", "ruff", "check", "-q", "src", "tests", "benchmarks"]),
    ("ruff format", ["-m", "ruff", "format", "-q", "--check", "src", "tests", "benchmarks"]),
    ("mypy", ["-m", "mypy"]),
    ("import-linter", ["-c", "from importlinter.cli import lint_imports_command as main; main()"]),
)


def static_checks() -> list[str]:
    """Names of the checks that failed; each prints what it found."""
    failed = []
    for name, arguments in STATIC:
        start = time.monotonic()
        done = subprocess.run([sys.executable, *arguments], cwd=ROOT, capture_output=True, text=True)
        print(f"{name}: {'ok' if done.returncode == 0 else 'FAILED'} ({time.monotonic() - start:.1f} s)", flush=True)
        if done.returncode:
            failed.append(name)
            print(done.stdout[-8000:], done.stderr[-4000:], flush=True)
    return failed


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


def main() -> int:
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    loader = unittest.TestLoader()
    names = sys.argv[1:]
    failed = [] if names else static_checks()
    suite = loader.loadTestsFromNames(names) if names else loader.discover(str(ROOT / "tests"), top_level_dir=str(ROOT))
    result = unittest.TextTestRunner(verbosity=1, buffer=True, resultclass=Timed).run(suite)
    assert isinstance(result, Timed)
    for name, seconds in sorted(result.seconds.items(), key=lambda item: -item[1])[:SLOWEST]:
        print(f"{seconds:6.1f} s  {name}")
    wrong = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    for name in failed:
        print(f"static check failed: {name}")
    print(f"{result.testsRun - wrong - len(result.skipped)} passed, {wrong + len(failed)} failed")
    return 1 if wrong or failed or not result.testsRun else 0


if __name__ == "__main__":
    sys.exit(main())
