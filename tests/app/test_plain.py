"""A machine of plain parts in the window: asked which is which, met again, and what it cannot have."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtWidgets import QLineEdit

from idler.app.qt_wait import until
from idler.app.stations.drives.direction import DirectionPage
from idler.app.stations.link.station import LinkStation
from idler.app.stations.trial.station import TrialStation
from idler.app.widgets.fields import NOTHING_THERE, Field
from idler.core.controller.nodes import What
from idler.core.controller.parts import proposed
from idler.core.profile.flight import unpack_flight
from idler.core.proof.claims import Proof, Witness, pace_claim, state
from idler.core.table.stations import Station
from idler.shelf.incidents import KeptIncident
from tests.app.gui import SessionCase
from tests.support import X, Y, at, shared_bench


class Parts(SessionCase):
    rig = "pieces"
    on_bench = False
    pace = 1

    @classmethod
    def setUpClass(cls) -> None:
        cls.bench = shared_bench(cls, cls.rig, cls.pace)

    def setUp(self) -> None:
        super().setUp()
        self.bench.hands.ask(do="deliver")
        page = self.window.page(Station.LINK)
        assert isinstance(page, LinkStation)
        self.page = page

    def meet(self) -> None:
        self.application.use_bench(self.bench.ready)
        until(lambda: bool(self.page.parts.roles) or self.session.connected, "the parts")
        if not self.session.connected:
            self.click(self.page.parts.button)
        until(lambda: self.session.connected and self.session.history.found is not None, "the link")

    def test_it_is_asked_which_is_which_and_remembered(self) -> None:
        self.application.use_bench(self.bench.ready)
        until(lambda: bool(self.page.parts.roles), "the parts")
        self.assertIs(self.page.answered.currentWidget(), self.page.parts)
        self.assertEqual({node: role.currentText() for node, role in self.page.parts.roles.items()},
                         {1: "X", 2: "Y", 3: "Z", 4: "terminals", 5: "encoder"})  # fmt: skip
        self.page.parts.roles[2].setCurrentText("X")
        self.click(self.page.parts.button)
        self.assertIn("gives X a second node", self.page.parts.trouble.text())
        self.page.parts.roles[2].setCurrentText("Y")
        self.click(self.page.parts.button)
        until(lambda: self.session.connected, "the link")
        self.assertEqual(self.session.identity.axes, ("X", "Y", "Z"))  # type: ignore[union-attr]
        self.session.disconnect()
        until(lambda: not self.session.connected, "to be off")
        self.session.connect_to(self.bench.link)
        until(lambda: self.session.connected, "the link, without being asked")

    def test_a_node_gets_another_number_while_nothing_is_connected(self) -> None:
        self.application.use_bench(self.bench.ready)
        until(lambda: bool(self.page.parts.roles), "the parts")
        dialog = self.window.open_number()
        self.assertEqual(dialog.address.text(), self.bench.link)
        dialog.node.setText("3")
        dialog.number.setText("nine")
        self.click(dialog.main_button)
        self.assertIn("“nine” is no whole number", dialog.outcome.text())
        dialog.number.setText("2")
        self.click(dialog.main_button)
        until(lambda: "is taken on this bus" in dialog.outcome.text(), "the refusal", 20)
        dialog.number.setText("9")
        self.click(dialog.main_button)
        until(lambda: "serial number 7003 has number 9." in dialog.outcome.text(), "the number", 20)
        self.session.connect_to(f"{self.bench.link}?parts=1=X,2=Y,9=Z")
        until(lambda: self.session.connected and self.session.history.found is not None, "the link")
        dialog.node.setText("9")
        dialog.number.setText("3")
        self.click(dialog.main_button)
        self.assertIn("Disconnect first", dialog.outcome.text())
        dialog.reject()

    def test_a_data_sheet_is_taken_from_the_part_or_from_a_file_and_bounds_the_draft(self) -> None:
        self.meet()
        dialog = self.window.open_parts()
        self.assertEqual([dialog.table.topLevelItem(row).text(1) for row in range(dialog.table.topLevelItemCount())],
                         ["axis X", "axis Y", "axis Z", "terminals", "encoder"])  # fmt: skip
        until(lambda: dialog.now.text().startswith("Now: supply 48.0 V"), "how X is")
        self.click(dialog.ask_button)
        until(lambda: 1 in self.session.sheets.of, "the sheet of X", 30)
        self.assertEqual({*self.session.sheets.of}, {1, 3})  # Z is of the same kind
        self.assertIn("Servo 200, of made up", dialog.words.toPlainText())
        self.session.set_values({at(X, "chain.pitch"): Fraction(8), at(X, "pace.top_speed"): Fraction(61_000)})
        (found,) = (each for each in self.session.findings() if each.code == "beyond_maker")
        self.assertEqual(found.edit, ((at(X, "pace.top_speed"), Fraction(60_000)),))  # 500 000 of 4000 a turn of 8 mm
        dialog.table.setCurrentItem(dialog.table.topLevelItem(1))
        self.click(dialog.ask_button)
        until(lambda: 2 in self.session.sheets.of, "the sheet of Y", 30)
        self.assertIn("6065h has 4 bytes in the part; the file says 2.", dialog.words.toPlainText())
        self.assertIn("4 errors", dialog.table.topLevelItem(1).text(5))
        dialog.table.setCurrentItem(dialog.table.topLevelItem(2))
        self.click(dialog.ask_button)
        until(lambda: "node 3" in dialog.trouble.text(), "that Z keeps none", 30)
        of_y = next((self.root / "sheets").glob("*0205.eds"))
        dialog.take(of_y)
        self.assertIn("node 3 says that it is of 0x200", dialog.trouble.text())
        dialog.table.setCurrentItem(dialog.table.topLevelItem(3))
        plain = self.root / "terminals.eds"
        plain.write_text("[6000sub1]\nObjectType=7\nDataType=5\nAccessType=ro\n")
        dialog.take(plain)
        self.assertIn(4, self.session.sheets.of)
        dialog.accept()

    def test_drives_whose_roles_were_confused_change_places_and_are_proven_anew(self) -> None:
        self.application.use_bench(self.bench.ready)
        until(lambda: bool(self.page.parts.roles), "the parts")
        for node, letter in ((1, "Y"), (2, "X")):
            self.page.parts.roles[node].setCurrentText(letter)
        self.click(self.page.parts.button)
        until(lambda: self.session.connected and self.session.history.found is not None, "the link")
        self.session.set_values({at(slot, "chain.pitch"): Fraction(10) for slot in (X, Y)})
        self.again(self.session.send, lambda: not self.session.count().edited, "the values")
        order = self.session.identity.axes  # type: ignore[union-attr]
        slot = order.index("X")
        claim = pace_claim(self.session.machine, slot)
        self.session.prove(claim, True, "as if it had been seen", Witness.SWITCH)
        self.power()
        self.window.open_station(Station.DRIVES)
        drives = self.window.page(Station.DRIVES)
        drives.turn_to("Direction")
        direction = drives.findChild(DirectionPage)
        direction.show_axis(slot)
        before = self.bench.hands.look("Y")["at"]
        self.click(direction.go)
        until(lambda: direction.other.isVisible(), "the question", 20)
        self.assertGreater(abs(self.bench.hands.look("Y")["at"] - before), 0.05)
        self.click(direction.other)
        self.assertEqual([*direction.which], [*(name for name in order if name != "X"), "none"])
        self.click(direction.which["Y"])
        until(lambda: self.session.connected and "node 1 (X)" not in self.session.refusal, "the link again", 30)
        until(lambda: self.session.identity is not None and "1=X" in self.session.identity.address, "the roles", 30)
        self.assertIs(state(self.session.machine, claim, self.session.proofs), Proof.STALE)
        self.assertIn("have changed places", direction.words.text())
        self.power()
        before = self.bench.hands.look("X")["at"]
        self.click(direction.go)
        until(lambda: direction.plus.isVisible(), "the question", 20)
        self.assertGreater(abs(self.bench.hands.look("X")["at"] - before), 0.05)
        self.click(direction.plus)

    def test_what_cannot_be_had_has_no_value_and_takes_none(self) -> None:
        self.meet()
        self.window.open_station(Station.HOMING)
        page = self.window.page(Station.HOMING)
        fields = {field.address.key: field for field in page.findChildren(Field)}
        back, touch = fields["homing.back_off"], fields["homing.touch"]
        self.assertEqual([edit.text() for edit in back.findChildren(QLineEdit)], [NOTHING_THERE])
        self.assertFalse(back.findChildren(QLineEdit)[0].isEnabled())
        self.assertTrue(touch.findChildren(QLineEdit)[0].isEnabled())
        self.assertIn("6099h", self.session.home_words(touch.address))
        self.assertIn("own way", self.session.home_words(back.address))

    def test_pages_of_what_cannot_be_had_are_not_offered(self) -> None:
        self.meet()
        wiring, spindle = self.window.page(Station.WIRING), self.window.page(Station.SPINDLE)
        self.assertEqual(wiring.segments.offered, ["Outputs", "Learn", "Prove"])  # type: ignore[attr-defined]
        self.assertNotIn("Oil", spindle.segments.offered)  # type: ignore[attr-defined]

    def test_a_jog_from_the_rails_moves_the_machine(self) -> None:
        self.meet()
        self.session.edit(at(X, "chain.pitch"), "8 mm")
        self.again(self.session.send, lambda: not self.session.count().edited, "the values")
        self.power()
        before = self.bench.hands.look("X")["at"]
        self.session.link.jog_step(X, 2.0, 600.0)
        until(lambda: abs(self.bench.hands.look("X")["at"] - before - 2) < 0.03, "the move")

    def test_lines_at_plain_terminals_pick_an_index_stop_and_idler_goes(self) -> None:
        self.meet()
        lines = {"role": ("stop_line_1", "stop_line_2"), "axis": ("X", "X"), "rest": ("closed", "open")}
        self.session.set_values(
            {
                at(X, "index.stops"): "-2 left; -8 middle; -14 right",
                at(X, "index.pick"): "binary",
                at(X, "travel.low"): Fraction(-50),
            }
            | {
                at(slot, f"input.{key}"): told[place]
                for key, told in lines.items()
                for place, slot in enumerate((1, 13))
            }
        )
        self.again(self.session.send, lambda: not self.session.count().edited, "the values")
        self.power()
        self.session.link.home_here(X)
        until(lambda: self.session.homes.known(X), "home", 20)
        self.window.open_station(Station.TRIAL)
        station = self.window.page(Station.TRIAL)
        assert isinstance(station, TrialStation)
        station.turn_to("Index stops")
        run = station.index.procedure
        until(lambda: X in run.lines_say, "the lines to be watched", 20)
        begun = self.session.axes[X].position
        self.bench.hands.ask(do="press", switch="Y home")
        self.addCleanup(self.bench.hands.ask, do="release", switch="Y home")
        until(lambda: run.running, "the lines to be obeyed", 20)
        until(lambda: not run.running, "its way", 60)
        self.assertIn("stop 2 middle", run.words)
        self.assertAlmostEqual(self.session.axes[X].position, -8.0, delta=0.01)
        self.assertNotAlmostEqual(begun, -8.0, delta=1.0)
        until(lambda: "stands at stop 2 middle; its lines say 2" in station.index.state.text(), "how it stands", 20)
        self.bench.hands.ask(do="press", switch="guard")
        self.addCleanup(self.bench.hands.ask, do="release", switch="guard")
        until(lambda: self.session.axes[X].moving, "its way to the third", 20)
        self.bench.hands.ask(do="release", switch="Y home")  # number 1 is asked for meanwhile
        until(lambda: run.lines_say[X] == 1, "the lines")
        self.session.stop()
        until(lambda: not self.session.axes[X].moving and not run.running, "rest", 20)
        stood = self.session.axes[X].position
        self.click(station.index.go)  # whatever waited for its end is forgotten: only what is pressed goes
        until(lambda: not run.running, "its way", 60)
        self.assertNotEqual(stood, self.session.axes[X].position)

    def test_who_speaks_on_the_bus_is_seen_with_its_name(self) -> None:
        self.meet()
        window = self.window.open_wire()
        window.pages.turn_to("Who speaks")
        table = window.speakers.table
        self.assertIn(table.rowCount(), range(6, 9))  # the numbers that Idler has just asked in vain take one row
        until(lambda: table.rowCount() == 6, "five parts and Idler", 20)
        rows = [[table.item(row, place).text() for place in range(5)] for row in range(6)]
        self.assertEqual(
            [row[0] for row in rows],
            ["1, Servo 200", "2, Servo 205", "3, Servo 200", "4, Terminals 8/8", "5, Encoder 1000", "126, Idler"],
        )
        self.assertIn("SDO", rows[0][4])
        self.assertIn("at 500 kbit/s", window.speakers.words.text())
        window.close()

    def test_what_a_drive_gives_up_for_is_said_in_words_and_shown_as_idler_heard_it(self) -> None:
        self.meet()
        self.power()
        kept: list[KeptIncident] = []
        self.session.incidents.recorded.subscribe(lambda each, _: kept.append(each))
        self.session.link.jog_step(X, -10.0, 600.0)
        until(lambda: self.session.axes[X].moving, "motion", 20)
        self.bench.hands.ask(do="press", switch="emergency stop")  # it takes the torque of all three
        self.addCleanup(lambda: self.bench.hands.ask(do="release", switch="emergency stop"))
        until(lambda: kept, "Idler's own record", 30)
        words = "Several drives stopped, and each says: something outside"
        until(lambda: words in self.window.incident.words, words)
        record = unpack_flight(kept[0].flight)
        self.assertEqual((len(kept), kept[0].incident.axis, record.code, record.period), (1, None, 0x9000, 0.02))
        page = self.window.open_incident()
        self.assertIn("As Idler heard it, every 20 ms", page._heard.text())
        self.assertTrue(page._heard.isVisible())


class Guess(SessionCase):
    on_bench = False

    def test_letters_follow_those_that_the_machine_has(self) -> None:
        drive = What.DRIVE
        nodes = [(7, drive), (3, drive), (9, What.TERMINALS), (5, What.ENCODER), (8, drive), (4, What.INVERTER)]
        guess = {3: "Z", 4: "spindle", 5: "encoder", 7: "A", 8: "X", 9: "terminals"}
        self.assertEqual(proposed([*nodes, (20, What.INVERTER), (21, What.SILENT)], ("Z", "A")), guess)
        self.assertEqual(proposed([], ()), {})
