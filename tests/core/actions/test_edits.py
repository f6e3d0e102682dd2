"""Own actions changed a step at a time, and a step by its fields: whatever is done, whole actions come of it."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.actions.edits import (
    Steps,
    gaps,
    places,
    put_for,
    put_in,
    renamed,
    shifted,
    sides,
    step_at,
    taken_out,
    unused_name,
    with_one,
    without,
)
from idler.core.actions.fields import KINDS, Named, fields_of, filled, fresh, headed, named_by
from idler.core.actions.steps import (
    Action,
    Ask,
    Call,
    Contact,
    Dwell,
    Event,
    Frame,
    Goal,
    Home,
    If,
    Move,
    Probe,
    Say,
    Spin,
    Step,
    every,
)
from idler.core.actions.text import AXES, one_line, read
from idler.core.errors import Refusal
from idler.core.rules.actions import named_on, problems
from idler.core.values.roles import AxisNeed, InputRole
from tests.core.actions.test_actions import many, steps
from tests.support import wired

NAMED = Named(tuple(AXES), ("a", "b"))
LIGHT = settings(max_examples=20)
drawn = st.data()
typed = st.text('0123456789. mm°/s-−park askedXYZ{};"#', max_size=14)


def _tame(step: Step) -> bool:
    """Whether its fields say all of it: the text may tell an axis of what belongs to none."""
    contact = getattr(step, "contact", None)
    return not isinstance(contact, Contact) or contact.role.axis is not AxisNeed.NO or not contact.axis


class List(unittest.TestCase):
    @given(steps, drawn)
    @LIGHT
    def test_a_step_is_put_in_changed_moved_and_taken_out_and_nothing_else_changes(
        self, before: Steps, data: st.DataObject
    ) -> None:
        gap = data.draw(st.sampled_from(list(gaps(before))))
        there = put_in(before, gap, Say("new"))
        self.assertEqual(step_at(there, gap), Say("new"))
        self.assertEqual(taken_out(there, gap), before)
        self.assertEqual(step_at(put_for(there, gap, Say("other")), gap), Say("other"))
        self.assertEqual(taken_out(put_for(there, gap, Say("other")), gap), before)
        by = data.draw(st.integers(-5, 5))
        moved, stands = shifted(there, gap, by)
        self.assertEqual(step_at(moved, stands), Say("new"))
        self.assertEqual(taken_out(moved, stands), before)
        order = list(gaps(before))
        if 0 <= order.index(gap) + by < len(order):
            self.assertEqual(shifted(moved, stands, -by), (there, gap))

    @given(steps)
    @LIGHT
    def test_each_step_is_found_where_it_is_listed_and_gaps_lie_between_them(self, found: Steps) -> None:
        listed = list(places(found))
        for place, step in listed:
            self.assertIs(step_at(found, place), step)
        blocks = 1 + sum(len(sides(step)) for _, step in listed)
        self.assertEqual(len(list(gaps(found))), len(listed) + blocks)

    @given(many)
    @LIGHT
    def test_another_name_is_told_to_what_calls_it(self, actions: tuple[Action, ...]) -> None:
        name = unused_name(actions)
        self.assertNotIn(name, [each.name for each in actions])
        for each in actions:
            anew = renamed(actions, each.name, name)
            calls = [step.name for one in anew for step in every(one.steps) if isinstance(step, Call)]
            self.assertNotIn(each.name, calls)
            self.assertEqual(renamed(anew, name, each.name), actions)
            self.assertEqual(len(without(actions, each.name)), len(actions) - 1)
            self.assertEqual(with_one(actions, each), actions)

    def test_two_of_a_name_are_refused_and_one_more_lies_behind(self) -> None:
        actions = Action("a", (Call("b"),)), Action("b", ())
        with self.assertRaises(Refusal):
            renamed(actions, "a", "b")
        self.assertEqual(with_one(actions, Action("c", ()))[-1].name, "c")
        self.assertEqual(renamed(actions, "b", "c")[0].steps, (Call("c"),))


class Fields(unittest.TestCase):
    @given(steps)
    @LIGHT
    def test_a_step_is_what_its_fields_say(self, found: Steps) -> None:
        for _, step in places(found):
            if _tame(step):
                for field in fields_of(step, NAMED):
                    self.assertEqual(filled(step, field.key, field.text, NAMED), step, field)

    @given(steps, typed, drawn)
    @LIGHT
    def test_whatever_is_typed_in_a_field_is_taken_or_refused_in_a_sentence(
        self, found: Steps, text: str, data: st.DataObject
    ) -> None:
        listed = [step for _, step in places(found)]
        if not listed:
            return
        step = data.draw(st.sampled_from(listed))
        fields = fields_of(step, NAMED)
        field = data.draw(st.sampled_from(fields))
        what = data.draw(st.sampled_from([key for key, _ in field.offers])) if field.offers else text
        try:
            made = filled(step, field.key, what, NAMED)
        except Refusal as why:
            self.assertTrue(why.sentence.startswith(field.name), why.sentence)
            return
        self.assertIs(type(made), type(step))
        self.assertEqual(sides(made), sides(step), "what lies in a branch stays")
        self.assertEqual(read(one_line((Action("x", (made,)),)))[0].steps, (made,))

    def test_whatever_is_offered_can_be_chosen(self) -> None:
        for kind in KINDS:
            step = fresh(kind, NAMED)
            for field in fields_of(step, NAMED):
                for key, _ in field.offers:
                    with self.subTest(kind=kind, field=field.name, key=key):
                        self.assertIs(type(filled(step, field.key, key, NAMED)), type(step))

    def test_an_axis_that_is_not_there_is_shown_as_it_is(self) -> None:
        few = Named(("X", "Y"))
        for step in (Probe("Z", Fraction(-1), Fraction(60)), Move(Frame.BY, (Goal("Z", Fraction(1)),)), Home(("Z",))):
            field = next(field for field in fields_of(step, few) if field.key.startswith("axis"))
            self.assertIn((field.text, field.text), field.offers)
        self.assertEqual(fresh("probe", few), Probe("X", Fraction(-10), Fraction(60)))

    def test_an_axis_more_a_place_and_a_speed(self) -> None:
        step = fresh("move", NAMED)
        step = filled(step, "frame", "machine", NAMED)
        step = filled(step, "place0", "park", NAMED)
        step = filled(step, "axis1", "A", NAMED)
        step = filled(step, "place1", "90", NAMED)  # a bare number has the unit that stands there
        step = filled(step, "speed", "300 mm/min", NAMED)
        self.assertEqual(step, Move(Frame.MACHINE, (Goal("X", None), Goal("A", Fraction(90))), Fraction(300)))
        self.assertEqual(
            filled(step, "frame", "by", NAMED),
            Move(Frame.BY, (Goal("X", Fraction(0)), Goal("A", Fraction(90))), Fraction(300)),
        )
        self.assertEqual(filled(step, "axis1", "", NAMED), Move(Frame.MACHINE, (Goal("X", None),), Fraction(300)))
        turned = filled(step, "axis0", "B", NAMED)
        self.assertEqual(turned, Move(Frame.MACHINE, (Goal("B", None), Goal("A", Fraction(90))), None))

    def test_what_a_changed_axis_leaves_without_sense_is_nothing_of_its_own_unit(self) -> None:
        step = Move(Frame.BY, (Goal("X", Fraction(5)),), Fraction(100))
        self.assertEqual(filled(step, "axis0", "C", NAMED), Move(Frame.BY, (Goal("C", Fraction(0)),), None))
        probe = filled(Probe("Z", Fraction(-10), Fraction(60)), "axis", "A", NAMED)
        self.assertEqual(probe, Probe("A", Fraction(0), Fraction(60)))
        self.assertEqual(filled(Spin(Fraction(0)), "way", "left", NAMED), Spin(Fraction(-1000)))
        self.assertEqual(filled(Home(("X", "Y")), "axis2", "Z", NAMED), Home(("X", "Y", "Z")))
        self.assertEqual(filled(Home(("X", "Y")), "axis1", "", NAMED), Home(("X",)))

    def test_what_is_no_value_is_refused_by_the_name_of_the_field(self) -> None:
        for step, key, text, part in (
            (Dwell(Fraction(1)), "seconds", "601 s", "For"), (Dwell(Fraction(1)), "seconds", "1 s; home X", "For"),
            (Dwell(Fraction(1)), "seconds", "5 mm", "For"), (Say("x"), "text", 'a"b', "Words"),
            (Say("x"), "text", " ", "Words"),
            (Move(Frame.BY, (Goal("X", Fraction(1)),)), "speed", "500", "Speed"),
            (Move(Frame.BY, (Goal("X", Fraction(1)),)), "place0", "far", "Place"),
        ):  # fmt: skip
            with self.assertRaises(Refusal) as caught:
                filled(step, key, text, NAMED)
            self.assertEqual(caught.exception.part, part)

    def test_a_branch_keeps_what_lies_in_it(self) -> None:
        branch = Ask("Go on?", (Dwell(Fraction(1)),), (Say("No."),))
        self.assertEqual(filled(branch, "text", "Ready?", NAMED), Ask("Ready?", branch.yes, branch.no))
        look = If(Contact(InputRole.PROBE, "", made=True), (Dwell(Fraction(1)),))
        self.assertEqual(filled(look, "on", "off", NAMED), If(Contact(InputRole.PROBE, "", made=False), look.then))

    def test_heads(self) -> None:
        action = Action("a", (Dwell(Fraction(1)),))
        self.assertEqual(headed(action, event="homed"), Action("a", action.steps, Event.HOMED))
        self.assertEqual(headed(action, key="Ctrl+1").key, "Ctrl+1")
        self.assertEqual(headed(headed(action, event="tool change"), event=""), action)
        for bad in ({"key": "A"}, {"event": "noon"}):
            with self.assertRaises(Refusal):
                headed(action, **bad)
        for name in ("", 'a"b', "x" * 41):
            with self.assertRaises(Refusal):
                named_by(name)

    def test_of_a_machine_only_what_it_has_is_offered(self) -> None:
        machine = wired()
        named = named_on(machine, "a")
        self.assertEqual(named.axes, tuple(machine.names))
        self.assertIn(InputRole.STOP, named.inputs)
        self.assertEqual(problems(machine), [])
        with self.assertRaises(Refusal):
            fresh("call", named)


if __name__ == "__main__":
    unittest.main()
