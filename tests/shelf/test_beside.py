"""What lies beside the machines: journals of sends, what controllers held, incidents, settings, values for each connect."""

from __future__ import annotations

import json
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from idler.core.controller.sending import Sending
from idler.core.errors import IdlerError
from idler.core.incident import Incident
from idler.core.profile.codec import Place, image
from idler.core.table.stations import Station
from idler.shelf import settings, startup
from idler.shelf.files import read_text, write_text
from idler.shelf.incidents import KeptIncident
from idler.shelf.settings import Settings
from idler.shelf.shelf import Shelf
from tests.support import A, X, at, verge, wired


class Beside(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)


class Journals(Beside):
    def test_a_send_that_was_begun_comes_back_until_it_has_ended(self) -> None:
        made = Sending(7, 12.5, {Place(0x6092, 1): 50_000, Place(0x2010, 1): "Mill"}, {Place(0x6092, 1): 40_000,
                                                                                      Place(0x2010, 1): "Other"})  # fmt: skip
        Shelf(self.root).controllers("verge").begin(made)
        again = Shelf(self.root).controllers("verge")
        self.assertEqual(again.begun(), made)
        self.assertIsNone(Shelf(self.root).controllers("other").begun())
        again.ended()
        again.ended()
        self.assertIsNone(again.begun())

    def test_a_damaged_journal_is_said_and_stays(self) -> None:
        path = self.root / "sending" / "verge.json"
        for text in ("", "[]", '{"serial": 7}', '{"serial": 7, "when": 0, "old": {"60": 1}, "new": {}}', "\0"):
            write_text(path, text)
            with self.subTest(text), self.assertRaisesRegex(IdlerError, "cannot be read"):
                Shelf(self.root).controllers("verge").begun()
            self.assertEqual(read_text(path), text)

    def test_what_a_controller_held_is_known_by_its_serial_number(self) -> None:
        kept = Shelf(self.root).controllers("verge")
        self.assertIsNone(kept.heard(7))
        kept.hear(7, image(verge()))
        self.assertEqual(kept.heard(7), image(verge()))
        self.assertIsNone(kept.heard(8))

    def test_what_cannot_be_read_of_it_is_learnt_anew(self) -> None:
        kept = Shelf(self.root).controllers("verge")
        write_text(self.root / "heard" / "verge-7.json", "{")
        self.assertIsNone(kept.heard(7))
        kept.hear(7, {Place(1, 2): 3})
        self.assertEqual(kept.heard(7), {Place(1, 2): 3})


class Incidents(Beside):
    def kept(self, when: float = 1000.0) -> KeptIncident:
        return KeptIncident(when, Incident(0xFF01, None, 0, ("X", "Y")), wired(), b"\x00\xff flight")

    def test_they_come_back_newest_first(self) -> None:
        folder = Shelf(self.root).incidents("verge")
        self.assertEqual(folder.names(), [])
        for when in (1000.0, 5000.0, 3000.0):
            folder.keep(self.kept(when))
        self.assertEqual([folder.load(name).when for name in folder.names()], [5000.0, 3000.0, 1000.0])
        self.assertEqual(folder.load(folder.names()[0]), self.kept(5000.0))

    def test_two_in_one_second_are_two(self) -> None:
        folder = Shelf(self.root).incidents("verge")
        folder.keep(self.kept())
        folder.keep(self.kept())
        self.assertEqual(len(folder.names()), 2)

    def test_a_damaged_one_is_said_and_stays(self) -> None:
        folder = Shelf(self.root).incidents("verge")
        folder.keep(self.kept())
        path = next((self.root / "incidents" / "verge").glob("*.json"))
        whole = json.loads(read_text(path))
        for change in ({"flight": "not base64!"}, {"machine": "schema = 9"}, {"code": "stop"}, {"when": None}):
            write_text(path, json.dumps({**whole, **change}))
            with self.subTest(change), self.assertRaises(IdlerError):
                folder.load(path.stem)


class Habits(Beside):
    def test_settings_come_back_and_choose_what_is_opened(self) -> None:
        path = self.root / "settings.toml"
        self.assertEqual(settings.read(path), Settings())
        made = Settings(last="lathe", opens="", station=Station.TRAVEL.key, connects=True, address="can0")
        settings.write(path, made)
        self.assertEqual(settings.read(path), made)
        self.assertIs(made.first_station, Station.TRAVEL)
        self.assertEqual(made.first_of(["lathe", "mill"]), "lathe")
        self.assertEqual(made.first_of(["mill"]), "mill")
        self.assertEqual(Settings(last="lathe", opens="mill").first_of(["lathe", "mill"]), "mill")

    def test_settings_that_cannot_be_used_say_so(self) -> None:
        path = self.root / "settings.toml"
        for text in ("last = 3", "unknown = 'x'", "last = ", "connects = 1"):
            write_text(path, text)
            with self.subTest(text), self.assertRaisesRegex(IdlerError, "usual ones are used"):
                settings.read(path)

    def test_values_for_each_connect(self) -> None:
        path = self.root / "startup" / "verge.toml"
        self.assertEqual(startup.read(path, verge()), {})
        values = {at(X, "pace.jerk"): Fraction(1000), at(None, "names.screen_unit"): "in",
                  at(A, "travel.park"): Fraction(45)}  # fmt: skip
        startup.write(path, verge(), values)
        self.assertEqual(startup.read(path, verge()), values)
        self.assertIn('"X.pace.jerk" = "1000', read_text(path))
        write_text(path, '[connect]\n"X.pace.jerk" = "many"\n')
        with self.assertRaisesRegex(IdlerError, "cannot be read"):
            startup.read(path, verge())
        write_text(path, '[connect]\n"W.pace.jerk" = "10"\n')
        self.assertEqual(startup.read(path, verge()), {})
