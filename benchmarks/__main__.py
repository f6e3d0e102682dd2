"""Runs every benchmark and prints the table; --write puts it into docs/benchmarks.md."""

from __future__ import annotations

import os
import platform
import sys
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from benchmarks import (
    actions,
    along,
    alongfaults,
    bench_pace,
    geometry,
    hand,
    homing,
    keep,
    latency,
    link_speed,
    load,
    mistakes,
    parts,
    programs,
    shelf,
    spindle,
    start,
    stations,
    wiring,
)

HEAD = """# Benchmarks

Command: `.venv/bin/python -m benchmarks --write` (Qt offscreen, bench and application on the same computer).
Measured on {day}: {cpu} processor cores, Python {python}. Medians unless another figure is named.

| what | goal | measured |
|---|---|---|
"""


def main() -> None:
    rows = []
    for module in (
        start,
        stations,
        link_speed,
        latency,
        hand,
        load,
        wiring,
        bench_pace,
        mistakes,
        homing,
        spindle,
        geometry,
        programs,
        actions,
        along,
        alongfaults,
        parts,
        keep,
        shelf,
    ):
        for what, goal, measured in module.run():
            rows.append(f"| {what} | {goal} | {measured} |")
            print(rows[-1], flush=True)
    if "--write" in sys.argv:
        head = HEAD.format(day=time.strftime("%-d %B %Y"), cpu=os.cpu_count(), python=platform.python_version())
        path = Path(__file__).resolve().parent.parent / "docs" / "benchmarks.md"
        _, more, rigs = path.read_text("utf-8").partition("\n## ")  # what is measured by a command of its own stays
        path.write_text(head + "\n".join(rows) + "\n" + more + rigs, "utf-8")


if __name__ == "__main__":
    main()
