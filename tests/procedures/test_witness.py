"""A switch that is touched again on plain parts, which are looked at now and then: known finely enough, or not told."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from pathlib import Path
from unittest import mock

from idler.core.mechanics.reliable import shift_allowed
from idler.library import new_machine, nobody, open_machine
from idler.link.plain import axis as axes
from idler.procedures import witness
from idler.procedures.engine import Ending, Result, Run
from idler.procedures.witness import SURE, WitnessRun
from tests.link.test_plain import PARTS
from tests.support import DEADLINE, Z, at, shared_bench

HOME = 16  # the terminal that Z's own home switch is
SWITCH = 104.0  # mm, where it truly is


class Touched(WitnessRun):
    def begin_at(self, slot: int) -> None:
        self.touched = 0
        self.begin(self._run(slot), "The switch is touched.")

    def _run(self, slot: int) -> Run:
        yield from self.witness(slot)
        return Result.of(True, "It was touched.", {})

    def _known_to(self, slot: int):
        self.touched += 1
        yield from super()._known_to(slot)


class Seldom(unittest.TestCase):
    def setUp(self) -> None:
        bench = shared_bench(type(self), "pieces", 1)
        bench.hands.ask(do="deliver")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        new_machine("pieces", "pieces", shelf=Path(folder.name))
        self.mill = mill = open_machine("pieces", Path(folder.name))
        self.addCleanup(mill.close)
        mill.connect(f"{bench.link}?parts={PARTS}")
        mill.session.set_values(
            {
                at(Z, "axis.reversed"): True, at(Z, "homing.touch"): Fraction(120), at(Z, "homing.approach"): Fraction(240),
                at(Z, "homing.back_off"): Fraction(1), at(Z, "homing.leave"): Fraction(1),
                at(HOME, "input.role"): "home", at(HOME, "input.axis"): "Z", at(HOME, "input.rest"): "open",
            }
        )  # fmt: skip
        mill.send()
        mill.power()
        self.bench = bench
        mill.session.link.jog_step(Z, 38, 1200)  # near to its switch
        self.assertTrue(mill.wait(lambda: mill.session.axes[Z].position > 37.9 and not mill.session.moving, DEADLINE))

    def touch(self, every: float) -> tuple[Touched, Result]:
        """every: s between two looks at a drive that seeks."""
        run = self.mill.procedure = Touched(self.mill.session)
        with mock.patch.object(axes, "QUICK", every), mock.patch.object(witness, "BACK", 1.0):
            run.begin_at(Z)
            return run, self.mill._drive(run, nobody)

    def test_one_that_is_seen_seldom_is_touched_more_slowly_until_its_place_is_known(
        self,
    ) -> None:
        stands = float(self.bench.hands.look("Z")["at"]) - self.mill.session.axes[Z].position
        often, got = self.touch(0.006)
        self.assertIs(got.end, Ending.PROVEN, got.words)
        seldom, got = self.touch(0.04)
        self.assertIs(got.end, Ending.PROVEN, got.words)
        self.assertGreater(seldom.touched, 2)
        for run in (often, seldom):
            self.assertLessEqual(run.within, shift_allowed(self.mill.machine, Z) / SURE)
            self.assertLessEqual(abs(run.place + stands - SWITCH), run.within + 0.01)
        with mock.patch.object(witness, "SURE", 1000):
            _, got = self.touch(0.03)
        self.assertIs(got.end, Ending.FAILED, got.words)
        self.assertIn("cannot be told", got.words)
