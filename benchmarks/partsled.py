"""Machines of plain parts, led from their delivery to their sign-off by whoever does only what is next: that of the example
without arguments, or those of seeds, FIRST to LAST without it, that nobody has drawn. Each takes about half an hour: what goes
over plain parts is judged by the clock on the wall.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from tests.led import Walk, commission
from tests.link.test_plain import PARTS
from tests.strangeparts import strange_parts

TOUCH = 120.0  # mm/min, the fastest at which it may meet iron
ROLES = f"{PARTS},5=encoder"


def _row(what: str, walk: Walk) -> tuple[str, str, str]:
    for key, why in walk.left_out.items():
        print(f"    {key}: {why[:160]}", flush=True)
    for why in walk.false:
        print(f"    FALSE {why}", flush=True)
    said = "signed off" if walk.signed_off else "NOT SIGNED OFF"
    words = f"{len(walk.proven)} proven, {len(walk.left_out)} left out, {len(walk.false)} false, {said}"
    return (
        f"{what}: struck {walk.struck:.2f} mm/s (touch speed {TOUCH / 60:.0f}), {walk.seconds:.0f} s",
        "0 false, signed off",
        words,
    )


def run(first: int = 0, last: int = 0) -> list[tuple[str, str, str]]:
    if not last:
        return [_row("plain parts led by what is next", commission("pieces", 1.0, parts=ROLES, tell=print))]
    rows = []
    for seed in range(first, last):
        with tempfile.TemporaryDirectory() as folder:
            made = strange_parts(seed, Path(folder))
            print(f"{seed}: {'; '.join(made.wrong)}", flush=True)
            rows.append(
                _row(f"parts that nobody has drawn, {seed}", commission(made.rig, 1.0, parts=ROLES, tell=print))
            )
    return rows


if __name__ == "__main__":
    for row in run(*(int(each) for each in sys.argv[1:3])):
        print(row)
