"""What is next, at the head of the margin: it leads there, follows what is proven, and keeps why something is left out."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from idler.app.qt_wait import until
from idler.core.proof.claims import Witness, claims
from idler.core.report import report
from idler.core.table.stations import Station
from idler.shelf import settings
from tests.app.gui import SessionCase
from tests.support import X, at


class Offline(SessionCase):
    on_bench = False

    def test_without_a_controller_it_leads_to_the_link(self) -> None:
        strip = self.window.margin.next
        self.window.open_station(Station.TRIAL)
        self.assertIn("Connect the controller", strip.text.text())
        self.click(strip.go)
        self.assertIs(self.window._station, Station.LINK)


class OnBench(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.wire()
        self.strip = self.window.margin.next

    @property
    def key(self) -> str:
        return self.strip.step.key if self.strip.step is not None else ""

    def test_it_goes_on_by_itself_where_the_person_lets_it(self) -> None:
        until(lambda: self.key == "wiring.stop", "the first step")
        self.window.open_station(Station.LINK)
        self.assertEqual(self.session.leading.left, 0)
        self.prove("wiring.stop")
        self.assertEqual(self.session.leading.left, 0, "off at first")
        self.window.menu.actions["leads"].trigger()
        self.prove("wiring.guard")
        until(lambda: "Goes there in 5 s" in self.strip.go.text(), "the time to read")
        QTest.keyClick(self.window, Qt.Key.Key_Shift)
        self.assertEqual((self.strip.go.text(), self.session.leading.left), ("Go there", 0))
        self.session.runs.add(self)  # a procedure that moves nothing, as the touching of switches
        self.prove("wiring.home.X")
        for _ in range(9):
            self.session.leading._tick()
        self.assertIs(self.window._station, Station.LINK)
        self.session.runs.discard(self)
        until(lambda: self.window._station is Station.WIRING, "what is next")
        self.assertEqual((self.key, self.strip.go.text()), ("wiring.home.Y", "Go there"))
        page = self.window.page(Station.WIRING)
        self.assertIs(self.app.focusWidget(), page.prove.round_button)  # type: ignore[attr-defined]
        self.assertFalse(self.session.floor.words)
        self.window.stop()
        self.assertTrue(settings.read(self.root / "settings.toml").leads)

    def prove(self, key: str) -> None:
        claim = next(each for each in claims(self.session.machine) if each.key == key)
        self.session.prove(claim, True, "seen", Witness.EYES)

    def test_one_press_goes_there_and_the_next_one_follows_a_proof(self) -> None:
        until(lambda: self.key == "wiring.stop", "the first step")
        self.click(self.strip.go)
        self.assertIs(self.window._station, Station.WIRING)
        page = self.window.page(Station.WIRING)
        self.assertIs(self.app.focusWidget(), page.prove.begin_buttons["wiring.stop"])  # type: ignore[attr-defined]
        for key, expected in (("wiring.stop", "wiring.guard"), ("wiring.guard", "wiring.home.X")):
            self.prove(key)
            until(lambda key=expected: self.key == key, expected)
        for claim in claims(self.session.machine):
            if claim.station is Station.WIRING:
                self.session.prove(claim, True, "seen", Witness.EYES)
        until(lambda: self.key == "direction.X", "the next one")
        self.prove("direction.X")
        until(lambda: self.key == "direction.Y", "the next one")
        self.click(self.strip.go)
        station = self.window.page(Station.DRIVES)
        self.assertEqual((self.window._station, station.direction.slot), (Station.DRIVES, 1))  # type: ignore[attr-defined]
        focus = self.app.focusWidget()
        self.assertTrue(isinstance(focus, QPushButton) and "Move Y" in focus.text(), focus)

    def test_return_leads_on_where_a_proof_took_away_the_button_that_had_the_focus(self) -> None:
        for key in ("wiring.stop", "wiring.guard"):
            claim = next(each for each in claims(self.session.machine) if each.key == key)
            self.session.prove(claim, True, "seen", Witness.EYES)
        self.window.open_station(Station.DRIVES)
        page = self.window.page(Station.DRIVES).direction  # type: ignore[attr-defined]
        self.window.page(Station.DRIVES).turn_to("Direction")
        self.power()
        self.click(page.go)
        until(lambda: page.plus.isVisible(), "the question")
        page.plus.setFocus()
        QTest.keyClick(page.plus, Qt.Key.Key_Space)
        until(lambda: "direction.X" in self.session.proofs, "the proof")
        until(lambda: self.app.focusWidget() is self.strip.go, "the focus on what leads on")

    def test_what_is_left_out_says_why_and_is_printed_and_outlives_the_application(self) -> None:
        self.click(self.strip.out)
        QTest.keyClick(self.strip.reason, Qt.Key.Key_Return)
        self.assertIn("Write why", self.window.notice.words)
        self.assertEqual(self.key, "wiring.stop")
        QTest.keyClicks(self.strip.reason, "tried yesterday")
        QTest.keyClick(self.strip.reason, Qt.Key.Key_Return)
        until(lambda: self.key == "wiring.guard", "the next one")
        self.assertTrue(self.strip.reason.isHidden())
        self.window.open_station(Station.SIGN_OFF)
        shown = self.window.page(Station.SIGN_OFF).proofs.shown  # type: ignore[attr-defined]
        self.assertEqual(shown["wiring.stop"], "left out: tried yesterday")
        printed = report(self.session.machine, self.session.proofs, None, self.session.agenda.skips)
        self.assertEqual([reason for _, reason in printed.left_out], ["tried yesterday"])
        self.application.close()
        self.open()
        self.assertEqual(self.session.agenda.skips, {"wiring.stop": "tried yesterday"})
        self.session.agenda.take_up("wiring.stop")
        until(
            lambda: self.window.margin.next.step is not None and self.window.margin.next.step.key == "wiring.stop",
            "it again",
        )

    def test_an_edit_is_sent_first(self) -> None:
        self.session.set_values({at(X, "chain.microsteps"): 16})
        until(lambda: self.key == "send", "the send")
        self.click(self.strip.go)
        self.assertIs(self.app.focusWidget(), self.window.header.send_button)

    def test_what_waits_for_a_restart_is_restarted(self) -> None:
        self.session.set_values({at(None, "signals.step_inverted"): True})
        self.again(self.session.send, lambda: not self.session.count().edited, "the value to be sent")
        until(lambda: self.key == "restart", "the restart")
        self.click(self.strip.go)
        page = self.window.page(Station.LINK)
        self.assertIs(self.app.focusWidget(), page.restart_button)  # type: ignore[attr-defined]
