"""Own actions on the bench: what they do is what happened, they stay inside, run once, and leave nothing on."""

from __future__ import annotations

import unittest
from fractions import Fraction
from pathlib import Path

from idler.core.actions.text import one_line, read
from idler.core.profile.terminals import Condition
from idler.procedures.actions.action import ActionRun
from idler.procedures.engine import Ending, Result
from idler.procedures.questions import Question
from idler.procedures.registry import Wishes
from idler.procedures.trial.program import ProgramRun, Way
from tests.procedures.ready import Ready
from tests.support import X, Y, Z, at

COOLANT = 4  # slot of its output


class Acting(Ready):
    def setUp(self) -> None:
        super().setUp()
        self.ready()
        self.asks: list[str] = []
        self.yes = "yes"

    def told(self, text: str) -> None:
        self.mill["actions.text"] = one_line(read(text))

    def hand(self, question: Question[object]) -> str | None:
        self.asks.append(question.key)
        if question.key == "touch.plate":
            self.hands.ask(do="press", switch="touch plate")
            self.mill.wait(lambda: False, 0.2)
            self.hands.ask(do="release", switch="touch plate")
            return None
        return {"action.ask": self.yes, "action.tool": "7"}.get(question.key, "")

    def act(self, name: str, text: str) -> Result:
        self.told(text)
        return self.mill.run("action", answers=self.hand, wishes=Wishes(file=name))

    def stands(self) -> list[float]:
        return [round(axis.position, 2) for axis in self.mill.axes[:3]]


class Doing(Acting):
    def test_moves_from_machine_work_and_where_it_stands(self) -> None:
        self.mill.session.work.place(X, 10.0)
        before = self.hands.look("X")["at"]
        got = self.act(
            "go", 'action "go" { move machine Z 5 mm; move work X 2 mm; move by X -1 mm Y 3 mm at 200 mm/min; }'
        )
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertEqual(self.stands(), [11.0, 3.0, 5.0])
        self.assertGreater(abs(self.hands.look("X")["at"] - before), 5)

    def test_it_never_leaves_the_travel_and_says_which_step_would(self) -> None:
        got = self.act("far", 'action "far" { move by X 50 mm; move by X 50 mm; }')
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("move by X 50 mm: X would go to 100 mm", got.words)
        self.assertEqual(self.stands()[0], 50.0)
        got = self.act("far", 'action "far" { move machine X 100 mm; }')
        self.assertIn("its travel is -60 to 60 mm", got.words)
        self.mill.session.forget_home(Y)
        self.assertTrue(self.mill.wait(lambda: not self.mill.session.homes.known(Y), 10))
        self.assertIn("Y is not homed", self.act("y", 'action "y" { move by Y 1 mm; }').words)

    def test_questions_contacts_and_calls_choose_what_is_done(self) -> None:
        text = (
            'action "a" { ask "Well?" { call "b"; } else { move by X 1 mm; }'
            ' if guard on { say "open"; } else { move by Y 2 mm; } } action "b" { move by X 4 mm; }'
        )
        self.act("a", text)
        self.assertEqual(self.stands()[:2], [4.0, 2.0])
        self.yes = "no"
        self.hands.ask(do="press", switch="guard")
        self.addCleanup(lambda: self.hands.ask(do="release", switch="guard"))
        self.assertTrue(self.mill.wait(lambda: bool(self.mill.session.panel.conditions & Condition.GUARD), 10))
        got = self.act("a", text)
        self.assertEqual(self.stands()[:2], [5.0, 2.0])
        self.assertIn("open", got.words)
        self.assertEqual([(each.name, each.number, each.why) for each in self.mill.session.acts.runs][:2],
                         [("a", 1, "its name on a terminal"), ("b", 1, "a call")])  # fmt: skip

    def test_every_wait_has_an_end(self) -> None:
        got = self.act("w", 'action "w" { wait guard on within 0.5 s; move by X 1 mm; }')
        self.assertIs(got.end, Ending.FAILED)
        self.assertIn("in time", got.words)
        self.assertEqual(self.stands()[0], 0.0)

    def test_what_it_switched_on_goes_off_at_its_end_and_wherever_it_is_stopped(self) -> None:
        session = self.mill.session
        on = lambda: session.panel.is_energised(COOLANT)  # noqa: E731
        got = self.act("c", 'action "c" { output coolant on; dwell 0.2 s; }')
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertTrue(self.mill.wait(lambda: not on(), 10))
        self.told('action "c" { spindle right 1500 rpm; output coolant on; dwell 60 s; }')
        run = ActionRun(session)
        self.assertEqual(run.start("c"), "")
        self.assertTrue(
            self.mill.wait(lambda: on() and bool(session.panel.conditions & Condition.SPINDLE), 20), run.words
        )
        self.mill.stop()
        self.assertIs(run.result.end if run.result else None, Ending.STOPPED)
        self.assertTrue(self.mill.wait(lambda: not on() and not session.panel.conditions & Condition.SPINDLE, 10))

    def test_a_plate_is_probed_once_its_wire_was_seen_to_work(self) -> None:
        text = 'action "p" { probe Z -30 mm at 120 mm/min; zero Z 10 mm; move by Z 5 mm; }'
        self.told(text)
        self.hands.ask(do="work", left=-20, front=-20, wide=60, deep=40, top=-8, tool=6)
        got = self.mill.run("action", answers=self.hand, wishes=Wishes(file="p"))
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertEqual(self.asks.count("touch.plate"), 1)
        again = ActionRun(self.mill.session)
        for number in (1, 2):  # by the same button: what was seen of the plate before counts for nothing
            self.assertEqual(again.start("p"), "")
            self.assertTrue(self.mill.wait(lambda: again.question is not None, 20), f"{number} {again.words}")
            self.assertEqual(again.question.key if again.question else "", "touch.plate")
            self.hands.ask(do="press", switch="touch plate")
            self.assertTrue(self.mill.wait(lambda: "was seen" in again.words or not again.running, 20))
            self.hands.ask(do="release", switch="touch plate")
            self.assertTrue(self.mill.wait(lambda: again.question is not None or not again.running, 20))
            again.answer("")
            self.assertTrue(self.mill.wait(lambda: not again.running, 30))
            self.assertIs(again.result.end if again.result else None, Ending.DONE, again.words)
        self.assertAlmostEqual(self.mill.session.work.of("Z") or 0.0, -18.0, delta=0.05)
        got = self.act("p", 'action "p" { probe Z -1 mm at 120 mm/min; }')
        self.assertIn("nothing was touched", got.words)

    def test_a_tool_is_as_much_longer_as_it_touches_earlier(self) -> None:
        session = self.mill.session
        session.work.place(Z, -20.0)
        text = 'action "l" { probe Z -30 mm at 120 mm/min; length asked 10 mm; move by Z 5 mm; }'
        self.hands.ask(do="work", left=-20, front=-20, wide=60, deep=40, top=-8, tool=6)
        got = self.act("l", text)
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertAlmostEqual(session.tools.lengths[7], 2.0, delta=0.05)  # it touched at -8, where Z reads 10 of -18
        self.assertIn("H7 is +2.", got.words)
        self.assertIn("action.tool", self.asks)
        self.assertIn("nothing was touched along Z", self.act("l", 'action "l" { length 7 10 mm; }').words)
        self.assertAlmostEqual(session.work.of("Z") or 0.0, -20.0)


class Kept(Acting):
    def test_their_text_is_sent_read_back_and_compared(self) -> None:
        text = " ".join(f'action "number {number} für alle" {{ move by X 1 mm; say "über"; }}' for number in range(40))
        self.told(text)
        self.mill.send()
        self.assertEqual(str(self.mill.session.in_force[at(None, "actions.text")]), one_line(read(text)))


class Events(Acting):
    def test_after_a_homing_once_and_not_after_it_again(self) -> None:
        self.told('action "off" on homed { move by X -2 mm; }')
        count = lambda: self.mill.session.acts.count("off")  # noqa: E731
        ends = {at(X, "travel.low"): Fraction(-300), at(X, "travel.high"): Fraction(0)}
        self.mill.session.set_values({**ends, at(Y, "travel.low"): Fraction(-180), at(Y, "travel.high"): Fraction(0)})
        self.mill.send()
        self.home("X")
        left = self.stands()[0] + 2.0
        for number in (2, 3):
            self.home("X")
            self.assertEqual(count(), number)
            self.assertAlmostEqual(self.stands()[0], left - 2.0, delta=0.1)
        self.told('action "off" on homed { move by X 20 mm; }')
        got = self.mill.run("home", "X", self.hand)
        self.assertIs(got.end, Ending.PROVEN)
        self.assertIn("its travel is -300 to 0 mm", got.words)

    def test_around_a_program_and_at_its_tool_change_and_back_to_its_path(self) -> None:
        self.told(
            'action "b" on before program { move by Z 2 mm; } action "t" on tool change { move machine X 20 mm; }'
            ' action "e" on after program { move machine Y 9 mm; }'
        )
        file = Path(self.mill.session.folder) / "part.nc"
        file.write_text("G21 G90\nG0 X4\nT3 M6 (cutter)\nG1 X8 F600\nM0\nX0\nM30\n")
        got = self.mill.run("program", answers=self.hand, wishes=Wishes(file=str(file)))
        self.assertIs(got.end, Ending.DONE, got.words)
        self.assertEqual(self.stands(), [0.0, 9.0, 2.0])
        acts = self.mill.session.acts
        self.assertEqual([acts.count(name) for name in "bte"], [1, 1, 1])
        self.told('action "b" on before program { move by Z 200 mm; }')
        run = ProgramRun(self.mill.session)
        self.assertEqual(run.run_file(file, Way()), "")
        self.assertTrue(self.mill.wait(lambda: not run.running, 20))
        self.assertIs(run.result.end if run.result else None, Ending.FAILED)
        self.assertEqual(self.stands(), [0.0, 9.0, 2.0], "a program does not run where what comes before it cannot")

    def test_what_would_start_itself_is_never_begun(self) -> None:
        for text, words in (
            ('action "a" { call "b"; } action "b" { call "a"; }', "a → b → a"),
            ('action "a" on homed { home Z; }', "a → homed → a"),
            ('action "a" on powered { power on; }', "a → powered → a"),
            ('action "a" on tool change { zero Z 0 mm; }', "planned already"),
            ('action "a" on tool change { length 3 0 mm; }', "planned already"),
            ('action "a" on homed { length asked 0 mm; }', "asks something"),
            ('action "a" { move by W 1 mm; }', "no W"),
        ):
            with self.subTest(text):
                got = self.act("a", text)
                self.assertIs(got.end, Ending.FAILED)
                self.assertIn(words, got.words)
        self.assertEqual(self.mill.session.acts.count("a"), 0)


if __name__ == "__main__":
    unittest.main()
