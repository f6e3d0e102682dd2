"""The text of own actions: read and written back, refused in sentences, circles, and what a machine has to say to them."""

from __future__ import annotations

import unittest
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from idler.core.actions.circles import circles
from idler.core.actions.examples import EXAMPLES
from idler.core.actions.rehearsal import rehearse
from idler.core.actions.steps import (
    Action,
    Ask,
    Await,
    Call,
    Contact,
    Dwell,
    Event,
    Frame,
    Goal,
    Home,
    If,
    Move,
    Power,
    Probe,
    Say,
    Spin,
    Step,
    Switch,
    TakeLength,
    TakeZero,
)
from idler.core.actions.text import AXES, INPUTS, OUTPUTS, brief, one_line, problem, read, write
from idler.core.errors import Refusal
from idler.core.rules.actions import moved, problems, wrong_with
from idler.core.rules.findings import findings
from tests.support import at, wired

NAMES = ("a", "b", "grüß dich", "park it")
axes = st.sampled_from(AXES)
# Of two whole numbers: strategies of fractions make a new one for each that is drawn, which takes most of the time.
places = st.builds(Fraction, st.integers(-1000, 1000), st.integers(1, 1000))
above = st.builds(Fraction, st.integers(1, 1000), st.integers(1, 1000))
contacts = st.builds(Contact, st.sampled_from(list(INPUTS.values())), st.sampled_from(("", *AXES)), st.booleans())
words = st.text("abc,;{}#’ é?!", min_size=1, max_size=20).map(lambda text: " ".join(text.split())).filter(bool)
goals = st.builds(Goal, axes, places)
simple = st.one_of(
    st.builds(Move, st.sampled_from(Frame), st.lists(goals, min_size=1, max_size=3).map(tuple), st.none() | above),
    st.builds(Move, st.just(Frame.MACHINE), st.tuples(st.builds(Goal, axes, st.none()))),
    st.builds(Switch, st.sampled_from(list(OUTPUTS.values())), st.booleans()),
    st.builds(Dwell, above.filter(lambda seconds: seconds <= 600)),
    st.builds(Spin, places), st.builds(Await, contacts, above.filter(lambda seconds: seconds <= 600)),
    st.builds(Probe, axes, places, above), st.builds(TakeZero, axes, places),
    st.builds(TakeLength, st.integers(0, 99), places),
    st.builds(Home, st.lists(axes, min_size=1, max_size=3).map(tuple)), st.builds(Power, st.booleans()), st.builds(Say, words),
    st.builds(Call, st.sampled_from(NAMES)),
)  # fmt: skip


def _branched(inner: st.SearchStrategy[Step]) -> st.SearchStrategy[Step]:
    blocks = st.lists(inner, max_size=3).map(tuple)
    return st.builds(Ask, words, blocks, blocks) | st.builds(If, contacts, blocks, blocks)


steps = st.lists(st.recursive(simple, _branched, max_leaves=6), max_size=5).map(tuple)
keys = st.sampled_from(("", "Ctrl+1", "Alt+Shift+P"))
many = st.lists(
    st.builds(Action, st.sampled_from(NAMES), steps, st.sampled_from(Event), keys),
    max_size=4, unique_by=lambda each: each.name,
).map(tuple)  # fmt: skip


class Text(unittest.TestCase):
    @given(many)
    @settings(max_examples=40)
    def test_what_is_written_is_read_back_whole(self, actions: tuple[Action, ...]) -> None:
        self.assertEqual(read(write(actions)), actions)
        line = one_line(actions)
        self.assertEqual(read(line), actions)
        self.assertTrue(line.isprintable())
        self.assertTrue(brief(line))

    @given(st.text('action on{};"machinework by XYZA-0123456789. mm°/s#\n', max_size=120))
    @settings(max_examples=300)
    def test_whatever_is_typed_is_read_or_refused_in_a_sentence(self, text: str) -> None:
        try:
            found = read(text)
        except Refusal as why:
            self.assertTrue(why.sentence.strip())
        else:
            self.assertEqual(read(write(found)), found)

    def test_what_makes_no_sense_is_said_with_its_line(self) -> None:
        for text, said in (
            ('action "x" {\n move by X 5;\n}', "line 2: “5” is no place. A number with its unit, as 12.5 mm"),
            ('action "x" {\n\n wait guard on; }', "line 3: “;” stands where a wait should say how long"),
            ('action "x" key "F1" {}', "is a single key"), ('action "x" on nonsense {}', "is nothing that starts an action"),
            ('action "x" {} action "x" {}', "is there twice"), ('action "x" { move by A 5 mm; }', "as 12.5 °"),
            ('action "x" { say "no end; }', "nothing closes"), ("x", "where “action” should"),
            ('action "x" { fly; }', "is no step"), ('action "x" { dwell 601 s; }', "0 to 600 s"),
            ('action "x" ' + '{ ask "?" ' * 12 + "{" + "}" * 13, "too deep"),
            ('action "x" { ' + "power off; " * 401 + "}", "400 steps"),
        ):  # fmt: skip
            with self.subTest(text[:40]):
                self.assertIn(said, problem(text))

    def test_inches_are_inches(self) -> None:
        (action,) = read('action "x" { move by X 0.5 in at 20 in/min; }')
        self.assertEqual(action.steps, (Move(Frame.BY, (Goal("X", Fraction("12.7")),), Fraction(508)),))

    def test_the_examples_are_read_and_their_remarks_and_room_do_not_count(self) -> None:
        text = "".join(EXAMPLES.values())
        self.assertEqual([action.name for action in read(text)], list(EXAMPLES))
        self.assertEqual(read("# a remark\n" + text.replace("\n", "  # here\n")), read(text))


class Circles(unittest.TestCase):
    @given(many)
    @settings(max_examples=40)
    def test_a_circle_is_found_exactly_where_following_what_is_started_comes_back(
        self, actions: tuple[Action, ...]
    ) -> None:
        by_name = {action.name: action for action in actions}

        def started(name: str) -> set[str]:
            found = set()
            todo = list(by_name[name].steps)
            while todo:
                step = todo.pop()
                match step:
                    case Ask(_, first, second) | If(_, first, second):
                        todo += [*first, *second]
                    case Call(other) if other in by_name:
                        found.add(other)
                    case Home():
                        found |= {each.name for each in actions if each.event is Event.HOMED}
                    case Power(True):
                        found |= {each.name for each in actions if each.event is Event.POWERED}
            return found

        reach = {name: started(name) for name in by_name}
        for _ in by_name:
            reach = {name: there | {far for near in there for far in reach[near]} for name, there in reach.items()}
        inside = {name for circle in circles(actions) for name in circle} & set(by_name)
        for name in by_name:
            if name in inside:
                self.assertIn(name, reach[name])
        self.assertEqual(bool(inside), any(name in there for name, there in reach.items()))

    def test_a_rehearsal_of_a_circle_ends(self) -> None:
        actions = read('action "a" { call "b"; } action "b" { power off; call "a"; }')
        self.assertEqual([text for _, text in rehearse(actions[0], actions)], ['call "b"', "power off", 'call "a"'])


class OnVerge(unittest.TestCase):
    def test_what_is_not_there_or_lies_beyond_is_named_with_its_step(self) -> None:
        machine = wired()
        for text, said in (
            ("move machine X 1 mm;", "its travel is"), ("move machine Z park;", "no parking place"),
            ("move by W 1 mm;", "this machine has no W"), ("output mist on;", "told to be mist"),
            ("wait limit_low X on within 1 s;", "told to be limit, low end of X"), ("if home on { }", "say which"),
            ('call "nobody";', "no such action"), ("home B;", "this machine has no B"),
        ):  # fmt: skip
            with self.subTest(text):
                told = machine.with_values({at(None, "actions.text"): one_line(read(f'action "x" {{ {text} }}'))})
                self.assertIn(said, " ".join(problems(told)))
                self.assertTrue([item for item in findings(told) if item.code == "own_action" and not item.holds_back])

    def test_what_happens_where_nobody_needs_to_be_asks_nothing(self) -> None:
        for event, text in (("homed", 'ask "?" { }'), ("powered", 'call "b";'), ("tool change", "zero Z 1 mm;")):
            actions = read(f'action "a" on {event} {{ {text} }} action "b" {{ probe Z -1 mm at 60 mm/min; }}')
            told = wired().with_values({at(None, "actions.text"): one_line(actions)})
            with self.subTest(event):
                self.assertIn(
                    "would" if event == "tool change" else "asks something", " ".join(wrong_with(told, actions[0]))
                )

    def test_what_it_calls_is_moved_too(self) -> None:
        actions = read('action "a" { call "b"; move by X 1 mm; } action "b" { probe Z -5 mm at 60 mm/min; call "a"; }')
        self.assertEqual(set(moved(actions[0], actions)), {"X", "Z"})
        self.assertTrue(wrong_with(wired().with_values({at(None, "actions.text"): one_line(actions)}), actions[0]))


if __name__ == "__main__":
    unittest.main()
