"""A machine of plain parts, led from its delivery to its sign-off by whoever does only what is next. It takes half an hour:
what goes over plain parts is judged by the clock on the wall.
"""

from __future__ import annotations

from tests.led import commission
from tests.link.test_plain import PARTS

TOUCH = 120.0  # mm/min, the fastest at which it may meet iron


def run() -> list[tuple[str, str, str]]:
    walk = commission("pieces", 1.0, parts=f"{PARTS},5=encoder", tell=print)
    for key, why in walk.left_out.items():
        print(f"    {key}: {why[:160]}", flush=True)
    said = "signed off" if walk.signed_off else "NOT SIGNED OFF"
    words = f"{len(walk.proven)} proven, {len(walk.left_out)} left out, {len(walk.false)} false, {said}"
    return [(
        f"plain parts led by what is next: struck {walk.struck:.2f} mm/s (touch speed {TOUCH / 60:.0f}), {walk.seconds:.0f} s",
        "0 false, signed off", words,
    )]  # fmt: skip


if __name__ == "__main__":
    for row in run():
        print(row)
