"""The program in hand: read in a thread of its own, read again where file, machine or work zero change."""

from __future__ import annotations

import os
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from idler.core.machine import Address
from idler.core.machine import file as machinefile
from idler.core.proof.workzero import WorkZero
from idler.session.loop import PlainLoop
from idler.session.session import Session
from idler.shelf.programs import lines_of
from idler.shelf.shelf import Shelf
from tests.core.program.machines import mill
from tests.support import DEADLINE


class InHand(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        shelf, self.loop = Shelf(self.folder / "shelf"), PlainLoop()
        shelf.add("mill", machinefile.write(mill()), "made", 0.0)
        self.session = Session(shelf, "mill", self.loop)
        self.addCleanup(self.session.close)
        self.program = self.session.program
        self.file = self.folder / "part.nc"

    def read(self, text: bytes) -> None:
        self.file.write_bytes(text)
        self.program.open(self.file)
        self.settled()

    def settled(self) -> None:
        self.assertTrue(self.loop.until(lambda: self.program.share is None, DEADLINE))

    def anew(self) -> None:
        """Waits until another judgement is there."""
        before = self.program.judged
        self.assertTrue(
            self.loop.until(lambda: self.program.judged is not before and self.program.share is None, DEADLINE)
        )

    @property
    def fits(self) -> bool:
        assert self.program.judged is not None, self.program.trouble
        return self.program.judged.verdict.fits

    def test_it_is_judged_anew_where_work_zero_machine_or_tolerance_change(self) -> None:
        self.read(b"G21 G90\nG0 X0 Y0\nX200\n")
        self.assertTrue(self.fits)
        self.session.work.put_shown({"X": WorkZero(150.0)})
        self.anew()
        self.assertFalse(self.fits)
        self.assertEqual(self.program.span("X"), (150.0, 350.0))
        self.session.set_values({Address(0, "travel.high"): Fraction(400)})
        self.anew()
        self.assertTrue(self.fits)
        self.program.tolerance = 1.0
        self.anew()

    def test_a_shift_is_looked_at_and_changes_nothing_of_the_machine(self) -> None:
        self.session.work.put_shown({"X": WorkZero(150.0)})
        self.read(b"G21 G90\nG0 X0 Y0\nX200\n")
        assert self.program.judged is not None
        shift = self.program.judged.verdict.envelope.shift
        assert shift is not None
        self.program.shifted(shift)
        self.anew()
        self.assertTrue(self.fits)
        self.assertEqual(self.session.work.of("X"), 150.0)
        self.program.shifted({})
        self.anew()
        self.assertFalse(self.fits)

    def test_a_file_that_is_written_anew_is_read_anew(self) -> None:
        self.read(b"G21 G90\nG0 X0\nX200\n")
        made = self.folder / "new"
        made.write_bytes(b"G21 G90\nG0 X0\nX500\n; longer\n")
        os.replace(made, self.file)
        self.anew()
        self.assertFalse(self.fits)
        self.file.unlink()
        self.program.judge()
        self.settled()
        self.assertIn("part.nc", self.program.trouble)
        self.assertIsNone(self.program.judged)

    def test_what_cannot_be_read_is_one_sentence(self) -> None:
        self.program.open(self.folder)
        self.settled()
        self.assertIn("is a folder", self.program.trouble)

    def test_the_last_that_is_opened_is_what_is_known(self) -> None:
        self.file.write_bytes(b"G21 G90 G0\n" + b"".join(b"X%d Y%d\n" % (at % 200, at % 7) for at in range(300_000)))
        other = self.folder / "other.nc"
        other.write_bytes(b"G21 G90\nG0 X1\n")
        self.program.open(self.file)
        self.program.open(other)
        self.settled()
        assert self.program.judged is not None
        self.assertEqual(self.program.judged.path, other)
        self.program.open(self.file)
        self.program.cancel()
        self.assertIsNone(self.program.share)
        self.program.close()
        self.assertIsNone(self.program.judged)
        self.assertIsNone(self.program.span("X"))

    def test_any_line_of_it_is_found(self) -> None:
        for end in (b"\n", b"\r\n", b"\r"):
            lines = [b"N%d G0 X%d" % (at, at % 100) for at in range(1, 2001)]
            self.read(b"G21 G90" + end + end.join(lines) + end)
            assert self.program.judged is not None
            program, text = self.program.judged.verdict.program, self.program.judged.text
            for first in (1, 2, 255, 256, 257, 258, 1500, 2001):
                want = ["G21 G90", *(line.decode() for line in lines)][first - 1 : first + 4]
                self.assertEqual(lines_of(text, program.marks, first, 5)[: len(want)], want, (end, first))


if __name__ == "__main__":
    unittest.main()
