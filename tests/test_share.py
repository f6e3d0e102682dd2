"""What Idler puts into a person's menu and takes out again, and the pictures that the README shows."""

from __future__ import annotations

import configparser
import os
import re
import shlex
import shutil
import subprocess
import sys
import tempfile
import unittest
from importlib import resources
from pathlib import Path
from xml.etree import ElementTree

from idler import __version__
from idler.cli import main
from idler.cli.install import COMPLETE, files
from idler.cli.manpage import man_page

ROOT = Path(__file__).resolve().parent.parent


class Share(unittest.TestCase):
    def test_desktop_file_and_metainfo_agree(self) -> None:
        put = dict(files(main, Path("/opt/my tools/idler $1%")))
        desktop = configparser.ConfigParser(interpolation=None)
        desktop.read_string(put["applications/idler.desktop"])
        entry = desktop["Desktop Entry"]
        self.assertEqual(entry["exec"], '"/opt/my tools/idler \\\\$1%%"')
        info = ElementTree.fromstring(put["metainfo/local.idler.Idler.metainfo.xml"])
        self.assertEqual(info.findtext("name"), entry["name"])
        self.assertEqual(info.findtext("launchable"), "idler.desktop")
        self.assertEqual(info.findtext("provides/binary"), "idler")

    def test_their_tools_take_them(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            for path, text in files(main, ROOT / "idler"):
                (Path(name) / path).parent.mkdir(parents=True, exist_ok=True)
                (Path(name) / path).write_text(text, "utf-8")
            for tool, *words in (
                ("desktop-file-validate", "applications/idler.desktop"),
                ("appstreamcli", "validate", "--no-net", "metainfo/local.idler.Idler.metainfo.xml"),
                ("groff", "-man", "-ww", "-z", "man/man1/idler.1"), ("bash", "-n", "bash-completion/completions/idler"),
            ):  # fmt: skip
                if shutil.which(tool):
                    with self.subTest(tool):
                        done = subprocess.run([tool, *words], cwd=name, capture_output=True, text=True)
                        self.assertEqual((done.returncode, done.stderr), (0, ""), done.stdout)

    def test_the_man_page_has_every_word_and_takes_nothing_for_a_request(self) -> None:
        page = man_page(main, "idler", __version__)
        for word in (word for word, command in main.commands.items() if not command.hidden):
            self.assertIn(f'.SS "{word} ', page.replace("\\-", "-"))
        for line in page.splitlines():
            self.assertRegex(line, r"^(\.(TH|SH|SS|TP|PP|B)\b|[^.'])", line)

    def test_a_shell_completes_a_word(self) -> None:
        done = subprocess.run(
            [sys.executable, "-m", "idler"], capture_output=True, text=True,
            env={**os.environ, COMPLETE: "bash_complete", "COMP_WORDS": "idler he", "COMP_CWORD": "1"},
        )  # fmt: skip
        self.assertIn("help", done.stdout)

    def test_it_is_put_there_and_taken_out_and_nothing_else_is_touched(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            home, data = Path(name), Path(name) / "data"
            started_by = home / "the clone" / "idler"
            started_by.parent.mkdir()
            started_by.write_text("#!/bin/sh\n")
            (data / "applications").mkdir(parents=True)
            (data / "applications" / "another.desktop").write_text("its own")
            environment = {
                **os.environ,
                "HOME": str(home),
                "XDG_DATA_HOME": str(data),
                "IDLER_STARTED_BY": str(started_by),
            }

            def install(*words: str) -> str:
                done = subprocess.run(
                    [sys.executable, "-m", "idler", "install", *words], capture_output=True, text=True, env=environment
                )
                self.assertEqual(done.returncode, 0, done.stderr)
                return done.stdout

            self.assertIn("PATH", install())
            put = [path for path, _ in files(main, started_by)]
            self.assertEqual([path for path in put if not (data / path).is_file()], [])
            entry = (data / "applications" / "idler.desktop").read_text("utf-8")
            self.assertEqual(shlex.split(entry.partition("Exec=")[2].splitlines()[0]), [str(started_by)])
            self.assertEqual((home / ".local" / "bin" / "idler").resolve(), started_by)
            install()  # once more changes nothing
            install("--remove")
            self.assertEqual(
                [path for path in data.rglob("*") if path.is_file()], [data / "applications" / "another.desktop"]
            )
            self.assertFalse(os.path.lexists(home / ".local" / "bin" / "idler"))

    def test_the_icon_is_drawn_in_three_wheels(self) -> None:
        icon = ElementTree.fromstring((resources.files("idler") / "app" / "icons" / "idler.svg").read_text("utf-8"))
        self.assertEqual(icon.get("viewBox"), "0 0 128 128")
        self.assertGreaterEqual(len(icon.findall(".//{http://www.w3.org/2000/svg}circle")), 6)

    def test_pictures_that_the_readme_shows_are_there(self) -> None:
        shown = re.findall(r"\]\((docs/[^)]+)\)", (ROOT / "README.md").read_text("utf-8"))
        self.assertGreaterEqual(len(shown), 9)
        for name in shown:
            self.assertTrue((ROOT / name).exists(), name)
