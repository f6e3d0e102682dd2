"""A translation from its first file to a window that speaks it."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from babel.messages.pofile import read_po, write_po

from idler.wording.catalogue import Untranslated, judged, take, write
from idler.wording.loading import load
from tests.support import DEADLINE
from tests.wording.foreign import NAME, make, plain

ROOT = Path(__file__).parents[2]


class Languages(unittest.TestCase):
    """One after the other, for a language takes its time to be made."""

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.root = Path(folder.name)
        cls.made = make(cls.root)

    def run_in(
        self, language: str, *words: str, more: dict[str, str] | None = None
    ) -> subprocess.CompletedProcess[str]:
        told = {"XDG_DATA_HOME": str(self.root / "data"), "QT_QPA_PLATFORM": "offscreen", **(more or {})}
        if language:
            told["IDLER_LANGUAGE"] = language
        return subprocess.run(
            [sys.executable, "-m", *words],
            cwd=ROOT,
            env={**os.environ, **told},
            capture_output=True,
            text=True,
            timeout=4 * DEADLINE,
        )

    def idler(self, *words: str, language: str = "") -> subprocess.CompletedProcess[str]:
        return self.run_in(language, "idler", *words)

    def test_it_is_taken_and_spoken_and_given_back(self) -> None:
        taken = self.idler("language", "take", str(self.made))
        self.assertEqual(taken.returncode, 0, taken.stderr)
        said = self.idler("check", "--help").stdout
        self.assertFalse(plain(said.split("\n\n")[1]), said)
        self.assertIn("machine file", self.idler("check", "--help", language="en").stdout)
        self.assertIn("was not taken yet", self.idler("language", "use", "qq", language="en").stderr)
        self.assertEqual(self.idler("language", "use", "en").returncode, 0)
        self.assertIn("machine file", self.idler("check", "--help").stdout)

    def test_what_a_disk_has_made_of_it_is_not_spoken(self) -> None:
        kept = self.root / "spoilt" / "idler" / "languages" / "de"
        kept.mkdir(parents=True)
        for text in ("", "[1]", '{"cli": 3}', '{"cli": {"For programs.": 3}}', '{"cli": {"For programs.": "a"'):
            (kept / "sentences.json").write_text(text, "utf-8")
            self.assertIsNone(load(kept), text)
        said = self.run_in("de", "idler", "check", "--help", more={"XDG_DATA_HOME": str(kept.parents[2])})
        self.assertIn("machine file", said.stdout)

    def test_the_stations_speak_it_and_keys_not_words_are_what_proves(self) -> None:
        self.assertEqual(self.idler("language", "take", str(self.made), language="en").returncode, 0)
        shown = self.root / "shown.txt"
        ran = self.run_in(NAME, "unittest", "-q", "tests.wording.spoken", more={"SHOWN": str(shown)})
        self.assertEqual(ran.returncode, 0, ran.stderr[-2000:])
        texts = shown.read_text("utf-8").splitlines()
        english = [text for text in texts if plain(text)]
        self.assertGreater(len(texts), 500)
        self.assertLess(
            len(english), 0.1 * len(texts), english
        )  # names of the machine, of keys and of units, and single words

    def test_what_is_wrong_is_said_and_not_taken(self) -> None:
        wrong = self.root / "wrong"
        wrong.mkdir()
        with (self.made / "homing.po").open("rb") as file:
            catalogue = read_po(file)
        message = next(each for each in catalogue if "python-brace-format" in each.flags and each.id)
        message.string = "{nothing}"
        with (wrong / "homing.po").open("wb") as file:
            write_po(file, catalogue)
        checked = self.idler("language", "check", str(wrong), language="en")
        self.assertEqual((checked.returncode, checked.stdout.count("has {nothing}, which")), (1, 1), checked.stderr)
        self.assertEqual(self.idler("language", "take", str(wrong), language="en").returncode, 2)
        (wrong / "homing.po").write_bytes(b"\xff\xfe no text")
        for folder, said in (
            (wrong, "is no PO file"),
            (wrong / "not", "no such folder"),
            (self.made.parent / "en", "by itself"),
        ):
            with self.subTest(said), self.assertRaisesRegex(Untranslated, said):
                take(folder) if folder.name == "en" else list(judged(folder))

    def test_two_pages_cannot_have_one_name(self) -> None:
        """They are told apart by it: one of them would be gone."""
        wrong = self.root / "alike"
        shutil.copytree(self.made, wrong)
        with (wrong / "table.po").open("rb") as file:
            catalogue = read_po(file)
        for message in catalogue:
            message.string = {"Filter": "Alike", "Prove": "Alike"}.get(str(message.id), message.string)
        with (wrong / "table.po").open("wb") as file:
            write_po(file, catalogue)
        said = [line for each in judged(wrong) for line in each.wrong]
        self.assertEqual(len(said), 1, said)
        self.assertIn("“Filter” and “Prove” are told apart by their words, and both would be “Alike”", said[0])
        with self.assertRaisesRegex(Untranslated, "both would be"):
            take(wrong)

    def test_what_was_changed_since_is_not_spoken_before_it_was_looked_at(self) -> None:
        path = self.root / "again" / "witness.po"
        shutil.copytree(self.made, path.parent)
        with path.open("rb") as file:
            catalogue = read_po(file)
        message = max((each for each in catalogue if each.id), key=lambda each: len(each.id))
        text = path.read_text("utf-8")
        self.assertIn(f'msgid "{message.id}"', text)
        path.write_text(text.replace(f'msgid "{message.id}"', f'msgid "{message.id} once"'), "utf-8")
        write(path.parent)
        left = {each.subject: each.all - each.done for each in judged(path.parent)}
        self.assertEqual((left["witness"], sum(left.values())), (1, 1))
        with path.open("rb") as file:
            again = read_po(file)[message.id]
        self.assertTrue(again.fuzzy and again.string)

    def test_a_sentence_that_is_said_elsewhere_now_keeps_its_words_until_they_are_looked_at(self) -> None:
        folder = self.root / "moved"
        shutil.copytree(self.made, folder)
        (folder / "witness.po").rename(folder / "somewhere.po")
        write(folder)
        with (folder / "witness.po").open("rb") as file:
            again = [each for each in read_po(file) if each.id]
        self.assertTrue(again and all(each.string and each.fuzzy for each in again))


if __name__ == "__main__":
    unittest.main()
