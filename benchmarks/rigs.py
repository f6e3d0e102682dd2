"""Random rigs with hidden faults, commissioned in the real window by doing what Idler proposes."""

from __future__ import annotations

import os
import sys
from collections import Counter

from tests.app.builder import FAULTS, Seen, commission

RIGS = 100


def each(first: int, last: int) -> list[Seen]:
    found = []
    for seed in range(first, last):
        seen = commission(seed)
        found.append(seen)
        print(f"{seed} {seen.fault}: struck {seen.struck:.2f} of {seen.touch:.2f} mm/s, {len(seen.proven)} proven, "
              f"{seen.seconds:.0f} s{', HIT' if seen.hit else ''}{', NOT NAMED' if not seen.named() else ''}"
              f"{', LIES ' + '; '.join(seen.lies) if seen.lies else ''}", flush=True)  # fmt: skip
    return found


def run(first: int = 0, last: int = RIGS) -> list[tuple[str, str, str]]:
    seen = each(first, last)
    named = Counter(item.fault for item in seen if item.named())
    of = Counter(item.fault for item in seen)
    return [
        (f"random rigs with hidden faults, {len(seen)}: iron met above touch speed", "0", str(sum(s.hit for s in seen))),
        ("of these, with something called proven that the rig denies", "0", str(sum(bool(s.lies) for s in seen))),
        ("faults named, or not to be seen by these procedures", "all",
         ", ".join(f"{fault} {named[fault]} of {of[fault]}" for fault in FAULTS if of[fault])),
    ]  # fmt: skip


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for row in run(int(sys.argv[1]), int(sys.argv[2])):
        print(" | ".join(row))
