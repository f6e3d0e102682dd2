"""The help: a page for everything that can be done, each link and picture there, and the page of what is looked at."""

from __future__ import annotations

import ast
import re
import unittest
from collections.abc import Iterator
from importlib import resources
from itertools import pairwise
from pathlib import Path

from idler.core import controller, incident, rules, travel
from idler.core.errors import About, IdlerError
from idler.core.report.finder import find
from idler.core.report.manual import FILES, about, entries, page_of, pages_of
from idler.core.rules.findings import Severity
from idler.core.table.stations import Station
from idler.procedures.registry import WORDS, help_pages
from idler.shelf.manual import manual_html, page_html, picture
from idler.wording.catalogue import Untranslated

PAGES = help_pages()


def _codes(folder: Path) -> Iterator[str]:
    """The codes of findings in the sources of rules: the word before the severity of each."""
    for file in folder.glob("*.py"):
        for call in ast.walk(ast.parse(file.read_text("utf-8"))):
            if isinstance(call, ast.Call):
                for code, severity in pairwise(call.args):
                    of = severity.value if isinstance(severity, ast.Attribute) else None
                    if isinstance(code, ast.Constant) and isinstance(of, ast.Name) and of.id == Severity.__name__:
                        yield code.value


def _below(kind: type[IdlerError]) -> Iterator[type[IdlerError]]:
    for each in kind.__subclasses__():
        yield each
        yield from _below(each)


class Pages(unittest.TestCase):
    def test_each_station_and_each_procedure_has_one(self) -> None:
        keys = [page.key for page in PAGES]
        self.assertEqual(len(set(keys)), len(keys))
        self.assertLessEqual({station.key for station in Station}, set(keys))
        self.assertCountEqual([page.word for page in PAGES if page.word], WORDS)

    def test_each_finding_that_a_rule_can_make_has_one(self) -> None:
        made = [code for package in (rules, travel, incident, controller) for code in _codes(Path(package.__path__[0]))]
        told = [code for page in PAGES for code in page.codes]
        self.assertEqual(len(told), len(set(told)))
        self.assertGreater(len(made), 50)
        for code in told:  # no procedure is called so
            self.assertIn(code, page_of(PAGES, code).codes)
        self.assertLessEqual(set(made), set(told))

    def test_each_kind_of_refusal_has_one_and_says_which(self) -> None:
        here = {code for page in PAGES if page.key.startswith("refusals/") for code in page.codes}
        self.assertEqual(here, {each.value for each in About})
        kinds = set(_below(IdlerError))
        self.assertGreater(len(kinds), 20)
        silent = {each.__name__ for each in kinds if each.about is None and each.__module__.startswith("idler.")}
        # as it is told; nobody is told; its own; of a page of its own
        self.assertEqual(silent, {"LinkError", "Leaving", "Refusal", Untranslated.__name__})

    def test_no_file_is_left_out(self) -> None:
        folder = resources.files("idler") / "data" / "help"
        self.assertEqual({file.name for file in folder.iterdir()}, {f"{name}.md" for name in FILES})

    def test_every_link_leads_to_a_page_and_every_picture_is_there(self) -> None:
        for page in PAGES:
            with self.subTest(page.key):
                for target in re.findall(r'href="([^"]*)"', page_html(page)):
                    page_of(PAGES, target)
                for name in re.findall(r'src="([^"]*)"', page_html(page)):
                    self.assertTrue(name.startswith("../screenshots/"), name)
                    self.assertTrue(picture(name.removeprefix("../screenshots/")).startswith(b"\x89PNG"))

    def test_a_procedure_says_what_it_needs_and_how_it_is_begun_elsewhere(self) -> None:
        text = page_of(PAGES, "play").text
        self.assertIn("It needs: drives powered, homed, a dial.", text)
        self.assertIn("`./idler run play NAME --to ADDRESS --axis X`", text)
        self.assertNotIn("--axis", page_of(PAGES, "square").text)

    def test_what_is_no_page_is_named(self) -> None:
        for text, said in (
            ("no title\n", "begins with its title"),
            ("# A\n\n## B (nothing)\n", "nothing is no procedure"),
        ):
            with self.subTest(text), self.assertRaises(IdlerError) as caught:
                list(pages_of("a", text, {}))
            self.assertIn(said, caught.exception.sentence)
        with self.assertRaises(IdlerError):
            page_of(PAGES, "nowhere")

    def test_of_what_is_on_the_stage(self) -> None:
        for station, shown, key in (
            (Station.GEOMETRY, {"Play"}, "geometry/play"), (Station.DRIVES, {"Direction"}, "drives/direction"),
            (Station.WIRING, {"Prove"}, "wiring"), (Station.SCALE, set[str](), "scale"), (Station.LINK, {""}, "link"),
        ):  # fmt: skip
            with self.subTest(station):
                self.assertEqual(about(PAGES, station, shown), key)

    def test_it_is_found_by_its_words(self) -> None:
        self.assertEqual(find(entries(PAGES), "tailstock")[0].help, "geometry/tailstock")
        self.assertIn("glossary", [entry.help for entry in find(entries(PAGES), "dead man")])

    def test_the_manual_is_one_file(self) -> None:
        page = manual_html(PAGES, "A4")
        for each in PAGES:
            self.assertIn(f'<section id="{each.key}"', page)
        self.assertEqual(re.findall(r'(?:src|href)="(?!data:image/png;base64,|#)[^"]*"', page), [])
        targets = set(re.findall(r'href="#([^"]*)"', page))
        self.assertLessEqual(targets, {each.key for each in PAGES})
