"""Homing at a hard stop in the way of a drive's maker, whose number stands in a file about his parts."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from importlib.resources import files
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from idler.core.controller.quirks import read_quirk
from idler.core.errors import IdlerError, Refusal
from idler.core.profile.homing import HomingResult
from idler.link.events import Connected, Done, Failed
from idler.link.kept import QUIRKS

from ..support import X, at, wait_for
from .test_plain import PITCHES, PlainCase

TOLD = """
vendor = "5A5"
product = "200"
reason = "Manual, page 41"
[homing]
stop_high = -17
stop_low = -18
"""


class Read(unittest.TestCase):
    def test_what_stands_in_one(self) -> None:
        found = read_quirk(TOLD)
        self.assertEqual((found.vendor, found.product, dict(found.methods)), (0x5A5, 0x200, {-1: -17, -2: -18}))

    def test_what_is_wrong_is_named(self) -> None:
        for old, new, part in (
            ('"5A5"', '"5A5X"', "vendor"), ('"200"', '"-200"', "product"), ('"Manual, page 41"', '""', "reason"),
            ("-17", "17", "stop_high"), ("-18", "true", "stop_low"), ("stop_low", "stop_left", "homing"),
            ('vendor = "5A5"', "", "vendor"), ("reason", "because", "because"), ("[homing]", "homing = 3\n[other]", "other"),
        ):  # fmt: skip
            with self.subTest(new), self.assertRaises(Refusal) as why:
                read_quirk(TOLD.replace(old, new))
            self.assertEqual(why.exception.part, part)

    @given(st.text(max_size=200))
    def test_any_text_is_one_or_a_refusal(self, text: str) -> None:
        try:
            read_quirk(text)
        except IdlerError:
            return
        self.fail("it has no reason")


class OnBench(PlainCase):
    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        rig = (files("idler.bench") / "rigs" / "pieces.toml").read_text("utf-8")
        (Path(folder.name) / "rig.toml").write_text(rig.replace("[part.X]", "[part.X]\nmeets_stops = true"))
        (Path(folder.name) / "pieces.toml").write_text((files("idler") / "data" / "pieces.toml").read_text("utf-8"))
        cls.rig = str(Path(folder.name) / "rig.toml")
        super().setUpClass()

    def told(self, text: str) -> None:
        folder = self.folder / "parts" / QUIRKS
        folder.mkdir(parents=True, exist_ok=True)
        (folder / "maker.toml").write_text(text)

    def ready(self, approach: int = 240) -> None:
        speeds = {at(X, "homing.approach"): Fraction(approach), at(X, "homing.touch"): Fraction(240)}
        self.connect()
        self.send({**PITCHES, **speeds, at(X, "homing.method"): "stop", at(X, "homing.towards"): "high"})
        self.power()

    def refusal(self) -> str:
        found = self.after(lambda: self.link.home([X]), Done)
        assert isinstance(found, Failed), found
        return found.why

    def test_nobody_guesses_the_number(self) -> None:
        self.ready()
        self.assertIn("vendor 5A5h, product 200h", self.refusal())

    def test_it_goes_to_the_stop_at_the_touch_and_stands_there(self) -> None:
        self.told(TOLD)
        self.ready(approach=900)
        self.assertIn("Lower that to the touch, 240 mm/min", self.refusal())
        self.ready()
        near = self.bench.hands.look("X")["travel"]
        self.step(X, near - 20 - self.where("X"))  # most of the way: it is slow from here
        self.assertIsInstance(self.after(lambda: self.link.home([X]), Done), Done)
        wait_for(lambda: not self.link.axes[X].moving, "home")
        self.assertIs(self.link.axes[X].homing_result, HomingResult.FOUND)
        seen = self.bench.hands.look("X")
        self.assertAlmostEqual(seen["at"], near, delta=2.0)
        self.assertLess(seen["struck"], 240 / 60 + 0.3)

    def test_a_file_that_is_wrong_is_named_before_anything_is_connected(self) -> None:
        self.told(TOLD.replace("-17", "17"))
        found = self.after(lambda: self.link.connect(f"{self.bench.link}?parts=1=X,4=terminals"), Connected)
        assert isinstance(found, Failed), found
        self.assertIn("maker.toml", found.why)
        self.assertIn("stop_high", found.why)
