"""./idler test: static checks, then all tests. `./idler test tests.core` runs a part without the static checks.

The classes of tests are shared out to two processes more than there are processors, four at most, for each waits for a
machine half of its time: each has an application and benches of its own. A class that fails is run once again at the end,
alone, where they are few, and the last line says so.
"""

from __future__ import annotations

import multiprocessing
import os
import subprocess
import sys
import time
import unittest
from collections.abc import Iterator
from concurrent.futures import Future, ProcessPoolExecutor, ThreadPoolExecutor, as_completed
from pathlib import Path

from idler.core.table.stations import Station
from tests.running import Report, once_again, work

ROOT = Path(__file__).resolve().parent.parent
SLOWEST = 30  # tests that are named with their time
# Our own code alone: a package of others may begin a thread where it is loaded, which a fork does not take over.
PRELOADED = [
    "tests.running", "tests.app.gui", "idler.library", *(f"idler.app.stations.{each.key}.station" for each in Station),
]  # fmt: skip
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
    """Names of the classes of tests in a folder. Those with a window, which take the processor, and those that wait for
    machines, evenly mixed; those of the core, which are short, fill up the end. What could not be loaded is a name too, and
    fails when it is run."""
    names = []
    for case in cases(unittest.defaultTestLoader.discover(str(folder), top_level_dir=str(ROOT))):
        lost = case.id().removeprefix("unittest.loader._FailedTest.")
        names.append(lost if lost != case.id() else f"{type(case).__module__}.{type(case).__qualname__}")
    kinds: dict[str, list[str]] = {"tests.app.": [], "tests.core.": [], "": []}
    for name in dict.fromkeys(names):
        next(of for start, of in kinds.items() if name.startswith(start)).append(name)
    mixed = [(n / len(of), name) for of in (kinds["tests.app."], kinds[""]) for n, name in enumerate(of)]
    return [name for _, name in sorted(mixed, key=lambda each: each[0])] + kinds["tests.core."]


def asked(words: list[str]) -> list[str]:
    """What to run: packages by their classes; modules, classes and single tests as they are named."""
    names: list[str] = []
    for word in words or ["tests"]:
        folder = ROOT / word.replace(".", "/")
        names += classes(folder) if folder.is_dir() else [word]
    return names


def _forked() -> multiprocessing.context.ForkServerContext:
    """Processes that begin with what all tests load, and with nothing that has run yet."""
    forked = multiprocessing.get_context("forkserver")
    forked.set_forkserver_preload(PRELOADED)
    return forked


def shared_out(names: list[str]) -> list[Report]:
    """Runs classes in processes side by side; one that ends its process has failed."""
    reports = []
    with ProcessPoolExecutor(min(4, (os.cpu_count() or 1) + 2, len(names)), mp_context=_forked()) as pool:
        ahead: dict[Future[Report], str] = {pool.submit(work, name): name for name in names}
        for done in as_completed(ahead):
            name, wrong = ahead[done], done.exception()
            reports.append(Report(name, wrong=1, told=f"{wrong}\n") if wrong else done.result())
            reports[-1].tell()
    return reports


def alone(name: str) -> Report:
    """Runs a class in a process of its own, with nothing beside it."""
    with ProcessPoolExecutor(1, mp_context=_forked()) as pool:
        report = pool.submit(work, name)
        return Report(name, wrong=1, told=f"{wrong}\n") if (wrong := report.exception()) else report.result()


def main() -> int:
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    start = time.monotonic()
    with ThreadPoolExecutor() as beside:
        checks = beside.submit(static_checks if not sys.argv[1:] else list[str])
        first = shared_out(asked(sys.argv[1:]))
        failed = checks.result()
    reports = once_again(first, alone)
    seconds = {name: each for report in reports for name, each in report.seconds.items()}
    for name, each in sorted(seconds.items(), key=lambda item: -item[1])[:SLOWEST]:
        print(f"{each:6.1f} s  {name}")
    for name in failed:
        print(f"static check failed: {name}")
    run, wrong = sum(each.run for each in reports), sum(each.wrong for each in reports)
    passed = run - wrong - sum(each.skipped for each in reports)
    again = [old.name for old, new in zip(first, reports, strict=True) if old is not new]
    stood = f", {len(again)} classes run once again: {', '.join(again)}" if again else ""
    print(f"{passed} passed, {wrong + len(failed)} failed{stood} ({time.monotonic() - start:.0f} s)")
    return 1 if wrong or failed or not run else 0


if __name__ == "__main__":
    sys.exit(main())
