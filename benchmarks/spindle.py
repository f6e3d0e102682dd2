"""Spindles measured and corrected: how far off a commanded speed is then, on every rig and on random drives."""

from __future__ import annotations

from tests.bench.spindles import LEVEL_RIGS, correct, random_spindle, shipped

RANDOM = 50


def run() -> list[tuple[str, str, str]]:
    rigs = {f"{name}, range {place}": correct(*shipped(name, place)) for name, place in LEVEL_RIGS}
    drawn = [correct(*random_spindle(seed), seed) for seed in range(RANDOM)]
    rows = [
        (f"spindle of {name}: worst error over the range, in parts of 1 % or 5 rpm", "≤ 1",
         f"{found.after:.2f} (before correction {found.before:.1f})")
        for name, found in rigs.items()
    ]  # fmt: skip
    worst = max(found.after for found in drawn)
    before = sorted(found.before for found in drawn)[RANDOM // 2]
    rows.append(
        (
            f"{RANDOM} random spindle drives: the worst of them",
            "≤ 1",
            f"{worst:.2f} (before correction {before:.1f} in the median)",
        )
    )
    return rows
