"""How often a hidden mistake of the train is named, and how often one is named that is not there."""

from __future__ import annotations

import random
from fractions import Fraction

from idler.core.machine import Address, Axis, Machine
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.mistakes import MADE, Slip, causes, slips
from idler.core.mechanics.scale import INSTRUMENTS, Instrument, Pass, Verdict, estimate, verdict
from idler.core.values.parameter import Value
from idler.core.values.stage import Stage

RIGS = 100
TOLERANCE = 0.0002
KINDS = {
    "microstep switch": "chain.microsteps", "tooth counts": "chain.stages", "starts of the screw": "chain.starts",
    "pitch, inch against mm among them": "chain.pitch",
}  # fmt: skip


def _axis(dice: random.Random) -> Axis:
    """A random axis with one gear stage and a screw, as a builder would write it down."""
    values: dict[Address, Value] = {
        Address(0, "chain.microsteps"): dice.choice((4, 8, 10, 16, 32)),
        Address(0, "chain.pitch"): Fraction(dice.choice(("2", "2.5", "4", "5", "10"))),
        Address(0, "chain.stages"): (Stage(True, Fraction(dice.choice((16, 18, 20, 24))), Fraction(dice.choice((32, 40)))),),
        Address(0, "chain.starts"): dice.choice((1, 1, 2)),
    }  # fmt: skip
    return Machine(("X",)).with_values(values).axis(0)


def _read(dice: random.Random, item: Instrument, true: float) -> float:
    """What a hand reads: scattered by a fifth of a division, and rounded to one."""
    return round((true + dice.gauss(0, item.resolution / 5)) / item.resolution) * item.resolution


def _measure(dice: random.Random, axis: Axis, ratio: float) -> list[Pass]:
    """Three passes of a machine that truly travels `ratio` times as far as told."""
    item = dice.choice([i for i in INSTRUMENTS if i.key in ("caliper", "blocks")])
    told = float(Chain.of(axis).counts_per_unit)
    length = min(100.0, item.reach / max(1.0, ratio) * 0.95)
    return [Pass(length, _read(dice, item, length * ratio), told, item) for _ in range(3)]


def _named(axis: Axis, passes: list[Pass]) -> list[Slip]:
    """The causes that the station would show."""
    told = float(Chain.of(axis).counts_per_unit)
    found = estimate(passes)
    if found is None or verdict(passes, told, TOLERANCE) is not Verdict.OFF:
        return []
    return [cause.slip for cause in causes(axis, 1 + found.error(told), found.relative) if cause.listed]


def run() -> list[tuple[str, str, str]]:
    rows = []
    for kind, key in KINDS.items():
        dice = random.Random(kind)
        listed = first = 0
        for _ in range(RIGS):
            axis = _axis(dice)
            mine = [s for s in slips(axis) if s.edit and s.edit[0][0].key == key]
            slip = dice.choices(mine, [s.weight for s in mine])[0]
            named = _named(axis, _measure(dice, axis, slip.ratio * dice.gauss(1, MADE)))
            listed += slip in named
            first += named[:1] == [slip]
        rows.append(
            (f"hidden mistake named: {kind}", "more than 95 of 100", f"{listed} of {RIGS}, {first} in the first place")
        )
    dice = random.Random("honest")
    wrong = 0
    for _ in range(RIGS):
        axis = _axis(dice)
        wrong += bool(_named(axis, _measure(dice, axis, dice.gauss(1, MADE))))
    rows.append(("a cause named on an honest machine", "at most 2 of 100", f"{wrong} of {RIGS}"))
    return rows


if __name__ == "__main__":
    for line in run():
        print(line)
