"""A cutting table: what cuts has neither a speed nor a direction, and eyes see whether it is on."""

from __future__ import annotations

from typing import Any

from idler.core.profile.terminals import Condition
from idler.core.proof.claims import Proof
from idler.core.rules.findings import findings
from idler.procedures.engine import Ending
from idler.procedures.questions import Question
from idler.procedures.registry import Wishes
from tests.person import Person
from tests.procedures.ready import Ready
from tests.support import at, torch

CUT = "G21 G90\nM3\nG1 X20 F600\nM5\nG1 X0\nM30\n"


class Seeing(Person):
    """texts: what was asked. stuck: a torch that goes on whatever is told."""

    stuck = False

    def __init__(self, *given: Any) -> None:
        super().__init__(*given)
        self.texts: list[str] = []

    def __call__(self, question: Question[Any]) -> str | None:
        self.texts.append(question.text)
        return super().__call__(question)

    def of_cutter(self, question: Question[Any]) -> str:
        return "no" if self.stuck and question.key == "cutter.off" else super().of_cutter(question)


class Torch(Ready):
    """Verge's output A lights it."""

    def setUp(self) -> None:
        super().setUp()
        self.ready(torch())
        self.eyes = Seeing(self.mill, self.hands)

    def end(self, way: str) -> Ending:
        self.eyes.way = way
        got = self.mill.run("spindle-stop", answers=self.eyes, wishes=Wishes(way=way))
        self.assertIn("torch" if got.end is Ending.PROVEN else "it was seen to go on", got.words)
        return got.end

    def test_each_way_of_ending_it_is_seen_by_eyes(self) -> None:
        self.assertEqual([item.text for item in findings(self.mill.machine) if item.code.startswith("cutter")], [])
        for way in ("esc", "stop", "guard", "link"):
            with self.subTest(way):
                if not self.mill.session.powered:
                    self.mill.power()
                self.assertIs(self.end(way), Ending.PROVEN)
                self.assertIs(self.mill.proofs[f"spindle.{way}"], Proof.PROVEN)
        self.assertEqual([text for text in self.eyes.texts if "spindle" in text or "turn" in text], [])
        self.assertLessEqual({"cutter.ready", "cutter.on", "cutter.off", "spindle.end"}, set(self.eyes.asked))

    def test_one_that_goes_on_is_not_proven(self) -> None:
        self.eyes.stuck = True
        self.assertIs(self.end("esc"), Ending.NOT_PROVEN)
        self.assertIs(self.mill.proofs["spindle.esc"], Proof.FAILED)

    def test_one_that_does_not_light_proves_nothing(self) -> None:
        self.mill.session.set_values({at(0, "output.role"): "coolant", at(4, "output.role"): "spindle_on"})
        self.mill.send()
        self.mill.power()
        dark = Seeing(self.mill, self.hands)
        dark.of_cutter = lambda question: "" if question.key == "cutter.ready" else "no"  # type: ignore[method-assign]
        got = self.mill.run("spindle-stop", answers=dark, wishes=Wishes(way="esc"))
        self.assertIs(got.end, Ending.FAILED, got.words)
        self.assertIn("does not burn", got.words)
        self.assertIn(self.mill.proofs["spindle.esc"], (Proof.NOTHING, Proof.ENTERED))

    def test_nothing_of_a_speed_is_asked_of_it(self) -> None:
        for word in ("spindle-way", "spindle-speeds", "spindle-times", "spindle-curve"):
            with self.subTest(word):
                got = self.mill.run(word, answers=self.eyes)
                self.assertIs(got.end, Ending.FAILED)
                self.assertIn("A torch has no speed", got.words)

    def test_inputs_are_listened_to_beside_one_that_is_seen_to_burn(self) -> None:
        self.assertIs(self.end("esc"), Ending.PROVEN)
        self.eyes.asked.clear()
        got = self.mill.run("study", answers=self.eyes, wishes=Wishes(seconds=2, spindle=True))
        self.assertEqual((got.end is not Ending.FAILED, self.eyes.asked), (True, ["cutter.on"]), got.words)
        dark = Seeing(self.mill, self.hands)
        dark.of_cutter = lambda _: "no"  # type: ignore[method-assign]
        got = self.mill.run("study", answers=dark, wishes=Wishes(seconds=2, spindle=True))
        self.assertIs(got.end, Ending.FAILED, got.words)
        self.assertIn("does not burn", got.words)

    def test_a_program_lights_it_without_a_speed_once_it_is_proven_to_go_off(self) -> None:
        got = self.program(CUT, spindle=True)
        self.assertIn("end the torch: not proven", got.words)
        self.assertIs(self.end("esc"), Ending.PROVEN)
        run = self.began(CUT, switches=True)
        self.assertTrue(self.mill.session.panel.conditions & Condition.SPINDLE)
        self.assertGreater(self.mill.axes[0].position, 0.1)
        self.assertTrue(self.mill.wait(lambda: not run.running, 30))
        self.assertIs(run.result.end if run.result else None, Ending.DONE, run.words)
        self.assertFalse(self.mill.session.panel.conditions & Condition.SPINDLE)
