"""A whole machine commissioned without a window: what docs/library.md promises, on the real bench over its real wire."""

from __future__ import annotations

import contextlib
import io
import re
import tempfile
import unittest
from pathlib import Path

from idler import new_machine, open_machine
from idler.core.machine import Address, Machine, Shape
from idler.core.machine import file as machinefile
from idler.core.proof.claims import STOPS, Witness, direction_claim
from idler.core.report.agenda import KEEP
from idler.procedures.engine import Ending
from idler.procedures.registry import Wishes
from idler.shelf.shelf import Shelf
from tests.person import Person
from tests.support import DEADLINE, Bench, shared_bench, wiring


class Commissioning(unittest.TestCase):
    bench: Bench

    @classmethod
    def setUpClass(cls) -> None:
        cls.bench = shared_bench(cls, pace=40)

    def setUp(self) -> None:
        self.bench.hands.ask(do="deliver")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)
        new_machine("verge", shelf=self.root)
        self.said: list[str] = []
        self.verge = open_machine("verge", self.root, says=self.said.append)
        self.addCleanup(self.verge.close)
        self.verge.connect(self.bench.link)
        self.person = Person(self.verge, self.bench.hands)

    def prove(self, word: str, axis: str = "", wishes: Wishes | None = None) -> None:
        """Until it is proven; a computer that pauses ends a run, rightly, and a person tries again."""
        for _ in range(4):
            if word not in ("learn", "stop", "touch"):
                self.verge.power()
            if axis:
                self.person.look_first(axis)
            limit = self.verge.loop.timer(DEADLINE, lambda: self.verge.procedure.stop("It takes too long."), once=True)  # type: ignore[union-attr]
            limit.start()
            result = self.verge.run(word, axis, self.person, wishes)
            limit.stop()
            if result.end is Ending.PROVEN or (result.end is Ending.DONE and not result.edit):
                return
            if result.edit:  # what a person would do about it is what is proposed
                self.verge.take(result)
                self.verge.send()
        self.fail(f"{word} {axis}: {result.words}")

    def test_what_stopped_it_is_said_with_what_speaks_for_it(self) -> None:
        self.verge.session.set_values(wiring())
        self.verge.send()
        self.verge.power()
        self.bench.hands.ask(do="press", switch="emergency stop")
        self.addCleanup(self.bench.hands.ask, do="release", switch="emergency stop")
        self.verge.loop.until(lambda: any("likely:" in said for said in self.said), DEADLINE)
        (said,) = [said for said in self.said if "likely:" in said]
        self.assertIn("likely: Somebody pressed the emergency stop. Input ", said)
        self.assertIn("stayed pressed", said)

    def test_a_machine_that_was_written_for_other_terminals(self) -> None:
        """Learning saw terminals that the machine did not have, and fell over them."""
        shelf, told = Shelf(self.root), self.verge.machine
        for name, count, role in (("few", 4, "none"), ("many", 30, "guard")):
            written = Machine.shaped(Shape(told.names, count, 2), {Address(count - 1, "input.role"): role})
            shelf.add(name, machinefile.write(written), "as it was described", 0.0)
        self.verge.close()
        with open_machine("few", self.root, says=self.said.append) as few:
            few.connect(self.bench.link)
            self.assertEqual(few.machine.shape, told.shape)
            self.assertIn("the machine has them now", " ".join(self.said))
            few.send()
            agenda = few.session.agenda
            for step in agenda.steps:
                if step.key != KEEP:
                    agenda.skip(step.key, "not here")
            self.assertEqual(agenda.next and agenda.next.key, KEEP, "no revision has these terminals yet")
            few.session.history.keep("with its terminals")
            self.assertIsNone(agenda.next)
            few.session.prove(direction_claim(few.machine, 0), True, "seen", Witness.EYES)
            self.assertEqual(agenda.next and agenda.next.key, KEEP, "what was proven since is in no revision either")
            few.session.history.keep("with what was proven")
            self.assertIsNone(agenda.next)
            while few.machine.inputs != 4:
                few.session.undo()
            self.assertIn("Make a machine of what it holds", few.run("learn", "", self.person).words)
        with open_machine("many", self.root) as many:
            many.connect(self.bench.link)
            self.assertEqual(many.machine.inputs, 30, "one that has a role is not lost")
            self.assertIs(many.run("learn", "", self.person).end, Ending.FAILED)

    def test_verge_from_delivery_to_its_ends_and_spindle(self) -> None:
        verge = self.verge
        self.prove("learn")
        verge.session.set_values({where: role for where, role in wiring().items() if where.key == "output.role"})
        verge.send()
        for word in ("stop", "touch"):
            self.prove(word)
        for axis in verge.machine.names:
            self.prove("direction", axis)
        self.prove("scale", "X", Wishes(length="-40 mm", instrument="blocks", tolerance="0.1 %"))
        self.prove("home")
        self.prove("ends", "X")
        self.verge.power()
        self.verge.take(self.verge.run("spindle-curve", answers=self.person))
        verge.send()
        self.prove("spindle-speeds")
        self.prove("spindle-way")
        for way in ("esc", "guard", "stop"):
            self.person.way = way
            self.prove("spindle-stop", wishes=Wishes(way=way))
        proven = [key for key in verge.proofs if verge.proven(key)]
        for key in ("wiring.stop", "wiring.home.X", "direction.A", "scale.X", "home.all", "ends.X", "spindle.way"):
            self.assertIn(key, proven)
        self.assertEqual([way for way in ("esc", "guard", "stop") if not verge.proven(f"spindle.{way}")], [], STOPS)
        self.assertEqual(max(axis["struck"] for axis in self.bench.hands.ask(do="look")["axes"]), 0)


class Page(unittest.TestCase):
    def test_the_examples_of_its_page_run(self) -> None:
        bench = shared_bench(type(self), pace=20)
        page = (Path(__file__).parent.parent / "docs" / "library.md").read_text("utf-8")
        examples = re.findall(r"```python\n(.*?)```", page, re.DOTALL)
        self.assertEqual(len(examples), 2)
        with tempfile.TemporaryDirectory() as folder:
            new_machine("verge", shelf=folder)
            with open_machine("verge", folder) as verge:
                verge.session.set_values(wiring())
            said = io.StringIO()
            for example in examples:
                text = example.replace("slcan://127.0.0.1:29536", bench.link).replace('"verge"', f'"verge", {folder!r}')
                with contextlib.redirect_stdout(said):
                    exec(compile(text, "docs/library.md", "exec"), {})
            self.assertIn("home was found. True", said.getvalue())
            self.assertIn("X: the table was seen to go to the left.", said.getvalue())
            self.assertIn("Ending.PROVEN", said.getvalue())
