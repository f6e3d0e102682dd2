"""A big shelf: 300 machines with 50 revisions each, against one machine with one."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

from tests.support import verge_text

from .start import APPLICATION, once

MACHINES, REVISIONS = 300, 50
PAIRS = 7
_COMMIT = """commit refs/heads/master
committer Idler <idler@localhost> {when} +0000
data {long}
{note}
M 100644 inline {name}.toml
data {size}
{text}
"""


def _fill(shelf: Path, machines: int, revisions: int) -> None:
    """By git itself, from a stream: one commit after another would take an hour."""
    folder = shelf / "machines"
    subprocess.run(["git", "init", "-q", "-b", "master", str(folder)], check=True)
    importing = subprocess.Popen(["git", "fast-import", "--quiet"], cwd=folder, stdin=subprocess.PIPE, text=True)
    assert importing.stdin is not None
    when = 1_700_000_000
    for revision in range(revisions):
        for machine in range(machines):
            when += 60
            text, note = f"{verge_text()}# revision {revision}\n", f"revision {revision} of mill-{machine:03}"
            size = len(text.encode())
            importing.stdin.write(
                _COMMIT.format(when=when, long=len(note), note=note, name=f"mill-{machine:03}", size=size, text=text)
            )
    importing.stdin.close()
    importing.wait()
    subprocess.run(["git", "reset", "-q", "--hard"], cwd=folder, check=True)


def _listed(shelf: Path) -> float:
    """Seconds of processor that `shelf list` takes."""
    words = [sys.executable, "-m", "idler", "shelf", "list", "--shelf", str(shelf)]
    process = subprocess.Popen(words, stdout=subprocess.DEVNULL)
    _, code, used = os.wait4(process.pid, 0)
    assert code == 0
    process.returncode = 0
    return used.ru_utime + used.ru_stime


def run() -> list[tuple[str, str, str]]:
    with tempfile.TemporaryDirectory() as folder:
        small, big = Path(folder) / "small", Path(folder) / "big"
        _fill(small, 1, 1)
        _fill(big, MACHINES, REVISIONS)
        first = _listed(big)
        later = statistics.median(_listed(big) for _ in range(PAIRS))
        once(APPLICATION, str(small))
        once(APPLICATION, str(big))
        pairs = [(once(APPLICATION, str(big))[0], once(APPLICATION, str(small))[0]) for _ in range(PAIRS)]
    ratio = statistics.median(a / b for a, b in pairs)
    of = f"a shelf of {MACHINES} machines with {REVISIONS} revisions each"
    return [
        (f"{of}: processor time of its list", "under 2 s", f"{later:.2f} s (the first time, when nothing is noted yet: "
         f"{first:.1f} s)"),
        ("the same, start to first painted window, against a shelf of one machine", "under 1.5 ×", f"{ratio:.2f} ×"),
    ]  # fmt: skip
