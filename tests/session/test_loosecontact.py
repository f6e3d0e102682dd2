"""A stop that opens and closes again by itself is no hand's."""

from __future__ import annotations

from idler.core.errors import IdlerError
from tests.procedures.test_geometry import OnRig
from tests.support import wiring

STOP = "emergency stop"


class LooseContact(OnRig):
    def setUp(self) -> None:
        super().setUp()
        self.said: list[str] = []
        session = self.mill.session
        session.set_values(wiring())
        self.mill.send()
        session.told.subscribe(lambda _tone, words: self.said.append(words))
        self.addCleanup(self.hands.ask, do="sound", switch=STOP)

    def test_a_wire_that_opens_again_and_again_is_told_once_and_by_whoever_asks_for_power(self) -> None:
        self.hands.ask(do="loosen", switch=STOP)
        self.assertTrue(self.mill.wait(lambda: self.mill.session.loose.words, 20))
        self.assertIn("A wire at input 1", self.mill.session.loose.words)
        refused = ""
        for _ in range(20):
            try:
                self.mill.power()
            except IdlerError as why:
                refused = why.sentence
                break
        self.assertIn("no hand does that", refused)
        self.assertNotIn("Release it", refused)
        self.assertEqual(sum("before the drives are powered" in words for words in self.said), 1, self.said)
        self.hands.ask(do="sound", switch=STOP)
        self.assertTrue(self.mill.wait(lambda: not self.mill.session.loose.words, 20))
        self.mill.power()

    def test_a_hand_that_presses_it_twice_is_no_loose_wire(self) -> None:
        for _ in range(2):
            self.mill.power()
            self.hands.ask(do="press", switch=STOP)
            self.assertTrue(self.mill.wait(lambda: any(axis.stop_pressed for axis in self.mill.session.axes), 10))
            self.hands.ask(do="release", switch=STOP)
            self.assertTrue(self.mill.wait(lambda: not any(axis.stop_pressed for axis in self.mill.session.axes), 10))
        self.assertEqual(self.mill.session.loose.words, "")
