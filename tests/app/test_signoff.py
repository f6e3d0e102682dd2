"""The Sign-off station: proofs, the line of revisions, a comparison with values taken over, what is left to settle."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtWidgets import QPushButton

from idler.app.qt_wait import until
from idler.app.tools.dialogs import SendDialog
from idler.app.tools.exchange import export_file, import_file
from idler.app.tools.reports import DiagramDialog, save_report
from idler.core.proof.claims import Witness, claims, direction_claim
from idler.core.table.stations import Station
from idler.core.wiring.diagram import diagram
from tests.app.gui import SessionCase
from tests.support import X, Y, at, wired


class SignOff(SessionCase):
    on_bench = False

    def page(self, name: str = "Revisions"):
        self.window.open_station(Station.SIGN_OFF)
        page = self.window.page(Station.SIGN_OFF)
        page.turn_to(name)
        return page

    def test_every_claim_is_listed_with_its_result_or_why_it_is_stale(self) -> None:
        claim = direction_claim(self.session.machine, X)
        self.session.prove(claim, True, "asked to go to +, it did", Witness.EYES)
        page = self.page()
        self.assertEqual(set(page.proofs.shown), {each.key for each in claims(self.session.machine)})
        self.assertIn("it did", page.proofs.shown[claim.key])
        self.assertTrue(page.proofs.title.text().startswith("1 of "))
        self.session.set_values({at(X, "axis.reversed"): True})
        self.assertIn("stale: X direction reversed was off and is on", page.proofs.shown[claim.key])
        self.assertIn("1 stale", page.proofs.title.text())

    def test_a_station_is_opened_from_its_heading(self) -> None:
        page = self.page()
        head = next(b for b in page.proofs.findChildren(QPushButton) if b.text().startswith("Homing"))
        self.click(head)
        self.assertIs(self.window._stages.currentWidget(), self.window.page(Station.HOMING))

    def test_the_line_tells_what_each_revision_changed_and_goes_back(self) -> None:
        self.session.set_values({at(X, "chain.pitch"): Fraction(4)})
        self.session.history.keep("Measured the screw of X")
        page = self.page()
        self.assertEqual(page.revisions.texts[0], "Measured the screw of X; X pitch of the screw 5 mm → 4 mm")
        self.click(page.revisions.back_buttons[1])
        self.assertEqual(self.value("chain.pitch", X), Fraction(5))
        self.session.undo_stack.undo()
        self.assertEqual(self.value("chain.pitch", X), Fraction(4))

    def test_values_are_taken_over_from_a_revision_one_by_one(self) -> None:
        self.session.set_values({at(X, "chain.pitch"): Fraction(4), at(Y, "pace.top_speed"): Fraction(900)})
        page = self.page("Compare")
        compare = page.compare
        compare.choose("draft", "revision")
        self.assertTrue(compare.words.text().startswith("2 values differ in 2 parts."))
        self.assertFalse(compare.take.isEnabled())
        item = compare.table.topLevelItem(0).child(0)
        self.assertEqual([item.text(k) for k in range(3)], ["pitch of the screw", "4 mm", "5 mm"])
        item.setSelected(True)
        self.click(compare.take)
        self.assertEqual((self.value("chain.pitch", X), self.value("pace.top_speed", Y)), (Fraction(5), Fraction(900)))
        self.assertTrue(compare.words.text().startswith("1 value differs in 1 part."))
        self.session.undo_stack.undo()
        self.assertEqual(self.value("chain.pitch", X), Fraction(4))
        compare.choose("revision", "draft")
        compare.table.topLevelItem(1).child(0).setSelected(True)
        self.click(compare.take)
        self.assertEqual(self.value("pace.top_speed", Y), self.session.base[at(Y, "pace.top_speed")])

    def test_values_are_put_into_the_draft_of_another_machine(self) -> None:
        self.session.set_values({at(X, "chain.pitch"): Fraction(4), at(Y, "pace.top_speed"): Fraction(900)})
        self.application._shelf.add("second", self.application._shelf.load("verge").text, "A second one", 0)
        compare = self.page("Compare").compare
        for sides in (("draft", "machine second"), ("machine second", "draft")):
            compare.choose(*sides)
            compare.table.topLevelItem(0).child(0).setSelected(True)
            self.click(compare.give)
        self.assertEqual(compare.words.text(), "They are the same.")
        self.assertEqual(self.application._shelf.draft("second", self.session.base), (self.session.machine, []))
        self.application._shelf.lock("second", "4711", 0)
        self.session.set_values({at(X, "chain.pitch"): Fraction(3)})
        compare.choose("draft", "machine second")
        compare.table.topLevelItem(0).child(0).setSelected(True)
        self.click(compare.give)
        self.assertIn("Nothing was given. Machine second: its set-up is locked", self.window.notice.words)

    def test_what_is_the_same_is_shown_when_it_is_asked_for(self) -> None:
        compare = self.page("Compare").compare
        self.assertEqual(compare.words.text(), "They are the same.")
        self.assertEqual(compare.table.topLevelItemCount(), 0)
        self.click(compare.everything)
        self.assertGreater(compare.table.topLevelItemCount(), 10)
        self.assertFalse(compare.take.isEnabled())

    def test_findings_of_all_stations_are_settled_here(self) -> None:
        self.session.set_values({at(X, "travel.low"): Fraction(10), at(X, "travel.high"): Fraction(5)})
        page = self.page("To settle")
        before = page.findings.count
        self.assertGreater(before, 0)
        self.session.undo_stack.undo()
        self.assertLess(page.findings.count, before)

    def test_the_report_is_written_or_says_why_not(self) -> None:
        told: list[str] = []
        self.session.told.subscribe(lambda _kind, words: told.append(words))
        self.session.set_values({at(X, "chain.pitch"): Fraction(4)})
        save_report(self.session, self.root / "report.html")
        self.assertIn("with 1 values edited since", (self.root / "report.html").read_text("utf-8"))
        save_report(self.session, self.root / "report.html" / "below.html")
        self.assertIn("The report was not written", told[-1])

    def test_an_import_is_shown_before_it_is_taken_and_is_one_step_of_undo(self) -> None:
        export_file(self.session, self.root / "mill.csv")
        text = (self.root / "mill.csv").read_text("utf-8").replace("X.chain.pitch,5 mm", "X.chain.pitch,4 mm")
        (self.root / "mill.csv").write_text(text, "utf-8")
        dialog = import_file(self.window, self.session, self.root / "mill.csv")
        self.assertEqual(self.value("chain.pitch"), 5)
        self.click(dialog.take_button)
        self.assertEqual(self.value("chain.pitch"), 4)
        self.session.undo()
        self.assertEqual(self.value("chain.pitch"), 5)
        (self.root / "mill.json").write_text("{", "utf-8")
        self.assertIsNone(import_file(self.window, self.session, self.root / "mill.json"))
        self.assertIn("mill.json: line 1: this is not JSON", self.window.notice.words)
        export_file(self.session, self.root / "no" / "such.exe")
        self.assertIn("Nothing was exported", self.window.notice.words)

    def test_the_wiring_diagram_is_shown(self) -> None:
        dialog = self.window.open_dialog(DiagramDialog(self.window, self.session))
        before = dialog.picture.grab().toImage()
        self.assertEqual(dialog.picture._diagram, diagram(self.session.machine))
        dialog.picture.show_diagram(diagram(wired()))
        self.assertNotEqual(dialog.picture.grab().toImage(), before)
        for width in (760, 1400, 900):  # never cut off at its foot
            dialog.resize(width, 500)
            until(lambda width=width: dialog.width() == width, "the size")
            self.app.processEvents()
            self.assertGreaterEqual(dialog.picture.height(), dialog.picture.heightForWidth(dialog.picture.width()))
        dialog.reject()

    def test_a_revision_is_kept_from_here(self) -> None:
        self.session.prove(direction_claim(self.session.machine, X), True, "asked to go to +, it did", Witness.EYES)
        page = self.page()
        self.click(page.keep_button)
        dialog = next(w for w in self.app.topLevelWidgets() if w.isVisible() and w.windowTitle() == "Keep revision")
        dialog.note.setText("Signed off")
        self.click(dialog.keep_button)
        self.assertTrue(page.revisions.texts[0].startswith("Signed off; no value changed"))
        told: list[str] = []
        self.session.told.subscribe(lambda _kind, words: told.append(words))
        again = self.window.open_keep()
        self.click(again.keep_button)
        self.assertIn("there is nothing to keep", told[-1])
        again.reject()


class OnBench(SessionCase):
    def compare(self):
        self.window.open_station(Station.SIGN_OFF)
        page = self.window.page(Station.SIGN_OFF)
        page.turn_to("Compare")
        return page.compare

    def test_single_values_are_sent(self) -> None:
        self.session.set_values({at(X, "chain.pitch"): Fraction(4), at(Y, "pace.top_speed"): Fraction(900)})
        compare = self.compare()
        compare.choose("draft", "controller")
        compare.table.topLevelItem(1).child(0).setSelected(True)
        self.click(compare.give)
        dialog = next(w for w in self.app.topLevelWidgets() if isinstance(w, SendDialog) and w.isVisible())
        self.click(dialog.send_button)
        until(lambda: not self.session.busy and self.session.in_controller[at(Y, "pace.top_speed")] == 900, "the value")
        self.assertEqual(self.session.in_controller[at(X, "chain.pitch")], 5)
        self.assertEqual(self.session.count().edited, (at(X, "chain.pitch"),))

    def test_what_is_in_force_is_another_side_while_something_waits(self) -> None:
        rate = at(None, "signals.step_rate")
        before = self.session.machine[rate]
        compare = self.compare()
        self.assertEqual(compare.second.findData("force"), -1)
        self.session.set_values({rate: Fraction(60)})
        self.again(self.session.send, lambda: not self.session.count().edited, "the value to be sent")
        self.assertEqual((self.session.in_controller[rate], self.session.in_force[rate]), (60, before))
        compare.choose("force", "controller")
        item = compare.table.topLevelItem(0).child(0)
        self.assertEqual([item.text(k) for k in (1, 2)], ["120 kHz", "60 kHz"])
        self.assertFalse(compare.take.isVisible() or compare.give.isVisible())

    def test_the_controller_is_a_side(self) -> None:
        self.session.set_values({at(X, "chain.pitch"): Fraction(4)})
        self.window.open_station(Station.SIGN_OFF)
        page = self.window.page(Station.SIGN_OFF)
        page.turn_to("Compare")
        self.assertEqual(page.compare.second.currentText(), "in the controller")
        self.assertIn(
            "1 value differs in 1 part. What is proven for one is not for the other: pace of X",
            page.compare.words.text(),
        )
        self.again(self.session.send, lambda: not self.session.count().edited, "the value to be sent")
        self.assertEqual(page.compare.words.text(), "They are the same.")
