"""What is next: an order without circles and dead ends, on the examples, on random machines and whatever came out."""

from __future__ import annotations

import random
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.machine import Address, Machine
from idler.core.machine import file as machinefile
from idler.core.proof.claims import Proof, Witness, claims, duty_key, evidence, state
from idler.core.report.agenda import BUS, CONNECT, KEEP, SEND, WAYS, Now, agenda, ready, way_of
from idler.core.rules.findings import findings
from idler.core.wiring import missing
from idler.procedures.registry import WORDS
from idler.shelf.examples import examples
from tests.core.machine.test_random_machines import machines

EXAMPLES = {name: machinefile.read(text).machine for name, text in examples().items()}
LINKED = Now(connected=True, edited=0, waiting=0, kept=True)


def left(machine: Machine, now: Now = LINKED, proofs: dict | None = None, skips: dict | None = None):  # type: ignore[no-untyped-def,type-arg]
    return agenda(machine, proofs or {}, [], now, skips or {})


class Order(unittest.TestCase):
    def test_a_machine_without_a_controller_is_connected_first_and_nothing_else_is_ready(self) -> None:
        machine = EXAMPLES["verge"]
        steps = agenda(machine, {}, findings(machine), Now(False, 3, 0, False), {})
        first = ready(steps)
        self.assertEqual(first.key if first else "", CONNECT)
        self.assertEqual([step.key for step in steps if not step.waits_for and step.procedure], [])
        self.assertTrue(any(step.key.startswith("learn.") for step in steps))
        self.assertEqual(steps[-1].key, KEEP)

    def test_who_has_left_out_a_guard_has_not_left_out_a_switch_that_is_missing_later(self) -> None:
        machine = EXAMPLES["verge"].with_values({Address(0, "input.role"): "stop"})

        def learnt(told: Machine, skips: dict[str, str]) -> list[bool]:
            steps = agenda(told, {}, findings(told), Now(True, 0, 0, False), skips)
            return [bool(step.skipped) for step in steps if step.key.startswith("learn.")]

        key = f"learn.{'+'.join(duty_key(duty).partition('.')[2] for duty in missing(machine))}"
        self.assertEqual(learnt(machine, {key: "it has none"}), [True])
        more = machine.with_values({Address(0, "input.role"): "none"})
        self.assertEqual(learnt(more, {key: "it has none"}), [False])

    def test_what_was_edited_is_sent_before_anything_is_proven(self) -> None:
        machine = EXAMPLES["fusee"]
        steps = left(machine, Now(True, 2, 0, False))
        self.assertEqual(steps[0].key, SEND)
        self.assertTrue(all(SEND in step.waits_for for step in steps[1:]))

    def test_the_stop_comes_first_and_everything_is_there_once(self) -> None:
        for machine in EXAMPLES.values():
            steps = left(machine)
            keys = [step.key for step in steps]
            self.assertEqual(len(keys), len(set(keys)))
            self.assertEqual(set(keys) - {KEEP}, {claim.key for claim in claims(machine)})
            if "wiring.stop" in keys:
                self.assertEqual(keys[0], "wiring.stop")
            for step in steps[:-1]:
                word = step.procedure.split()[0]
                self.assertIn(word, WORDS, step.key)

    def test_what_plain_drives_cannot_do_is_no_step(self) -> None:
        """A path needs a controller that follows one: whoever does what is next must not come to it."""
        parts = EXAMPLES["pieces"]
        other = parts.with_values({Address(None, "build.controller"): "whole"})
        keys = {claim.key for claim in claims(parts)}
        self.assertEqual({claim.key for claim in claims(other)} - keys, {"figure.XY", "trial.X", "trial.Y", "trial.Z"})

    def test_a_drive_on_a_bus_is_spoken_to_before_what_turns_is_proven(self) -> None:
        steps = {step.key: step for step in left(EXAMPLES["fusee"], Now(True, 0, 0, True, spoken=False))}
        self.assertIn(BUS, steps["spindle.way"].waits_for)
        self.assertNotIn(BUS, steps["direction.X"].waits_for)
        self.assertNotIn(BUS, [step.key for step in left(EXAMPLES["fusee"])])

    def test_what_was_left_out_holds_up_no_sign_off_that_is_kept(self) -> None:
        machine = EXAMPLES["verge"]
        skips = {step.key: "not today" for step in left(machine) if step.key != KEEP}
        self.assertNotIn(KEEP, [step.key for step in left(machine, skips=skips)])
        self.assertIn(KEEP, [step.key for step in left(machine, Now(True, 0, 0, False), skips=skips)])

    def test_nothing_left_is_an_empty_list(self) -> None:
        machine = EXAMPLES["verge"]
        proofs = {claim.key: evidence(machine, claim, 1.0, True, "seen", Witness.EYES) for claim in claims(machine)}
        self.assertEqual(left(machine, LINKED, proofs), ())
        self.assertEqual([step.key for step in left(machine, Now(True, 0, 0, False), proofs)], [KEEP])


class Ways(unittest.TestCase):
    def test_every_way_comes_after_what_it_waits_for(self) -> None:
        order = list(WAYS)
        for key, way in WAYS.items():
            for before in way.after:
                self.assertLess(order.index(before), order.index(key), (key, before))


class Any(unittest.TestCase):
    @settings(deadline=None, max_examples=60)
    @given(machines(), st.randoms(use_true_random=False), st.booleans())
    def test_whatever_comes_out_it_neither_stands_still_nor_goes_round(
        self, machine: Machine, dice: random.Random, connected: bool
    ) -> None:
        """Each step is tried; it is proven, or fails and is skipped, or a value is sent meanwhile: the list gets shorter, and
        as long as it is not empty there is a step to do that waits for none."""
        now, proofs, skips = Now(connected, dice.randrange(2), 0, True), {}, {}
        by_key = {claim.key: claim for claim in claims(machine)}
        for _ in range(3 * len(by_key) + 8):
            steps = agenda(machine, proofs, findings(machine), now, skips)
            places = {step.key: place for place, step in enumerate(steps)}
            for step in steps:
                self.assertTrue(all(places[key] < places[step.key] for key in step.waits_for), step)
            step = ready(steps)
            if step is None:
                break
            if step.key == CONNECT:
                now = Now(True, now.edited, 0, True)
            elif step.key == SEND:
                now = Now(True, 0, 0, True)
            elif step.key in by_key and dice.random() < 0.7:
                claim = by_key[step.key]
                proofs[claim.key] = evidence(machine, claim, 1.0, dice.random() < 0.8, "tried", Witness.EYES)
                if state(machine, claim, proofs) is Proof.FAILED and dice.random() < 0.5:
                    skips[step.key] = "not on this machine"
            else:
                skips[step.key] = "later"
        self.assertIsNone(ready(agenda(machine, proofs, findings(machine), now, skips)))

    @settings(deadline=None, max_examples=30)
    @given(machines())
    def test_every_claim_has_its_way(self, machine: Machine) -> None:
        for claim in claims(machine):
            self.assertIn(way_of(claim), WAYS)
