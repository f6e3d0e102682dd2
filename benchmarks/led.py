"""Machines with hidden faults, commissioned on the terminal's side by whoever does only what is next, to their sign-off."""

from __future__ import annotations

import random
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

from tests.app.builder import NAMES, hidden
from tests.led import Walk, commission
from tests.rarer import RARER
from tests.spoilt import HEARD, KINDS, spoilt
from tests.spoilt import unnamed as unnamed_of
from tests.stranger import stranger

RIGS = 30
PACE = 50.0
STRANGERS = 100  # seeds from here on
RARE = 200  # and from here on known rigs with rarer faults
TOUCH = {
    "stranger": 60.0,
    "verge": 60.0,
    "longcase": 120.0,
    "fusee": 60.0,
}  # mm/min, the fastest that an axis of it may meet iron


@dataclass(frozen=True)
class Led:
    """kind; wrong: its faults; touch: the fastest in mm/min that it may meet iron; unnamed: faults that nobody named."""

    kind: str
    wrong: list[str]
    touch: float
    walk: Walk
    unnamed: list[str]

    @property
    def hit(self) -> bool:
        return self.walk.struck > 1.2 * self.touch / 60 + 0.3


def _led(seed: int) -> Led:
    """Every fourth is a small one of two axes, with one fault. From STRANGERS on they are machines that nobody has drawn, from
    RARE on known ones with faults that are rare."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        if seed < STRANGERS and seed % 4 == 3:
            made = hidden(seed)
            for file, text in (("rig.toml", made.rig), ("told.toml", made.told)):
                (folder / file).write_text(text, "utf-8")
            walk = commission(folder / "rig.toml", PACE)
            said = NAMES.get(made.fault)
            unnamed = [made.fault] if said is not None and said not in walk.story and not walk.told else []
            return Led("two axes", [made.fault], made.touch, walk, unnamed)
        if seed >= RARE:
            rig = spoilt(KINDS[seed % len(KINDS)], random.Random(seed), folder, of=RARER)
        elif seed >= STRANGERS:
            rig = stranger(seed - STRANGERS, folder)
        else:
            rig = spoilt(KINDS[seed % 4], random.Random(seed), folder)
        walk = commission(rig.rig, PACE)
        assert walk.machine is not None
        steps = [(key, words) for key, _, words in walk.steps] + [(HEARD, words) for words in walk.heard]
        return Led(rig.base, rig.wrong, TOUCH[rig.base], walk, unnamed_of(rig, walk.machine, walk.told, steps))


def run(first: int = 0, last: int = RIGS) -> list[tuple[str, str, str]]:
    done = []
    for seed in range(first, last):
        done.append(led := _led(seed))
        walk = led.walk
        print(f"{seed} {led.kind} ({'; '.join(led.wrong)}): {len(walk.proven)} proven, {len(walk.left_out)} left out, struck "
              f"{walk.struck:.2f} mm/s, {walk.seconds:.0f} s{'' if walk.signed_off else ', NOT SIGNED OFF'}"
              f"{', FALSE ' + '; '.join(walk.false) if walk.false else ''}"
              f"{', NOT NAMED ' + '; '.join(led.unnamed) if led.unnamed else ''}", flush=True)  # fmt: skip
        for key, why in walk.left_out.items():
            print(f"    {key}: {why[:160]}", flush=True)
    return [
        (f"led by what is next, {len(done)} machines with hidden faults: proven, and not so", "0",
         str(sum(bool(led.walk.false) for led in done))),
        ("of these, iron met above touch speed", "0", str(sum(led.hit for led in done))),
        ("of these, signed off", "all", str(sum(led.walk.signed_off for led in done))),
        ("of their faults that do harm, not named", "0", str(sum(len(led.unnamed) for led in done))),
    ]  # fmt: skip


if __name__ == "__main__":
    for row in run(int(sys.argv[1]), int(sys.argv[2])):
        print(" | ".join(row))
