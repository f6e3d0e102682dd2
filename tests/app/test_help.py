"""The help in the window: F1 where one stands, its words, its links, and the way to it from a refusal and from Find."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import Qt, QUrl
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton

from idler.app.tools.dialogs import PinDialog
from idler.app.tools.helpdialog import HelpDialog
from idler.core.table.stations import Station
from tests.app.gui import SessionCase
from tests.support import X, at


class Help(SessionCase):
    on_bench = False

    @property
    def help(self) -> HelpDialog:
        dialog = self.window._help
        assert dialog is not None and dialog.isVisible()
        return dialog

    def test_f1_tells_of_what_is_on_the_stage(self) -> None:
        for station, page, key in ((Station.HOMING, "", "homing"), (Station.GEOMETRY, "Level", "geometry/level")):
            with self.subTest(station):
                self.window.open_station(station)
                if page:
                    self.window.page(station).turn_to(page)
                self.window.menu.actions["help"].trigger()
                self.assertEqual(self.help.page.key, key)
                self.assertIn(self.help.page.title, self.help.browser.toPlainText())
        self.window.open_incident()
        self.window.menu.actions["help"].trigger()
        self.assertEqual(self.help.page.key, "stopped")
        self.assertEqual(self.window.menu.actions["help"].shortcut().toString(), "F1")

    def test_words_narrow_the_pages_and_arrows_turn_them(self) -> None:
        dialog = self.window.open_help("start")
        whole = dialog.list.count()
        QTest.keyClicks(dialog.line, "dial spindle")
        self.assertLess(dialog.list.count(), whole)
        first = dialog.page
        QTest.keyClick(dialog.line, Qt.Key.Key_Down)
        self.assertNotEqual(dialog.page, first)
        QTest.keyClicks(dialog.line, " qqq")
        self.assertEqual((dialog.list.count(), dialog.words.text()[:11]), (0, "No page has"))
        dialog.line.clear()
        self.assertEqual(dialog.list.count(), whole)

    def test_a_link_leads_to_its_page_and_its_picture_fits(self) -> None:
        dialog = self.window.open_help("wiring")
        dialog.browser.anchorClicked.emit(QUrl("wiring/touch"))
        self.assertEqual(dialog.page.word, "touch")
        self.assertFalse(dialog.browser.horizontalScrollBar().isVisible())

    def more_of_the_notice(self) -> None:
        next(each for each in self.window.notice.findChildren(QPushButton) if each.text() == "Help").click()

    def test_from_a_refusal_to_its_own_page_and_to_that_of_the_stage_where_it_has_none(self) -> None:
        self.window.open_station(Station.TRAVEL)
        self.session.send()
        self.more_of_the_notice()
        self.assertEqual(self.help.page.codes, ("unconnected",))
        self.session.mend({at(X, "travel.low"): Fraction(10**9)})
        self.more_of_the_notice()
        self.assertEqual(self.help.page.codes, ("bad_value",))
        self.session.tell("warn", "Something else.")
        self.more_of_the_notice()
        self.assertEqual(self.help.page.key, "travel")

    def test_from_a_refusal_in_a_dialog(self) -> None:
        dialog = self.window.open_lock()
        assert isinstance(dialog, PinDialog)
        self.assertFalse(dialog.trouble.more.isVisible())
        dialog.pin.setText("1")
        dialog.again.setText("1")
        dialog.main_button.click()
        layout = dialog.layout()
        assert layout is not None
        self.assertGreaterEqual(
            dialog.height(), layout.totalHeightForWidth(dialog.width()), "it grows with what it says"
        )
        dialog.trouble.more.click()
        (pages,) = dialog.findChildren(HelpDialog)
        self.assertEqual(pages.page.codes, ("bad_value",))
        pages.close()
        dialog.reject()

    def test_from_find(self) -> None:
        self.window.open_station(Station.TRAVEL)
        found = self.window.open_find()
        QTest.keyClicks(found.line, "Set the tailstock in line")
        QTest.keyClick(found.line, Qt.Key.Key_Return)
        self.assertEqual(self.help.page.key, "geometry/tailstock")
        self.window.margin.help.click()
        self.assertEqual(self.help.page.key, "travel")

    def test_from_a_finding_by_mouse_and_by_keyboard(self) -> None:
        self.session.set_values({at(X, "travel.low"): Fraction(10), at(X, "travel.high"): Fraction(5)})
        self.window.open_station(Station.TRAVEL)
        more = next(each for each in self.window.margin.findChildren(QLabel) if "travel_empty" in each.text())
        more.linkActivated.emit("travel_empty")
        self.assertIn("travel_empty", self.help.page.codes)
        self.help.close()
        self.window.activateWindow()
        more.setFocus(Qt.FocusReason.TabFocusReason)
        QTest.keyClick(more, Qt.Key.Key_Tab)
        QTest.keyClick(more, Qt.Key.Key_Return)
        self.assertIn("travel_empty", self.help.page.codes)
        self.window.open_station(Station.SIGN_OFF)
        page = self.window.page(Station.SIGN_OFF)
        page.turn_to("To settle")
        next(each for each in page.findChildren(QPushButton) if each.text() == "More about it").click()
        self.assertTrue(self.help.page.codes)

    def test_esc_closes_it_and_stops(self) -> None:
        dialog = self.window.open_help()
        QTest.keyClick(dialog, Qt.Key.Key_Escape)
        self.assertFalse(dialog.isVisible())
