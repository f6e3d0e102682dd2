"""Sending under faults: whatever goes wrong, the controller holds all old or all new values, or it is said which part."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from unittest import mock

from idler.core.controller.sending import SendEnd, Sending, labels, outcome, sentence
from idler.core.controller.standing import ControllerImage
from idler.core.machine import Machine
from idler.core.machine import file as machinefile
from idler.core.profile.codec import Place, Raw, machine_from
from idler.link import times
from idler.link.errors import LinkError
from idler.link.plan import Plan, plan
from idler.link.talk import Talk
from idler.shelf.shelf import Shelf
from tests.support import BenchCase, X, Y, Z, at, run_idler, verge, verge_text, wait_for

CASES = int(os.environ.get("IDLER_FAULTS", "4"))
QUICK = replace(times.usual, answer=0.6, silence=1.0)
SERIAL = 26110417
EDITS = {
    at(X, "chain.pitch"): [Fraction(4), Fraction(10)], at(Y, "chain.pitch"): [Fraction(4), Fraction(8)],
    at(X, "pace.jerk"): [Fraction(1000), Fraction(2000)], at(Z, "axis.reversed"): [True],
    at(None, "signals.step_rate"): [Fraction(60)], at(Y, "pace.acceleration"): [Fraction(100), Fraction(120)],
    at(3, "input.filter"): [Fraction(2), Fraction(3)], at(None, "names.machine"): ["Another plate mill"],
    at(X, "travel.low"): [Fraction(-250), Fraction(-100)], at(Z, "homing.back_off"): [Fraction(3)],
}  # fmt: skip


class SendingCase(BenchCase):
    def setUp(self) -> None:
        super().setUp()
        self.bench.hands.ask(do="deliver")
        self.kept = Shelf(self.folder).controllers("verge")

    def talk(self) -> Talk:
        """A computer that pauses may miss an answer; a person would press Connect again."""
        for _ in range(3):
            try:
                return Talk(self.bench.link)
            except LinkError:
                continue
        return Talk(self.bench.link)

    def read(self) -> ControllerImage:
        with self.talk() as talk:
            return talk.found.holding

    def begin(self, old: dict[Place, Raw], new: dict[Place, Raw]) -> None:
        self.kept.begin(Sending(SERIAL, 0.0, old, new))

    def send(self, machine: Machine, *, restart: bool = False) -> str:
        """What went wrong in words, or nothing."""
        with mock.patch.object(times, "usual", QUICK), Talk(self.bench.link) as talk:
            made = plan(machine, talk.found.holding, restart=restart, begun=self.begin)
            try:
                talk.do(lambda link: link.send(made))
            except LinkError as why:
                return why.sentence
        return ""

    def _judge(self, before: ControllerImage, machine: Machine, why: str, *, finish: bool) -> None:
        held, begun = self.read(), self.kept.begun()
        if begun is None:  # nothing was begun, or the program saw its end and closed the journal before it was killed
            new = plan(machine, before).wanted
            old = {where: before.raws[where] for where in new}
            self.assertIn({where: held.raws[where] for where in new}, (old, new), why)
            self.assertEqual(held.unstored, 0)
            return
        found = outcome(begun, held)
        self.assertEqual({*found.old, *found.new, *found.other}, set(begun.new))
        if not found.settled:
            self.assertTrue(why, "nothing was said")
            words = sentence(found, labels(machine))
            if found.end is SendEnd.PARTLY:
                self.assertIn(f"{len(found.new)} of {len(begun.new)} values are new", words)
            raws = begun.new if finish else begun.old
            missing = {where: raw for where, raw in raws.items() if held.raws.get(where) != raw}
            with self.talk() as talk:
                held = self._again(talk, lambda: Plan(missing, labels(machine), held))
            found = outcome(begun, held)
            self.assertTrue(found.settled)
            self.assertIs(found.end, SendEnd.NEW if finish else SendEnd.OLD)
        elif not why:
            self.assertIs(found.end, SendEnd.NEW)
        self.bench.hands.ask(do="dip")
        after = self.read()
        self.assertEqual({where: after.raws[where] for where in begun.new}, {w: held.raws[w] for w in begun.new})

    def _again(self, talk: Talk, made: Callable[[], Plan]) -> ControllerImage:
        held = talk.do(lambda link: link.send(made())).holding
        assert held is not None
        return held


class Sentences(SendingCase):
    def edited(self) -> Machine:
        return verge().with_values({at(X, "pace.jerk"): Fraction(1000), at(Y, "chain.pitch"): Fraction(7)})

    def test_a_refused_value_puts_all_back(self) -> None:
        before = self.read()
        self.bench.hands.ask(do="fault", kind="refuse", after=2)
        why = self.send(self.edited())
        self.assertIn("not a value that it knows", why)
        self.assertIn("holds its old values", why)
        self.assertEqual(self.read().raws, before.raws)

    def test_a_value_that_is_kept_as_another_one_is_named(self) -> None:
        before = self.read()
        self.bench.hands.ask(do="fault", kind="clip", after=0)
        why = self.send(verge().with_values({at(X, "pace.jerk"): Fraction(1000)}))
        self.assertIn("X jerk: the controller holds 999999 after 1000000 was written", why)
        self.assertIn("holds its old values", why)
        self.assertEqual(self.read(), before)

    def test_memory_that_fails(self) -> None:
        self.bench.hands.ask(do="fault", kind="store", after=0)
        why = self.send(self.edited())
        self.assertIn("storing in the controller: the controller refused", why)
        self.assertEqual(self.read().unstored, 0)

    def test_a_restart_in_the_middle_is_seen(self) -> None:
        before = self.read()
        self.bench.hands.ask(do="fault", kind="restart", after=1)
        why = self.send(self.edited())
        self.assertRegex(why, "restarted by itself|did not answer|not heard")
        self._judge(
            before, self.edited(), why, finish=False
        )  # one that was not heard may hold what was said again to it
        self.assertEqual(self.read(), before)

    def test_a_frame_that_is_lost_is_said_again(self) -> None:
        """Whichever it is of two values: their writing, their reading back, the count of changes, the storing."""
        for after in range(6):
            self.bench.hands.ask(do="deliver")

            def lose(_old: dict[Place, Raw], _new: dict[Place, Raw], after: int = after) -> None:
                self.bench.hands.ask(do="fault", kind="deaf", after=after)

            with self.subTest(after), mock.patch.object(self, "begin", lose):
                self.assertEqual(self.send(self.edited()), "")
                held = self.read()
                self.assertEqual((machine_from(held.raws, held.shape)[at(X, "pace.jerk")], held.unstored), (1000, 0))

    def test_with_a_restart_everything_is_in_force(self) -> None:
        rate = at(None, "signals.step_rate")
        self.assertEqual(self.send(verge().with_values({rate: Fraction(60)}), restart=True), "")
        after = self.read()
        self.assertEqual((after.old, after.unstored), ({}, 0))
        self.assertEqual(machine_from(after.raws, after.shape)[rate], 60)


class Faults(SendingCase):
    """IDLER_FAULTS says how many random faults are made; the seed is new each time and named where one fails."""

    def test_all_old_or_all_new_or_it_is_said_which(self) -> None:
        seed = random.SystemRandom().randrange(1 << 30)
        chance = random.Random(seed)
        for number in range(CASES):
            killed = number % 4 == 3
            with self.subTest(seed=seed, number=number, killed=killed):
                self._one(chance, killed)

    def _one(self, chance: random.Random, killed: bool) -> None:
        self.bench.hands.ask(do="deliver")
        self.kept.ended()
        edits = {a: chance.choice(EDITS[a]) for a in chance.sample(list(EDITS), chance.randint(1, len(EDITS)))}
        machine = verge().with_values(edits)
        kind = "cut" if killed else chance.choice(["refuse", "clip", "restart", "cut", "cut", "deaf", "store"])
        if kind == "store":
            after = 0
        else:
            most = 5 * len(edits) + 4 if kind in ("cut", "deaf") else len(edits)
            after = chance.randrange(most)
        before = self.read()
        if kind not in ("cut", "deaf"):
            self.bench.hands.ask(do="fault", kind=kind, after=after)
        why = (
            self._killed(machine, after) if killed else self._sent(machine, kind, after, restart=chance.random() < 0.3)
        )
        self.bench.hands.ask(do="fault", kind="")
        self.bench.hands.ask(do="mend")
        self._judge(before, machine, why, finish=chance.random() < 0.5)

    def _sent(self, machine: Machine, kind: str, after: int, *, restart: bool) -> str:
        def begin(old: dict[Place, Raw], new: dict[Place, Raw]) -> None:
            self.begin(old, new)
            if kind in ("cut", "deaf"):  # counted from the first frame that writes
                self.bench.hands.ask(do="fault", kind=kind, after=after)

        with mock.patch.object(times, "usual", QUICK), Talk(self.bench.link) as talk:
            made = plan(machine, talk.found.holding, restart=restart, begun=begin)
            try:
                talk.do(lambda link: link.send(made))
            except LinkError as why:
                return why.sentence
        return ""

    def _killed(self, machine: Machine, after: int) -> str:
        """The program is killed at one frame of its send."""

        path = self.folder / "wanted.toml"
        path.write_text(machinefile.write(machine, verge_text()), "utf-8")
        command = [
            sys.executable,
            "-m",
            "idler",
            "send",
            str(path),
            "--to",
            self.bench.link,
            "--shelf",
            str(self.folder),
        ]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
        assert process.stdout is not None
        process.stdout.readline()  # what differs is shown before anything is written
        self.bench.hands.ask(do="fault", kind="cut", after=len(machine.differences(verge())) + after)
        wait_for(lambda: process.poll() is not None or self.bench.hands.ask(do="look")["cut"], "the moment")
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        self.kept = Shelf(self.folder).controllers("wanted")
        return "killed"


class CommandLine(SendingCase):
    def test_pull_send_and_settle(self) -> None:
        target, shelf = str(self.folder / "pulled.toml"), ("--shelf", str(self.folder))
        self.assertEqual(run_idler("pull", self.bench.link, "--output", target).returncode, 0)
        text = (self.folder / "pulled.toml").read_text("utf-8")
        self.assertIn('pitch = "5 mm"', text)
        same = run_idler("send", target, "--to", self.bench.link, *shelf)
        self.assertEqual((same.returncode, same.stdout), (0, "The controller holds every value.\n"), same.stderr)
        (self.folder / "pulled.toml").write_text(text.replace('pitch = "5 mm"', 'pitch = "4 mm"', 1), "utf-8")
        shown = run_idler("send", target, "--to", self.bench.link, "--plan", *shelf)
        self.assertEqual((shown.returncode, shown.stdout), (0, "X pitch of the screw 5 mm → 4 mm\n"))
        self.bench.hands.ask(do="fault", kind="refuse", after=0)
        refused = run_idler("send", target, "--to", self.bench.link, *shelf)
        self.assertEqual(refused.returncode, 1, refused.stderr)
        self.assertIn("holds all its old values", refused.stdout)
        sent = run_idler("send", target, "--to", self.bench.link, *shelf)
        self.assertEqual(sent.returncode, 0, sent.stderr)
        self.assertIn("Sent, read back, stored, and in force.", sent.stdout)
        settled = run_idler("settle", target, "--to", self.bench.link, *shelf)
        self.assertEqual((settled.returncode, settled.stdout), (0, "No send is open.\n"))
        nobody = run_idler("send", target, "--to", "slcan://127.0.0.1:1", *shelf)
        self.assertEqual(nobody.returncode, 2)
        self.assertEqual(len(nobody.stderr.strip().splitlines()), 1)

    def test_an_interrupted_send_is_settled_either_way(self) -> None:
        target, shelf = self.folder / "mill.toml", ("--shelf", str(self.folder))
        edits = {at(X, "pace.jerk"): Fraction(1000), at(Y, "chain.pitch"): Fraction(4), at(Z, "axis.reversed"): True}
        target.write_text(machinefile.write(verge().with_values(edits), verge_text()), "utf-8")
        kept = Shelf(self.folder).controllers("mill")
        for way, end in (("--put-back", "all its old values"), ("--finish", "all new values")):
            with self.subTest(way):
                self.bench.hands.ask(do="deliver")
                with self.talk() as talk:
                    held = talk.found.holding
                    new = plan(verge().with_values(edits), held).wanted
                    kept.begin(Sending(SERIAL, 0.0, {where: held.raws[where] for where in new}, new))
                    half = dict(list(new.items())[:2])
                    talk.do(lambda link, half=half: link.try_values(half))  # as a program that was killed leaves it
                told = run_idler("settle", str(target), "--to", self.bench.link, *shelf)
                self.assertEqual(told.returncode, 3, told.stderr)
                self.assertIn(f"2 of {len(new)} values are new in the controller; old: ", told.stdout)
                refused = run_idler("send", str(target), "--to", self.bench.link, *shelf)
                self.assertEqual(refused.returncode, 2)
                self.assertIn("idler settle", refused.stderr)
                done = run_idler("settle", str(target), "--to", self.bench.link, *shelf, way)
                self.assertEqual((done.returncode, end in done.stdout), (0, True), done.stdout)
                self.assertIsNone(kept.begun())
