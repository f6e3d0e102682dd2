"""Small programs, each with its verdict, worked by hand, in the comments at its head."""

from __future__ import annotations

import unittest
from pathlib import Path

from idler.core.program.choices import chosen
from idler.core.program.language import Severity
from idler.core.program.verdict import Verdict, judge
from tests.core.program.machines import lathe, mill

FOLDER = Path(__file__).resolve().parents[2] / "programs"


def heads(text: bytes) -> dict[str, str]:
    """What stands at the head of a program, by its first word."""
    found = {}
    for line in text.splitlines():
        if not line.startswith(b"; "):
            break
        word, _, rest = line[2:].decode("latin-1").partition(" ")
        found[word] = rest
    return found


def verdict(text: bytes, head: dict[str, str]) -> Verdict:
    machine = lathe() if head.get("machine") == "lathe" else mill()
    lengths = [head["length"]] if "length" in head else []
    radii = [head["radius"]] if "radius" in head else []
    found = judge(text, machine, chosen(machine, {}, head.get("zero", ""), lengths, radii))
    assert found is not None
    return found


class Corpus(unittest.TestCase):
    def test_every_verdict_is_the_one_that_was_worked_by_hand(self) -> None:
        files = sorted(FOLDER.glob("*.nc"))
        self.assertGreater(len(files), 60)
        for file in files:
            with self.subTest(file.stem):
                text = file.read_bytes()
                head = heads(text)
                self._hold(head, verdict(text, head))

    def _hold(self, head: dict[str, str], found: Verdict) -> None:
        codes = {problem.code for problem in found.problems} - {"beyond", "left_out"}
        self.assertEqual(codes, set(head.get("codes", "").split()))
        self.assertEqual(found.fits, head.get("fits", "yes") == "yes")
        self.assertEqual(" ".join(word.word.split(" ")[0] for word in found.program.left_out), head.get("left_out", ""))
        for name in "XYZA":
            if name in head:
                low, high = (float(text) for text in head[name].split())
                self.assertAlmostEqual(found.envelope.extents[name][0], low, places=6, msg=name)
                self.assertAlmostEqual(found.envelope.extents[name][1], high, places=6, msg=name)
        beyond = ", ".join(
            f"{item.axis} {item.side} {item.by:g} {item.first_line} {item.lines}" for item in found.envelope.beyond
        )
        if "beyond" in head or "fits" not in head:
            self.assertEqual(beyond, head.get("beyond", ""))
        if "shift" in head:
            shift = found.envelope.shift
            self.assertEqual(
                "none" if shift is None else " ".join(f"{name} {way:g}" for name, way in shift.items()), head["shift"]
            )
        timing = found.timing
        for word, seconds in (("time", timing.total), ("dwell", timing.dwell), ("spindle", timing.spindle)):
            if word in head:
                self.assertAlmostEqual(seconds, float(head[word]), delta=0.001, msg=word)
        for word, count in (
            ("lines", found.program.lines),
            ("stops", found.program.stops),
            ("moves", found.program.moves),
        ):
            if word in head:
                self.assertEqual(count, int(head[word]), word)
        if "last" in head:
            name, at = head["last"].split()
            row = found.program.sheet.ends[found.program.moves - 1]
            self.assertAlmostEqual(row[found.program.machine.names.index(name)], float(at))
        for problem in found.problems:
            self.assertNotIn("{", problem.text)
            self.assertGreaterEqual(problem.lines, 0)
            self.assertIsInstance(problem.severity, Severity)


if __name__ == "__main__":
    unittest.main()
