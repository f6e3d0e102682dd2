"""Play and square on rigs whose truth is known: what is called proven is true, and what is proposed mends it."""

from __future__ import annotations

import tempfile
import unittest
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

from idler import new_machine, open_machine
from idler.core.errors import Refusal
from idler.core.machine import Address
from idler.core.proof.claims import Witness, direction_claim, ends_claim, input_claim, pace_claim
from idler.core.values.parameter import Value
from idler.core.wiring import home_switch, inputs
from idler.procedures.engine import Ending, Result, Trouble
from idler.procedures.geometry.kept import KeptRun
from idler.procedures.geometry.square import LENGTHS, SquareRun
from idler.procedures.homing.run import HomingRun
from idler.procedures.questions import Question
from idler.procedures.registry import Wishes
from tests.person import Person
from tests.support import Bench, at, changed_rig, shared_bench, wiring

X, Y, Z = 0, 1, 2
NEAR = 0.05  # mm: how far a sample of a motion may lie beside what it comes to
TRUTH = -1000 * 0.6 / 1400  # mm per m by which the beam of Longcase stands askew where each side stops on its switch


class Careless(Person):
    """loose, slips: whether the dial touches nothing, or slips in its holder. turned_round: whether it is read with its sign
    turned round. ends_at: Esc is pressed instead of this answer, the so manieth to such a question."""

    loose = slips = turned_round = False
    ends_at = ("", 0)

    def __call__(self, question: Question[Any]) -> str | None:
        if self.ends_at == (question.key, self.asked.count(question.key) + 1):
            self.asked.append(question.key)
            self.machine.session.stop()
            return None
        if self.slips and question.key == "level.reading" and self.asked.count(question.key) == 4:
            self.hands.ask(do="zero", over="bed", instrument=question.instrument)
        said = super().__call__(question)
        if self.loose and question.key.endswith((".follows", ".reading")):
            return "0 mm"
        return (
            f"-{said}".replace("--", "") if self.turned_round and said and question.key.startswith("blade.") else said
        )


class OnRig(unittest.TestCase):
    """A machine on the bench of its rig; where `otherwise` is told, of one like it."""

    rig = "verge"
    pace: float = 100
    otherwise: Callable[[dict[str, Any]], object] | None = None  # changes the data of the rig
    bench: Bench

    @classmethod
    def setUpClass(cls) -> None:
        rig = cls.rig
        if cls.otherwise is not None:
            folder = tempfile.TemporaryDirectory()
            cls.addClassCleanup(folder.cleanup)
            rig = changed_rig(Path(folder.name), rig, cls.otherwise)
        cls.bench = shared_bench(cls, rig, cls.pace)

    def setUp(self) -> None:
        self.hands = self.bench.hands
        self.hands.ask(do="deliver")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        new_machine(self.rig, self.rig, shelf=Path(folder.name))
        self.mill = open_machine(self.rig, Path(folder.name))
        self.addCleanup(self.mill.close)
        self.mill.connect(self.bench.link)
        self.judges: list[Callable[[], None]] = []
        self.person = Careless(self.mill, self.hands)

    def home(self, *names: str) -> None:
        """As if all that lets an axis go quickly had been proven."""
        machine = self.mill.machine
        for name in names:
            number = home_switch(machine, machine.names.index(name))
            assert number is not None
            slot = machine.names.index(name)
            touched = input_claim(machine, inputs(machine)[number])
            for claim in (
                touched,
                direction_claim(machine, slot),
                pace_claim(machine, slot),
                ends_claim(machine, slot),
            ):
                self.mill.session.prove(claim, True, "as if it had been seen", Witness.EYES)
        self.mill.power()
        self.judge()
        for name in names:
            got = self.mill.run("home", name, self.person)
            self.assertIs(got.end, Ending.PROVEN, f"{got.words} {self.mill.session.refusal}")
        self.watch()

    def watch(self) -> None:
        """From here on it is seen where the axes go: no measuring leaves the soft limits, or meets iron."""
        seen: dict[int, list[float]] = {}

        def look() -> None:
            for axis in self.mill.machine.axes:
                if not axis.rotary and self.mill.session.homes.known(axis.slot):
                    seen.setdefault(axis.slot, []).append(self.at(axis.slot))

        def judge() -> None:
            looks.stop()
            for slot, places in seen.items():
                axis = self.mill.machine.axis(slot)
                low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
                self.assertGreaterEqual(min(places), low - NEAR, axis.name)
                self.assertLessEqual(max(places), high + NEAR, axis.name)
            self.assertEqual(max(each["struck"] for each in self.hands.ask(do="look")["axes"]), 0)

        looks = self.mill.loop.timer(0.02, look)
        looks.start()
        self.judges.append(judge)

    def judge(self) -> None:
        """What was watched so far; what comes now is not: a homing leaves the soft limits."""
        while self.judges:
            self.judges.pop()()

    def at(self, slot: int) -> float:
        return self.mill.session.axes[slot].position

    def tearDown(self) -> None:
        self.judge()

    def run_it(self, word: str, axis: str = "", **wishes: Any) -> Result:
        return self.mill.run(word, axis, self.person, Wishes(**wishes))


class Upright(OnRig):
    """Verge's head leans by 0.22 mm per m to + of X, going up, and by 0.35 to − of Y."""

    def test_the_head_of_a_mill_is_told_by_a_square_that_stands_on_the_bed(self) -> None:
        session = self.mill.session
        session.set_values(wiring())
        session.set_values({at(Y, "axis.reversed"): True})
        self.mill.send()
        self.home("Z", "X", "Y")
        for slot, place in ((X, -150), (Y, -93), (Z, -110)):
            session.link.jog_step(slot, place - self.at(slot), 2000)
            self.assertTrue(session.loop.until(lambda slot=slot, place=place: abs(self.at(slot) - place) < 0.1, 60))
            self.assertTrue(session.loop.until(lambda: not session.moving, 20))
        for plane, lean, wanted, end in (("XZ", 0.22, "2", Ending.PROVEN), ("YZ", -0.35, "0.1", Ending.NOT_PROVEN)):
            self.person.asked.clear()
            found = self.run_it("blade", length="80 mm", tolerance=wanted, plane=plane)
            self.assertEqual(found.end, end, found.words)
            self.assertAlmostEqual(float(found.figures["angle"]), lean, delta=float(found.figures["uncertainty"]))
            self.assertEqual(found.edit, {})
            self.assertEqual(self.mill.proven(f"square.{plane}"), end is Ending.PROVEN)
        self.assertIn("The column leans: over 80 mm of Z", found.words)
        with self.assertRaisesRegex(Refusal, "One of XY, XZ, YZ"):
            self.run_it("blade", plane="XX")


class Unpowered(OnRig):
    rig = "longcase"

    def setUp(self) -> None:
        super().setUp()
        self.run_it("learn")  # all but a guard, which this machine has not
        second = {"role": "home_second", "axis": "Y", "rest": "open"}
        self.mill.session.set_values({at(5, f"input.{key}"): value for key, value in second.items()})
        self.mill.session.set_values({at(Y, "axis.second_reversed"): True})
        self.mill.send()

    def test_a_beam_springs_back_where_it_loses_its_current(self) -> None:
        session = self.mill.session
        self.home("X", "Y")
        self.judges.clear()  # there are no soft limits yet
        at_home = self.hands.look("Y")["at"]
        session.power(False)
        self.assertTrue(session.loop.until(lambda: not session.homes.known(Y), 20))
        self.assertTrue(session.homes.known(X))
        self.assertGreater(abs(self.hands.look("Y")["at"] - at_home), 0.1)

    def test_a_home_of_another_coordinate_is_none(self) -> None:
        """Soft limits that are told with it would hold elsewhere until it is homed again."""
        session = self.mill.session
        self.home("X")
        self.judges.clear()
        session.set_values({at(X, "homing.coordinate"): Fraction(100), at(X, "travel.high"): Fraction(1350)})
        session.send()
        self.assertTrue(session.loop.until(lambda: not session.homes.known(X) and not session.count().edited, 20))

    def test_an_axis_whose_switch_is_no_input_does_not_look_for_it(self) -> None:
        """It would go on to the end of its search, or into iron."""
        session = self.mill.session
        number = home_switch(self.mill.machine, Y)
        session.set_values({at(number, "input.role"): "none"})  # type: ignore[arg-type]
        self.mill.send()
        self.mill.power()
        before, run = self.hands.look("Y")["at"], HomingRun(session)
        self.assertEqual(
            run.home((Y,)),
            "Y homes by its home switch, and no input is that: it cannot home. Learn it at Wiring first.",
        )
        self.assertFalse(run.running)
        with self.assertRaisesRegex(Trouble, "no input is that"):  # nor does an own action, or any other run
            run.find_home(Y)
        self.assertEqual(run.home((X,)), "")
        self.mill.session.stop()
        self.assertAlmostEqual(self.hands.look("Y")["at"], before, delta=0.1)

    def test_whoever_pushes_an_axis_may_have_moved_it(self) -> None:
        self.home("X")
        self.judges.clear()
        self.assertIs(self.run_it("stop").end, Ending.PROVEN)
        self.assertFalse(self.mill.session.homes.known(X))


class Play(OnRig):
    def setUp(self) -> None:
        super().setUp()
        session = self.mill.session
        session.set_values(wiring())
        session.set_values({at(Y, "axis.reversed"): True})
        self.mill.send()

    def test_a_worn_middle_is_found_taken_up_as_far_as_it_can_be_and_proven(self) -> None:
        self.home("Y")
        found = self.run_it("play", "Y", tolerance="0.03 mm")
        self.assertEqual(found.end, Ending.NOT_PROVEN, found.words)
        for key, truth in (("play_1", 0.02), ("play_2", 0.05), ("play_3", 0.02)):
            self.assertAlmostEqual(float(found.figures[key]), truth, delta=float(found.figures["uncertainty"]) + 0.001)
        self.assertEqual(list(found.edit), [at(Y, "play.backlash")], found.words)
        self.assertAlmostEqual(float(found.edit[at(Y, "play.backlash")]), 0.035, delta=0.006)  # type: ignore[arg-type]
        self.mill.take(found)
        self.mill.send()
        self.home("Y")
        again = self.run_it("play", "Y", tolerance="0.03 mm")
        self.assertEqual(again.end, Ending.PROVEN, again.words)
        self.assertTrue(self.mill.proven("play.Y"))
        self.mill.session.set_values({at(Y, "play.backlash"): Fraction(0)})
        self.assertFalse(self.mill.proven("play.Y"))

    def test_the_play_of_a_table_is_told_by_a_dial_at_a_radius(self) -> None:
        """Verge's table has 0.05° of it; an arm of 60 mm shows 0.052 mm."""
        self.home("A")
        found = self.run_it("play", "A", tolerance="0.01°")
        self.assertEqual(found.end, Ending.NOT_PROVEN, found.words)
        for key in ("play_1", "play_2", "play_3"):
            self.assertAlmostEqual(float(found.figures[key]), 0.05, delta=float(found.figures["uncertainty"]) + 0.001)
        self.mill.take(found)
        self.mill.send()
        self.home("A")
        again = self.run_it("play", "A", tolerance="0.02°")
        self.assertEqual(again.end, Ending.PROVEN, again.words)
        self.assertTrue(self.mill.proven("play.A"))

    def test_a_dial_that_touches_nothing_proves_nothing(self) -> None:
        self.home("Y")
        self.person.loose = True
        found = self.run_it("play", "Y")
        self.assertEqual(found.end, Ending.FAILED)
        self.assertIn("does not follow the axis", found.words)
        self.assertFalse(self.mill.proven("play.Y"))

    def test_places_that_are_whole_outlive_an_interruption(self) -> None:
        self.home("Y")
        self.person.ends_at = ("play.reading", 9)  # in the second place
        self.assertEqual(self.run_it("play", "Y").end, Ending.STOPPED)
        run, self.person.ends_at = self.mill.procedure, ("", 0)
        self.person.asked.clear()
        run.measure(Y)  # type: ignore[union-attr]
        self.mill.loop.until(lambda: self.answer(run), 60)
        self.assertEqual(self.person.asked.count("play.zero"), 2)

    def answer(self, run: Any) -> bool:
        if run.question is not None:
            run.answer(self.person(run.question))
        return not run.running


class Loose(OnRig):
    """A table with 0.3° of play: more than a dial may be off by, for it to follow."""

    @staticmethod
    def otherwise(data: dict[str, Any]) -> None:
        data["motor"]["A"]["backlash"] = 0.3

    def test_what_is_measured_does_not_keep_the_dial_from_following(self) -> None:
        self.mill.session.set_values(wiring())
        self.mill.send()
        self.home("A")
        found = self.run_it("play", "A", tolerance="0.1°")
        self.assertEqual(found.end, Ending.NOT_PROVEN, found.words)
        self.assertAlmostEqual(float(found.figures["play_1"]), 0.3, delta=float(found.figures["uncertainty"]) + 0.001)
        back = self.run_it("return", "A", tolerance="0.1°")
        self.assertEqual(back.end, Ending.PROVEN, back.words)


class Square(OnRig):
    """Longcase: the beam of Y stands askew by 0.6 mm over 1400 when each side stops on its own switch."""

    rig = "longcase"

    def setUp(self) -> None:
        super().setUp()
        told: dict[Address, Value] = {at(X, "chain.microsteps"): 8, at(Y, "axis.second_reversed"): True}
        for number, role, axis, rest in (
            (3, "stop", "none", "closed"), (1, "home", "X", "closed"),
            (5, "home", "Y", "closed"), (6, "home_second", "Y", "open"),
        ):  # fmt: skip
            told |= {
                at(number - 1, f"input.{key}"): value for key, value in (("role", role), ("axis", axis), ("rest", rest))
            }
        self.mill.session.set_values(told)
        self.mill.send()
        self.home("X", "Y")

    def measure(self, **changes: Any) -> Result:
        """With the width of the beam told."""
        run = SquareRun(self.mill.session)
        self.mill.procedure = run
        run.instrument = next(item for item in LENGTHS if item.key == "trammel")
        run.propose()
        run.across = 1400.0
        for name, value in changes.items():
            setattr(run, name, value)
        self.assertEqual(run.measure(0.3), "")
        return self.mill._drive(run, self.person)

    def test_out_of_square_corrected_homed_and_proven(self) -> None:
        found = self.measure()
        self.assertEqual(found.end, Ending.NOT_PROVEN, found.words)
        self.assertAlmostEqual(float(found.figures["angle"]), -0.6 / 1.4, delta=float(found.figures["uncertainty"]))
        self.assertAlmostEqual(float(found.edit[at(Y, "homing.squaring")]), 0.6, delta=0.14)  # type: ignore[arg-type]
        self.mill.take(found)
        self.mill.send()
        self.home("X", "Y")
        again = self.measure()
        self.assertEqual(again.end, Ending.PROVEN, again.words)
        self.assertTrue(self.mill.proven("square.XY"))
        run: Any = self.mill.procedure
        run.readings[0].drop()
        kept = self.mill.session.proofs["square.XY"]
        run.settle(0.2)  # what is missing is taken first
        self.assertIs(self.mill.session.proofs["square.XY"], kept)
        self.person.asked.clear()
        self.assertEqual(run.measure(0.3), "")
        self.assertIs(self.mill._drive(run, self.person).end, Ending.PROVEN)
        self.assertEqual(self.person.asked, ["square.rising"])
        self.mill.session.set_values({at(Y, "homing.squaring"): Fraction(0)})
        self.assertFalse(self.mill.proven("square.XY"))

    def test_a_tape_that_cannot_tell_it_proves_nothing(self) -> None:
        found = self.measure(instrument=next(item for item in LENGTHS if item.key == "tape"))
        self.assertEqual((found.end, dict(found.edit)), (Ending.NOT_PROVEN, {}), found.words)

    def test_marks_of_another_offset_and_readings_of_another_instrument_are_not_gone_on_with(self) -> None:
        self.person.ends_at = ("square.falling", 1)
        self.assertEqual(self.measure().end, Ending.STOPPED)
        run: Any = self.mill.procedure
        self.assertEqual((run.corner, len(run.rising)), (4, 1))
        run.take(next(item for item in LENGTHS if item.key == "tape"))
        self.assertEqual((run.corner, run.rising), (4, []))
        run.take(next(item for item in LENGTHS if item.key == "trammel"))
        self.mill.session.set_values({at(Y, "homing.squaring"): Fraction(6, 10)})
        self.mill.send()
        self.home("X", "Y")
        self.person.asked.clear()
        self.person.ends_at, self.mill.procedure = ("", 0), run
        self.assertEqual(run.measure(0.3), "")
        self.assertIs(self.mill._drive(run, self.person).end, Ending.PROVEN)
        self.assertEqual(self.person.asked.count("square.mark"), 4)

    def to_the_middle(self) -> None:
        for slot in (X, Y):
            axis = self.mill.machine.axis(slot)
            place = (float(axis.number("travel.low")) + float(axis.number("travel.high"))) / 2
            self.mill.session.link.jog_step(slot, place - self.at(slot), 6000)
            self.assertTrue(
                self.mill.session.loop.until(lambda slot=slot, place=place: abs(self.at(slot) - place) < 0.1, 60)
            )  # type: ignore[misc]
        self.assertTrue(self.mill.session.loop.until(lambda: not self.mill.session.moving, 20))

    def test_by_a_square_that_is_turned_over_its_own_error_drops_out(self) -> None:
        self.to_the_middle()
        got = self.run_it("blade", length="200 mm")
        self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
        self.assertAlmostEqual(float(got.figures["angle"]), TRUTH, delta=float(got.figures["uncertainty"]) + 0.01)
        self.assertLess(float(got.figures["uncertainty"]), 0.2)
        self.assertIn("The square itself has", got.words)
        self.assertFalse(self.mill.session.proofs["square.XY"].passed)
        self.mill.session.link.jog_step(X, 1150 - self.at(X), 6000)
        self.assertTrue(self.mill.session.loop.until(lambda: self.at(X) > 1149, 60))
        self.assertTrue(self.mill.session.loop.until(lambda: not self.mill.session.moving, 20))
        got = self.run_it("blade", length="200 mm", tolerance="2")  # it makes room for the square first
        self.assertIs(got.end, Ending.PROVEN, got.words)
        self.person.turned_round = True
        self.assertIn("its sign is turned round", self.run_it("blade", length="200 mm").words)

    def test_a_corner_that_was_left_is_gone_to_again_and_marks_outlive_stop(self) -> None:
        self.person.ends_at = ("square.mark", 3)
        self.assertEqual(self.measure().end, Ending.STOPPED)
        run: Any = self.mill.procedure
        self.assertEqual(run.corner, 2)
        self.person.asked.clear()
        self.person.ends_at = ("", 0)
        self.assertEqual(run.measure(0.3), "")
        self.mill._drive(run, self.person)
        self.assertEqual(self.person.asked.count("square.mark"), 2)


if __name__ == "__main__":
    unittest.main()


class Level(OnRig):
    def setUp(self) -> None:
        super().setUp()
        self.mill.session.set_values(wiring())
        self.mill.session.set_values({at(X, "chain.pitch"): Fraction(4), at(Y, "axis.reversed"): True})
        self.mill.send()
        self.home("Z", "X", "Y")

    def test_a_bed_that_lies_askew_is_told_by_how_much_at_which_corner(self) -> None:
        got = self.run_it("level", tolerance="0.05 mm")
        self.assertIs(got.end, Ending.NOT_PROVEN)
        self.assertIn("lies askew", got.words)
        figures = {name: float(value) for name, value in got.figures.items()}
        for number, slope in ((1, 0.35), (2, -0.22)):
            self.assertAlmostEqual(figures[f"slope_{number}"], slope, delta=0.06)
        self.assertAlmostEqual(figures["raise_2"], 0.0, delta=0.005)
        self.assertAlmostEqual(figures["raise_1"], 0.35 * 0.3, delta=0.02)
        self.assertGreater(self.at(Z), -self.person.lowers + 2)  # lifted off the bed at the end
        proof = self.mill.session.proofs["level"]
        self.assertEqual((proof.passed, proof.witness), (False, Witness.INSTRUMENT))
        self.assertIs(self.run_it("level", tolerance="0.3 mm").end, Ending.PROVEN)

    def test_a_dial_that_slips_proves_nothing_and_stop_leaves_no_half_map(self) -> None:
        self.person.slips = True
        got = self.run_it("level")
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("has slipped", got.words)
        self.assertNotIn("level", self.mill.session.proofs)
        self.person.slips, self.person.loose = False, True
        self.assertIn("does not stand against the bed", self.run_it("level").words)
        self.person.loose, self.person.ends_at = False, ("level.reading", 14)
        self.assertIs(self.run_it("level").end, Ending.STOPPED)
        self.assertNotIn("level", self.mill.session.proofs)


class Comeback(OnRig):
    def setUp(self) -> None:
        super().setUp()
        self.mill.session.set_values(wiring())
        self.mill.session.set_values({at(Y, "axis.reversed"): True})
        self.mill.send()

    def test_a_sound_axis_comes_back_and_its_play_is_not_in_it(self) -> None:
        self.home("Y")
        found = self.run_it("return", "Y", tolerance="0.02 mm")
        self.assertIs(found.end, Ending.PROVEN, found.words)
        self.assertEqual(self.person.asked.count("return.reading"), 12)
        self.assertTrue(self.mill.proven("return.Y"))
        self.assertIs(self.mill.session.proofs["return.Y"].witness, Witness.INSTRUMENT)
        self.assertEqual(max(each["struck"] for each in self.hands.ask(do="look")["axes"]), 0)
        self.mill.session.set_values({at(Y, "pace.acceleration"): Fraction(300)})
        self.assertFalse(self.mill.proven("return.Y"))

    def test_an_axis_that_loses_steps_on_the_way_does_not_come_back(self) -> None:
        self.mill.session.set_values({at(None, "signals.direction_setup"): Fraction(0)})
        self.mill.send()
        self.home("Y")
        found = self.run_it("return", "Y")
        self.assertIs(found.end, Ending.NOT_PROVEN, found.words)
        self.assertIn("wanders with time", found.words)

    def test_a_dial_that_touches_nothing_proves_nothing(self) -> None:
        self.home("Y")
        self.person.loose = True
        found = self.run_it("return", "Y")
        self.assertIs(found.end, Ending.FAILED)
        self.assertIn("does not follow the axis", found.words)
        self.assertNotIn("return.Y", self.mill.session.proofs)


class Turning(OnRig):
    def setUp(self) -> None:
        super().setUp()
        self.mill.session.set_values(wiring())
        self.mill.send()
        self.home("A")

    def test_what_stands_beside_the_middle_is_told_with_the_push_that_mends_it(self) -> None:
        got = self.run_it("runout", "A", tolerance="0.01 mm")
        self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
        figures = {name: float(value) for name, value in got.figures.items()}
        self.assertAlmostEqual(figures["total"], 0.024, delta=figures["uncertainty"])
        at_home = self.hands.look("A")["at"] - self.at(3)  # where the rig's 0° lies in the machine's
        off = (figures["toward"] + at_home - 75 + 180) % 360 - 180
        self.assertLess(abs(off), 20)
        self.assertIs(self.run_it("runout", "A", tolerance="0.05 mm").end, Ending.PROVEN)
        self.assertIs(self.mill.session.proofs["runout.A"].witness, Witness.INSTRUMENT)

    def test_a_dial_that_touches_nothing_proves_nothing(self) -> None:
        self.person.loose = True
        got = self.run_it("runout", "A", tolerance="0.05 mm")
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("does not stand against the bar", got.words)
        self.assertNotIn("runout.A", self.mill.session.proofs)
        self.assertIn("goes straight", self.run_it("runout", "X").words)
        self.assertIn("no lathe", self.run_it("tailstock").words)


class Lathe(OnRig):
    rig = "fusee"

    def test_a_home_that_is_off_by_the_play_that_is_taken_up_since_is_one(self) -> None:
        """A switch is met from the other side than the counts began at; nobody could say that steps were lost, or it moved."""
        self.assertIs(self.run_it("learn").end, Ending.DONE)
        self.mill.send()
        self.home("Z")
        self.judges.clear()  # it has no soft limits yet
        session = self.mill.session
        session.set_values({at(1, "play.backlash"): Fraction(40, 1000)})
        session.send()
        self.assertTrue(session.loop.until(lambda: not session.count().edited, 20))
        for way in (-30.0, 10.0, -5.0):
            self.assertIs(self.run_it("move", "Z", length=f"{way} mm").end, Ending.DONE)
        self.home("Z")
        self.judges.clear()
        self.assertNotIn("home.elsewhere", self.person.asked)

    def test_two_diameters_tell_where_the_tail_centre_stands(self) -> None:
        got = self.run_it("tailstock")
        self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
        self.assertAlmostEqual(float(got.figures["off"]), 0.045, delta=float(got.figures["uncertainty"]))
        self.assertIn("towards the tool, turn the bar anew", got.words)
        self.assertIs(self.run_it("tailstock", tolerance="0.1 mm").end, Ending.PROVEN)
        self.assertTrue(self.mill.proven("tailstock"))


class Kept(OnRig):
    def setUp(self) -> None:
        super().setUp()
        self.mill.session.set_values(wiring())
        self.mill.session.set_values({at(Y, "axis.reversed"): True, at(X, "chain.pitch"): Fraction(4)})
        self.mill.send()

    def keep(self, moves: int) -> Result:
        self.judge()
        self.mill.procedure = run = KeptRun(self.mill.session)
        self.assertEqual(run.try_it(moves), "")
        return self.mill._drive(run, self.person)

    def test_all_axes_at_once_keep_their_steps_and_stay_inside(self) -> None:
        self.home("Z", "X")
        self.assertIn("Y and A are not homed yet", self.run_it("kept").words)
        self.judge()  # it touches the switches as a homing does, and is watched here
        self.home("Y", "A")
        seen: dict[int, list[float]] = {slot: [] for slot in (X, Y, Z)}
        looks = self.mill.loop.timer(0.02, lambda: [seen[slot].append(self.at(slot)) for slot in seen])

        def notice() -> None:  # between the touches, which leave the soft limits as every homing does
            (looks.start if 1 <= getattr(self.mill.procedure, "done", 0) < 10 else looks.stop)()

        self.mill.loop.timer(0.05, notice).start()
        got = self.keep(10)
        self.assertIs(got.end, Ending.PROVEN, got.words)
        self.assertEqual(set(got.figures), set("XYZA"))
        for slot, places in seen.items():
            axis = self.mill.machine.axis(slot)
            self.assertGreater(len(places), 5)
            self.assertGreaterEqual(min(places), float(axis.number("travel.low")))
            self.assertGreater(max(places) - min(places), 20)
        self.assertIs(self.mill.session.proofs["kept"].witness, Witness.SWITCH)
        self.assertEqual(max(each["struck"] for each in self.hands.ask(do="look")["axes"]), 0)

    def test_steps_that_are_lost_at_reversals_are_seen_by_the_switch(self) -> None:
        self.mill.session.set_values({at(None, "signals.direction_setup"): Fraction(0)})
        self.mill.send()
        self.home("Z", "X", "Y", "A")
        got = self.keep(10)
        self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
        self.assertIn("lost steps", got.words)
        self.assertFalse(self.mill.session.homes.known(Y))  # its place is not known any more
