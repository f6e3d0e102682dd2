"""No measuring of the geometry sends an axis beyond its soft limits, whatever travel it was told: random machines on iron that
writes down where each move is to end."""

from __future__ import annotations

import random
import unittest
from fractions import Fraction
from typing import Any
from unittest import mock

from idler.core.machine import Machine
from idler.procedures.registry import Wishes
from tests.procedures.iron import Faults, Iron
from tests.procedures.test_told import SHORT, short, told
from tests.support import X, Y, Z, at, wired

MACHINES = 4


def drawn(seed: int) -> Machine:
    """Verge with other travels: as short as can be measured at all, and longer."""
    dice = random.Random(seed)
    values: dict[Any, Any] = {}
    for slot in (X, Y, Z):
        low = Fraction(-dice.randrange(60, 150))
        values |= {at(slot, "travel.low"): low, at(slot, "travel.stop_low"): low - dice.randrange(3, 9)}
        values[at(slot, "travel.high")] = Fraction(-dice.randrange(0, 20))
    return short(wired().with_values(values))


class Inside(unittest.TestCase):
    def test_no_move_is_told_to_end_beyond_a_soft_limit(self) -> None:
        ends: list[tuple[int, float]] = []

        class Watched(Iron):
            def jog_step(self, slot: int, distance: float, speed: float, *, seek: bool = False) -> None:
                if self.bodies[slot].homed:
                    ends.append((slot, self.bodies[slot].counted + distance))
                super().jog_step(slot, distance, speed, seek=seek)

        for seed in range(MACHINES):
            machine, length = drawn(seed), random.Random(seed).randrange(8, 40)
            words = [
                ("home", "", SHORT), *(("play", name, Wishes()) for name in "XY"), ("square", "", Wishes(tolerance="3")),
                ("level", "", Wishes()), *(("return", name, Wishes()) for name in "XZ"),
                ("blade", "", Wishes(length=f"{length} mm", tolerance="1")),
            ]  # fmt: skip
            ends.clear()
            with mock.patch("tests.procedures.test_told.Iron", Watched):
                lines = told(machine, Faults(), words)
            with self.subTest(seed):
                self.assertGreater(len(ends), 100, lines[-20:])
                for slot, place in ends:
                    axis = machine.axis(slot)
                    if not axis.rotary:
                        low, high = float(axis.number("travel.low")), float(axis.number("travel.high"))
                        self.assertTrue(low - 1e-3 <= place <= high + 1e-3, (axis.name, place, low, high))
