"""A machine described from nothing in the window, by clicking and typing as little as a person would."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QLineEdit, QToolButton

from idler.app.pictures.answers import answer_icon
from idler.app.tools.describedialog import DescribeDialog
from idler.app.tools.machines import MachinesDialog
from idler.core.machine import file as machinefile
from tests.app.gui import SessionCase


class Described(SessionCase):
    on_bench = False

    def setUp(self) -> None:
        super().setUp()
        shelf = self.application.session._shelf
        self.shelf, self.inputs = shelf, 0
        self.list = MachinesDialog(self.window, self.session, shelf)
        self.list.show()
        self.addCleanup(self.list.close)
        self.dialog: DescribeDialog = self.list.describe()

    def choose(self, key: str, words: str) -> None:
        asked = next(each for each in self.dialog._asked if each.key == key)
        button = next(
            b for b in self.dialog.findChildren(QAbstractButton) if b.accessibleName() == f"{asked.text} {words}"
        )
        self.click(button)
        self.inputs += 1

    def type(self, key: str, text: str) -> None:
        editor = self.dialog.editors[key]
        assert isinstance(editor, QLineEdit)
        editor.setFocus()
        QTest.keyClicks(editor, text)
        QTest.keyClick(editor, Qt.Key.Key_Return)
        self.inputs += 1

    def test_answers_about_the_machine_are_pictures_and_its_drawing_follows(self) -> None:
        for asked in self.dialog._asked:
            if asked.choices and asked.key not in ("unit", "oil"):
                icons = [answer_icon(asked.key.rpartition(".")[2], key) for key, _ in asked.choices]
                drawn = {bytes(icon.pixmap(84, 42).toImage().constBits()) for icon in icons if icon is not None}
                self.assertEqual(len(drawn), len(asked.choices), asked.key)
        self.assertIs(self.dialog.drawn.currentWidget(), self.dialog.whole)
        self.type("axes", "XZ")
        self.assertIs(self.dialog.drawn.currentWidget(), self.dialog.picture)
        self.choose("kind", "lathe")
        self.assertIs(self.dialog.drawn.currentWidget(), self.dialog.whole)
        self.assertGreaterEqual(min(each.height() for each in self.dialog.findChildren(QToolButton)), 40)

    def test_a_router_in_fewer_than_sixty_inputs(self) -> None:
        self.choose("kind", "router")
        self.choose("X.driven", "belt")
        self.type("X.pulley_teeth", "20")
        self.assertIn("0.0625 mm", self.dialog.trouble.text())
        self.type("X.microsteps", "64")
        self.assertEqual(self.dialog.trouble.text(), "")
        self.type("X.travel", "600 mm")
        self.choose("X.home", "the low end, −")
        self.type("Y.pitch", "10 mm")
        self.type("Y.travel", "900 mm")
        self.choose("Z.motor", "counts per turn")
        self.type("Z.counts", "4000")
        self.type("Z.travel", "120 mm")
        self.choose("spindle", "speed by 0–10 V")
        self.type("top", "18000 rpm")
        QTest.keyClicks(self.dialog.name, "workshop-router")
        self.click(self.dialog.make_button)
        self.inputs += 2
        self.assertLess(self.inputs, 60)
        self.assertEqual(self.dialog.made, "workshop-router")
        machine = machinefile.read(self.shelf.load("workshop-router").text).machine
        x, y, z = machine.axes
        self.assertEqual((x.number("travel.low"), x.number("travel.high")), (0, 600))
        self.assertEqual((y.number("chain.pitch"), z.whole("chain.motor_counts")), (10, 4000))
        self.assertEqual(self.list._chosen(), "workshop-router")

    def test_what_is_seldom_meant_is_to_be_said_to_be(self) -> None:
        self.type("X.pitch", "25 mm")
        QTest.keyClicks(self.dialog.name, "coarse")
        self.click(self.dialog.make_button)
        self.assertEqual(self.dialog.made, "")
        self.dialog.sure.setChecked(True)
        self.click(self.dialog.make_button)
        self.assertEqual(self.dialog.made, "coarse")

    def test_what_cannot_be_is_said_and_loses_nothing(self) -> None:
        self.type("Y.pitch", "7 mm")
        self.type("axes", "XX")
        self.assertIn("letters", self.dialog.trouble.text())
        self.assertFalse(self.dialog.make_button.isEnabled())
        editor = self.dialog.editors["axes"]
        assert isinstance(editor, QLineEdit)
        editor.clear()
        self.type("axes", "XZ")
        self.assertNotIn("Y.pitch", self.dialog.editors)
        editor = self.dialog.editors["axes"]
        assert isinstance(editor, QLineEdit)
        editor.clear()
        self.type("axes", "XYZ")
        back = self.dialog.editors["Y.pitch"]
        assert isinstance(back, QLineEdit)
        self.assertEqual(back.text(), "7 mm")
        self.click(self.dialog.make_button)
        self.assertIn("name", self.dialog.trouble.text().lower())
