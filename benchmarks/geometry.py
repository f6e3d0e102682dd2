"""How often the truth lies within what is said: play by a dial, and the right angle by diagonals, over random machines.

The machines are drawn by their seed; what the dial, the tape and the trammel say comes from the bench's instruments, with
their divisions, their lag and the hand that reads them, and not from the core that judges it.
"""

from __future__ import annotations

import math
import random
from dataclasses import replace

from idler.bench.instruments import KNOWN, Toolbox, read
from idler.core.geometry import play, square
from idler.core.geometry.play import DialReading
from idler.core.geometry.square import Rectangle, SquareVerdict
from idler.procedures.play import TIMES
from idler.procedures.square import TIMES as DIAGONALS

MACHINES = 200
COUNT = 0.0025
DIAL = KNOWN["dial"]
WANTED = 0.3  # mm per m


def _play(seed: int) -> tuple[float, float]:
    """How far what is found lies beside the truth, and its ±."""
    dice = random.Random(seed)
    left, zero, lag = dice.uniform(0, 0.12), dice.uniform(-1, 1), dice.uniform(0, DIAL.lag)
    told = [
        DialReading(0.0, way, read(DIAL, zero - way * (left + lag) / 2 + dice.uniform(-0.5, 0.5) * COUNT, dice))
        for _ in range(TIMES)
        for way in (1, -1)
    ]
    found = play.plays(told, DIAL, COUNT)[0]
    return found.play - left, found.expanded


def _measured(place: Rectangle, angle: float, dice: random.Random, seed: int, name: str) -> square.Squareness | None:
    """The rectangle marked and measured on a machine whose axes are askew by so many mm per m."""
    box = Toolbox(seed)
    for number, (x, y) in enumerate(place.corners, start=1):
        lean = angle / 1000
        box.mark(str(number), (x + y * math.sin(lean), y * math.cos(lean)))
    told = [[box.between(name, *ends) for _ in range(DIAGONALS)] for ends in (("1", "3"), ("2", "4"))]
    return square.squareness(place, told[0], told[1], KNOWN[name])


def _square(seed: int) -> tuple[float, float]:
    dice = random.Random(seed)
    place = Rectangle(0, 0, dice.uniform(150, 1000), dice.uniform(150, 1000))
    angle, name = dice.uniform(-3, 3), dice.choice(["tape", "trammel"])
    found = _measured(place, angle, dice, seed, name)
    assert found is not None
    return found.angle - angle, found.expanded


def _gantry(seed: int) -> bool:
    """Out of square, corrected by what is proposed, and within what is wanted at the second measuring."""
    dice = random.Random(seed)
    side = dice.uniform(0.6, 0.95)
    place = Rectangle(0, 0, 1200 * side, 850 * side)
    angle, across = dice.choice([-1, 1]) * dice.uniform(0.5, 3), dice.choice([-1, 1]) * dice.uniform(900, 1600)
    first = _measured(place, angle, dice, 2 * seed, "trammel")
    assert first is not None and square.verdict(first, WANTED) is SquareVerdict.OFF
    offset = -math.sin(first.angle / 1000) * across  # what `square.squaring` sets, where nothing was set before
    again = _measured(replace(place), angle + 1000 * offset / across, dice, 2 * seed + 1, "trammel")
    return square.verdict(again, WANTED) is SquareVerdict.PROVEN


def run() -> list[tuple[str, str, str]]:
    rows = []
    for what, one in (("play by a dial", _play), ("right angle by diagonals", _square)):
        told = [one(seed) for seed in range(MACHINES)]
        held = sum(abs(off) <= sure for off, sure in told)
        share = max(sure for _, sure in told) if what.startswith("play") else None
        widest = f"; ± at most {1000 * share:.0f} µm" if share is not None else ""
        rows.append(
            (
                f"{what}, seeds 0 to {MACHINES - 1}: the truth within what is said",
                "95 of 100",
                f"{held} of {MACHINES}{widest}",
            )
        )
    mended = sum(_gantry(seed) for seed in range(100))
    rows.append(
        (f"gantries out of square, within {WANTED:g} mm per m at the second measuring, of 100", "95", f"{mended}")
    )
    return rows
