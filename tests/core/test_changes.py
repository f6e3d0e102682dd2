"""What differs between machines with other axes; files and drafts of older and other shapes."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from idler.core import axes, machinefile
from idler.core.changes import axes_changed, differences
from idler.core.machine import Machine
from idler.shelf.shelf import Shelf
from tests.support import X, Y, Z, at, verge, verge_text, wired


class Differences(unittest.TestCase):
    def test_an_axis_in_another_place_is_the_same_axis(self) -> None:
        moved = axes.move(wired(), Z, 0)
        self.assertEqual(differences(wired(), moved), [])
        self.assertEqual(axes_changed(wired(), moved), "Axes X Y Z A → Z X Y A.")
        self.assertEqual(axes_changed(wired(), wired()), "")

    def test_a_new_axis_tells_only_what_is_not_usual(self) -> None:
        more = axes.add(verge(), "B").with_values({at(4, "chain.wheel_teeth"): 72})
        labels = {str(change) for change in differences(verge(), more)}
        self.assertIn("B teeth of the worm wheel — → 72", labels)
        self.assertIn("B drive output — → 5", labels)
        self.assertLess(len(labels), 6)

    def test_a_value_that_moved_with_its_axis_is_told_by_its_letter(self) -> None:
        moved = axes.move(wired().with_values({at(X, "chain.pitch"): Fraction(4)}), X, 2)
        self.assertEqual([str(change) for change in differences(wired(), moved)], ["X pitch of the screw 5 mm → 4 mm"])


class Older(unittest.TestCase):
    def test_version_1_gave_each_axis_the_output_of_its_number(self) -> None:
        lines = [line for line in verge_text().splitlines() if not line.startswith("output =")]
        old = "\n".join(lines).replace("schema = 2", "schema = 1")
        read = machinefile.read(old).machine
        self.assertEqual([axis.whole("axis.output") for axis in read.axes], [1, 2, 3, 4])
        self.assertEqual(read, verge())
        written = machinefile.write(read, old)
        self.assertIn("schema = 2", written)
        self.assertEqual(machinefile.read(written).machine, read)


class Drafts(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.shelf = Shelf(Path(folder.name))
        self.shelf.add("verge", verge_text(), "As it came", 1.0)

    def draft(self, machine: Machine) -> Machine:
        self.shelf.save_draft("verge", machine, verge())
        found, lost = self.shelf.draft("verge", verge())
        self.assertEqual(lost, [])
        return found

    def test_other_axes_come_back_with_all_their_values(self) -> None:
        for machine in (
            axes.remove(verge(), Y), axes.rename(verge(), X, "U"), axes.move(verge(), Z, 0),
            axes.add(verge().with_values({at(X, "chain.pitch"): Fraction(4)}), "V"),
        ):  # fmt: skip
            self.assertEqual(self.draft(machine), machine)

    def test_only_the_order_is_a_draft_too_and_undone_it_is_gone(self) -> None:
        moved = axes.move(verge(), Z, 0)
        self.assertEqual(self.draft(moved), moved)
        self.assertEqual(self.draft(verge()), verge())

    def test_a_revision_with_other_axes_is_kept_and_read(self) -> None:
        more = axes.add(verge(), "W")
        self.shelf.keep("verge", more, "one more", 2.0)
        self.assertEqual(self.shelf.load("verge").machine, more)
        self.assertEqual(self.shelf.draft("verge", more), (more, []))
