"""A whole machine commissioned without a window: what docs/library.md promises, on the real bench over its real wire."""

from __future__ import annotations

import contextlib
import io
import re
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from idler import new_machine, open_machine
from idler.core.errors import IdlerError, Refusal
from idler.core.proof.claims import STOPS
from idler.library import Unreachable
from idler.procedures.engine import Ending
from idler.procedures.registry import Wishes
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

    def test_whoever_does_only_what_is_next_comes_to_a_proven_scale(self) -> None:
        """Wrong directions and a wrong pitch are met on the way, and what is proposed about them is taken."""
        verge, person, run = self.verge, self.person, self.verge.run
        verge.session.set_values({where: role for where, role in wiring().items() if where.key == "output.role"})

        def looking(word: str, axis: str = "", *more: Any) -> Any:
            if axis:
                person.look_first(axis)
            limit = verge.loop.timer(DEADLINE, lambda: verge.procedure.stop("It takes too long."), once=True)  # type: ignore[union-attr]
            limit.start()
            try:
                return run(word, axis, *more)
            finally:
                limit.stop()

        done: list[tuple[str, Ending]] = []
        with mock.patch.object(verge, "run", looking):
            for step, result in verge.work_through(person, take=True):
                done.append((step.key, result.end))
                if step.key == "scale.X" and result.end is Ending.PROVEN:
                    break
        keys = [key for key, _ in done]
        self.assertEqual(keys[0], "learn")
        self.assertEqual(keys.count("direction.Y"), 2)  # it goes the wrong way first
        for first, then in (("learn", "send"), ("wiring.stop", "direction.X"), ("direction.Y", "scale.X")):
            self.assertLess(keys.index(first), keys.index(then))
        self.assertEqual(verge["X", "chain.pitch"], 4)
        for key in ("wiring.stop", "wiring.guard", "direction.X", "direction.Y", "direction.A", "scale.X"):
            self.assertTrue(verge.proven(key), key)
        told = verge.session.agenda.next
        self.assertEqual(told.key if told else "", "scale.Y")

    def test_what_is_misspelt_is_told_with_what_is_near(self) -> None:
        for work, near in (
            (lambda: self.verge["X", "chain.pich"], "chain.pitch"), (lambda: self.verge["Q", "chain.pitch"], "X Y Z A"),
            (lambda: self.verge.run("hom"), "home"), (lambda: self.verge.proven("home.x"), "home.X"),
            (lambda: self.verge.run("scale", "X", wishes=Wishes(instrument="eye")), "blocks"),
        ):  # fmt: skip
            with self.assertRaises(Refusal) as why:
                work()
            self.assertIn(near, why.exception.sentence)

    def test_nothing_moves_without_power_and_it_is_said(self) -> None:
        result = self.verge.run("direction", "X")
        self.assertEqual((result.end, result.words), (Ending.FAILED, "The drives are off. Power them first."))

    def test_where_nobody_answers_it_ends(self) -> None:
        self.verge.power()
        for answers in (None, {"scale.zero": ""}):
            result = self.verge.run("direction", "X") if answers is None else self.verge.run("direction", "X", answers)
            self.assertIs(result.end, Ending.STOPPED)
            self.assertIn("Nobody answered", result.words)

    def test_a_controller_that_is_not_there(self) -> None:
        with self.assertRaises(IdlerError):
            open_machine("verge", self.root)  # it is held by the other one
        self.verge.close()
        with open_machine("verge", self.root) as verge, self.assertRaises(Unreachable):
            verge.connect("slcan://127.0.0.1:1")


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
