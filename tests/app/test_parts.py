"""Widgets of the shell, each on its own or in an offline application."""

from __future__ import annotations

import unittest
from fractions import Fraction
from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QComboBox,
    QCompleter,
    QDialog,
    QLineEdit,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from idler.app import theme
from idler.app.pictures.machine import MachinePicture, scene_of
from idler.app.pictures.rail import RailView
from idler.app.qt_wait import until
from idler.app.shell.notice import Notice
from idler.app.shell.train import Train
from idler.app.stations.link.station import LinkStation
from idler.app.tools.dialogs import change_table
from idler.app.widgets.cards import AxisPicker, card, figures, label
from idler.app.widgets.fields import ChoiceField, FlagField, QuantityField, field_for
from idler.app.widgets.stopkey import StopKey
from idler.core.machine.changes import differences
from idler.core.proof.claims import Proof
from idler.core.report.progress import groups_at
from idler.core.table.stations import Station
from idler.link.bus.address import Found
from idler.link.events import Progress
from tests.app.gui import GuiCase, SessionCase
from tests.support import A, X, Y, at, verge, wiring


class Shell(GuiCase):
    def test_the_train_is_walked_by_mouse_and_keys_and_says_where_it_is(self) -> None:
        train, opened = Train(), []
        train.resize(1000, 74)
        train.opened.connect(opened.append)
        QTest.mouseClick(train, Qt.MouseButton.LeftButton, pos=QPoint(250, 30))
        self.assertEqual(opened, [Station.DRIVES])
        QTest.keyClick(train, Qt.Key.Key_Left)
        QTest.keyClick(train, Qt.Key.Key_Left)
        QTest.keyClick(train, Qt.Key.Key_Left)
        self.assertEqual(opened[1:], [Station.WIRING, Station.LINK, Station.SIGN_OFF])
        self.assertIn("Sign-off: nothing yet", train.accessibleName())

    def test_each_proof_has_a_shape_of_its_own(self) -> None:
        pictures = set()
        for proof in Proof:
            train = Train()
            train.resize(1000, 74)
            train.show_states({**dict.fromkeys(Station, Proof.NOTHING), Station.TRIAL: proof})
            image = train.grab().toImage().convertToFormat(train.grab().toImage().Format.Format_Grayscale8)
            pictures.add(bytes(image.constBits()))
        self.assertEqual(len(pictures), len(Proof))

    def test_the_focus_ring_covers_nothing(self) -> None:
        train = Train()
        train.resize(1000, 74)
        train.show_states(dict.fromkeys(Station, Proof.ENTERED))
        brass = theme.color("brass").rgb()

        def brassy() -> int:
            image = train.grab().toImage()
            return sum(image.pixel(x, y) == brass for x in range(100) for y in range(74))

        before = brassy()
        train.show()
        train.activateWindow()
        train.setFocus()
        until(train.hasFocus, "the focus")
        self.assertAlmostEqual(brassy(), before, delta=20)

    def test_a_fault_is_not_pushed_away_by_something_plain(self) -> None:
        notice = Notice()
        notice.show()
        notice.tell("fault", "The controller stopped")
        notice.tell("plain", "Kept as revision 2.")
        self.assertEqual(notice.words, "The controller stopped")
        notice.tell("warn", "Nothing was sent")
        self.assertEqual(notice.words, "Nothing was sent")
        notice.tell("fault", "The controller stopped")
        notice.tell("found", "It answers again")
        self.assertEqual((notice.words, notice.property("kind")), ("It answers again", "plain"))

    def test_the_stop_key_acts_wherever_the_focus_is_and_the_key_goes_on(self) -> None:
        stops: list[int] = []
        key = StopKey(lambda: stops.append(1), self.app)
        self.addCleanup(key.deleteLater)
        window = QWidget()
        column, field, box = QVBoxLayout(window), QLineEdit(), QComboBox()
        box.addItems(["one", "two"])
        field.setCompleter(QCompleter(["12 mm"], field))
        column.addWidget(field)
        column.addWidget(box)
        window.show()
        window.activateWindow()
        field.setFocus()
        until(field.hasFocus, "the field to have the focus")
        QTest.keyClicks(field, "12")
        self.assertEqual(stops, [])
        menu, dialog, apart = QMenu(window), QDialog(window), QWidget()
        menu.addAction("one")
        dialog.setModal(True)
        listed = field.completer().popup()
        for name, open_it, there, closes in (
            ("a list of words", list, listed, True),
            ("a field", list, field, False),
            ("a menu", lambda: menu.popup(QPoint(5, 5)), menu, True),
            ("a list of choices", box.showPopup, box.view(), True),
            ("a modal dialog", dialog.show, dialog, True),
            ("another window", apart.show, apart, False),
        ):
            with self.subTest(name):
                open_it()
                until(there.isVisible, name)
                stops.clear()
                self.escape(there)
                self.assertTrue(stops)
                self.assertEqual(there.isVisible(), not closes)
                window.activateWindow()
        menu.popup(QPoint(5, 5))  # a desktop may leave the keyboard with the window below
        stops.clear()
        QTest.keyClick(window.windowHandle(), Qt.Key.Key_Escape)
        self.assertTrue(stops)
        self.assertFalse(menu.isVisible())
        window.activateWindow()
        QTest.keyClicks(field, "3")
        self.assertEqual(field.text(), "123")

    def test_the_picker_of_an_axis(self) -> None:
        picker, chosen = AxisPicker("XYZ"), []
        picker.chosen.connect(chosen.append)
        buttons = picker.findChildren(QPushButton)
        self.assertEqual(len(buttons), 3)
        self.click(buttons[2])
        picker.choose(1)
        self.assertEqual(chosen, [2])
        self.assertEqual([button.isChecked() for button in buttons], [False, True, False])

    def test_cards_and_labels(self) -> None:
        frame, column = card((1, 2, 3, 4), 5)
        column.addWidget(label("words", "title", wrap=True))
        column.addWidget(figures("12.5"))
        self.assertEqual(frame.property("role"), "card")
        widths = {figures(text).fontMetrics().horizontalAdvance(text) for text in ("111.11", "888.88", "123.45")}
        self.assertEqual(len(widths), 1)  # figures are of one width each

    def test_themes_differ_in_every_token_that_carries_text(self) -> None:
        for text, _ in theme.TEXT_PAIRS:
            if not text.startswith("on_"):
                self.assertNotEqual(getattr(theme.PAPER, text), getattr(theme.NIGHT, text), text)

    def test_a_table_of_changes(self) -> None:
        after = verge().with_values({at(X, "chain.pitch"): Fraction(4), at(Y, "axis.reversed"): True})
        table = change_table(differences(verge(), after))
        rows = [[table.topLevelItem(k).text(column) for column in range(3)] for k in range(table.topLevelItemCount())]
        self.assertEqual(rows, [["X pitch of the screw", "5 mm", "4 mm"], ["Y direction reversed", "off", "on"]])


class Pictures(GuiCase):
    def test_the_carriage_is_painted_anew_only_when_it_can_be_seen_to_move(self) -> None:
        view = RailView()
        view.resize(800, 40)
        view.show_axis(verge().axis(X))
        self.assertTrue(view.show_carriage(-10.0, None, True))
        self.assertFalse(view.show_carriage(-10.01, None, True))
        self.assertTrue(view.show_carriage(-11.0, None, True))
        self.assertTrue(view.show_carriage(-11.0, -20.0, True))
        self.assertTrue(view.show_carriage(-11.0, -20.0, False))

    def test_a_rail_shows_where_the_carriage_is(self) -> None:
        view = RailView()
        view.resize(800, 40)
        view.show_axis(verge().axis(X))
        columns = []
        for position in (-300.0, -150.0, -5.0):
            view.show_carriage(position, None, True)
            image, petrol = view.grab().toImage(), theme.color("petrol").rgb()
            columns.append(min(x for x in range(800) if image.pixel(x, 26) == petrol))
        self.assertEqual(columns, sorted(columns))
        self.assertGreater(columns[2] - columns[0], 600)

    def test_soft_limits_that_are_off_are_loud(self) -> None:
        view = RailView()
        view.resize(800, 40)
        view.show_axis(verge().axis(X))
        on = view.grab().toImage()
        view.show_axis(verge().with_values({at(X, "travel.limits_on"): False}).axis(X))
        off = view.grab().toImage()
        differ = sum(on.pixel(x, y) != off.pixel(x, y) for x in range(800) for y in range(0, 40, 2))
        self.assertGreater(differ, 150)

    def test_what_moves_is_seen_to_move_side_by_side_and_one_below_the_other(self) -> None:
        for size in ((600, 300), (280, 420)):
            picture = MachinePicture()
            picture.resize(*size)
            images = []
            for x in (-250.0, -50.0):
                picture.show_scene(scene_of(verge(), {"X": x, "Y": -20.0, "Z": -50.0, "A": 0.0}, known=True))
                images.append(picture.grab().toImage())
            self.assertNotEqual(*images)


class OfFields(SessionCase):
    on_bench = False

    def test_each_kind_of_value_gets_its_field(self) -> None:
        for key, kind in (("chain.pitch", QuantityField), ("chain.final", ChoiceField), ("axis.reversed", FlagField)):
            self.assertIsInstance(field_for(self.session, at(X, key)), kind)

    def test_an_empty_field_takes_its_value_back(self) -> None:
        field = QuantityField(self.session, at(X, "chain.pitch"))
        field.editor.setText("")
        field.editor.setModified(True)
        field._commit()
        self.assertEqual(field.editor.text(), "5")
        self.assertEqual(self.session.undo_stack.count(), 0)

    def test_the_same_value_typed_again_is_no_edit(self) -> None:
        field = QuantityField(self.session, at(X, "chain.pitch"))
        field.editor.setText("5.0 mm")
        field.editor.setModified(True)
        field._commit()
        self.assertEqual((field.editor.text(), self.session.undo_stack.count()), ("5", 0))

    def test_a_field_follows_another_axis_and_undo(self) -> None:
        field = QuantityField(self.session, at(X, "pace.top_speed"))
        field.set_axis(A)
        self.assertEqual((field.editor.text(), field._unit.text()), ("3\u202f600", "°/min"))
        self.session.set_values({at(A, "pace.top_speed"): Fraction(1800)})
        self.assertEqual(field.editor.text(), "1\u202f800")
        self.session.undo_stack.undo()
        self.assertEqual(field.editor.text(), "3\u202f600")

    def test_figures_as_they_are_shown_can_be_typed_back(self) -> None:
        field = QuantityField(self.session, at(A, "pace.top_speed"))
        for text in ("3\u202f600", "1 800 °/min", "1\u202f234.5"):
            field.editor.setText(text)
            field.editor.setModified(True)
            field._commit()
            self.assertFalse(field._frame.property("bad"), text)
        self.assertEqual(self.session.machine[at(A, "pace.top_speed")], Fraction(2469, 2))

    def test_choice_and_flag_commit_one_step_each(self) -> None:
        choice, flag = (
            ChoiceField(self.session, at(X, "pace.shape")),
            FlagField(self.session, at(X, "axis.reversed"), text="reversed"),
        )
        choice.editor.setCurrentIndex(1)
        choice.editor.activated.emit(1)
        flag.editor.click()
        self.assertEqual(self.session.machine[at(X, "pace.shape")], "limited")
        self.assertEqual(self.session.undo_stack.count(), 2)
        self.session.undo_stack.undo()
        self.assertFalse(flag.editor.isChecked())

    def test_every_field_has_a_name_for_those_who_do_not_see_it(self) -> None:
        self.window.open_station(Station.DRIVES)
        for editor in self.window.page(Station.DRIVES).findChildren(QLineEdit):
            self.assertTrue(editor.accessibleName(), editor)


class OfHeader(SessionCase):
    def test_nothing_lies_over_anything_at_once(self) -> None:
        header = self.window.header
        self.session.set_values(wiring())
        for left, right in ((header._state, header.send_button), (header.send_button, header.keep_button)):
            self.assertLess(left.geometry().right(), right.geometry().left())
        header._show_state("node 5 · spindle on, drives powered, at rest, not all homed", "dot")
        self.assertLess(header._state.geometry().right(), header.send_button.geometry().left())


class OfLink(SessionCase):
    on_bench = False

    def station(self) -> LinkStation:
        page = self.window.page(Station.LINK)
        assert isinstance(page, LinkStation)
        return page

    def test_ports_are_listed_and_chosen(self) -> None:
        page = self.station()
        with mock.patch(
            "idler.app.stations.link.station.search",
            return_value=[Found("/dev/ttyACM0", "CAN adapter"), Found("can0", "CAN")],
        ):
            page.look()
        self.assertEqual(page.ports.count(), 2)
        page.ports.itemClicked.emit(page.ports.item(1))
        self.assertEqual(page.address.text(), "can0")
        with mock.patch("idler.app.stations.link.station.search", return_value=[]):
            page.look()
        self.assertIn("No adapter", page.ports.item(0).text())

    def test_an_address_that_is_not_understood(self) -> None:
        page = self.station()
        page.address.setText("http://nowhere")
        self.click(page.connect_button)
        self.assertIn("is not understood", self.window.notice.words)

    def test_why_a_connection_failed_is_said(self) -> None:
        page = self.station()
        page.address.setText("/dev/no-such-port")
        QTest.keyClick(page.address, Qt.Key.Key_Return)
        until(lambda: "there is no such port" in self.window.notice.words, "the reason")
        self.assertEqual(page.connect_button.text(), "Connect")

    def test_progress_shows_in_the_header_and_goes(self) -> None:
        self.session.progressed.publish(Progress("send", 3, 12))
        self.assertEqual(self.window.header._standing.text(), "sending, 3 of 12")
        self.session.progressed.publish(None)
        self.assertIn("no edits", self.window.header._standing.text())

    def test_sending_without_a_controller_says_why(self) -> None:
        self.session.set_values({at(X, "chain.pitch"): Fraction(4)})
        self.session.send()
        self.assertIn("No controller is connected", self.window.notice.words)
        self.assertFalse(self.window.header.send_button.isEnabled())


class Bounds(unittest.TestCase):
    def test_every_group_of_the_table_has_its_place(self) -> None:
        from idler.core.table import all_rows

        placed = set().union(*(groups_at(station) for station in Station))
        self.assertEqual({row.group for row in all_rows()} - placed, {"names", "jog"})
