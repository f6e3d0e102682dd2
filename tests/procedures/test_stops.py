"""What ends the spindle, and is not what is asked for: nothing is proven by it."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from idler import new_machine, open_machine
from idler.core.profile.terminals import Condition
from idler.core.proof.claims import Proof, Witness, spindle_way_claim
from idler.procedures.engine import Ending, Result
from idler.procedures.registry import Wishes
from tests.person import SWITCHES, Person
from tests.procedures.ready import Ready
from tests.support import Bench, at, changed_rig, wiring

MAGNET = {at(7, "input.role"): "pulse", at(7, "input.rest"): "open"}  # once in a turn


class Clumsy(Person):
    """does: what this person does where something else is asked for."""

    does = ""

    def _end_spindle(self, do: str) -> None:
        if do != "press":
            super()._end_spindle(do)
        elif self.does == "esc":
            self.machine.session.stop()
        elif self.does in SWITCHES:
            self.hands.ask(do="press", switch=SWITCHES[self.does])
        else:
            self.hands.ask(do=self.does)
        if do == "press" and self.does == "trip":
            self._stop_at_standstill()

    def _stop_at_standstill(self) -> None:
        if abs(self.hands.ask(do="look")["spindle"]) >= 1:  # rpm
            self.machine.loop.timer(0.05, self._stop_at_standstill, once=True).start()
        else:
            self.machine.session.stop()

    def at_last(self) -> None:
        """Lets go of everything."""
        for switch in ("stop", "guard"):
            self.hands.ask(do="release", switch=SWITCHES[switch])
        self.hands.ask(do="restore")


class OneStaysOn(unittest.TestCase):
    def test_a_drive_that_does_not_hear_its_enable_line_is_felt_by_a_hand(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            bench = Bench(rig=changed_rig(folder, "verge", lambda data: data["motor"]["Z"].update(always_on=True)))
            self.addCleanup(bench.close)
            new_machine("verge", shelf=folder)
            with open_machine("verge", folder) as mill:
                mill.session.set_values(wiring())
                mill.connect(bench.link)
                mill.send()
                mill.power()
                got = mill.run("stop", answers=Person(mill, bench.hands))
                self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
                self.assertIn("a motor holds", got.words)


class Otherwise(Ready):
    def setUp(self) -> None:
        super().setUp()
        self.ready(MAGNET)
        self.clumsy = Clumsy(self.mill, self.hands)

    def end(self, asked: str, does: str) -> Result:
        self.clumsy.way, self.clumsy.does = asked, does
        self.mill.wait(lambda: not self.mill.session.panel.conditions & (Condition.STOP | Condition.GUARD))
        if not self.mill.session.powered:
            self.mill.power()
        got = self.mill.run("spindle-stop", answers=self.clumsy, wishes=Wishes(way=asked))
        self.clumsy.at_last()
        return got

    def test_another_way_than_the_one_that_is_asked_for_proves_nothing(self) -> None:
        for asked, does in (("esc", "stop"), ("esc", "guard"), ("guard", "stop"), ("stop", "esc"), ("link", "guard")):
            with self.subTest(asked=asked, does=does):
                got = self.end(asked, does)
                self.assertIs(got.end, Ending.FAILED, got.words)
                self.assertIn("something else", got.words)
                self.assertIsNot(self.mill.proofs[f"spindle.{asked}"], Proof.PROVEN)

    def test_one_that_does_not_turn_is_not_ended(self) -> None:
        """Nor one whose encoder is not there."""
        self.hands.ask(do="trip")
        for told in ({}, {at(None, "spindle.counts"): 4096}):
            self.mill.session.set_values(told)
            self.mill.send()
            got = self.end("guard", "guard")
            self.assertIs(got.end, Ending.FAILED, got.words)
            self.assertIn("does not. Look", got.words)

    def test_a_direction_output_that_hangs_on_nothing_is_seen_by_eyes(self) -> None:
        self.mill.session.set_values({at(1, "output.role"): "none", at(6, "output.role"): "direction"})
        self.mill.send()
        got = self.mill.run("spindle-way", answers=self.clumsy)
        self.assertIs(got.end, Ending.NOT_PROVEN, got.words)
        self.assertIn("Asked to turn left, it turned right", got.words)
        self.assertEqual((dict(got.edit), self.clumsy.asked.count("spindle.way")), ({}, 2))
        self.mill.session.undo()
        self.mill.send()
        self.assertIs(self.mill.run("spindle-way", answers=self.clumsy).end, Ending.PROVEN)

    def test_inputs_are_not_quiet_beside_one_that_does_not_turn(self) -> None:
        seen, listen = spindle_way_claim(self.mill.machine), Wishes(seconds=2, spindle=True)
        self.mill.session.prove(seen, True, "as if it had been seen", Witness.EYES)
        for told, asked in ((MAGNET, []), ({at(7, "input.role"): "none"}, ["spindle.stands", "spindle.way"])):
            self.mill.session.set_values(told)
            self.mill.send()
            self.clumsy.asked.clear()
            got = self.mill.run("study", answers=self.clumsy, wishes=listen)
            self.assertIsNot(got.end, Ending.FAILED, got.words)
            self.assertEqual(self.clumsy.asked, asked)
            self.hands.ask(do="trip")
            got = self.mill.run("study", answers=self.clumsy, wishes=listen)
            self.assertIs(got.end, Ending.FAILED, got.words)
            self.hands.ask(do="restore")

    def test_one_that_was_slowed_before_proves_nothing(self) -> None:
        """Its drive has tripped, which nobody is wired to; then Esc is pressed."""
        got = self.end("esc", "trip")
        self.assertIs(got.end, Ending.FAILED, got.words)
        self.assertIn("did not turn any more", got.words)

    def test_a_controller_that_restarts_meanwhile_ends_it_too(self) -> None:
        for asked in ("stop", "link"):
            with self.subTest(asked):
                got = self.end(asked, "dip")
                self.assertIs(got.end, Ending.STOPPED, got.words)
                self.assertIn("restarted", got.words)
                self.assertTrue(self.mill.wait(lambda: self.mill.session.connected and not self.mill.session.busy))

    def test_nobody_hears_it_restart_while_the_cable_is_pulled(self) -> None:
        got = self.end("link", "cut")
        self.assertIs(got.end, Ending.PROVEN, got.words)
        self.assertTrue(all(self.mill.session.homes.known(slot) for slot in range(3)))
        unheard = self.clumsy._end_spindle

        def end(do: str) -> None:
            unheard(do)
            if do == "press":
                self.hands.ask(do="dip")

        self.clumsy._end_spindle = end  # type: ignore[method-assign]
        got = self.end("link", "cut")
        self.assertIs(got.end, Ending.FAILED, got.words)
        self.assertIn("restarted meanwhile", got.words)
