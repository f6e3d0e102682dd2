"""Axes along a path: random programs on three rigs with rates that turn, and hooks drawn by machines that are wired wrong."""

from __future__ import annotations

import random
from fractions import Fraction
from itertools import pairwise

import numpy as np

PROGRAMS = 300
HOOKS = 200
RIGS = ("verge", "longcase", "fusee")
BUFFER = 8000
PIXELS = 40.0, 28.0  # mm of the hook


def _programs() -> tuple[float, float, float, int]:
    """The furthest that steps were from the path in counts, the hardest acceleration as a share of what may be, the largest
    difference of a time from what was reckoned in %, and how many came to their end."""
    from tests.bench.test_path import OnWorld

    from idler.bench.firmware.path import ENDED

    off, hard, late, ended = 0.0, 0.0, 0.0, 0
    case = OnWorld()
    for number in range(PROGRAMS):
        case.rig = RIGS[number % 3]
        case.setUp()
        places = case.planned(number)[:BUFFER]
        turns = number % 2 == 1
        dice = np.random.default_rng(number)

        def turned(tick: int, turns: bool = turns, dice: np.random.Generator = dice) -> None:
            if turns and tick % 97 == 0:
                still = tick > 20_000
                case.world.path["feed"] = case.world.path["rapid"] = 1.0 if still else dice.choice([0.0, 0.2, 0.6, 1.0])

        case.give(places)
        case.begin()
        where, at = case.follow(places, turned)
        ended += case.world.path["state"] == ENDED
        off, hard = max(off, case.on_path(places, where, at)), max(hard, case.accelerations(where))
        if not turns:
            planned = 4 * (len(places) - 1)
            late = max(late, 100 * abs(len(where) - planned) / planned)
    return off, hard, late, ended


def _hooks() -> tuple[int, int, int]:
    """Of machines whose axes are mirrored, swapped or off their scale: those that the sheet names, those whose edit makes it
    as asked, and honest ones that were called wrong."""
    from tests.bench.test_path import OnWorld
    from tests.support import at

    from idler.bench.rigs import rig as rigs
    from idler.core.trial import symmetry
    from idler.core.trial.figures import HOOK

    named = mended = slandered = 0
    truth = rigs.load("verge")
    honest = truth.told.with_values({
        at(1, "axis.reversed"): not truth.told.axis(1).flag("axis.reversed"),
        at(0, "chain.pitch"): truth.told.axis(0).number("chain.pitch") * Fraction(4, 5),
    })  # fmt: skip

    def drawn(machine: object) -> symmetry.Seen | None:
        from dataclasses import replace

        case = OnWorld()
        case.made_rig = replace(truth, told=machine)
        case.setUp()
        case.begin_at_the_middle()
        corners = np.array([(u * PIXELS[0], v * PIXELS[1], 0.0) for u, v in HOOK])
        places = [corners[0]]
        for begin, end in pairwise(corners):
            steps = max(2, int(np.hypot(*(end - begin)[:2]) / 0.04))
            places += [begin + (end - begin) * step / steps for step in range(1, steps + 1)]
        asked = case.stands() + np.rint(np.array(places) * 1e4).astype("<i4")
        case.world.lay_paper()
        case.give(asked)
        case.begin()
        case.follow(asked)
        lines = case.world.paper.lines
        return symmetry.recognised(np.array(max(lines, key=len))) if lines else None

    for number in range(HOOKS):
        dice = random.Random(number)
        swapped = dice.random() < 0.3
        edit = {
            at(slot, "axis.reversed"): honest.axis(slot).flag("axis.reversed") ^ (dice.random() < 0.4)
            for slot in (0, 1)
        }
        if swapped:
            edit |= {at(slot, "axis.output"): honest[at(1 - slot, "axis.output")] for slot in (0, 1)}
        off = dice.choice([Fraction(1), Fraction(4, 5), Fraction(5, 4), Fraction(2)])
        edit[at(0, "chain.pitch")] = honest.axis(0).number("chain.pitch") * off
        machine = honest.with_values(edit)
        seen = drawn(machine)
        right = all(machine[where] == honest[where] for where in edit if where.key != "chain.pitch")
        if seen is None:
            continue
        named += (seen.key == "as_asked") == right
        slandered += right and seen.key != "as_asked"
        again = drawn(machine.with_values(symmetry.edit(machine, (0, 1), seen)))
        mended += again is not None and again.key == "as_asked"
    return named, mended, slandered


def run() -> list[tuple[str, str, str]]:
    off, hard, late, ended = _programs()
    named, mended, slandered = _hooks()
    return [
        (f"{PROGRAMS} random programs on three rigs, half of them with a rate that turns: furthest from the path, each ms",
         "≤ 1 count", f"{off:.2f} counts; {ended} came to their end"),
        ("of these, the hardest acceleration against what an axis may do", "≤ 1.05 ×", f"{hard:.3f} ×"),
        ("of these, a time that was reckoned against the one that it took, without turning the rate", "within 1 %",
         f"{late:.2f} %"),
        (f"hooks of {HOOKS} machines with mirrored, swapped and mis-scaled axes: named by the sheet", str(HOOKS),
         f"{named}; mended by the proposed edit {mended}; honest ones called wrong {slandered}"),
    ]  # fmt: skip


if __name__ == "__main__":
    for row in run():
        print(*row, sep=" | ")
