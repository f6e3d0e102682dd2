"""Machines with hidden faults, commissioned on the terminal's side by whoever does only what is next, to their sign-off."""

from __future__ import annotations

import random
import sys
import tempfile
from pathlib import Path

from tests.app.builder import hidden
from tests.led import Walk, commission
from tests.spoilt import KINDS, spoilt

RIGS = 30
PACE = 50.0
TOUCH = {"verge": 60.0, "longcase": 120.0, "fusee": 60.0}  # mm/min, the fastest that an axis of it may meet iron


def _walk(seed: int) -> tuple[str, list[str], float, Walk]:
    """kind, faults, touch speed in mm/min, and what came of it. Every fourth is a small one of two axes, with one fault."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        if seed % 4 == 3:
            made = hidden(seed)
            for file, text in (("rig.toml", made.rig), ("told.toml", made.told)):
                (folder / file).write_text(text, "utf-8")
            return "two axes", [made.fault], made.touch, commission(folder / "rig.toml", PACE)
        kind = KINDS[seed % 4]
        rig = spoilt(kind, random.Random(seed), folder)
        return kind, rig.wrong, TOUCH[kind], commission(rig.rig, PACE)


def run(first: int = 0, last: int = RIGS) -> list[tuple[str, str, str]]:
    walks = []
    for seed in range(first, last):
        kind, wrong, touch, walk = _walk(seed)
        walks.append((touch, walk))
        print(f"{seed} {kind} ({'; '.join(wrong)}): {len(walk.proven)} proven, {len(walk.left_out)} left out, struck "
              f"{walk.struck:.2f} mm/s, {walk.seconds:.0f} s{'' if walk.signed_off else ', NOT SIGNED OFF'}"
              f"{', FALSE ' + '; '.join(walk.false) if walk.false else ''}", flush=True)  # fmt: skip
        for key, why in walk.left_out.items():
            print(f"    {key}: {why[:160]}", flush=True)
    hit = sum(walk.struck > 1.2 * touch / 60 + 0.3 for touch, walk in walks)
    return [
        (f"led by what is next, {len(walks)} machines with hidden faults: proven, and not so", "0",
         str(sum(bool(walk.false) for _, walk in walks))),
        ("of these, iron met above touch speed", "0", str(hit)),
        ("of these, signed off", "all", str(sum(walk.signed_off for _, walk in walks))),
    ]  # fmt: skip


if __name__ == "__main__":
    for row in run(int(sys.argv[1]), int(sys.argv[2])):
        print(" | ".join(row))
