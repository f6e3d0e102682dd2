"""Stops as they are told: each with its own record, also where the controller has none; and words for what is so now."""

from __future__ import annotations

import unittest
from fractions import Fraction

from PySide6.QtWidgets import QLabel

from idler.app.qt_wait import until
from idler.core.incident import Incident
from idler.core.profile.cia402 import DRIVE_TROUBLE, LAGGED, LINK_CUT, RESTARTED, STOP_PRESSED
from idler.core.profile.flight import Flag, unpack_flight
from idler.core.profile.terminals import Condition
from idler.link.events import Asked, AxisState, PanelState
from idler.session.motion_words import motion_words
from idler.session.ownrecord import OwnRecord
from tests.app.gui import SessionCase
from tests.support import X, Z, at


class IncidentCase(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.kept: list[tuple[object, str]] = []
        self.emergencies: list[Incident] = []
        self.session.stopped.subscribe(self.emergencies.append)
        self.session.incidents.recorded.subscribe(lambda kept, name: self.kept.append((kept, name)))

    def run_x(self) -> None:
        self.session.link.jog_step(X, -100, 60)
        until(lambda: self.session.incidents.own.moved() and self.session.link.axes[X].velocity < -50, "motion")

    def told(self, words: str) -> None:
        until(lambda: words in self.window.incident.words, words)


class Heard(unittest.TestCase):
    def test_the_record_names_the_input_that_the_controller_named(self) -> None:
        own = OwnRecord(lambda: self.now)
        for number in range(100):
            self.now = number / 50
            own.note((AxisState(status=1, position=number / 10),), PanelState(closed=number))
        data = own.record(STOP_PRESSED, 1.5, 3)
        assert data is not None
        record = unpack_flight(data)
        self.assertEqual((record.code, record.input, record.moment, record.period), (STOP_PRESSED, 3, 75, 0.02))
        self.assertEqual(record.samples["closed"].tolist()[:3], [0, 1, 2])


class Cut(IncidentCase):
    def test_a_link_that_is_cut_while_it_moves_is_an_incident_with_what_idler_heard(self) -> None:
        self.power()
        self.run_x()
        self.bench.hands.ask(do="cut")
        until(lambda: "not heard for" in motion_words(self.session), "the header to say so at once")
        self.assertTrue(self.session.in_fault)
        self.told("The link was lost while the machine moved")
        record = unpack_flight(self.kept[0][0].flight)  # type: ignore[attr-defined]
        self.assertEqual(record.code, LINK_CUT)
        self.assertTrue(record.samples["flags"][record.moment - 1, X] & Flag.MOVING)
        self.assertTrue(self.window.incident.seconds_button.isVisible())
        self.click(self.window.incident.seconds_button)
        page = self.window._stages.currentWidget()
        until(lambda: any("was not heard any more" in each.text() for each in page.findChildren(QLabel)), "the story")
        self.bench.hands.ask(do="mend")
        until(lambda: self.session.connected, "the link to be back")
        self.told("the client was not heard any more")  # the controller's own record of it is taken, and told as well
        until(lambda: len(self.kept) == 2, "its record")

    def test_a_controller_that_restarts_while_it_moves(self) -> None:
        self.power()
        self.run_x()
        self.bench.hands.ask(do="dip")
        self.told("The controller restarted while the machine moved")
        self.assertEqual(unpack_flight(self.kept[0][0].flight).code, RESTARTED)  # type: ignore[attr-defined]

    def test_a_link_that_is_cut_at_rest_is_none(self) -> None:
        self.bench.hands.ask(do="cut")
        until(lambda: not self.session.connected, "the link to be lost")
        self.assertFalse(self.window.incident.isVisible())
        self.assertEqual(self.kept, [])
        self.bench.hands.ask(do="mend")


class Each(IncidentCase):
    def test_a_stop_that_follows_another_has_a_record_of_its_own(self) -> None:
        self.wire()
        self.power()
        self.run_x()
        self.bench.hands.ask(do="press", switch="emergency stop")
        self.told("Emergency stop")
        self.bench.hands.ask(do="release", switch="emergency stop")
        until(lambda: not self.session.link.axes[X].stop_pressed, "the release")
        self.power()
        self.bench.hands.ask(do="jam", axis="Z")
        self.addCleanup(lambda: self.bench.hands.ask(do="free", axis="Z"))
        words = "The drive of Z reports trouble (input 9)"

        def push() -> None:
            if not self.session.powered:
                self.power()
            self.session.link.jog_step(Z, -20, 900)

        self.again(push, lambda: words in self.window.incident.words, words)
        both = {STOP_PRESSED, DRIVE_TROUBLE}  # pushed once more than was needed, it gives up once more
        until(lambda: both <= {kept.incident.code for kept, _ in self.kept}, "both records")  # type: ignore[attr-defined]
        codes = {kept.incident.code: unpack_flight(kept.flight).code for kept, _ in self.kept}  # type: ignore[attr-defined]
        self.assertEqual(codes, {STOP_PRESSED: STOP_PRESSED, DRIVE_TROUBLE: DRIVE_TROUBLE})
        names = {kept.incident.code: name for kept, name in self.kept}  # type: ignore[attr-defined]
        self.assertEqual(self.window.incident.record, names[DRIVE_TROUBLE])

    def test_a_stop_of_less_than_a_sample_names_its_input_and_how_long_it_was(self) -> None:
        self.wire()
        self.power()
        self.bench.hands.ask(do="loosen", switch="emergency stop")
        self.told("Emergency stop (input 1)")
        until(lambda: len(self.emergencies) > 3, "more openings of the same wire")
        self.bench.hands.ask(do="sound", switch="emergency stop")
        until(lambda: self.kept, "the record")
        self.assertEqual(len(self.kept), 1)  # the drives were off already
        record = unpack_flight(self.kept[0][0].flight)  # type: ignore[attr-defined]
        self.assertEqual((record.code, record.input), (STOP_PRESSED, 0))
        assert record.held is not None
        self.assertLess(record.held, 0.05)

    def test_the_same_stop_of_another_axis_is_another_one(self) -> None:
        self.power()
        until(lambda: self.session.powered and self.session.incidents.own._kept, "something heard")
        for axis in (X, Z, Z):
            self.session.incidents.stopped(Incident(LAGGED, axis))
        until(lambda: self.kept, "Idler's own record of the second")
        self.assertEqual([kept.incident.axis for kept, _ in self.kept], [Z])  # type: ignore[attr-defined]

    def test_a_drive_that_gives_up_is_no_noise(self) -> None:
        self.wire()
        self.power()
        self.bench.hands.ask(do="jam", axis="Z")
        self.addCleanup(lambda: self.bench.hands.ask(do="free", axis="Z"))
        self.session.link.jog_step(Z, -20, 900)
        self.told("reports trouble")
        until(lambda: motion_words(self.session) == "fault of Z, X Y A powered", "the words")
        until(lambda: self.kept, "the record")
        from idler.core.incident.diagnosis import account

        kept = self.kept[0][0]
        found = account(kept.machine, unpack_flight(kept.flight), kept.incident.axis)  # type: ignore[attr-defined]
        self.assertFalse([cause for cause in found.causes if "noise" in cause.words])
        self.assertTrue(found.causes)


class SpindleWords(SessionCase):
    def test_a_spindle_that_was_told_to_stop_and_turns_on_is_said(self) -> None:
        self.wire()
        self.session.set_values({at(k, "range.run_down"): Fraction(60_000) for k in range(3)})
        self.session.send()
        until(lambda: not self.session.count().to_send, "the waits")

        def turns() -> bool:
            self.session.link.keep_holding()
            return bool(self.session.link.panel.conditions & Condition.SPINDLE)

        self.again(lambda: self.session.hold_terminals(Asked(run=1, speed=2000)), turns, "the spindle")
        self.session.stop()
        until(lambda: "spindle runs down" in motion_words(self.session), "the words")
