"""`idler run`: every procedure on the terminal, by a person or by another program."""

from __future__ import annotations

import json
import signal
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

from idler import new_machine
from idler.procedures.questions import QUESTIONS
from idler.procedures.registry import WORDS
from tests.support import DEADLINE, Bench, run_idler, shared_bench


class Running(unittest.TestCase):
    bench: Bench

    @classmethod
    def setUpClass(cls) -> None:
        cls.bench = shared_bench(cls)

    def setUp(self) -> None:
        self.bench.hands.ask(do="deliver")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        new_machine("verge", shelf=folder.name)
        self.shelf = Path(folder.name)

    def begin(self, *words: str, to: str = "") -> subprocess.Popen[str]:
        command = [
            sys.executable,
            "-m",
            "idler",
            "run",
            *words,
            "--to",
            to or self.bench.link,
            "--shelf",
            str(self.shelf),
        ]
        made = subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
        )
        self.addCleanup(self.end, made)
        return made

    @staticmethod
    def end(process: subprocess.Popen[str]) -> None:
        process.kill()
        process.wait(DEADLINE)
        for pipe in (process.stdin, process.stdout):
            assert pipe is not None
            pipe.close()

    def event(self, process: subprocess.Popen[str], *kinds: str) -> dict[str, Any]:
        """The next line of JSON of one of these kinds."""
        assert process.stdout is not None
        for line in process.stdout:
            told = json.loads(line)
            if any(kind in told for kind in kinds):
                return told
        self.fail(f"it ended without {' or '.join(kinds)}")

    def answer(self, process: subprocess.Popen[str], asked: dict[str, Any], text: str) -> None:
        assert process.stdin is not None
        process.stdin.write(json.dumps({"id": asked["asks"]["id"], "answer": text}) + "\n")
        process.stdin.flush()

    def test_a_program_is_named_before_or_after_its_machine_and_says_what_is_missing(self) -> None:
        file = self.shelf / "part.nc"
        file.write_text("G21 G90\nG0 X5\nM30\n")
        for words in (("program", str(file), "verge"), ("program", "--machine", "verge", "--file", str(file))):
            with self.subTest(words):
                running = self.begin(*words, "--power", "--json")
                told = self.event(running, "result")
                self.assertIn("not homed", told["result"])
                self.assertEqual(running.wait(DEADLINE), 1)
        running = self.begin("figure", "star", "verge")
        self.assertEqual(running.wait(DEADLINE), 2)

    def test_another_program_is_the_person(self) -> None:
        running = self.begin("direction", "verge", "--axis", "X", "--power", "--json")
        asked = self.event(running, "asks")
        self.assertEqual(
            (asked["asks"]["key"], asked["asks"]["kind"], asked["asks"]["axis"]), ("direction.seen", "choice", "X")
        )
        self.answer(running, asked, "sideways")
        self.assertIn("none of those that are asked for", self.event(running, "says")["says"])
        again = self.event(running, "asks")
        self.assertEqual({way["key"] for way in again["asks"]["choices"]}, {"plus", "minus", "nothing", "other"})
        self.answer(running, again, "plus")
        result = self.event(running, "result")
        self.assertEqual((result["proven"], running.wait(DEADLINE)), (True, 0))

    def test_what_is_not_proven_proposes_its_edit_and_takes_it_where_that_is_wished(self) -> None:
        running = self.begin(
            "direction", "verge", "--axis", "Y", "--power", "--answer", "direction.seen=minus", "--take", "--json"
        )
        result = self.event(running, "result")
        self.assertFalse(result["proven"])
        self.assertEqual([each["key"] for each in result["edit"]], ["axis.reversed"])
        self.assertEqual(running.wait(DEADLINE), 1)
        shown = run_idler("compare", "verge", "verge@draft", "--shelf", str(self.shelf))
        self.assertIn("reversed", shown.stdout)

    def test_what_was_answered_beforehand_is_taken_and_kept_as_a_word(self) -> None:
        running = self.begin("direction", "verge", "--axis", "X", "--power", "--answer", "direction.seen=plus")
        running.communicate("", DEADLINE)
        self.assertEqual(running.returncode, 0)
        (proofs,) = self.shelf.glob("machines/proofs/verge.toml")
        self.assertIn('witness = "word"', proofs.read_text("utf-8"))

    def test_a_person_reads_and_types(self) -> None:
        running = self.begin("direction", "verge", "--axis", "X", "--power")
        said, _ = running.communicate("plus\n", DEADLINE)
        self.assertIn("plus: to the left", said)
        self.assertIn("was seen to go to the left", said)
        self.assertEqual(running.returncode, 0)

    def test_where_nobody_answers_any_more_it_is_stopped(self) -> None:
        running = self.begin("direction", "verge", "--axis", "X", "--power")
        said, _ = running.communicate("", DEADLINE)
        self.assertIn("Nobody answered", said)
        self.assertEqual(running.returncode, 3)

    def test_ctrl_c_stops_the_machine_first(self) -> None:
        for _ in range(4):  # a computer that pauses ends the move, rightly, before it is interrupted
            running = self.begin("move", "verge", "--axis", "X", "--length", "100 mm", "--power", "--json")
            if "result" in self.event(running, "says", "result"):
                continue
            began = self.bench.hands.look("X")["at"]
            while self.bench.hands.look("X")["at"] == began and running.poll() is None:
                pass
            running.send_signal(signal.SIGINT)
            self.assertEqual(self.event(running, "result")["proven"], False)
            stands = self.bench.hands.look("X")["at"]
            self.bench.hands.ask(do="run", seconds=1)
            self.assertAlmostEqual(self.bench.hands.look("X")["at"], stands, delta=0.01)  # mm: it may still swing
            if running.wait(DEADLINE) == 3:
                return
        self.fail("it was never stopped by the interrupt")

    def test_what_cannot_be_reached_or_begun(self) -> None:
        for words, to, code, said in (
            (("home", "verge"), "slcan://127.0.0.1:1", 2, "127.0.0.1:1"),
            (("home", "nothing"), "", 2, "nothing"),
            (("hom", "verge"), "", 2, "nearest is home"),
            (("home", "verge"), "", 1, "no input is that: it cannot home"),
            (("move", "verge", "--axis", "X"), "", 1, "drives are off"),
        ):  # fmt: skip
            running = self.begin(*words, to=to)
            out, _ = running.communicate("", DEADLINE)
            self.assertIn(said, out)
            self.assertEqual(running.returncode, code, out)

    def test_every_question_and_every_word_is_described(self) -> None:
        for what, key, known in (("questions", "key", set(QUESTIONS)), ("procedures", "word", set(WORDS))):
            told = json.loads(run_idler("describe", what).stdout)
            self.assertEqual({each[key] for each in told}, known)
