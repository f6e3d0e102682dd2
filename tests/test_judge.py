"""Of what judges those who are led: a check that cannot fail is none."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from idler.bench.rigs.rig import load
from idler.library import new_machine, open_machine
from tests.judge import not_so
from tests.person import Person
from tests.support import X, at, shared_bench, wiring


class Denied(unittest.TestCase):
    def setUp(self) -> None:
        self.bench = shared_bench(type(self), "verge", 20)
        self.bench.hands.ask(do="deliver")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        new_machine("mill", "verge", shelf=Path(folder.name))
        self.mill = open_machine("mill", Path(folder.name))
        self.addCleanup(self.mill.close)
        self.mill.connect(self.bench.link)
        self.mill.session.set_values({**wiring(), at(X, "chain.pitch"): Fraction(4)})
        self.mill.send()

    def denied(self, *proven: str) -> list[str]:
        return list(not_so(self.mill, load("verge"), self.bench.hands, proven.__contains__, 0.15))

    def test_a_pace_that_loses_steps_is_none(self) -> None:
        mill = self.mill
        self.assertTrue(mill.power() is None and mill.run("home", "X", Person(mill, self.bench.hands)))
        claims = ("direction.X", "scale.X", "ends.X", "pace.X")
        self.assertEqual(self.denied(*claims), [])
        hard = {at(X, f"pace.{key}"): Fraction(17_000) for key in ("top_speed", "acceleration", "deceleration")}
        mill.session.set_values({**hard, at(X, "pace.motor_speed"): Fraction(4000)})
        mill.send()
        mill.power()
        mill.run("home", "X", Person(mill, self.bench.hands))
        self.assertIn("pace.X", " ".join(self.denied(*claims)))

    def test_waits_that_are_too_short_are_none(self) -> None:
        wait = {at(2, f"range.run_{end}"): Fraction(30_000) for end in ("up", "down")}
        self.mill.session.set_values(wait)
        self.mill.send()
        self.assertEqual(self.denied("spindle.way", "spindle.stop", "spindle.guard"), [])
        self.bench.hands.ask(do="pace", factor=20)
        self.mill.session.set_values({where: Fraction(100) for where in wait})
        self.mill.send()
        said = self.denied("times.3")
        self.assertEqual([words.split(":")[0] for words in said], ["times.3", "times.3"], said)
