"""Random machines homed and driven to their ends: how often iron was struck, a home missed, or an end passed."""

from __future__ import annotations

from tests.bench.trials import beyond_an_end, home_twice

SETUPS, ENDS, EACH = 1000, 100, 10


def run() -> list[tuple[str, str, str]]:
    seen = [home_twice(seed) for seed in range(SETUPS)]
    found = sum(item.found for item in seen)
    struck = sum(item.struck > item.touch for item in seen)
    same = sum(item.apart <= item.allowed for item in seen)
    widest = max(item.apart for item in seen)
    past = [beyond_an_end(seed, EACH) for seed in range(ENDS)]
    return [
        (f"random valid homing set-ups, each homed twice from two places: found, of {SETUPS}", f"{SETUPS}", f"{found}"),
        ("of these, that met a hard stop faster than they touch (and one count in 20 ms)", "0", f"{struck}"),
        ("of these, whose two homes agree within tick, bounce, count and the motor's give", f"{SETUPS}",
         f"{same}; the widest {widest:.3f} mm apart"),
        (f"random approaches to an end at random speeds, {ENDS * EACH}: furthest past it", "≤ 1 count",
         f"{max(past):.2f} counts"),
    ]  # fmt: skip
