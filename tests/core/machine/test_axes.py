"""Axes added, removed, renamed, ordered and copied; which way + is; stages that add up; torque."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from idler.core.errors import Refusal
from idler.core.machine import Machine, axes
from idler.core.mechanics.axis_directions import directions, pointing, sense, shown_per_travel
from idler.core.mechanics.chain import Chain
from idler.core.mechanics.torque import Muscle
from idler.core.rules.findings import findings
from idler.core.table.sizes import problem_of_sizes
from idler.core.values.curve import points, problem_of_curve, torque_at
from idler.core.values.stage import parse_stages, stages_text
from tests.support import A, X, Y, Z, at, verge, wired


class Axes(unittest.TestCase):
    def test_what_belongs_to_an_axis_goes_with_it(self) -> None:
        machine = wired().with_values({at(Z, "chain.pitch"): Fraction(4)})
        moved = axes.move(machine, Z, 0)
        self.assertEqual(moved.names, ("Z", "X", "Y", "A"))
        self.assertEqual(moved[at(0, "chain.pitch")], 4)
        self.assertEqual(moved[at(0, "axis.output")], 3)  # the motor is where its cable is
        self.assertEqual(moved[at(4, "input.axis")], "Z")
        self.assertEqual(axes.move(moved, 0, 2), machine)

    def test_an_axis_that_is_removed_takes_its_switches_along(self) -> None:
        without = axes.remove(wired(), Y)
        self.assertEqual(without.names, ("X", "Z", "A"))
        self.assertEqual((without[at(2, "input.role")], without[at(2, "input.axis")]), ("none", "none"))
        self.assertEqual(without[at(4, "input.axis")], "Z")
        with self.assertRaisesRegex(Refusal, "last one"):
            axes.remove(Machine(("X",)), 0)

    def test_a_new_letter_is_followed_and_must_be_free(self) -> None:
        renamed = axes.rename(wired(), X, "U")
        self.assertEqual(renamed.names[0], "U")
        self.assertEqual(renamed[at(1, "input.axis")], "U")
        self.assertEqual(axes.rename(renamed, X, "X"), wired())
        with self.assertRaisesRegex(Refusal, "twice"):
            axes.rename(wired(), X, "Y")

    def test_a_new_axis_has_the_kind_of_its_letter_and_a_free_output(self) -> None:
        for letter, rotary in (("U", False), ("B", True)):
            axis = axes.add(verge(), letter).axis(4)
            self.assertEqual((axis.rotary, axis.whole("axis.output")), (rotary, 5))
        full = verge()
        for letter in "BCUV":
            full = axes.add(full, letter)
        with self.assertRaisesRegex(Refusal, "as many as"):
            axes.add(full, "W")

    @given(st.permutations("XYZA"))
    def test_any_order_is_reached_and_left_again(self, order: list[str]) -> None:
        machine = wired()
        for place, letter in enumerate(order):
            machine = axes.move(machine, machine.names.index(letter), place)
        self.assertEqual(machine.names, tuple(order))
        for place, letter in enumerate("XYZA"):
            machine = axes.move(machine, machine.names.index(letter), place)
        self.assertEqual(machine, wired())

    def test_an_axis_that_becomes_rotary_has_its_figures_to_be_set_anew(self) -> None:
        turning = {at(X, "axis.kind"): "rotary"}
        anew = axes.of_other_kinds(verge(), turning)
        keys = {address.key for address in anew}
        self.assertLessEqual({"pace.top_speed", "pace.acceleration", "travel.high"}, keys)
        self.assertNotIn("chain.pitch", keys)
        machine = verge().with_values({**turning, **anew})
        self.assertEqual(axes.of_other_kinds(machine, turning), {})
        self.assertEqual(axes.of_other_kinds(machine, {at(X, "axis.kind"): "endless"}), {})
        self.assertEqual(machine[at(X, "travel.high")], Fraction(0))

    def test_copying_whole_and_by_group(self) -> None:
        machine = verge().with_values({at(X, "pace.top_speed"): Fraction(2222), at(X, "chain.pitch"): Fraction(4)})
        by_group = axes.copied(machine, X, Y, ["pace"])
        self.assertEqual(by_group[at(Y, "pace.top_speed")], 2222)
        self.assertNotIn(at(Y, "chain.pitch"), by_group)
        placed = machine.with_values(
            {at(X, "travel.high"): Fraction(77), at(X, "homing.turn"): 4, at(X, "chain.correction"): Fraction(101, 100)}
        )
        self.assertFalse(set(axes.OWN) & {address.key for address in axes.copied(placed, X, Y, axes.GROUPS)})
        self.assertEqual(axes.copied(placed, X, Y, (), ["travel.high"]), {at(Y, "travel.high"): Fraction(77)})
        self.assertLessEqual(
            {"ends", "turn of homing", "measured correction"}, set(axes.left_out(placed, X, Y, axes.GROUPS))
        )
        whole = axes.copied(machine, X, Y, axes.GROUPS)
        self.assertEqual(whole[at(Y, "chain.pitch")], 4)
        self.assertFalse([address for address in whole if address.row.group == "axis"])
        with self.assertRaisesRegex(Refusal, "rotary"):
            axes.copied(machine, X, A, axes.GROUPS)

    def test_outputs_that_cannot_be(self) -> None:
        for edit, code in (
            ({at(Y, "axis.output"): 1}, "output_shared"),
            ({at(Y, "axis.second_output"): 2}, "output_twice"),
            ({at(Y, "axis.output"): 0}, "no_motor"),
            ({at(Y, "axis.output"): 0, at(Y, "axis.second_output"): 6}, "second_without_first"),
            ({at(Y, "axis.mirrored"): True}, "mirrored"),
            ({at(Y, "axis.kind"): "rotary"}, "letter_disagrees"),
            ({at(Y, "play.backlash"): Fraction(3, 20)}, "play_too_large"),
            ({at(Y, "loop.measured"): True, at(Y, "loop.window"): Fraction(0)}, "lag_unguarded"),
        ):
            with self.subTest(code):
                self.assertNotIn(code, {item.code for item in findings(verge())})
                self.assertIn(code, {item.code for item in findings(verge().with_values(edit))})


class Senses(unittest.TestCase):
    def lathe(self, post: str) -> Machine:
        values = {at(None, "build.kind"): "lathe", at(None, "build.post"): post, at(0, "axis.moves"): "tool"}
        return Machine(("X", "Z", "C")).with_values({**values, at(2, "axis.kind"): "spindle"})

    def test_a_table_goes_against_the_tool(self) -> None:
        self.assertEqual((sense(verge(), X).thing, sense(verge(), X).plus), ("the table", "to the left"))
        self.assertEqual((sense(verge(), Z).thing, sense(verge(), Z).plus), ("the tool", "up"))
        turned = verge().with_values({at(X, "axis.moves"): "tool"})
        self.assertEqual(sense(turned, X).plus, "to the right")
        self.assertEqual(sense(verge().with_values({at(Z, "axis.mirrored"): True}), Z).plus, "down")

    def test_a_lathe_by_its_tool_post(self) -> None:
        for post, towards in (("front", "towards you"), ("behind", "away from you")):
            self.assertIn(towards, sense(self.lathe(post), 0).plus)
        self.assertEqual(sense(self.lathe("front"), 2).thing, "the spindle")

    def test_words_and_picture_say_the_same_way_of_every_axis(self) -> None:
        said = {"right": (1, 0, 0), "left": (-1, 0, 0), "away from you": (0, 1, 0), "towards you": (0, -1, 0),
                "up": (0, 0, 1), "down": (0, 0, -1)}  # fmt: skip
        for kind in ("mill", "router", "lathe"):
            for post in ("front", "behind"):
                machine = Machine(("X", "Y", "Z")).with_values(
                    {
                        at(None, "build.kind"): kind,
                        at(None, "build.post"): post,
                        **{at(s, "axis.moves"): "tool" for s in (0, 1, 2)},
                    }
                )
                for slot in (0, 1, 2):
                    words = sense(machine, slot).plus
                    way = next(
                        vector for text, vector in said.items() if words.endswith(text) or f"the {text}" in words
                    )
                    self.assertEqual(way, pointing(machine, slot)[1], (kind, post, slot, words))

    def test_a_machine_that_became_a_lathe_says_so_of_what_its_axes_carry(self) -> None:
        lathe = verge().with_values({at(None, "build.kind"): "lathe"})
        self.assertEqual(sense(lathe, X).thing, "the headstock")
        listed = [item for item in findings(lathe) if item.code == "carries_the_work"]
        self.assertEqual([item.where.slot for item in listed], [X, Y])
        mended = lathe.with_values(dict(edit for item in listed for edit in item.edit))
        self.assertEqual([item for item in findings(mended) if item.code == "carries_the_work"], [])
        self.assertEqual(sense(mended, X).thing, "the tool")

    def test_every_machine_is_right_handed(self) -> None:
        for machine in (verge(), self.lathe("front"), self.lathe("behind")):
            x, y, z = directions(machine).values()
            cross = (x[1] * y[2] - x[2] * y[1], x[2] * y[0] - x[0] * y[2], x[0] * y[1] - x[1] * y[0])
            self.assertEqual(tuple(c + 0.0 for c in cross), tuple(c + 0.0 for c in z))

    def test_a_mirrored_axis_points_the_other_way(self) -> None:
        self.assertEqual(pointing(verge(), X), ("X", (1.0, 0.0, 0.0)))
        self.assertEqual(pointing(verge().with_values({at(X, "axis.mirrored"): True}), X)[1][0], -1.0)
        self.assertEqual(pointing(verge(), A)[0], "X")

    def test_only_x_of_a_lathe_is_a_diameter(self) -> None:
        machine = self.lathe("front").with_values({at(None, "build.cross"): "diameter"})
        self.assertEqual([shown_per_travel(machine, slot) for slot in range(3)], [2, 1, 1])
        self.assertEqual(shown_per_travel(verge().with_values({at(None, "build.cross"): "diameter"}), X), 1)


class Stages(unittest.TestCase):
    def test_a_reduction_in_two_steps_adds_up_or_is_refused(self) -> None:
        self.assertEqual(stages_text(parse_stages("12 : 1 as 4 : 1 and 3 : 1")), "4 : 1; 3 : 1")
        self.assertEqual(parse_stages("12:1 = 20 to 60 teeth; 4:1")[0].reduction, 3)
        with self.assertRaisesRegex(Refusal, "come to 8 : 1"):
            parse_stages("12 : 1 as 4 : 1 and 2 : 1")

    def test_gears_turn_round_and_belts_do_not(self) -> None:
        for text, turns in (
            ("20 to 40 teeth", True), ("20 to 40 teeth, belt", False), ("20 to 40 teeth; 10 to 20 teeth", False),
            ("3 : 1", False), ("3 : 1, reversing", True),
        ):  # fmt: skip
            machine = verge().with_values({at(X, "chain.stages"): parse_stages(text)})
            self.assertIs(Chain.of(machine.axis(X)).reverses, turns, text)
            self.assertEqual(parse_stages(stages_text(parse_stages(text))), parse_stages(text))


class Torque(unittest.TestCase):
    def test_points_are_read_and_bad_ones_explained(self) -> None:
        self.assertEqual(points("0 1.9, 300 rpm 1.7 N·m, 900 0.9"), ((0, 1.9), (300, 1.7), (900, 0.9)))
        self.assertEqual(points("none"), ())
        for text, why in (("0 1.9", "1 points"), ("300 1, 0 2", "does not go up"), ("fast", "not a speed in rpm")):
            self.assertIn(why, problem_of_curve(text))
        with self.assertRaisesRegex(Refusal, "X torque curve: .* does not go up"):
            verge().with_values({at(X, "motor.torque"): "300 1, 0 2"})

    def test_along_straight_lines_and_nothing_beyond(self) -> None:
        curve = points("0 2, 600 1")
        self.assertEqual([torque_at(curve, rpm) for rpm in (0, 300, 600, 601)], [2, 1.5, 1, 0])

    def test_closed_form_of_what_an_acceleration_takes(self) -> None:
        muscle = Muscle(((0.0, 2.0), (1000.0, 2.0)), 5.0, 3e-4, 0.2)
        most = muscle.acceleration_at(3000)
        self.assertAlmostEqual(most, (2.0 - 0.2) * 5 / (2 * 3.141592653589793 * 3e-4), places=6)
        self.assertAlmostEqual(muscle.share(3000, most), 1.0)
        self.assertEqual(muscle.acceleration_at(6000), 0.0)

    def test_a_pace_beyond_the_torque_is_found_and_its_edit_settles_it(self) -> None:
        weak = verge().with_values({
            at(X, "motor.torque"): "0 1.9, 600 0.6, 1200 0.2", at(X, "motor.inertia"): Fraction(32, 10),
            at(X, "pace.acceleration"): Fraction(4000),
        })  # fmt: skip
        found = next(item for item in findings(weak) if item.code == "too_little_torque")
        settled = weak.with_values(dict(found.edit))
        self.assertNotIn("too_little_torque", {item.code for item in findings(settled)})


class Sizes(unittest.TestCase):
    def test_lists_of_steps(self) -> None:
        self.assertEqual(problem_of_sizes("10 1 0.1"), "")
        for text, why in (("1", "a list of 1"), ("1 0", "above zero"), ("1 1.0", "twice"), ("1 a", "“a”")):
            self.assertIn(why, problem_of_sizes(text))
