"""A button that is held: by Space while the keyboard is armed, and for no longer than it has the keyboard."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from idler.app.qt_wait import until
from idler.app.widgets.machinebutton import HoldButton
from tests.app.gui import SessionCase


class Held(SessionCase):
    on_bench = False

    def setUp(self) -> None:
        super().setUp()
        self.did: list[str] = []
        page = QWidget()
        self.addCleanup(page.close)
        column = QVBoxLayout(page)
        self.other = QLineEdit()
        self.button = HoldButton(
            self.session, "hold", lambda: self.did.append("held"), lambda: self.did.append("let go")
        )
        column.addWidget(self.button)
        column.addWidget(self.other)
        page.show()
        page.activateWindow()
        until(page.isActiveWindow, "the page")
        self.button.setFocus()

    def test_no_key_holds_it_unless_the_keyboard_is_armed(self) -> None:
        QTest.keyPress(self.button, Qt.Key.Key_Space)
        QTest.keyRelease(self.button, Qt.Key.Key_Space)
        self.assertEqual(self.did, [])
        self.assertIn("only while the keyboard is armed", self.window.notice.words)

    def test_space_holds_it_until_it_is_let_go_and_return_does_nothing(self) -> None:
        self.session.keys_armed = True
        QTest.keyClick(self.button, Qt.Key.Key_Return)
        self.assertEqual(self.did, [])
        QTest.keyPress(self.button, Qt.Key.Key_Space)
        self.assertEqual(self.did, ["held"])
        QTest.keyRelease(self.button, Qt.Key.Key_Space)
        self.assertEqual(self.did, ["held", "let go"])

    def test_whoever_turns_to_something_else_has_let_it_go(self) -> None:
        self.session.keys_armed = True
        QTest.keyPress(self.button, Qt.Key.Key_Space)
        self.other.setFocus()
        self.assertEqual(self.did, ["held", "let go"])
