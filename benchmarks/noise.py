"""Fuzzed inputs for every reader of a text or a file, for the adapter's lines, and for both ports of a bench.

Whatever is not the value or the sentence that was promised is printed with the input that did it.
"""

from __future__ import annotations

import os
import sys
import time

from tests.noise import SHARES, Noise

NUMBER = 1_000_000


def run(number: int = NUMBER, seed: int = 1) -> list[tuple[str, str, str]]:
    noise, begun = Noise(seed), time.monotonic()
    for kind, share in SHARES.items():
        getattr(noise, kind)(round(number * share))
    for line in noise.wrong[:20]:
        print(line, flush=True)
    count = ", ".join(f"{noise.count[kind]} {kind}" for kind in SHARES)
    taken = f"{noise.count['texts taken']} texts and {noise.count['files taken']} files were taken"
    return [
        (f"fuzzed inputs ({count}) that ended otherwise than in a value or a sentence", "0",
         f"{len(noise.wrong)} ({taken}; {time.monotonic() - begun:.0f} s)"),
        ("of the texts, that took more than 5 ms of processor", "0", f"{noise.late} (worst {1000 * noise.worst:.1f} ms)"),
    ]  # fmt: skip


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for row in run(*(int(word) for word in sys.argv[1:])):
        print(" | ".join(row))
