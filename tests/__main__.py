"""./idler test: static checks, then all tests. `./idler test tests.core` runs a part without the static checks."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import time
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
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


def modules(*packages: str) -> list[str]:
    """The test modules of some packages of tests/, or those beside this one where none is named."""
    folders = [ROOT / "tests" / package for package in packages] or [ROOT / "tests"]
    return [
        ".".join(path.relative_to(ROOT).with_suffix("").parts)
        for folder in folders for path in sorted(folder.glob("test_*.py"))
    ]  # fmt: skip


def run(names: list[str]) -> tuple[int, int]:
    """Runs tests by name in this process: how many passed, and how many did not."""
    suite = unittest.TestLoader().loadTestsFromNames(names)
    result = unittest.TextTestRunner(verbosity=1, buffer=True).run(suite)
    wrong = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    return result.testsRun - wrong - len(result.skipped), wrong


def main() -> int:
    """Tests without a window run beside the others in a process of their own; its words come at the end."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    if names := sys.argv[1:]:
        passed, wrong = run(names)
        print(f"{passed} passed, {wrong} failed")
        return 1 if wrong or not passed else 0
    failed = static_checks()
    beside = [sys.executable, "-m", "tests", *modules(), *modules("core", "bench", "shelf")]
    with subprocess.Popen(beside, cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True) as other:
        passed, wrong = run(modules("app", "link"))
        said, _ = other.communicate()
    print(said, flush=True)
    counts = re.search(r"^(\d+) passed, (\d+) failed$", said, re.MULTILINE)
    passed, wrong = (passed + int(counts[1]), wrong + int(counts[2])) if counts else (passed, wrong + 1)
    for name in failed:
        print(f"static check failed: {name}")
    print(f"{passed} passed, {wrong + len(failed)} failed")
    return 1 if wrong or failed or other.returncode else 0


if __name__ == "__main__":
    sys.exit(main())
