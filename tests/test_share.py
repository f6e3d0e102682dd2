from __future__ import annotations

import configparser
import unittest
from pathlib import Path
from xml.etree import ElementTree

ROOT = Path(__file__).resolve().parent.parent


class Share(unittest.TestCase):
    def test_desktop_file_and_metainfo_agree(self) -> None:
        desktop = configparser.ConfigParser(interpolation=None)
        desktop.read(ROOT / "share" / "idler.desktop", "utf-8")
        entry = desktop["Desktop Entry"]
        info = ElementTree.parse(ROOT / "share" / "idler.metainfo.xml").getroot()
        self.assertEqual(info.findtext("name"), entry["name"])
        self.assertEqual(info.findtext("launchable"), "idler.desktop")
        self.assertEqual(info.findtext("provides/binary"), entry["exec"])

    def test_the_icon_is_drawn_in_three_wheels(self) -> None:
        icon = ElementTree.parse(ROOT / "src" / "idler" / "app" / "icons" / "idler.svg").getroot()
        self.assertEqual(icon.get("viewBox"), "0 0 128 128")
        self.assertGreaterEqual(len(icon.findall(".//{http://www.w3.org/2000/svg}circle")), 6)

    def test_pictures_that_the_readme_shows_are_there(self) -> None:
        import re

        shown = re.findall(r"\]\((docs/[^)]+)\)", (ROOT / "README.md").read_text("utf-8"))
        self.assertGreaterEqual(len(shown), 9)
        for name in shown:
            self.assertTrue((ROOT / name).is_file(), name)
