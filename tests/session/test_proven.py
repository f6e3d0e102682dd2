"""Proofs belong to the controller with which they were gathered."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from idler.core.proof.claims import (
    Claim,
    Proof,
    Witness,
    at_controller,
    changed_since,
    direction_claim,
    evidence,
    level_claim,
    state,
)
from idler.library import new_machine, open_machine
from tests.support import Bench, X, Y, changed_rig, verge


def direction() -> Claim:
    return direction_claim(verge(), X)


class OnPaper(unittest.TestCase):
    def test_those_of_another_are_stale_and_say_so(self) -> None:
        kept = {direction().key: evidence(verge(), direction(), 1.0, True, "seen", Witness.EYES, 7)}
        self.assertIs(state(verge(), direction(), at_controller(kept, 7)), Proof.PROVEN)
        self.assertIs(state(verge(), direction(), at_controller(kept, 0)), Proof.PROVEN)
        there = at_controller(kept, 8)
        self.assertIs(state(verge(), direction(), there), Proof.STALE)
        self.assertEqual(changed_since(verge(), direction(), there), [("controller", "serial number 7", "another one")])

    def test_what_was_found_of_iron_stays_and_so_does_what_was_kept_before_it_was_asked_with_which(self) -> None:
        level = level_claim(verge(), X, Y)
        for claim, controller in ((level, 7), (direction(), 0)):
            kept = {claim.key: evidence(verge(), claim, 1.0, True, "seen", Witness.EYES, controller)}
            self.assertIs(state(verge(), claim, at_controller(kept, 8)), Proof.PROVEN)


class Exchanged(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)
        other = changed_rig(self.root, "verge", lambda data: data["rig"].update(serial=data["rig"]["serial"] + 1))
        self.mine, self.other = self.bench("verge"), self.bench(other)
        new_machine("verge", shelf=self.root)

    def bench(self, rig: str) -> Bench:
        bench = Bench(rig=rig)
        self.addCleanup(bench.close)
        return bench

    def test_a_controller_that_was_exchanged_is_said_and_proven_anew(self) -> None:
        said: list[str] = []
        with open_machine("verge", self.root, says=said.append) as mill:
            mill.connect(self.mine.link)
            mill.session.prove(direction(), True, "seen", Witness.EYES)
            mill.connect(self.other.link)
            self.assertIs(mill.proofs["direction.X"], Proof.STALE)
            self.assertEqual(
                [words for words in said if "another controller" in words and "26110417" in words], said[-1:]
            )
        with open_machine("verge", self.root, says=said.append) as mill:
            self.assertIs(mill.proofs["direction.X"], Proof.PROVEN, "nobody knows which it will be")
            mill.connect(self.other.link)
            self.assertIs(mill.proofs["direction.X"], Proof.STALE)
            mill.connect(self.mine.link)
            self.assertIs(mill.proofs["direction.X"], Proof.PROVEN)
            mill.connect(self.other.link)
            mill.session.prove(direction(), True, "seen here, too", Witness.EYES)
            self.assertIs(mill.proofs["direction.X"], Proof.PROVEN)
            mill.connect(self.mine.link)
            self.assertIs(mill.proofs["direction.X"], Proof.STALE)
