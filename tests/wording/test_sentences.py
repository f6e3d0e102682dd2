"""What a module says is found in its syntax, and said in other words; what it is not said with stays as it is."""

from __future__ import annotations

import unittest

from idler.wording.sentences import heard, spoken, subject, unknown

SOURCE = '''
"""A docstring is read by those who write Idler."""
import re
text("names.machine", "its name", "Usual name", choice("group.rest", "at rest", (Choice("closed", "closed", 1),)))
KEY, ADDRESS, PATTERN = "chain.pitch", "slcan://HOST:PORT", re.compile("a word")
STYLE = "QLabel { color: red; }"

def told(axis, far, key):
    """Another docstring."""
    if key == "not shown" and key not in ("Neither this", "nor that"):
        return label("play") or other("play")
    return f"{axis.name} went {far:.2f} mm {'back' if far < 0 else 'on'}, and {len(key)} more"

@group.command()
def word():
    """Help of the command line."""
'''


class Axis:
    name = "X"


def run(words: dict[str, str]) -> dict[str, object]:
    made = spoken(SOURCE.replace("@group.command()\n", ""), words)
    assert made is not None
    space: dict[str, object] = {
        "label": lambda text: text,
        **dict.fromkeys(("text", "choice", "Choice"), lambda *_: None),
        "other": lambda text: "",
    }
    exec(compile(made, "told", "exec"), space)
    return space


class Sentences(unittest.TestCase):
    def test_what_is_said_and_what_is_not(self) -> None:
        found = {said.text: said for said in heard(SOURCE).sentences}
        long = "{axis.name} went {far} mm {3}, and {4} more"
        row = {"its name", "at rest", "closed"}
        self.assertEqual(set(found), {*row, "play", long, "back", "on", "Help of the command line."})
        said = found[long]
        self.assertEqual((said.holes["4"], said.line, said.made_up), ("len(key)", 12, True))

    def test_it_is_said_in_other_words_with_its_values_where_they_belong(self) -> None:
        told = run(
            {"{axis.name} went {far} mm {3}, and {4} more": "{4} и {3}: {far} мм ({axis.name})", "back": "назад"}
        )["told"]
        assert callable(told)
        self.assertEqual(told(Axis, -1, "ab"), "2 и назад: -1.00 мм (X)")
        self.assertEqual(told(Axis, 1, "ab"), "2 и on: 1.00 мм (X)")
        self.assertEqual(told(Axis, 1, "not shown"), "play")

    def test_only_where_it_is_shown_is_a_word_another(self) -> None:
        told = run({"play": "люфт"})["told"]
        assert callable(told)
        self.assertEqual(told(Axis, 1, "not shown"), "люфт")
        self.assertIsNone(spoken(SOURCE, {"not shown": "x", "chain.pitch": "x", "A docstring": "x"}))

    def test_what_asks_for_a_value_that_is_not_there_is_not_said(self) -> None:
        text = "{axis.name} went {far} mm {3}, and {4} more"
        for wrong in ("{axis.slot}", "{far:.3f}", "{5}", "{", "{axis.name!r}"):
            with self.subTest(wrong):
                self.assertTrue(unknown(text, wrong))
                self.assertIsNone(spoken(SOURCE, {text: wrong}))
        self.assertEqual(unknown(text, "{4}, {{braces}}"), set())

    def test_names_that_must_stay_apart_are_those_of_one_list(self) -> None:
        source = """
class Page(StrEnum):
    FIRST = "Its first page"
    SECOND = "Its second page"
    KEY = "key"
class Other:
    FIRST = "No member of anything"
    SECOND = "Nor is this"
HEADS = {"How fast": 1, "How far": 2, "plain.key": 3}
KEYED = {"a": "Its words", "b": "are no keys"}
"""
        self.assertEqual(set(heard(source).apart), {("Its first page", "Its second page"), ("How fast", "How far")})

    def test_each_module_has_its_subject(self) -> None:
        for module, about in (
            ("core.homing.outcome", "homing"), ("app.stations.homing.page", "homing"), ("procedures.homing", "homing"),
            ("session.session", "session"), ("app.run", "run"), ("bench.node", ""), ("wording.spoken", ""),
        ):  # fmt: skip
            self.assertEqual(subject(f"idler.{module}"), about, module)


if __name__ == "__main__":
    unittest.main()
