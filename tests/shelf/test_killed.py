"""Killed at any moment of saving: what was confirmed is there afterwards, and the shelf goes on."""

from __future__ import annotations

import os
import random
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from idler.shelf.shelf import Shelf
from tests.support import X, at, verge, verge_text

KILLS = int(os.environ.get("IDLER_KILLS", "6"))
PITCH = at(X, "chain.pitch")
SCRIPT = """
import os, signal, sys
from fractions import Fraction
from pathlib import Path
from idler.core.proof.claims import Witness, direction_claim, evidence
from idler.shelf.shelf import Shelf
from tests.support import X, at, verge
left = int(sys.argv[2])
def moment(event, args):
    global left
    if event == "open" or event.startswith("os."):
        left -= 1
        if left == 0:
            os.kill(os.getpid(), signal.SIGKILL)
shelf = Shelf(Path(sys.argv[1]))
shelf.recover(0)
start = len(shelf.revisions("verge"))
sys.addaudithook(moment)
for n in range(start, start + 1000):
    machine = shelf.load("verge").machine.with_values({at(X, "chain.pitch"): Fraction(n % 900 + 1)})
    shelf.save_draft("verge", machine, shelf.load("verge").machine)
    print("draft", n % 900 + 1, flush=True)
    claim = direction_claim(machine, X)
    shelf.save_proofs("verge", {claim.key: evidence(machine, claim, float(n), True, f"proof {n}", Witness.EYES)})
    print("proof", n, flush=True)
    shelf.keep("verge", machine, f"revision {n}", float(n))
    print("revision", n, flush=True)
"""


class Killed(unittest.TestCase):
    """IDLER_KILLS says how often; each kill comes at a random call of the system, the seed is named where one fails."""

    def test_at_random_moments_of_saving(self) -> None:
        seed = random.SystemRandom().randrange(1 << 30)
        chance = random.Random(seed)
        with tempfile.TemporaryDirectory() as folder:
            root = Path(folder)
            Shelf(root).add("verge", verge_text(), "As it came", 0.0)
            kept: list[str] = []
            for number in range(KILLS):
                with self.subTest(seed=seed, number=number):
                    kept += self._one(root, chance.randint(1, 300), kept)

    def _one(self, root: Path, moment: int, kept: list[str]) -> list[str]:
        done = subprocess.run(
            [sys.executable, "-c", SCRIPT, str(root), str(moment)], capture_output=True, text=True,
            cwd=Path(__file__).resolve().parents[2],
        )  # fmt: skip
        self.assertEqual(done.returncode, -9, done.stderr)
        said = [line.split() for line in done.stdout.splitlines()]
        confirmed = [f"revision {number}" for what, number in said if what == "revision"]
        shelf = Shelf(root)
        shelf.recover(0.0)
        notes = [revision.note for revision in shelf.revisions("verge")]
        self.assertLessEqual({*kept, *confirmed}, set(notes))
        base = shelf.load("verge").machine
        drafted, lost = shelf.draft("verge", base)
        self.assertEqual(lost, [])
        drafts = [int(number) for what, number in said if what == "draft"]
        if drafts:
            self.assertIn(drafted[PITCH], (drafts[-1], drafts[-1] % 900 + 1))
        proofs = [number for what, number in said if what == "proof"]
        if proofs:
            (proof,) = shelf.proofs("verge").values()
            self.assertIn(proof.result, (f"proof {proofs[-1]}", f"proof {int(proofs[-1]) + 1}"))
        fsck = subprocess.run(["git", "-C", str(root / "machines"), "fsck", "--strict"], capture_output=True, text=True)
        self.assertEqual(fsck.returncode, 0, fsck.stderr)
        self.assertEqual(shelf.at(shelf.revisions("verge")[-1]), verge())
        return confirmed
