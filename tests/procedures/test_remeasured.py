"""Readings that are kept, dropped one by one, and taken again; and what is measured without a dial: a bed by a touch probe, a
motor by its encoder."""

from __future__ import annotations

import unittest
from fractions import Fraction
from typing import Any

from idler.bench.rigs.rig import load
from idler.core.geometry.comeback import ComebackVerdict, verdict
from idler.core.geometry.level import PROBE
from idler.core.geometry.play import at_radius
from idler.core.mechanics.scale import Pass, by_way, contradiction
from idler.core.proof.claims import Witness, level_claim, scale_claim
from idler.core.values.measures import Measures
from idler.procedures.engine import Ending, Result
from idler.procedures.geometry.comeback import BY as RETURN_BY
from idler.procedures.geometry.comeback import ENCODER, ComebackRun
from idler.procedures.geometry.dial import DIALS
from idler.procedures.geometry.level import LevelRun
from idler.procedures.geometry.runout import RunoutRun
from tests.procedures.test_geometry import OnRig, X, Y, Z
from tests.support import at, wiring


class Remeasured(OnRig):
    def first(self, run: Any, *args: Any) -> Result:
        self.mill.procedure = run
        self.assertEqual(run.measure(*args), "")
        return self.mill._drive(run, self.person)

    def again(self, run: Any, *args: Any) -> Result:
        """Goes on with a run that has ended."""
        self.person.ends_at, self.person.asked, self.person.hangs = ("", 0), [], 0.0
        return self.first(run, *args)


class OnVerge(Remeasured):
    def setUp(self) -> None:
        super().setUp()
        self.mill.session.set_values(wiring())
        self.mill.session.set_values({at(X, "chain.pitch"): Fraction(4), at(Y, "axis.reversed"): True})
        self.mill.send()


class Scaled(OnVerge):
    """The screw of Y is worn in the middle of its way, where its play is greater by 0.04 mm."""

    @staticmethod
    def otherwise(data: dict[str, Any]) -> None:
        data["motor"]["Y"]["worn"] = 0.04

    def scale(self, length: str) -> None:
        wanted = {"length": length, "tolerance": "0.03 %", "instrument": "blocks"}
        self.assertIs((got := self.run_it("scale", "Y", **wanted)).end, Ending.PROVEN, got.words)

    def passes(self) -> list[Pass]:
        return list(self.mill.session.passes["Y"])

    def test_a_worn_screw_is_proven_again_and_again_each_time_in_the_same_place(self) -> None:
        self.mill.power()
        self.scale("60 mm")
        self.assertLess(contradiction(self.passes()), 1)
        self.scale("-60 mm")
        self.assertGreater(contradiction(self.passes()), 1)
        self.assertEqual([len(one) >= 2 for one in by_way(self.passes())], [True, True])
        self.assertEqual({p.start for p in self.passes()}, {None})
        self.home("Y")
        for _ in range(3):
            self.scale("-60 mm")
        self.assertEqual(len({(p.commanded, round(p.start or 0)) for p in self.passes()[-3:]}), 1)
        kept = self.mill.session._shelf.passes(self.mill.session.name)["Y"]
        self.assertEqual([p.start for p in kept], [p.start for p in self.passes()])


class Bed(OnVerge):
    def setUp(self) -> None:
        super().setUp()
        self.home("Z", "X", "Y")
        self.bed = load("verge").bed

    def prove_scale(self) -> None:
        claim = scale_claim(self.mill.machine, Z)
        self.mill.session.prove(claim, True, "as if it had been measured", Witness.INSTRUMENT)

    def by_probe(self) -> LevelRun:
        """Ready to begin, on a grid of two by three."""
        run = LevelRun(self.mill.session)
        run.held = PROBE
        run.propose(2, 3)
        return run

    def assert_true(self, run: LevelRun) -> None:
        """Every place as it truly lies, against the first one."""
        found = run.found
        assert found is not None
        low = [float(self.mill.machine.axis(slot).number("travel.stop_low")) for slot in (X, Y)]  # of the rig's zero
        truth = [
            self.bed.height(*(each - zero for each, zero in zip(place, low, strict=True)))
            for place in found.grid.places
        ]
        for height, true in zip(found.heights, truth, strict=True):
            self.assertAlmostEqual(height - found.heights[0], true - truth[0], delta=found.expanded + 0.002)

    def test_a_bed_is_told_by_a_probe_as_it_truly_lies(self) -> None:
        self.assertIn("scale of Z first", self.by_probe().measure(0.3))
        self.prove_scale()
        found = self.first(run := self.by_probe(), 0.3)
        self.assertIs(found.end, Ending.PROVEN, found.words)
        self.assert_true(run)
        self.assertLess(float(found.figures["uncertainty"]), 0.01)
        claim = level_claim(self.mill.machine, X, Y)
        self.assertIs(self.mill.session.proofs[claim.key].witness, Witness.SENSOR)
        self.assertLess(self.hands.ask(do="probe")["deepest"], 0.2)
        self.assertNotIn("level.reading", self.person.asked)  # nobody reads anything

    def test_one_place_is_touched_again_and_the_others_are_kept(self) -> None:
        self.prove_scale()
        run = self.by_probe()
        self.first(run, 0.3)
        before = dict(run.heights)
        run.readings[4].drop()
        self.assertIsNone(run.found)
        self.assertTrue(run.goes_on)
        touched = {number: list(places) for number, places in run.touches.items()}
        self.assertIs(self.again(run, 0.3).end, Ending.PROVEN)
        self.assertEqual({k: v for k, v in run.heights.items() if k != 4}, {k: v for k, v in before.items() if k != 4})
        self.assertNotEqual(run.touches[4], touched.get(4))
        self.assert_true(run)

    def test_a_probe_of_another_length_is_seen_before_anything_is_mixed(self) -> None:
        self.prove_scale()
        run = self.by_probe()
        self.first(run, 0.3)
        run.readings[0].drop()
        self.hands.ask(do="probe", over=3)  # clamped anew
        found = self.again(run, 0.3)
        self.assertIs(found.end, Ending.FAILED)
        self.assertIn("has slipped", found.words)
        self.assertEqual(run.heights, {})

    def test_a_probe_that_is_not_felt_moves_nothing(self) -> None:
        self.prove_scale()
        self.hands.ask(do="break", switch="touch plate")
        run = self.by_probe()
        self.assertEqual(run.measure(0.3), "")
        for key in ("level.probe", "touch.plate"):
            question = self.mill.loop.until(lambda: run.question, 30) and run.question
            assert question is not None
            self.assertEqual(question.key, key)
            run.answer("")  # it is done, says whoever pushed at it
        self.assertTrue(self.mill.loop.until(lambda: not run.running, 30))
        assert run.result is not None
        self.assertIs(run.result.end, Ending.FAILED)
        self.assertIn("Nothing was moved", run.result.words)
        self.assertEqual(run.heights, {})

    def test_places_read_by_a_dial_outlive_an_interruption(self) -> None:
        self.person.ends_at = ("level.reading", 4)
        run = LevelRun(self.mill.session)
        run.propose(2, 3)
        self.assertIs(self.first(run, 0.3).end, Ending.STOPPED)
        self.assertEqual(sorted(run.heights), [0, 1, 2])
        found = self.again(run, 0.3)
        self.assertIs(found.end, Ending.PROVEN, found.words)
        self.assertEqual(self.person.asked.count("level.reading"), 1 + 3 + 1)
        self.assertNotIn("level.zero", self.person.asked)
        self.assert_true(run)

    def test_a_dial_whose_zero_was_touched_meanwhile_begins_anew(self) -> None:
        self.person.ends_at = ("level.reading", 4)
        run = LevelRun(self.mill.session)
        run.propose(2, 3)
        self.first(run, 0.3)
        self.mill.session.link.jog_step(Z, 1, 300)
        stood = self.at(Z)
        self.assertTrue(self.mill.loop.until(lambda: self.at(Z) > stood + 0.9, 20))
        self.hands.ask(do="zero", over="bed", instrument="dial")
        found = self.again(run, 0.3)
        self.assertIs(found.end, Ending.FAILED)
        self.assertIn("has slipped", found.words)
        self.assertEqual(self.again(run, 0.3).end, Ending.PROVEN)


class Table(OnVerge):
    def test_a_table_that_comes_back_is_proven_by_a_dial_at_a_radius(self) -> None:
        self.home("A")
        found = self.run_it("return", "A", tolerance="0.05°")
        self.assertIs(found.end, Ending.PROVEN, found.words)
        self.assertTrue(self.mill.proven("return.A"))
        self.assertIn("return.radius", self.person.asked)
        self.assertLess(float(found.figures["half"]), 2 * at_radius(DIALS[0], 60).resolution)

    def test_one_arrival_is_made_again_and_counted_in_its_own_time(self) -> None:
        self.home("Y")
        run = ComebackRun(self.mill.session)
        self.assertIs(self.first(run, Y, 0.02).end, Ending.PROVEN)
        run.readings(Y)[2].drop()
        self.assertIsNone(run.found(Y))
        self.assertIs(self.again(run, Y, 0.02).end, Ending.PROVEN)
        self.assertEqual(self.person.asked.count("return.reading"), 2)
        self.assertEqual(run.arrivals["Y"][2].turn, 12)
        self.assertIn("; 1 reading taken again", self.mill.session.proofs["return.Y"].result)
        self.assertEqual(len(run.readings(Y)), 12)


class OnFusee(Remeasured):
    rig = "fusee"

    def setUp(self) -> None:
        super().setUp()
        self.run_it("learn")
        self.mill.session.set_values({at(X, "axis.reversed"): True})
        self.mill.send()

    def test_a_motor_is_seen_by_its_encoder_and_nothing_behind_it_is_proven(self) -> None:
        self.home("C")
        self.person.asked.clear()
        run = ComebackRun(self.mill.session)
        run.held = ENCODER
        found = self.first(run, 2, 0.1)
        self.assertIs(found.end, Ending.NOT_PROVEN, found.words)
        self.assertIs(verdict(run.found(2), 0.1), ComebackVerdict.MOTOR)
        self.assertEqual(self.person.asked, [])
        self.assertLess(float(found.figures["half"]), 0.05)
        self.assertFalse(self.mill.proven("return.C"))

    def test_an_axis_without_an_encoder_has_none_to_ask(self) -> None:
        self.home("X")
        run = ComebackRun(self.mill.session)
        run.held = RETURN_BY[1]
        self.assertIn("no encoder", run.measure(0, 0.02))
        self.assertEqual(ENCODER.words(Measures(inch=True)), ENCODER.words(Measures()))  # it has no division of its own

    def test_one_angle_is_read_again(self) -> None:
        self.home("C")
        run = RunoutRun(self.mill.session)
        self.first(run, 2, 0.02)
        first = run.found(2)
        run.readings(2)[1].drop()
        self.assertTrue(run.goes_on(2))
        self.again(run, 2, 0.02)
        second = run.found(2)
        assert first is not None and second is not None
        self.assertEqual(self.person.asked.count("runout.reading"), 3)  # what was read, what was missing, and the end
        self.assertAlmostEqual(first.off, second.off, delta=first.expanded)


if __name__ == "__main__":
    unittest.main()
