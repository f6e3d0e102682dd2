"""Homing rehearsed: closed forms, order, confusions of signs, and what a failure means."""

from __future__ import annotations

import itertools
import unittest
from fractions import Fraction
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from idler.core.homing import distance_to_switch, filter_of, met_at, rehearse, rehearse_all, search_of, stands_at, turns
from idler.core.homing.outcome import HomingCause, HomingSeen, answered, causes, doubt, measured
from idler.core.machine import Machine
from idler.core.profile.homing import HomingResult, Phase
from idler.core.rules.findings import findings
from idler.core.travel import ends_of
from idler.core.values.parameter import Value
from tests.support import A, X, Y, Z, at, wired


class Rehearsals(unittest.TestCase):
    @given(st.floats(0.1, 400), st.integers(100, 2000), st.integers(10, 90), st.integers(50, 500))
    def test_phases_follow_each_other_in_time_and_place(self, distance: float, fast: int, slow: int, rise: int) -> None:
        machine = wired().with_values({
            at(X, "homing.approach"): Fraction(fast), at(X, "homing.touch"): Fraction(slow),
            at(X, "homing.acceleration"): Fraction(rise),
        })  # fmt: skip
        legs = rehearse(machine, X, distance).legs
        self.assertAlmostEqual(legs[0].start, 2 - distance)
        for before, after in pairwise(legs):
            self.assertAlmostEqual(before.end, after.begin)
            self.assertAlmostEqual(before.stop, after.start)
        self.assertTrue(all(leg.seconds >= 0 for leg in legs))
        self.assertIs(legs[-1].phase, Phase.LEAVE)
        self.assertAlmostEqual(legs[-1].stop, 0.0, delta=0.01)

    def test_a_long_approach_in_closed_form(self) -> None:
        legs = rehearse(wired(), X, 150).legs  # 15 mm/s, 100 mm/s², filter 1 ms
        self.assertAlmostEqual(legs[0].seconds, 15 / 100 + (150 - 15**2 / 200) / 15 + 0.0002)
        self.assertAlmostEqual(legs[1].stop - legs[1].start, 15**2 / 200)

    def test_turns_and_their_order(self) -> None:
        self.assertEqual(turns(wired().with_values({at(A, "homing.turn"): 0})), [(Z,), (X, Y)])
        made = {item.slot: item for item in rehearse_all(wired(), {X: 100, Y: 50, Z: 40})}
        self.assertEqual(made[X].begin, made[Y].begin)
        self.assertGreaterEqual(made[X].begin, made[Z].end)

    def test_how_far_it_is(self) -> None:
        self.assertEqual(distance_to_switch(wired(), X, -98.0), 100.0)
        self.assertEqual(distance_to_switch(wired(), X, None), 314.0)


class Confusions(unittest.TestCase):
    def codes(self, **changes: object) -> set[str]:
        edits = {at(X, key.replace("__", ".")): value for key, value in changes.items()}
        return {item.code for item in findings(wired().with_values(edits))}  # type: ignore[arg-type]

    def test_home_at_the_top_wants_negative_travel(self) -> None:
        self.assertNotIn("signs_confused", self.codes())
        self.assertIn("signs_confused", self.codes(homing__towards="low"))
        self.assertIn("signs_confused", self.codes(homing__coordinate=Fraction(-300)))

    def test_speeds_that_find_nothing(self) -> None:
        self.assertIn("homing_stands_still", self.codes(homing__touch=Fraction(0)))
        self.assertIn("touch_not_slower", self.codes(homing__touch=Fraction(2000)))

    def test_one_chain_one_axis_at_a_time(self) -> None:
        machine = wired().with_values({at(1, "input.role"): "home_chain", at(1, "input.axis"): "none"})
        found = [item for item in findings(machine) if item.code == "chain_turns"]
        self.assertEqual([machine.names[item.where.slot or 0] for item in found], ["Y"])
        self.assertTrue(all(item.edit for item in found))

    def test_a_search_that_ends_before_the_travel(self) -> None:
        self.assertNotIn("search_too_short", self.codes(homing__search=Fraction(318)))
        self.assertIn("search_too_short", self.codes(homing__search=Fraction(317)))

    def test_iron_is_touched_not_struck(self) -> None:
        """X has 200 full steps and a screw of 5 mm: a full step in 10 ms is 2.5 mm/s."""
        self.assertNotIn("stop_is_struck", self.codes(homing__method="stop", homing__touch=Fraction(150)))
        self.assertIn("stop_is_struck", self.codes(homing__method="stop", homing__touch=Fraction(151)))
        self.assertNotIn("stop_is_struck", self.codes(homing__touch=Fraction(151)))
        self.assertIn("effort_too_high", self.codes(homing__method="stop", homing__effort=Fraction(95, 100)))

    def test_a_mark_whose_distance_is_not_known_refines_nothing(self) -> None:
        self.assertIn("mark_not_known", self.codes(homing__method="stop_index"))
        self.assertNotIn("mark_not_known", self.codes(homing__method="stop_index", homing__mark_distance=Fraction(2)))

    def test_a_squaring_that_bends_the_beam_further_than_it_may(self) -> None:
        sides = {at(7, "input.role"): "home_second", at(7, "input.axis"): "X", at(X, "axis.second_output"): 5}
        for offset, wrong in ((2, False), (-3, True)):
            machine = wired().with_values({**sides, at(X, "homing.squaring"): Fraction(offset)})
            self.assertEqual("squared_too_far" in {item.code for item in findings(machine)}, wrong)


class OtherWays(unittest.TestCase):
    """Rehearsals by iron, by mark, and of a beam."""

    def told(self, **changes: Value) -> Machine:
        return wired().with_values({at(X, key.replace("__", ".")): value for key, value in changes.items()})

    def test_towards_iron_only_at_touch_speed(self) -> None:
        legs = rehearse(self.told(homing__method="stop"), X, 50).legs
        self.assertAlmostEqual(legs[0].seconds, 50 / 1 + 1 / 200, places=3)  # 60 mm/min, 100 mm/s²
        self.assertNotIn(Phase.HALT, [leg.phase for leg in legs])
        for leg in legs:
            if leg.phase in (Phase.APPROACH, Phase.TOUCH):
                self.assertLessEqual(abs(leg.stop - leg.start) / leg.seconds, 1.0001)

    def test_the_coordinate_of_a_mark_lies_behind_the_switch(self) -> None:
        machine = self.told(homing__method="switch_index", homing__mark_distance=Fraction(3))
        self.assertEqual(met_at(machine.axis(X)), 5.0)  # 2 mm at the mark, towards high
        self.assertEqual(distance_to_switch(machine, X, 0.0), 5.0)
        mark = next(leg for leg in rehearse(machine, X, 80).legs if leg.phase is Phase.INDEX)
        self.assertAlmostEqual(mark.stop, 2.0, delta=0.001)  # the filter lets it run on a little
        self.assertAlmostEqual(rehearse(machine, X, 80).legs[-1].stop, stands_at(machine.axis(X)), delta=0.02)

    def test_a_beam_is_squared_after_both_sides_have_stopped(self) -> None:
        machine = self.told(homing__squaring=Fraction(1)).with_values({
            at(7, "input.role"): "home_second", at(7, "input.axis"): "X", at(X, "axis.second_output"): 5
        })  # fmt: skip
        alone, beam = rehearse(wired(), X, 80), rehearse(machine, X, 80)
        square = next(leg for leg in beam.legs if leg.phase is Phase.SQUARE)
        self.assertEqual(square.start, square.stop)
        self.assertAlmostEqual(
            beam.seconds - alone.seconds, 2 * 1.0, delta=0.1
        )  # one side alone, then the offset, 1 mm/s


class Failures(unittest.TestCase):
    def first(self, machine: Machine, result: HomingResult, **seen: float) -> HomingCause:
        found = causes(machine, X, HomingSeen(result, **seen))
        for cause in found:
            self.assertTrue(cause.title and cause.words)
            machine.with_values(cause.edit)
        return found[0]

    def test_what_did_not_fail_has_no_cause(self) -> None:
        for result in (HomingResult.NONE, HomingResult.FOUND, HomingResult.STOPPED):
            self.assertEqual(causes(wired(), X, HomingSeen(result)), ())

    def test_not_found_names_the_terminal_or_the_search(self) -> None:
        self.assertEqual(self.first(wired(), HomingResult.NOT_FOUND, went=400, directed=True).watch, 1)
        short = wired().with_values({at(X, "homing.search"): Fraction(100)})
        self.assertEqual(
            self.first(short, HomingResult.NOT_FOUND, went=100).edit, {at(X, "homing.search"): Fraction(350)}
        )

    def test_not_found_may_be_a_motor_that_stood_still(self) -> None:
        """The last to be thought of, for nothing but eyes can tell it: a gentler approach of the two speeds."""
        *_, last = causes(wired(), X, HomingSeen(HomingResult.NOT_FOUND, went=400, directed=True))
        self.assertEqual(last.title, "The motor stands still")
        self.assertEqual(
            last.edit[at(X, "homing.approach")], wired().axis(X).number("homing.approach") * Fraction(7, 10)
        )
        self.assertLess(last.edit[at(X, "homing.acceleration")], wired().axis(X).number("homing.acceleration"))

    def test_a_filter_that_swallows_the_cam(self) -> None:
        slow = wired().with_values({at(1, "input.filter"): Fraction(100)})  # 1.5 mm at 900 mm/min
        self.assertEqual(self.first(slow, HomingResult.NOT_FOUND).edit, {at(1, "input.filter"): Fraction(1)})

    def test_still_pressed_says_by_how_much(self) -> None:
        cause = self.first(wired(), HomingResult.STILL_PRESSED, lets_go=2.4)
        self.assertIn("2.4 mm", cause.words)
        self.assertEqual(cause.edit, {at(X, f"homing.{key}"): Fraction(41, 10) for key in ("back_off", "leave")})
        self.assertIn("sticks", self.first(wired(), HomingResult.STILL_PRESSED, lets_go=0.2).title)

    def test_pressed_at_the_start_is_moved_clear(self) -> None:
        self.assertTrue(self.first(wired(), HomingResult.PRESSED).clear)
        rest = causes(wired(), X, HomingSeen(HomingResult.PRESSED))[2]
        self.assertEqual(rest.edit, {at(1, "input.rest"): "open"})
        self.assertIn("broken wire", rest.hides)

    def test_no_edit_that_hides_a_fault_comes_first(self) -> None:
        machine = wired().with_values(
            {at(X, "homing.method"): "stop_index", at(X, "homing.mark_distance"): Fraction(3)}
        )
        for result in HomingResult:
            for seen in (
                HomingSeen(result),
                HomingSeen(result, mark=2.2, lets_go=2.4, effort=0.2, others=(2,)),
                HomingSeen(result, mark=8.0),
            ):
                for found in (causes(wired(), X, seen), causes(machine, X, seen)):
                    self.assertFalse(found and found[0].hides, result)
                    hiding = [cause for cause in found if {a.key for a in cause.edit} & HIDING]
                    self.assertTrue(all(cause.hides for cause in hiding), result)

    def test_the_switch_of_another_axis_that_answered_is_named_with_the_exchange(self) -> None:
        for result in (HomingResult.NOT_FOUND, HomingResult.OTHER_END, HomingResult.LIMIT_FIRST):
            cause = self.first(wired(), result, went=40.0, others=(2,))
            self.assertEqual(cause.title, "The wires of X and Y are swapped")
            self.assertEqual(cause.edit[at(1, "input.axis")], "Y")
            self.assertEqual(cause.edit[at(2, "input.axis")], "X")
            self.assertNotIn(at(1, "input.rest"), cause.edit)  # what a contact is at rest stays with its terminal

    def test_sides_whose_wires_may_be_swapped_come_first_until_each_was_touched_by_its_name(self) -> None:
        beam = wired().with_values({
            at(X, "axis.second_output"): 5, at(7, "input.role"): "home_second", at(7, "input.axis"): "X",
        })  # fmt: skip
        cause = self.first(beam, HomingResult.APART)
        self.assertIn("swapped", cause.title)
        turned = beam.with_values(cause.edit)
        self.assertEqual((turned[at(1, "input.role")], turned[at(7, "input.role")]), ("home_second", "home"))
        self.assertTrue(cause.mends(beam))
        self.assertFalse(cause.mends(turned))
        self.assertNotIn("swapped", self.first(beam, HomingResult.APART, touched=True).title)

    def test_a_drive_that_gives_up_at_its_stop_gets_a_lower_effort(self) -> None:
        machine = wired().with_values({at(X, "homing.method"): "stop", at(X, "homing.effort"): Fraction(6, 10)})
        self.assertEqual(
            self.first(machine, HomingResult.STOPPED, gave_up=True).edit, {at(X, "homing.effort"): Fraction(4, 10)}
        )
        self.assertEqual(self.first(wired(), HomingResult.STOPPED, gave_up=True).edit, {})
        self.assertEqual(causes(machine, X, HomingSeen(HomingResult.STOPPED)), ())

    def test_two_motors_that_fight_are_named(self) -> None:
        machine = wired().with_values({at(X, "axis.second_output"): 5})
        for result in (HomingResult.NOT_FOUND, HomingResult.APART):
            cause = self.first(machine, result, effort=0.8)
            self.assertEqual(cause.edit, {at(X, "axis.second_reversed"): True})
            self.assertNotIn("second motor", self.first(machine, result, effort=0.2).title)

    def test_limit_switches_that_are_exchanged(self) -> None:
        limits = {at(8, "input.role"): "limit_low", at(8, "input.axis"): "X", at(10, "input.role"): "limit_high",
                  at(10, "input.axis"): "X"}  # fmt: skip
        cause = self.first(wired().with_values(limits), HomingResult.OTHER_END, went=12, directed=True)
        self.assertEqual(cause.title, "The limit switches of X are exchanged")
        self.assertEqual(cause.edit[at(8, "input.role")], "limit_high")

    def test_a_chain_that_another_axis_holds(self) -> None:
        values = {at(k, "input.role"): "none" for k in (2, 4, 5)} | {at(k, "input.axis"): "none" for k in (1, 2, 4, 5)}
        chain = wired().with_values({**values, at(1, "input.role"): "home_chain"})
        self.assertIn("Another axis may stand", self.first(chain, HomingResult.PRESSED).title)
        self.assertEqual(filter_of(chain, X), filter_of(wired(), X))
        self.assertIsNotNone(ends_of(chain, X).switch)

    def test_a_limit_chain_does_not_say_which_end_it_was(self) -> None:
        chain = wired().with_values({at(8, "input.role"): "limit_chain"})
        self.assertIn("or another axis stands", self.first(chain, HomingResult.OTHER_END, went=0).title)
        self.assertEqual(self.first(chain, HomingResult.OTHER_END, went=0).edit, {})
        titles = [cause.title for cause in causes(chain, X, HomingSeen(HomingResult.LIMIT_FIRST))]
        self.assertIn("Its direction is turned round", titles)

    def test_the_other_end_turns_the_direction_round(self) -> None:
        self.assertEqual(self.first(wired(), HomingResult.OTHER_END, went=12).edit, {at(X, "axis.reversed"): True})

    def test_a_stop_that_is_not_felt_wants_less_effort(self) -> None:
        machine = wired().with_values({at(X, "homing.method"): "stop"})
        cause = self.first(machine, HomingResult.NOT_FOUND, effort=0.2)
        self.assertEqual(cause.edit, {at(X, "homing.effort"): Fraction(2, 5)})

    def test_a_mark_that_moved_tells_a_chip_from_a_stop_that_gave_way(self) -> None:
        machine = wired().with_values(
            {at(X, "homing.method"): "stop_index", at(X, "homing.mark_distance"): Fraction(3)}
        )
        self.assertIn("lies before the stop", self.first(machine, HomingResult.MARK_MOVED, mark=2.2).title)
        self.assertIn("gave way", self.first(machine, HomingResult.MARK_MOVED, mark=3.9).title)

    def test_what_eyes_and_hands_saw_before_comes_before_what_is_counted(self) -> None:
        not_found = HomingResult.NOT_FOUND
        titles = [
            self.first(wired(), not_found, went=300.0, **seen).title
            for seen in ({"refuted": True}, {"directed": True, "touched": True}, {"directed": True}, {})
        ]
        self.assertEqual(titles, [
            "It does not go as it is told", "Nothing comes to the switch", "The switch does not answer",
            "It goes the wrong way",
        ])  # fmt: skip
        self.assertIn("300 mm to + were counted", self.first(wired(), not_found, went=300.0).words)

    def test_every_other_failure_has_causes(self) -> None:
        for result in (HomingResult.NO_INDEX, HomingResult.APART, HomingResult.CHAIN_BUSY):
            self.first(wired(), result)


HIDING = {"input.rest", "homing.apart", "homing.mark_distance"}  # rest level, allowed skew, distance of the mark


class Doubts(unittest.TestCase):
    def test_a_home_elsewhere_is_doubted_from_a_few_times_its_scatter_on(self) -> None:
        seen = HomingSeen(HomingResult.FOUND, off=0.3)
        self.assertIsNone(doubt(wired(), X, HomingSeen(HomingResult.FOUND, off=0.04)))
        self.assertIsNone(doubt(wired(), X, seen, standard=0.1))
        self.assertIsNone(doubt(wired(), X, seen, otherwise=0.28))
        self.assertIsNotNone(doubt(wired(), X, seen, otherwise=0.1))
        found = doubt(wired(), X, seen, standard=0.01)
        assert found is not None
        self.assertEqual([key for key, _ in found.answers], ["lost", "moved"])
        self.assertEqual(answered(wired(), X, found, "lost"), {})
        moved = wired().with_values(answered(wired(), X, found, "moved"))
        self.assertEqual(
            moved[at(X, "homing.coordinate")], Fraction(23, 10)
        )  # what was at 2.3 is called so from now on

    def test_a_jump_of_whole_turns_is_named(self) -> None:
        machine = wired().with_values({at(X, "homing.method"): "switch_index"})
        found = doubt(machine, X, HomingSeen(HomingResult.FOUND, off=-10.02))
        assert found is not None
        self.assertIn("2 whole turns", found.words)
        moved = HomingSeen(HomingResult.MARK_MOVED, mark=8.0)
        known = machine.with_values({at(X, "homing.mark_distance"): Fraction(3)})
        self.assertIn("another turn", causes(known, X, moved)[0].title)


class Signs(unittest.TestCase):
    def test_of_all_combinations_only_those_that_end_in_no_iron_can_be_sent(self) -> None:
        """Home to either side, its coordinate at either end, travel on either side of it: with the stops, and with the
        range."""
        for towards, at_high, positive in itertools.product((1, -1), (False, True), (False, True)):
            low, high = (Fraction(0), Fraction(65)) if positive else (Fraction(-65), Fraction(0))
            home = high - 3 if at_high else low + 3
            told = {at(X, "homing.towards"): "high" if towards > 0 else "low", at(X, "homing.coordinate"): home}
            for stops in (True, False):
                keys = ("stop_low", "stop_high") if stops else ("low", "high")
                empty = {
                    at(X, "travel.low"): Fraction(0),
                    at(X, "travel.high"): Fraction(0),
                    at(X, "travel.limits_on"): False,
                }
                untold = {at(X, "travel.stop_low"): Fraction(-1), at(X, "travel.stop_high"): Fraction(1)}
                values = {
                    **(empty if stops else untold),
                    at(X, f"travel.{keys[0]}"): low,
                    at(X, f"travel.{keys[1]}"): high,
                }
                machine = wired().with_values({**told, **values})
                confused = [f for f in findings(machine) if f.code == "signs_confused" and f.where.slot == X]
                self.assertEqual(bool(confused), (towards > 0) != at_high, (towards, at_high, positive, stops))
                self.assertTrue(all(item.holds_back for item in confused))

    def test_nothing_to_go_back_or_to_leave_by(self) -> None:
        for key in ("homing.back_off", "homing.leave"):
            machine = wired().with_values({at(X, key): Fraction(0)})
            found = [item for item in findings(machine) if item.code == "switch_not_left"]
            self.assertEqual([item.where for item in found], [at(X, key)])

    def test_a_mark_beside_the_edge_of_its_switch(self) -> None:
        for distance, told in ((Fraction("0.05"), True), (Fraction("4.97"), True), (Fraction("2.5"), False)):
            machine = wired().with_values(
                {at(X, "homing.method"): "switch_index", at(X, "homing.mark_distance"): distance}
            )
            self.assertEqual(any(item.code == "mark_at_the_edge" for item in findings(machine)), told, distance)

    def test_it_looks_no_further_than_the_travel_goes(self) -> None:
        self.assertEqual(search_of(wired().axis(X)), Fraction(318 * 11, 10))
        untold = wired().with_values({at(X, "travel.stop_low"): Fraction(-1), at(X, "travel.stop_high"): Fraction(1)})
        self.assertEqual(search_of(untold.axis(X)), 1000)


class Squares(unittest.TestCase):
    def test_the_offset_between_two_switches_is_proposed_with_its_sign(self) -> None:
        words, edit = measured(wired(), X, HomingSeen(HomingResult.FOUND, sides=-0.6))
        self.assertEqual(edit, {at(X, "homing.squaring"): Fraction(6, 10)})
        self.assertIn("0.6 mm further to −", " ".join(words))
        for near in (0.01, 0.09):  # two motors take hold within a pole of each other, 0.1 mm
            self.assertEqual(measured(wired(), X, HomingSeen(HomingResult.FOUND, sides=near))[1], {})
