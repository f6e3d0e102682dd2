"""Find, in the window: what is typed leads to its field, its page or its command."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from idler.app.qt_wait import until
from idler.core.machine import Address
from idler.core.table.stations import Station
from tests.app.gui import SessionCase
from tests.support import X, Z, at


class Find(SessionCase):
    on_bench = False

    def go(self, typed: str) -> None:
        dialog = self.window.open_find()
        QTest.keyClicks(dialog.line, typed)
        QTest.keyClick(dialog.line, Qt.Key.Key_Return)

    def test_a_value_gets_the_focus_on_its_page_and_its_axis(self) -> None:
        for typed, station, address in (
            ("Z pitch", Station.DRIVES, at(Z, "chain.pitch")), ("X back-off", Station.HOMING, at(X, "homing.back_off")),
            ("A settling", Station.TRIAL, None), ("X index stops reached within", Station.TRIAL, at(X, "index.tolerance")),
        ):  # fmt: skip
            with self.subTest(typed):
                if address is None:
                    self.session.edit(Address(3, "index.pick"), "binary")
                    address = Address(3, "index.settle")
                self.go(typed)
                self.assertIs(self.window._station, station)
                until(lambda where=address: self.session.focus == where, f"the focus on {address}")
                self.assertIsInstance(self.app.focusWidget(), QLineEdit)

    def test_arrows_choose_and_a_command_is_done(self) -> None:
        dialog = self.window.open_find()
        QTest.keyClicks(dialog.line, "square")
        first = dialog.list.currentRow()
        QTest.keyClick(dialog.line, Qt.Key.Key_Down)
        self.assertEqual((first, dialog.list.currentRow()), (0, 1))
        dialog.reject()
        self.go("dark colours")
        self.assertTrue(self.window.menu.actions["night"].isChecked())
        self.window.set_night(False)
        self.go("sign-off station")
        self.assertIs(self.window._station, Station.SIGN_OFF)

    def test_nothing_found_says_so_and_return_does_nothing(self) -> None:
        dialog = self.window.open_find()
        QTest.keyClicks(dialog.line, "qqq")
        self.assertIn("Nothing has all these words", dialog.words.text())
        QTest.keyClick(dialog.line, Qt.Key.Key_Return)
        self.assertTrue(dialog.isVisible())
        dialog.reject()
