"""One more parameter is its row and its claim: file, wire, EDS, schema, profile, compare and proofs then know it."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import idler.core

ROW = """
    quantity(
        "travel.shy", "shy of its ends", "1.5", Dimension.TRAVEL, ("0", "50"), Wire(0x4002, 40, U32, POSITION_STEP),
        "How far from its ends an axis stays that is made up.", "It is made up.",
    ),
"""

SCRIPT = """
import json
from fractions import Fraction
from idler.core.machine import Address, Machine, file
from idler.core.profile.codec import image, machine_from, place
from idler.core.profile.document import profile_text
from idler.core.profile.eds import eds_text
from idler.core.profile.objects import entries
from idler.core.proof.claims import Proof, Witness, claims, evidence, state
from idler.core.report.compare import as_json, compared
from idler.bench.objects.told import Told
where = Address(0, "travel.shy")
usual = Machine(("X",), {Address(0, "axis.output"): 1}, 2, 2)
machine = usual.with_values({where: Fraction(5, 2)})
raws = image(machine)
kept = {claim.key: evidence(usual, claim, 0.0, True, "", Witness.EYES) for claim in claims(usual)}
print(json.dumps({
    "file": str(file.read(file.write(machine)).machine[where]), "wire": raws[place(where)],
    "back": str(machine_from(raws, machine.shape)[where]), "shown": machine.show(where),
    "told": Told({tuple(where): raw for where, raw in raws.items()}).length("travel.shy"),
    "stale": [claim.key for claim in claims(machine) if state(machine, claim, kept) is Proof.STALE],
    "compared": [line["label"] for part in as_json(compared(usual, machine)) for line in part["values"]],
    "written": [
        "shy of its ends" in text for text in (eds_text(entries(machine.shape)), profile_text(), json.dumps(file.schema()))
    ],
}))
"""


class Added(unittest.TestCase):
    def test_a_made_up_value_of_an_axis(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / "idler"
            shutil.copytree(Path(idler.core.__file__).parent.parent, copy, ignore=shutil.ignore_patterns("__pycache__"))
            self._put(copy / "core/table/rows/axis.py", '    flag(\n        "travel.switches_on"', ROW.lstrip("\n"))
            self._put(copy / "core/proof/claims.py", '"low", "high", "limits_on"', '"shy", ')
            done = subprocess.run(
                [sys.executable, "-c", SCRIPT],
                capture_output=True, text=True, env={**os.environ, "PYTHONPATH": folder, "PYTHONDONTWRITEBYTECODE": "1"},
            )  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(
            json.loads(done.stdout),
            {
                "file": "5/2", "wire": 25000, "back": "5/2", "shown": "2.5 mm", "told": 2.5, "stale": ["ends.X", "trial.X"],
                "compared": ["shy of its ends"], "written": [True, True, True],
            },
        )  # fmt: skip

    def _put(self, path: Path, before: str, text: str) -> None:
        """Puts a text before the one place where another stands."""
        source = path.read_text("utf-8")
        self.assertEqual(source.count(before), 1, path)
        path.write_text(source.replace(before, text + before), "utf-8")
