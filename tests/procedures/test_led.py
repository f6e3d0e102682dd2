"""Whoever knows nothing but what is next commissions machines with hidden faults. benchmarks/led.py does more of them, to their
sign-off."""

from __future__ import annotations

import random
import tempfile
import unittest
from pathlib import Path

from idler.bench.rigs.rig import load
from idler.core.machine import Address
from idler.core.mechanics.chain import Chain
from idler.core.rules.findings import findings
from tests.app.builder import hidden
from tests.led import commission
from tests.rarer import RARER
from tests.spoilt import KINDS, spoilt, unnamed
from tests.stranger import ROOM, stranger
from tests.support import at

SEED = 55  # of two axes: microsteps
PACE, QUICK = 60, 150
NOT_SPINDLE = (
    "direction", "scale", "home", "ends", "overtravel", "pace", "repeat", "play", "return", "kept", "runout", "tailstock",
    "square", "level", "figure", "trial", "index", "times",
    *(f"spindle.{way}" for way in ("stop", "esc", "link", "guard", "ready")),
)  # fmt: skip
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


class Encoder(unittest.TestCase):
    def test_the_speeds_of_a_lathe_are_proven_once_its_encoder_was_counted_by_hand(self) -> None:
        """It runs down for seconds after it was measured; what it counts meanwhile is no turn by hand."""
        with tempfile.TemporaryDirectory() as folder:
            walk = commission(spoilt("fusee", random.Random(0), Path(folder), faults=0).rig, QUICK, skip=NOT_SPINDLE)
        self.assertIn("speed.1", walk.proven, walk.story)
        self.assertEqual(walk.told.get(Address(None, "spindle.counts")), 4096, walk.story)
        self.assertTrue(walk.signed_off, walk.story)


class Rarer(unittest.TestCase):
    def test_pulses_that_no_drive_sees_and_plugs_and_wires_that_are_exchanged_are_found_and_mended(self) -> None:
        of = [fault for fault in RARER if fault.__name__ in ("pulse", "crossed", "plugs")]
        skip = tuple(begin for begin in NOT_SPINDLE if begin not in ("direction", "scale"))
        with tempfile.TemporaryDirectory() as folder:
            made = spoilt("verge", random.Random(1), Path(folder), of=of)
            walk = commission(made.rig, PACE, skip=(*skip, "quiet", "speed"))
        self.assertEqual((walk.false, len(made.wrong)), ([], 3), walk.story)
        for key in ("direction.X", "scale.X", "scale.Y", "spindle.way"):
            self.assertIn(key, walk.proven, walk.story)
        self.assertGreaterEqual(walk.told[Address(None, "signals.pulse_width")], 11, walk.story)
        self.assertEqual(walk.told.get(at(1, "output.role")), "spindle_on", walk.story)
        self.assertEqual(len([where for where in walk.told if where.key == "axis.output"]), 2, walk.story)

    def test_every_machine_with_them_is_one_that_the_bench_can_be(self) -> None:
        for seed in range(40):
            with tempfile.TemporaryDirectory() as folder:
                made = spoilt(KINDS[seed % len(KINDS)], random.Random(seed), Path(folder), of=RARER)
                self.assertEqual(len(load(str(made.rig)).motors), len(made.data["motor"]))


class Strangers(unittest.TestCase):
    def test_every_machine_that_is_described_is_one_that_the_bench_can_be(self) -> None:
        for seed in range(60):
            with tempfile.TemporaryDirectory() as folder, self.subTest(seed):
                made = stranger(seed, Path(folder), faults=0)
                rig = load(str(made.rig))
                self.assertEqual([item.text for item in findings(rig.told) if item.holds_back], [])
                for axis, motor in zip(rig.told.axes, rig.motors, strict=True):
                    truly = motor.full_steps * motor.microsteps / motor.lead
                    self.assertAlmostEqual(float(Chain.of(axis).counts_per_unit) / truly, 1, places=9)
                    self.assertEqual(motor.rotary, axis.rotary)
                    if not axis.rotary:
                        long = float(axis.number("travel.high") - axis.number("travel.low"))
                        self.assertGreater(motor.travel, long + ROOM)

    def test_a_fault_is_named_by_an_edit_or_by_its_words_and_else_it_is_not(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            made = stranger(4, Path(folder), faults=0)
            machine = load(str(made.rig)).told
        made.faults = [("pitch", "X", "X: another screw"), ("heavy", "Y", "Y: heavy"), ("tilted", "X", "the bed rises")]
        self.assertEqual(unnamed(made, machine, [], []), ["X: another screw", "the bed rises"])
        self.assertEqual(unnamed(made, machine, [at(0, "chain.pitch")], [("level", "Bed: lies askew.")]), [])
        self.assertEqual(
            unnamed(made, machine, [at(1, "chain.pitch")], [("scale.Y", "off, and certainly so")])[0],
            "X: another screw",
        )


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
