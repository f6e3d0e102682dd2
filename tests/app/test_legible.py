"""Legible in every size: no text upon another or struck through by a line, no word cut, names above their values, targets that
a gloved finger hits; larger windows show everything larger."""

from __future__ import annotations

from unittest import mock

from PySide6.QtCore import QRectF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QBoxLayout, QComboBox, QPushButton, QWidget

from idler.app import growth
from idler.app.growth import factor_for
from idler.app.qt_wait import until
from idler.app.widgets.cards import Segments
from idler.app.widgets.fields import Field
from idler.app.widgets.machinebutton import MachineButton
from idler.core.machine import Machine
from idler.core.table.stations import Station
from tests.app.gui import SessionCase
from tests.app.seen import cut_words, overlaps, painted, pictures_of, scrolled_away, sideways

SIZES = (1180, 660), (1280, 680), (1366, 700), (1280, 800), (1920, 1080)


class Seen(SessionCase):
    on_bench = False

    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(lambda: self.window.resize(*growth.USUAL))

    def size(self, width: int, height: int) -> None:
        self.window.resize(width, height)
        until(lambda: not self.window._fitting.isActive(), "the rails to fit")
        self.app.processEvents()

    def wrong(self, around: QWidget | None = None) -> list[str]:
        """What cannot be read in a part of the screen, or on all of it, as it is now."""
        until(lambda: not self.window._fitting.isActive(), "the rails to fit")
        self.app.processEvents()
        found = [each for look in (cut_words, sideways, scrolled_away) for each in look(around or self.window)]
        for picture in pictures_of(around or self.window):
            ink = painted(picture)
            found += overlaps(ink, QRectF(0, 0, picture.width(), picture.height()))
        return found

    def look_at_all(self, sizes: tuple[tuple[int, int], ...]) -> None:
        for size in sizes:
            self.size(*size)
            self.assertEqual((self.window.width(), self.window.height()), size)
            self.assertEqual(self.wrong(), [], size)
            for station in Station:
                self.window.open_station(station)
                page = self.window.page(station)
                with self.subTest(station=station.label, size=size):
                    self.assertEqual(self.wrong(page), [])
                for name, button in self.pages_of(page) if size in (sizes[0], sizes[-1]) else ():
                    button.click()
                    with self.subTest(station=station.label, page=name):
                        self.assertEqual(self.wrong(page), [])
            if size == SIZES[0]:  # a window manager gives what it asks for
                self.assertLessEqual(self.window.minimumSizeHint().height(), SIZES[0][1])

    def pages_of(self, page: QWidget) -> list[tuple[str, QAbstractButton]]:
        return [
            (name, button)
            for segments in page.findChildren(Segments)
            for name, button in segments.buttons.items()
            if button.isVisible()
        ]


class Verge(Seen):
    def test_nothing_is_upon_anything_in_five_sizes(self) -> None:
        self.look_at_all(SIZES)

    def test_nor_in_the_dark(self) -> None:
        self.window.set_night(True)
        self.addCleanup(self.window.set_night, False)
        self.look_at_all(((1280, 800),))

    def test_the_name_of_a_value_stands_above_it(self) -> None:
        for station in Station:
            self.window.open_station(station)
            self.app.processEvents()
            for field in self.window.page(station).findChildren(Field):
                if field.isVisible() and not field._caption.isHidden():
                    self.assertLess(field._caption.geometry().bottom(), field._frame.geometry().top() + 1)

    def test_what_is_used_at_the_machine_is_large_enough(self) -> None:
        """STOP, Send, Keep, whatever moves the machine, and the letters of the axes, on every page of every station."""
        header, window = self.window.header, self.window
        self.size(1280, 800)
        for station in Station:
            window.open_station(station)
            pages = window.page(station).findChildren(Segments)
            for name in pages[0].buttons if pages else ("",):
                if name:
                    pages[0].turn_to(name)
                self.app.processEvents()
                used: list[QAbstractButton | QComboBox] = [header.stop_button, header.send_button, header.keep_button]
                used += window.findChildren(MachineButton)
                roles = ("touch", "hold", "segment")
                used += [each for each in window.findChildren(QPushButton) if each.property("role") in roles]
                used += [each for each in window.page(station).findChildren(QComboBox) if self.stands_alone(each)]
                for button in used:
                    if button.isVisible():
                        words = button.currentText() if isinstance(button, QComboBox) else button.text()
                        self.assertGreaterEqual(button.height(), 40, f"{station.label}, {name}: {words}")

    @staticmethod
    def stands_alone(choice: QComboBox) -> bool:
        """What is chosen standing at the machine; not a value of the table, nor one in a row of a table."""
        around: QWidget | None = choice
        while around is not None and around.objectName() != "field":
            around = around.parentWidget()
        return around is None and choice.property("role") != "row"


class Eight(Seen):
    def test_eight_axes_stay_usable_in_the_smallest_window(self) -> None:
        self.session.reshape(Machine(tuple("XYZABCUV"), {}, 32, 16), "eight axes")
        self.size(*SIZES[0])
        for station in Station:
            self.window.open_station(station)
            self.assertEqual(self.wrong(), [], station)
            self.assertEqual((self.window.width(), self.window.height()), SIZES[0], station)
            self.assertLessEqual(self.window.rails.minimumSizeHint().width(), SIZES[0][0])
        self.window.open_station(Station.HOMING)
        until(lambda: self.window.rails.folded, "the rails to fold")
        self.click(self.window.rails.choices[7])
        self.assertTrue(self.window.rails.rows[7].isVisible())


class Longcase(Seen):
    rig = "longcase"

    def test_nothing_is_upon_anything(self) -> None:
        self.look_at_all((SIZES[0],))


class Fusee(Seen):
    rig = "fusee"

    def test_a_lathe_is_offered_what_a_lathe_has(self) -> None:
        """No bed to be square or level, no figures to be drawn on one; but centres."""
        self.window.open_station(Station.GEOMETRY)
        names = [name for name, _ in self.pages_of(self.window.page(Station.GEOMETRY))]
        self.assertEqual(names, ["Play", "Comes back", "Steps kept", "Runout", "Tailstock"])
        self.window.open_station(Station.TRIAL)
        names = [name for name, _ in self.pages_of(self.window.page(Station.TRIAL))]
        self.assertEqual(names, ["Program", "Run", "Work zeros", "Actions", "Index stops"])
        found = self.window.open_find()
        self.addCleanup(found.close)
        pages = {entry.page for entry in found._entries if entry.page and entry.station is Station.GEOMETRY}
        self.assertNotIn("Level", pages)
        self.assertIn("Tailstock", pages)

    def test_nothing_is_upon_anything(self) -> None:
        self.look_at_all((SIZES[0],))


class Grown(Seen):
    def test_a_larger_window_shows_everything_larger_and_a_smaller_one_as_before(self) -> None:
        rail = self.window.rails.rows[0]
        self.window.open_station(Station.TRAVEL)
        field = next(f for f in self.window.page(Station.TRAVEL).findChildren(Field) if f.isVisible())

        def sizes() -> tuple[int, ...]:
            fonts = self.window.header.stop_button.font().pixelSize(), rail._badge.font().pixelSize()
            return rail.plus.width(), rail.plus.height(), field._frame.height(), self.window.train.height(), *fonts

        usual = sizes()
        self.size(1920, 1080)
        self.assertEqual(growth.factor(), 1.25)
        larger = sizes()
        self.size(1280, 800)
        self.assertEqual(sizes(), usual)
        for before, after in zip(usual, larger, strict=True):
            self.assertAlmostEqual(after / before, 1.25, delta=0.05)

    def test_growing_to_and_fro_leaves_every_size_as_it_was(self) -> None:
        for station in Station:
            self.window.open_station(station)
        self.size(1280, 800)

        def sizes() -> list[tuple[int, ...]]:
            found = []
            for widget in self.window.findChildren(QWidget):
                if widget.objectName().startswith("qt_"):  # the toolkit's own, which it sizes by itself
                    continue
                least, most = widget.minimumSize(), widget.maximumSize()
                found.append((least.width(), least.height(), most.width(), most.height()))
            for layout in self.window.findChildren(QBoxLayout):
                m = layout.contentsMargins()
                found.append((m.left(), m.top(), m.right(), m.bottom(), layout.spacing()))
            return found

        usual = sizes()
        for _ in range(3):
            self.size(1920, 1080)
            self.size(1280, 800)
        self.assertEqual(sizes(), usual)

    def test_text_as_large_as_the_window_allows(self) -> None:
        self.size(1366, 768)
        usual = growth.factor()
        self.window.set_large(True)
        self.assertGreater(growth.factor(), usual)
        self.window.set_large(False)
        self.assertEqual(growth.factor(), usual)

    def test_a_rail_that_folds_away_under_a_finger_lets_go(self) -> None:
        rails = self.window.rails
        QTest.mousePress(rails.rows[1].minus, Qt.MouseButton.LeftButton)
        with mock.patch.object(rails.jog, "let_go") as let_go:
            rails.fold(True)
        self.assertTrue(let_go.called)
        self.assertFalse(rails.rows[1].minus.isDown())

    def test_how_much_a_size_allows(self) -> None:
        for (width, height), factor in {
            (1180, 660): 1.0, (1280, 800): 1.0, (1366, 768): 1.0, (1920, 1080): 1.25, (2560, 1440): 1.75, (9000, 9000): 2.0,
        }.items():  # fmt: skip
            self.assertEqual(factor_for(width, height), factor)
        self.assertEqual(factor_for(1366, 768, large=True), 1.125)

    def test_the_rails_fold_for_a_page_that_needs_the_room_and_as_the_person_wants(self) -> None:
        rails = self.window.rails
        self.size(*SIZES[0])
        self.window.open_station(Station.HOMING)
        until(lambda: rails.folded, "the rails to fold")
        self.assertEqual([row.isVisible() for row in rails.rows], [True, False, False, False])
        self.click(rails.choices[2])
        self.assertEqual([row.isVisible() for row in rails.rows], [False, False, True, False])
        self.click(rails.fold_button)
        self.assertTrue(all(row.isVisible() for row in rails.rows))
        self.size(*growth.USUAL)
        self.window.open_station(Station.LINK)
        until(lambda: not self.window._fitting.isActive(), "another page")
        self.assertFalse(rails.folded)
