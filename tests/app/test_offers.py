"""What is to be decided stands over the stage until it is; the pictures of an incident and of the wiring."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent

from idler.app.pictures.flight import FlightPicture, FlightScene, TraceCurve
from idler.app.shell.offers import Offer, OfferStrip
from idler.core.incident import Incident
from idler.core.profile.cia402 import UNNAMED
from idler.shelf.files import write_text
from idler.shelf.incidents import KeptIncident
from tests.app.gui import GuiCase, SessionCase
from tests.core.incident.test_diagnosis import AccountCase


class Offers(GuiCase):
    def setUp(self) -> None:
        super().setUp()
        self.strip = OfferStrip()
        self.addCleanup(self.strip.deleteLater)
        self.done: list[str] = []

    def offer(self, key: str, *ways: str) -> Offer:
        return Offer(key, f"about {key}", tuple((way, lambda way=way: self.done.append(way)) for way in ways))

    def test_each_way_does_its_own_and_the_next_one_follows(self) -> None:
        self.strip.make(self.offer("first", "this", "that"))
        self.strip.make(self.offer("second", "other"))
        self.assertEqual((self.strip.words, [b.text() for b in self.strip.buttons]), ("about first", ["this", "that"]))
        self.click(self.strip.buttons[1])
        self.assertEqual(self.done, ["that"])
        self.strip.withdraw("first")
        self.assertEqual(self.strip.words, "about second")
        self.strip.withdraw("nobody")
        self.strip.withdraw("second")
        self.assertEqual((self.strip.words, self.strip.isHidden()), ("", True))

    def test_an_offer_of_the_same_key_takes_the_place(self) -> None:
        self.strip.make(self.offer("first", "this"))
        self.strip.make(self.offer("first", "new"))
        self.assertEqual([button.text() for button in self.strip.buttons], ["new"])
        self.strip.withdraw("first")
        self.assertEqual(self.strip.words, "")


class LastSeconds(GuiCase):
    def setUp(self) -> None:
        super().setUp()
        times = (np.arange(1000) - 800) * 0.005
        self.picture = FlightPicture()
        self.addCleanup(self.picture.deleteLater)
        self.picture.resize(600, 400)
        traces = [
            TraceCurve("X velocity", "mm/min", np.where(times < 0, 1200.0, 0.0), level=False, loud=True),
            TraceCurve("1: emergency stop", "", times >= 0, level=True),
        ]
        self.picture.show_scene(FlightScene(times, traces, [0.0, 0.005]))
        self.picture.show()

    def test_the_pointer_reads_both_sides_of_the_stop(self) -> None:
        curve, level = self.picture._scene.traces
        for share, speed, on in ((0.25, "1\u202f200 mm/min", "off"), (0.75, "0 mm/min", "on")):
            x = int(132 + share * (600 - 142))
            at = QPointF(x, 100)
            none = Qt.MouseButton.NoButton
            move = QMouseEvent(QEvent.Type.MouseMove, at, at, none, none, Qt.KeyboardModifier.NoModifier)
            self.app.sendEvent(self.picture, move)
            self.assertEqual(self.picture._value(curve), speed)
            self.assertEqual(self.picture._value(level), f"1: emergency stop: {on}")

    def test_each_span_draws_another_picture_and_no_scene_a_blank_one(self) -> None:
        drawn = []
        for span in ((-4.0, 1.0), (-0.5, 0.5), (-0.05, 0.05)):
            self.picture.show_span(*span)
            drawn.append(self.picture.grab().toImage())
        still = TraceCurve("drives powered", "", np.ones(1000, bool), level=True)
        self.picture.show_scene(FlightScene(self.picture._scene.times, [still], []))
        drawn.append(self.picture.grab().toImage())
        self.picture.show_scene(None)
        blank = self.picture.grab().toImage()
        for k, image in enumerate(drawn):
            self.assertTrue(all(image != other for other in [*drawn[k + 1 :], blank]))
        colours = {blank.pixel(x, y) for x in range(0, 600, 7) for y in range(0, 400, 7)}
        self.assertEqual(len(colours), 1)


class Page(SessionCase):
    on_bench = False

    def test_nothing_has_happened_and_a_file_that_cannot_be_read(self) -> None:
        page = self.window.open_incident()
        self.assertIn("Nothing has stopped this machine yet", page._title.text())
        write_text(self.root / "incidents" / "verge" / "2026-01-02T03-04-05.json", "{")
        page = self.window.open_incident()
        self.assertIn("cannot be shown", page._title.text())
        self.assertEqual(page._choice.currentText(), "2 Jan 2026, 03:04:05")
        self.click(page.back_button)
        self.assertIs(self.window._stages.currentWidget(), self.window.page(self.window._station))

    def test_a_record_that_names_no_cause_is_a_stop_all_the_same(self) -> None:
        """Its emergency message may have been lost with the frames around it."""
        from idler.core.profile.flight import pack_flight

        record, told = AccountCase().record(0, lambda _: None), list[Incident]()
        self.session.stopped.subscribe(told.append)
        self.session.incidents.take(pack_flight(record.samples, record.moment, 0))
        self.assertEqual([incident.code for incident in told], [UNNAMED])
        self.assertIn("a cause that the controller does not name", self.window.incident.words)

    def test_every_kept_incident_can_be_chosen(self) -> None:
        made = AccountCase()
        from idler.core.profile.flight import pack_flight
        from tests.support import wired

        for when, number in ((1000.0, 1), (5000.0, 4)):
            record = made.record(0xFF01 if number == 1 else 0xFF04, made.open_input(number))
            data = pack_flight(record.samples, record.moment, record.code)
            self.session.incidents._folder.keep(
                KeptIncident(when, Incident(record.code, None, number - 1), wired(), data)
            )
        page = self.window.open_incident()
        self.assertEqual(page.account.first.words, "input 4, guard: open")
        page.choose(self.session.incidents.names()[1])
        self.assertEqual(page.account.first.words, "input 1, emergency stop: pressed")
        self.click(page.span_buttons["5 s"])
        self.assertEqual(page.picture._span, (-4.0, 1.0))
