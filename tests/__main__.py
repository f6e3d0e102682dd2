"""./idler test: static checks, then all tests. `./idler test tests.core` runs a part without the static checks.

The classes of tests are shared out to two processes more than there are processors, four at most, for each waits for a machine
a third of its time: each has an application and benches of its own. A class that fails while the whole computer stood still
for seconds is run once again, and the last line says so.
"""

from __future__ import annotations

import multiprocessing
import os
import subprocess
import sys
import time
import unittest
from collections.abc import Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, ThreadPoolExecutor, wait
from pathlib import Path

from tests.running import Report, work
from tests.standstill import Standstill

ROOT = Path(__file__).resolve().parent.parent
SLOWEST = 30  # tests that are named with their time
STATIC = (
    ("ruff check", ["-m", "ruff", "check", "-q", "src", "tests", "benchmarks"]),
    ("ruff format", ["-m", "ruff", "format", "-q", "--check", "src", "tests", "benchmarks"]),
    ("mypy", ["-m", "mypy"]),
    ("import-linter", ["-c", "from importlinter.cli import lint_imports_command as main; main()"]),
)


def static_checks() -> list[str]:
    """Names of the checks that failed; each prints what it found. They run beside the tests."""
    failed = []
    for name, arguments in STATIC:
        start = time.monotonic()
        done = subprocess.run([sys.executable, *arguments], cwd=ROOT, capture_output=True, text=True)
        print(f"\n{name}: {'ok' if done.returncode == 0 else 'FAILED'} ({time.monotonic() - start:.1f} s)", flush=True)
        if done.returncode:
            failed.append(name)
            print(done.stdout[-8000:], done.stderr[-4000:], flush=True)
    return failed


def cases(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    for item in suite:
        if isinstance(item, unittest.TestSuite):
            yield from cases(item)
        else:
            yield item


def classes(folder: Path) -> list[str]:
    """Names of the classes of tests in a folder, those with a window first: they take longest, and short ones fill up the
    end. What could not be loaded is a name too, and fails when it is run."""
    names = []
    for case in cases(unittest.defaultTestLoader.discover(str(folder), top_level_dir=str(ROOT))):
        lost = case.id().removeprefix("unittest.loader._FailedTest.")
        names.append(lost if lost != case.id() else f"{type(case).__module__}.{type(case).__qualname__}")
    return sorted(
        dict.fromkeys(names), key=lambda name: (not name.startswith("tests.app."), name.startswith("tests.core."))
    )


def asked(words: list[str]) -> list[str]:
    """What to run: packages by their classes; modules, classes and single tests as they are named."""
    names: list[str] = []
    for word in words or ["tests"]:
        folder = ROOT / word.replace(".", "/")
        names += classes(folder) if folder.is_dir() else [word]
    return names


def shared_out(names: list[str], still: Standstill) -> tuple[Report, int]:
    """Runs classes in processes side by side; one that ends its process has failed. Returns also how many ran once again."""
    total, again = Report(), set[str]()
    spawned = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(min(4, (os.cpu_count() or 1) + 2, len(names)), mp_context=spawned) as pool:
        ahead: dict[Future[Report], str] = {pool.submit(work, name): name for name in names}
        while ahead:
            done = next(iter(wait(ahead, return_when=FIRST_COMPLETED).done))
            name, wrong = ahead.pop(done), done.exception()
            report = Report(wrong=1, told=f"{name}: {wrong}\n") if wrong else done.result()
            if report.told:
                print(f"\n{name}\n{report.told}", flush=True)
            if report.wrong and name not in again and (stood := still.within(*report.span)):
                print(f"The computer stood still for {stood:.1f} s while this ran: once again.", flush=True)
                again.add(name)
                ahead[pool.submit(work, name)] = name
                continue
            print(".", end="", flush=True)
            total += report
    print()
    return total, len(again)


def main() -> int:
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    start = time.monotonic()
    still = Standstill()
    still.watch()
    with ThreadPoolExecutor() as beside:
        checks = beside.submit(static_checks if not sys.argv[1:] else list[str])
        report, again = shared_out(asked(sys.argv[1:]), still)
        failed = checks.result()
    for name, seconds in sorted(report.seconds.items(), key=lambda item: -item[1])[:SLOWEST]:
        print(f"{seconds:6.1f} s  {name}")
    for name in failed:
        print(f"static check failed: {name}")
    passed = report.run - report.wrong - report.skipped
    stood = f", {again} classes once again after a standstill" if again else ""
    print(f"{passed} passed, {report.wrong + len(failed)} failed{stood} ({time.monotonic() - start:.0f} s)")
    return 1 if report.wrong or failed or not report.run else 0


if __name__ == "__main__":
    sys.exit(main())
