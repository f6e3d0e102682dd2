"""Final elements: one more is one more module, which the table, the file, the wire and the mistakes then know."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from idler.core.finals import FINALS
from idler.core.finals.base import Motion
from idler.core.table import AXIS

WINCH = """
from collections.abc import Iterator
from fractions import Fraction
from idler.core.finals.base import Drawn, FinalElement, Motion, Otherwise, shown
from idler.core.values.build import LEAD_STEP, U32, quantity
from idler.core.values.parameter import Wire
from idler.core.values.units import Dimension

def drawn(axis):
    round_ = axis.number("chain.drum")
    return Drawn(round_, Fraction(1), shown(axis, round_))

def slips(axis):
    told = axis.number("chain.drum")
    yield Otherwise("chain.drum", told * 2, "its rope runs double", Fraction(2), 1.0)

FINAL = FinalElement(
    "winch", 5, Motion.LINE,
    (quantity("chain.drum", "way round the drum", "100", Dimension.LENGTH, ("1", "2000"), Wire(0x4001, 17, U32, LEAD_STEP),
              "Rope for one turn.", "Wind a tape round it.", used_when=("chain.final", "winch")),),
    "chain.drum", drawn, slips,
)
"""

SCRIPT = """
import importlib.util, json, pkgutil, sys
from fractions import Fraction
real = pkgutil.iter_modules
def more(path=None, prefix=""):
    yield from real(path, prefix)
    if path and list(path)[0].endswith("finals"):
        yield pkgutil.ModuleInfo(None, "winch", False)
pkgutil.iter_modules = more
class Finder:
    def find_spec(self, name, path=None, target=None):
        if name == "idler.core.finals.winch":
            return importlib.util.spec_from_file_location(name, sys.argv[1])
sys.meta_path.insert(0, Finder())
from idler.core.machine import Address, Machine, file
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.mistakes import causes
from idler.core.profile.codec import encode, place
machine = Machine(("X",), {Address(0, "chain.final"): "winch", Address(0, "chain.drum"): Fraction(250)}, 1, 1)
again = file.read(file.write(machine)).machine
where = Address(0, "chain.drum")
print(json.dumps({
    "same": again == machine, "counts": str(Chain.of(machine.axis(0)).counts_per_unit),
    "raw": encode(where.row, machine[where]), "place": str(place(where)),
    "causes": [cause.slip.words for cause in causes(machine.axis(0), 2.0, 1e-6)],
}))
"""


class Finals(unittest.TestCase):
    def test_each_is_known_by_key_and_raw_value_and_brings_its_own_rows(self) -> None:
        self.assertEqual([final.raw for final in FINALS.values()], sorted({final.raw for final in FINALS.values()}))
        for key, final in FINALS.items():
            self.assertEqual(key, final.key)
            self.assertIn(final.size, AXIS)
            self.assertIsInstance(final.motion, Motion)
            for row in final.rows:
                self.assertEqual((AXIS[row.key].label, row.used_when), (row.label, ("chain.final", key)))

    def test_one_more_is_one_more_module(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "winch.py"
            path.write_text(WINCH)
            done = subprocess.run(
                [sys.executable, "-c", SCRIPT, str(path)], capture_output=True, text=True, check=False
            )
        self.assertEqual(done.returncode, 0, done.stderr)
        told = json.loads(done.stdout)
        self.assertTrue(told["same"])
        self.assertEqual((told["counts"], told["raw"]), ("32/5", 250_000_000))
        self.assertIn("its rope runs double", told["causes"])
        self.assertIn("4001", told["place"])
