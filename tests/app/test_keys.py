"""Keys that jog and keys of the menu: what may be bound, what may not, and that it stays so."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from idler.app.qt_wait import until
from idler.app.tools.commands import COMMANDS
from tests.app.gui import SessionCase

Key, Ctrl = Qt.Key, Qt.KeyboardModifier.ControlModifier


class Keys(SessionCase):
    on_bench = False

    def again(self) -> None:  # type: ignore[override]
        self.application.close()
        self.open()

    def refused(self, why: str) -> None:
        self.assertIn(why, self.window.notice.words)

    def test_keys_can_be_given_to_other_ways_and_stay_so(self) -> None:
        dialog = self.window.open_jogging()
        button = dialog.keys["A", 1]
        self.click(button)
        QTest.keyClick(button, Key.Key_F7)
        self.assertEqual(self.window.bindings.way_of(Key.Key_F7), ("A", 1))
        self.click(button)
        QTest.keyClick(button, Key.Key_B)
        self.refused("types or does something else")
        self.click(dialog.keys["X", 1])
        QTest.keyClick(dialog.keys["X", 1], Key.Key_Up)  # was Y+
        self.assertIsNone(self.window.bindings.key_of(("Y", 1)))
        dialog.accept()
        self.again()
        self.assertEqual(self.window.bindings.key_of(("A", 1)), Key.Key_F7)
        self.assertEqual(self.window.bindings.key_of(("X", 1)), Key.Key_Up)

    def test_spoilt_files_of_keys_are_said_and_the_usual_ones_jog(self) -> None:
        for text in (
            '"Q" = "X+"', '"F6" = "X+"', "menu = 3", '[menu]\nsend = "F9"', '[menu]\nnone = "F9"', '[menu]\nlog = "Esc"',
            '"F9" = "X+"\n[menu]\nlog = "F9"',
        ):  # fmt: skip
            with self.subTest(text):
                self.application.close()
                (self.root / "keys.toml").write_text(text + "\n")
                self.open()
                until(lambda: "keys.toml cannot be used" in self.window.notice.words, "the sentence")
                self.assertEqual(self.window.bindings.way_of(Key.Key_Right), ("X", 1))
                self.assertEqual(self.window.bindings.text_of("send"), "Ctrl+Return")

    def press(self, name: str, key: Key, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        button = self.dialog.keys[name]
        self.click(button)
        QTest.keyClick(button, key, held)

    def test_a_command_takes_other_keys_and_does_what_it_did(self) -> None:
        self.dialog = self.window.open_keys()
        shown = {b.text() for b in self.dialog.findChildren(QPushButton) if b.isVisible()}
        self.assertTrue("Done" in shown and "Not now" not in shown)  # every key is kept at once
        self.press("arm", Key.Key_F9)
        self.press("wire", Key.Key_S, Ctrl)  # was Keep revision
        self.assertEqual(self.dialog.keys["keep"].text(), "none")
        self.assertEqual(self.dialog.keys["redo"].text(), "Ctrl+Shift+Z or Ctrl+Y")
        self.dialog.accept()
        self.again()
        self.assertIn("F9 arms", self.window.rails.arm_button.text())
        QTest.keyClick(self.window, Key.Key_F6)
        self.assertFalse(self.window.jog.armed)
        QTest.keyClick(self.window, Key.Key_F9)
        self.assertTrue(self.window.jog.armed)
        self.assertEqual(self.window.menu.actions["keep"].shortcuts(), [])
        self.window.bindings.usual_keys()
        self.assertIn("F6 disarms", self.window.rails.arm_button.text())
        self.assertEqual(self.window.bindings.text_of("keep"), "Ctrl+S")

    def test_what_is_dangerous_is_on_no_single_key(self) -> None:
        self.dialog = self.window.open_keys()
        for name in ("send", "leave", "import", "undo"):
            before = self.window.bindings.keys_of(name)
            self.press(name, Key.Key_F9)
            self.refused("is a single key, which must not do this")
            self.assertEqual(self.window.bindings.keys_of(name), before)
        self.press("log", Key.Key_L)
        self.refused("types or does something else")
        self.press("log", Key.Key_C, Ctrl)
        self.refused("belongs to the fields")
        for name in COMMANDS:
            for key in self.window.bindings.keys_of(name):
                held = key[0].keyboardModifiers() & (Ctrl | Qt.KeyboardModifier.AltModifier)
                self.assertTrue(held or COMMANDS[name].alone, name)

    def test_a_key_either_jogs_or_does_something_of_the_menu(self) -> None:
        self.dialog = self.window.open_keys()
        self.press("log", Key.Key_F7)
        jogging = self.window.open_jogging()
        self.click(jogging.keys["A", 1])
        QTest.keyClick(jogging.keys["A", 1], Key.Key_F7)
        self.refused("does “Log”")
        self.press("log", Key.Key_Delete)
        self.click(jogging.keys["A", 1])
        QTest.keyClick(jogging.keys["A", 1], Key.Key_F7)
        self.press("log", Key.Key_F7)
        self.refused("jogs A+; take it from there first")
        self.press("log", Key.Key_L, Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.window.bindings.text_of("log"), "Alt+L")

    def test_esc_stops_while_a_key_is_awaited(self) -> None:
        self.dialog = self.window.open_keys()
        stopped: list[bool] = []
        self.session.halted.subscribe(lambda: stopped.append(True))
        self.click(self.dialog.keys["log"])
        self.escape(self.dialog)
        self.assertTrue(stopped)
        self.assertEqual(self.window.bindings.keys_of("log"), ())
