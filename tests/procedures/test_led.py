"""Whoever knows nothing but what is next commissions machines with hidden faults. benchmarks/led.py does more of them, to their
sign-off."""

from __future__ import annotations

import random
import tempfile
import unittest
from pathlib import Path

from idler.bench.rig import load
from tests.app.builder import hidden
from tests.led import commission
from tests.spoilt import KINDS, spoilt

SEED = 55  # of two axes: microsteps
PACE = 60
LATER = ("play", "return", "kept", "square", "figure", "trial", "repeat")  # these have tests of their own


class Led(unittest.TestCase):
    def test_two_axes_come_to_their_sign_off_and_what_is_proven_is_true(self) -> None:
        made = hidden(SEED)
        with tempfile.TemporaryDirectory() as folder:
            for name, text in (("rig.toml", made.rig), ("told.toml", made.told)):
                (Path(folder) / name).write_text(text, "utf-8")
            walk = commission(Path(folder) / "rig.toml", PACE, skip=LATER)
        self.assertEqual(walk.false, [], walk.story)
        self.assertTrue(walk.signed_off, walk.story)
        self.assertLess(walk.struck, 1.2 * made.touch / 60 + 0.3, walk.story)
        for key in (
            "wiring.stop",
            "direction.X",
            "scale.X",
            "scale.Y",
            "home.all",
            "ends.X",
            "ends.Y",
            "pace.X",
            "pace.Y",
        ):
            self.assertIn(key, walk.proven, walk.story)
        self.assertIn("microsteps", walk.story)


class Spoilt(unittest.TestCase):
    def test_every_machine_that_the_dice_make_is_one_that_the_bench_can_be(self) -> None:
        for seed in range(60):
            with tempfile.TemporaryDirectory() as folder:
                made = spoilt(KINDS[seed % len(KINDS)], random.Random(seed), Path(folder))
                rig = load(str(made.rig))
            self.assertEqual(len(rig.motors), len(made.data["motor"]))
            for motor in rig.motors:
                self.assertTrue(not motor.travel or 0 < motor.start < motor.travel, (seed, motor))
            for wire in rig.wires:
                travel = rig.motors[wire.axis].travel
                self.assertTrue(wire.source != "carriage" or 0 < wire.at < travel, (seed, wire))
