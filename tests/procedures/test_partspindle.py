"""The spindle of a machine of plain parts, proven by what ends it."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from idler import OpenMachine, new_machine, open_machine
from idler.bench.plant.turning import curve
from idler.bench.rigs.rig import load
from idler.core.machine import Machine, Shape
from idler.core.proof.claims import Proof, spindle_claims, state
from idler.procedures.engine import Ending, Result
from idler.procedures.registry import Wishes
from tests.led import OUTPUTS
from tests.link.test_partspindle import SPINDLE
from tests.link.test_plain import PARTS
from tests.link.test_spindledrive import ROLES, TOLD, with_inverter
from tests.person import Person
from tests.spoilt import speeds_off
from tests.support import Y, at, shared_bench

CURVE = {
    at(0, "range.points"): "4 0, 50 9360, 96 18000", at(0, "range.low"): Fraction(1500), at(0, "input.role"): "stop",
}  # fmt: skip


class Truth(unittest.TestCase):
    def test_a_speed_that_was_never_measured_is_seen_to_be_none(self) -> None:
        """Of what judges those who are led: a check that cannot fail is none."""
        rig = load("pieces")
        told = Machine.shaped(Shape(("X", "Y", "Z"), 8, 9)).with_values(SPINDLE)
        self.assertGreater(len(speeds_off(told, rig, 0)), 5)
        levels = [4, 8, 12, 20, 30, 40, 50, 60, 70, 80, 90, 96]
        points = [(level, curve.py_func(rig.spindle, level / 100) * rig.spindle.top) for level in levels]
        text = ", ".join(f"{level} {rpm:.0f}" for level, rpm in points)
        self.assertEqual(speeds_off(told.with_values({**CURVE, at(0, "range.points"): text}), rig, 0), [])


class OnParts(unittest.TestCase):
    rig, parts = "pieces", f"{PARTS},5=encoder"

    def setUp(self) -> None:
        self.bench = shared_bench(type(self), self.rig, 1)
        self.bench.hands.ask(do="deliver")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        new_machine("pieces", "pieces", shelf=Path(folder.name))
        self.mill = open_machine("pieces", Path(folder.name))
        self.addCleanup(self.mill.close)
        self.mill.connect(f"{self.bench.link}?parts={self.parts}")


class Stored(OnParts):
    def test_drives_that_store_only_without_power_are_powered_off_to_be_sent_to(self) -> None:
        mill = self.mill
        mill.send()
        mill.power()
        mill.session.set_values({at(Y, "pace.acceleration"): Fraction(700)})
        mill.send()
        self.assertEqual((mill.session.powered, mill.session.count().to_send), (False, False))
        mill.power()
        mill.session.set_values({at(Y, "pace.acceleration"): Fraction(800)})
        self.assertIn("Power the drives off", mill.session.send_obstacle())


class Ended(OnParts):
    def test_the_stop_the_guard_and_a_lost_link_end_it(self) -> None:
        mill = self.mill
        mill.session.set_values({**SPINDLE, **CURVE})
        mill.send()
        person = Person(mill, self.bench.hands)
        for way in ("guard", "link", "stop"):
            person.way = way
            got = mill.run("spindle-stop", None, person, wishes=Wishes(way=way))
            self.assertIs(got.end, Ending.PROVEN, (way, got.words))
            self.assertAlmostEqual(got.figures["rpm"], 5230, delta=300)  # of this computer, which may be busy


class OfItsOwnDrive(OnParts):
    parts = ROLES

    @classmethod
    def setUpClass(cls) -> None:
        cls.rig = with_inverter(cls)

    def test_its_way_its_speeds_and_what_ends_it(self) -> None:
        mill = self.mill
        self.assertEqual(
            mill.machine[at(None, "spindle.kind")], "voltage"
        )  # as it was told, and the controller says otherwise
        fewer = mill.machine.shape._replace(inputs=10, outputs=8)
        mill.session.disconnect()
        self.assertTrue(mill.wait(lambda: not mill.session.connected, 10))
        mill.session.reshape(Machine.shaped(fewer), "as it was drawn")
        mill.connect(f"{self.bench.link}?parts={self.parts}")
        part = str(mill.machine[at(None, "spindle.part")])
        self.assertTrue(part.startswith("5A5-40F-"), part)  # it is said at the connection
        roles = {at(0, "input.role"): "stop", at(1, "input.role"): "guard"}
        mill.session.set_values({**TOLD, **roles, at(None, "spindle.kind"): "drive"})
        mill.send()
        person = Person(mill, self.bench.hands)
        for name in ("guard", "spindle-way", "spindle-speeds"):
            for _ in range(3):  # a computer that pauses ends what turns, rightly, and a person begins again
                got = mill.run(name, None, person)
                if got.end is not Ending.STOPPED:
                    break
            self.assertIs(got.end, Ending.PROVEN, (name, got.words))
        for way in ("link", "stop"):
            person.way = way
            got = mill.run("spindle-stop", None, person, wishes=Wishes(way=way))
            self.assertIs(got.end, Ending.PROVEN, (way, got.words))
        other = mill.machine.with_values({at(None, "spindle.part"): "5A5-40F-2"})
        claims = {found.key: state(other, found, mill.session.proofs) for found in spindle_claims(other)}
        self.assertEqual(claims["spindle.way"], Proof.STALE)


class Belt(unittest.TestCase):
    def measured(self, mill: OpenMachine, word: str, person: Person) -> Result:
        """Again where this computer paused for so long that the controller stopped the spindle, rightly."""
        for _ in range(6):
            got = mill.run(word, None, person)
            if "The controller stopped" not in got.words:
                break
        return got

    def test_a_range_that_turns_as_another_is_not_measured_before_eyes_have_seen_the_belt(self) -> None:
        """The belt was left in its old place: all that is measured then is the other range's."""
        bench = shared_bench(type(self), "verge", 20)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        new_machine("mill", "verge", shelf=Path(folder.name))
        mill = open_machine("mill", Path(folder.name))
        self.addCleanup(mill.close)
        mill.connect(bench.link)
        wired = OUTPUTS["verge"]
        mill.session.set_values({at(number - 1, "output.role"): role for number, role in wired.items()})
        magnet = {at(7, "input.role"): "pulse", at(7, "input.rest"): "open"}
        mill.session.set_values({**magnet, at(None, "spindle.engaged"): 1})
        mill.send()
        person = Person(mill, bench.hands)
        got = self.measured(mill, "spindle-curve", person)
        self.assertIs(got.end, Ending.FAILED, got.words)
        self.assertIn("does not lie in range 1", got.words)
        self.assertEqual(bench.hands.ask(do="look")["belt"], 1)  # it was moved then
        got = self.measured(mill, "spindle-curve", person)
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertAlmostEqual(got.figures["top"], 1025, delta=30)
        person._move_belt(2)  # nor are the times of another range
        mill.session.set_values(got.edit)
        mill.send()
        got = self.measured(mill, "spindle-times", person)
        self.assertIs(got.end, Ending.FAILED, got.words)
        self.assertIn("are not the times of range 1", got.words)
