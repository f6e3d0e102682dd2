"""Faults in the middle of programs that run on the bench over its wire: where each of them ends."""

from __future__ import annotations

import random
from collections import Counter

FAULTS = 300


def run() -> list[tuple[str, str, str]]:
    from tests.procedures.faults import KINDS, Faulty

    case = Faulty()
    Faulty.setUpClass()
    wrong: Counter[str] = Counter()
    dice = random.Random(300)
    try:
        case.setUp()
        for number in range(FAULTS):
            kind = KINDS[number % len(KINDS)]
            outcome = case.fault(kind, dice)
            if outcome.wrong:
                wrong[f"{kind}: {outcome.wrong}"] += 1
    finally:
        case.doCleanups()
        Faulty.doClassCleanups()
    told = "; ".join(f"{count} × {words}" for words, count in wrong.items())
    return [
        (f"{FAULTS} faults of {len(KINDS)} kinds in a run: ends on its path or stands, its place known, nothing starts again",
         str(FAULTS), f"{FAULTS - sum(wrong.values())}{'; ' + told if told else ''}"),
    ]  # fmt: skip


if __name__ == "__main__":
    for row in run():
        print(*row, sep=" | ")
