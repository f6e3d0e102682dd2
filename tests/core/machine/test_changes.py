"""What differs between machines with other axes; files and drafts of older and other shapes."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from idler.core.machine import Machine, axes
from idler.core.machine import file as machinefile
from idler.core.machine.changes import axes_changed, differences
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
        old = "\n".join(lines).replace("schema = 3", "schema = 1")
        read = machinefile.read(old).machine
        self.assertEqual([axis.whole("axis.output") for axis in read.axes], [1, 2, 3, 4])
        self.assertEqual(read, verge())
        written = machinefile.write(read, old)
        self.assertIn("schema = 3", written)
        self.assertEqual(written.count("#"), old.count("#"))
        self.assertEqual(machinefile.read(written).machine, read)

    def test_up_to_version_2_two_bare_numbers_of_a_stage_were_turns(self) -> None:
        old = 'schema = 2\n# gearbox\n[axis.X.chain]\nstages = ["20 : 40", "15 to 30 teeth"]  # as bought\n'
        read = machinefile.read(old).machine
        self.assertEqual([stage.reduction for stage in read.axes[X].stages], [Fraction(1, 2), 2])
        written = machinefile.write(read, old)
        self.assertEqual(machinefile.read(written).machine, read)
        self.assertIn("# gearbox", written)
        self.assertIn("# as bought", written)


class Shapes(unittest.TestCase):
    """A machine file whose machine has other axes or terminals now keeps its comments."""

    def test_comments_stay_with_their_tables(self) -> None:
        text = verge_text()
        for table, comment in (("[axis.X.chain]", "# the long one"), ("[input.2]", "# of Y")):
            text = text.replace(table, f"{comment}\n{table}")
        for changed in (
            axes.add(verge(), "B"), axes.remove(verge(), 1), axes.move(verge(), 0, 2), axes.rename(verge(), 0, "U"),
            Machine(verge().names, verge().changed, 3, 0),
        ):  # fmt: skip
            with self.subTest(changed.shape):
                written = machinefile.write(changed, text)
                self.assertEqual(machinefile.read(written).machine, changed)
                name = "U" if "U" in changed.names else "X"
                self.assertIn(f"# the long one\n[axis.{name}.chain]", written)
                self.assertIn("# of Y\n[input.2]", written)


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
