"""The Trial station: a program is opened, judged, looked at from line to picture and back, and put away."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterable
from fractions import Fraction
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QMimeData, QPointF, QRectF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QFileDialog, QLineEdit

from idler.app.pictures.pacemap import PaceMap
from idler.app.qt_wait import TooLong, until
from idler.app.stations.trial.station import TrialStation
from idler.core.geometry.level import Grid, bed
from idler.core.proof.claims import Witness, level_claim
from idler.core.proof.workzero import WorkZero
from idler.core.table.stations import Station
from idler.link.along import Along
from idler.procedures.geometry.dial import DIALS
from tests.app.gui import SessionCase
from tests.app.seen import cut_words, overlaps, painted, sideways
from tests.support import X, at, wiring

PLATE = Path(__file__).parents[2] / "src" / "idler" / "data" / "plate.nc"
WRONG = b"G21 G90\nS1000 M3\nG0 X-100 Y-50 Z-20\nG1 X-80 F500\nG92 X0\nG1 Y20\nX-90 Y-40\n"


class TrialCase(SessionCase):
    on_bench = False

    def setUp(self) -> None:
        super().setUp()
        self.window.open_station(Station.TRIAL)
        page = self.window.page(Station.TRIAL)
        assert isinstance(page, TrialStation)
        self.station, self.page, self.program = page, page.program, self.session.program

    def judged(self) -> None:
        until(lambda: self.program.share is None, "the verdict")

    def take(self, text: bytes) -> None:
        file = self.root / "part.nc"
        file.write_bytes(text)
        self.program.open(file)
        self.judged()

    def clear(self, found: Callable[[], Iterable[str]]) -> None:
        """Nothing is found once the layout has come to rest, which takes its time on a busy computer."""
        with contextlib.suppress(TooLong):
            until(lambda: not list(found()), "the layout", 5)
        self.assertEqual(list(found()), [], self.window.size())

    def problems(self) -> list[str]:
        return [self.page.problems.item(row).text() for row in range(self.page.problems.count())]


class Offline(TrialCase):
    def test_a_plate_does_not_fit_and_fits_where_the_work_zero_is_moved(self) -> None:
        self.session.work.put_shown({"X": WorkZero(-200.0), "Y": WorkZero(-90.0), "Z": WorkZero(-60.0)})
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(PLATE), "")):
            self.click(self.page.choose)
        self.judged()
        self.assertEqual(self.page.title.text(), "It does not fit at this work zero.")
        self.assertIn("Y -21.5 mm", self.page.shift.text())
        rail = self.window.rails.rows[1].view._marks
        self.assertEqual(rail.beyond, (False, True))
        self.click(self.page.shift)
        self.judged()
        self.assertEqual(self.page.title.text(), "It fits this machine there.")
        self.assertTrue(self.page.back.isVisible())
        self.assertEqual(self.session.work.of("Y"), -90.0)
        self.click(self.page.back)
        self.judged()
        self.assertFalse(self.page.back.isVisible())
        self.click(self.page.close_it)
        self.assertEqual(self.page.title.text(), "No program")
        self.assertIsNone(self.window.rails.rows[1].view._marks.program)

    def test_a_problem_leads_to_its_line_and_a_line_to_its_place(self) -> None:
        self.take(WRONG)
        self.assertTrue(any("line 5" in words and "G92" in words for words in self.problems()), self.problems())
        row = next(row for row, words in enumerate(self.problems()) if "beyond" in words)
        self.page.problems.setCurrentRow(row)
        self.assertEqual(self.page.text.line, 6)
        self.assertIsNotNone(self.page.picture._marked)
        self.page.text.setFocus()
        QTest.keyClick(self.page.text, Qt.Key.Key_Down)
        self.assertEqual(self.page.text.line, 7)
        QTest.keyClick(self.page.text, Qt.Key.Key_Home)
        self.assertEqual(self.page.text.line, 1)
        self.assertIsNone(self.page.picture._marked)  # nothing moves there

    def test_a_click_in_the_picture_takes_the_line_that_lies_there(self) -> None:
        self.take(b"G21 G90\nS1000 M3\nG0 X-250 Y-90 Z-20\nG1 X-50 F500\nG1 Y-160\n")
        picture = self.page.picture
        _, view, box, scale = picture._panes()[0]
        large, x, y = picture._origin(view, box, scale)
        for place, line in (((-150, -90), 4), ((-50, -120), 5)):
            here = QPointF(x + place[0] * large, y - place[1] * large)
            QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=here.toPoint())
            self.assertEqual(self.page.text.line, line)

    def test_it_is_moved_magnified_shown_alone_and_shown_whole_again(self) -> None:
        self.take(WRONG)
        picture = self.page.picture
        middle = picture._panes()[0][2].center()
        QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=middle.toPoint())
        QTest.mouseMove(picture, (middle + QPointF(30, 20)).toPoint())
        QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=(middle + QPointF(30, 20)).toPoint())
        self.assertNotEqual(picture._shift, QPointF())
        wheel = QWheelEvent(
            middle, picture.mapToGlobal(middle), QPointF().toPoint(), QPointF(0, 240).toPoint(), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        picture.wheelEvent(wheel)
        self.assertGreater(picture._zoom, 1.4)
        picture.setFocus()
        QTest.keyClick(picture, Qt.Key.Key_0)
        self.assertEqual((picture._zoom, picture._shift), (1.0, QPointF()))
        QTest.mouseDClick(picture, Qt.MouseButton.LeftButton, pos=middle.toPoint())
        self.assertEqual(len(picture._panes()), 1)
        picture.grab()
        QTest.mouseDClick(picture, Qt.MouseButton.LeftButton, pos=picture._panes()[0][2].center().toPoint())
        self.assertEqual(len(picture._panes()), 2)

    def test_a_part_of_the_time_is_brushed_and_shows_its_strokes_only(self) -> None:
        self.take(PLATE.read_bytes())
        every = self.page.picture._scene.part
        feeds = self.page.feeds
        y = feeds.height() // 2
        QTest.mousePress(feeds, Qt.MouseButton.LeftButton, pos=QPointF(feeds.width() * 0.3, y).toPoint())
        QTest.mouseRelease(feeds, Qt.MouseButton.LeftButton, pos=QPointF(feeds.width() * 0.5, y).toPoint())
        first, last = self.page.picture._scene.part
        self.assertLess(every[0], first)
        self.assertLess(last, every[1])
        QTest.mouseClick(feeds, Qt.MouseButton.LeftButton, pos=QPointF(feeds.width() * 0.3, y).toPoint())
        self.assertEqual(self.page.picture._scene.part, every)

    def test_what_is_edited_is_judged_anew_and_what_was_dropped_is_opened(self) -> None:
        file = self.root / "dropped.nc"
        file.write_bytes(b"G21 G90\nG0 X-320\nX-10\n")
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(file))])
        self.page.dropEvent(
            QDropEvent(
                QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
            )
        )
        self.judged()
        self.assertIn("does not fit", self.page.title.text())
        before = self.program.judged
        self.session.set_values({at(X, "travel.low"): Fraction(-330)})
        until(lambda: self.program.judged is not before and self.program.share is None, "another verdict")
        self.assertIn("It fits", self.page.title.text())

    def test_every_colouring_is_painted_and_a_hostile_file_says_why(self) -> None:
        self.take(WRONG)
        for way in range(self.page.colour.count()):
            self.page.colour.setCurrentIndex(way)
            self.page.colour.activated.emit(way)
            self.page.picture.grab()
        self.program.open(self.root)
        self.judged()
        self.assertEqual(self.page.title.text(), "It cannot be read")
        self.assertIn("is a folder", self.page.words.text())
        self.take(b"")
        self.assertIn("It fits", self.page.title.text())

    def test_what_was_opened_is_remembered_and_opened_when_idler_starts(self) -> None:
        self.take(WRONG)
        self.page.recent.menu().aboutToShow.emit()
        actions = [action for action in self.page.recent.menu().actions() if action.text() == "part.nc"]
        self.program.close()
        actions[0].trigger()
        self.judged()
        self.assertIsNotNone(self.program.judged)
        start = next(action.menu() for action in self.page.recent.menu().actions() if action.menu() is not None)
        next(action for action in start.actions() if action.text() == "the last one").trigger()
        self.application.close()
        self.open()
        self.application.open_program(None)
        until(lambda: self.session.program.judged is not None, "the program of the last time")
        self.application.open_program(PLATE)
        self.assertTrue(self.window.page(Station.TRIAL).isVisible())

    def test_nothing_is_upon_anything_where_a_program_is_open(self) -> None:
        self.session.work.put_shown({"X": WorkZero(-200.0), "Y": WorkZero(-90.0), "Z": WorkZero(-60.0)})
        for width, height in ((1180, 660), (1280, 800), (1920, 1080)):
            self.window.resize(width, height)
            for text in (PLATE.read_bytes(), WRONG, WRONG.replace(b"G21", b"G20")):
                self.take(text)
                for program_line in (6, 16):
                    self.page._show_line(program_line)
                    until(lambda: not self.window._fitting.isActive(), "the layout")
                    for picture in (self.page.picture, self.page.feeds, *(row.view for row in self.window.rails.rows)):
                        if picture.isVisible():
                            self.clear(lambda made=picture: overlaps(painted(made), QRectF(made.rect())))
                self.clear(lambda: cut_words(self.page))
                self.clear(lambda: sideways(self.page))

    def test_a_figure_is_asked_for_drawn_and_taken_to_the_run(self) -> None:
        figures = self.station.figures
        self.station.turn_to("Figures")
        kinds = [figures.kind.itemData(row) for row in range(figures.kind.count())]
        for row, kind in enumerate(kinds):
            figures.kind.setCurrentIndex(row)
            figures.kind.activated.emit(row)
            figures.picture.grab()
            self.assertEqual(figures.figure.kind, kind)
        self.assertTrue(figures.wishes.edits["cutter"].isVisible(), kinds[-1])
        figures.kind.setCurrentIndex(0)
        figures.kind.activated.emit(0)
        self.type_in(figures.wishes.edits["width"], "2 in")
        self.assertEqual((figures.figure.size[0], figures.wishes.edits["width"].text()), (50.8, "50.8 mm"))
        self.type_in(figures.wishes.edits["width"], "far")
        self.assertIn("along X", self.window.notice.words)
        self.assertEqual(figures.figure.size[0], 50.8)
        self.click(figures.make)
        self.judged()
        assert self.program.judged is not None
        self.assertIn(b"50.8", self.program.judged.text)
        run = self.station.run
        self.assertTrue(run.isVisible())
        self.assertFalse(run.dry.isEnabled())
        self.assertIn("controller", run.words.text())
        self.click(run.go_there)
        self.assertTrue(self.window.page(Station.LINK).isVisible())

    def type_in(self, edit: QLineEdit, text: str) -> None:
        edit.setFocus()
        edit.selectAll()
        QTest.keyClicks(edit, text)
        QTest.keyClick(edit, Qt.Key.Key_Return)

    def test_six_work_zeros_are_named_typed_chosen_and_kept(self) -> None:
        zeros = self.station.zeros
        self.station.turn_to("Work zeros")
        zeros.titles[2].setFocus()
        self.type_in(zeros.titles[2], "left vice")
        self.type_in(zeros.places[2, "X"], "-120")
        self.assertIn("controller", self.window.notice.words)  # no place means anything without one
        self.assertEqual(zeros.places[2, "X"].text(), "")
        self.click(zeros.shown[2])
        self.assertEqual(self.session.work.set.title(self.session.work.set.shown), "G56 left vice")
        self.session.work.put_shown({"X": WorkZero(-120.0)})
        self.assertEqual(zeros.places[2, "X"].text(), "-120 mm")
        self.type_in(zeros.shift_by, "-2.5")
        self.click(zeros.shift)  # it is shifted where the axes are known only
        self.assertIn("controller", self.window.notice.words)
        self.assertEqual(self.session.work.of("X"), -120.0)
        zeros.more.menu().aboutToShow.emit()
        actions = {action.text(): action for action in zeros.more.menu().actions()}
        actions["Copy it to G59"].trigger()
        self.assertEqual(self.session.work.of("X", 5), -120.0)
        actions["Clear all of G56 left vice"].trigger()
        self.assertIsNone(self.session.work.of("X"))
        self.application.close()
        self.open()
        self.assertEqual((self.session.work.of("X", 5), self.session.work.set.shown), (-120.0, 2))

    def test_a_tool_is_typed_as_long_as_it_is_and_the_program_is_judged_anew(self) -> None:
        tools = self.station.tools
        self.take(b"G21 G90 F500\nG0 G43 H7 Z-20\nX-20 Y-20\nM30\n")
        self.assertTrue(any("H7 is not known" in problem for problem in self.problems()), self.problems())
        self.station.turn_to("Tools")
        self.assertEqual(tools.number.value(), 7)  # what the program lacks
        before = self.program.judged
        self.type_in(tools.length, "1500")
        self.assertIn("length of the tool that is added", self.window.notice.words)
        self.type_in(tools.length, "-12.5")
        until(lambda: self.program.judged is not before and self.program.share is None, "another verdict")
        self.assertFalse(any("H7" in problem for problem in self.problems()), self.problems())
        self.type_in(tools.titles[7], "drill 6")
        self.assertEqual(tools.length.text(), "")
        self.application.close()
        self.open()
        self.assertEqual(self.session.tools.set.tools[7].name, "drill 6")
        self.assertEqual(self.session.tools.lengths, {7: -12.5})
        self.window.open_station(Station.TRIAL)
        page = self.window.page(Station.TRIAL)
        assert isinstance(page, TrialStation)
        page.turn_to("Tools")
        self.click(page.tools.removes[7])
        self.assertEqual((self.session.tools.lengths, page.tools.lengths), ({}, {}))

    def test_the_pace_map_says_what_a_quicker_axis_would_save_of_the_program(self) -> None:
        to_and_fro = "".join(f"G1 X{-20 - at % 2 * 6} Y-20\n" for at in range(200))
        self.take(f"G21 G90 G61 F3000\nG0 X-20 Y-20 Z-5\n{to_and_fro}M30\n".encode())
        self.window.open_station(Station.DRIVES)
        shown = lambda: self.window.page(Station.DRIVES).findChild(PaceMap)._scene.saving  # noqa: E731
        acceleration, words = shown()
        self.assertEqual(acceleration, 2 * float(self.session.machine.axis(X).number("pace.acceleration")))
        self.assertRegex(words, r"part\.nc takes \d+ s less")
        self.program.close()
        self.assertIsNone(shown())

    def test_the_third_plane_is_turned_to_by_key_and_by_name(self) -> None:
        self.take(PLATE.read_bytes())
        page = self.page
        self.assertEqual([page.plane.itemText(at) for at in range(4)],
                         ["from above and the front", "from above", "from the front", "from the right"])  # fmt: skip
        page.plane.setCurrentIndex(3)
        page.plane.activated.emit(3)
        self.assertEqual([view.words[:14] for _, view, _, _ in page.picture._panes()], ["from the right"])
        QTest.keyClick(page.picture, Qt.Key.Key_1)
        self.assertEqual((page.plane.currentIndex(), page.picture.alone), (1, 0))
        QTest.keyClick(page.picture, Qt.Key.Key_1)
        self.assertEqual((page.plane.currentIndex(), len(page.picture._panes())), (0, 2))

    def test_a_skim_takes_its_area_and_depth_from_the_map_of_the_bed(self) -> None:
        figures, session = self.station.figures, self.session
        self.station.turn_to("Figures")
        figures.kind.setCurrentIndex(figures.kind.findData("skim"))
        figures.refresh()
        self.click(figures.from_bed)
        self.assertIn("Geometry", self.window.notice.words)
        session.program.bed = bed(Grid(-250.0, -150.0, 200.0, 100.0, 2, 2), (0.0, 0.1, 0.0, 0.0), DIALS[0], 0.001)
        self.click(figures.from_bed)
        self.assertIn("other values", self.window.notice.words)
        session.prove(level_claim(session.machine, 0, 1), False, "as if it had been measured", Witness.INSTRUMENT)
        self.click(figures.from_bed)
        self.assertIn("work zero", self.window.notice.words)
        session.work.put_shown({"X": WorkZero(-200.0), "Y": WorkZero(-100.0)})
        self.click(figures.from_bed)
        self.assertEqual((figures.figure.at, figures.figure.size), ((-60.0, -60.0), (220.0, 120.0)))
        self.assertGreaterEqual(figures.figure.value("depth"), 0.1)
        self.assertIn("X -50 mm, Y -150 mm", figures.hint.text())

    def test_the_way_of_the_action_that_is_chosen_is_drawn(self) -> None:
        page = self.station.own
        self.station.turn_to("Actions")
        page.text.setPlainText('action "w" { move machine X 0 mm; move machine X 900 mm; move by Y 5 mm; }')
        page.text.document().setModified(True)
        self.click(page.take)
        until(lambda: "X goes" in page.way_words.text(), "its way")
        self.assertIn("Where Y would go is not known", page.way_words.text())
        scene = page.picture._scene
        assert scene is not None and scene.strokes is not None
        ways = [float(place) for place in scene.strokes.points[:, 0]]
        self.assertEqual(max(ways) - min(ways), 900.0)
        self.session.undo()
        self.assertEqual(page.way_words.text(), "")

    def test_actions_are_typed_judged_taken_and_put_back(self) -> None:
        page = self.station.own
        self.station.turn_to("Actions")
        page.add_example("park and power off")
        self.assertEqual(page.names.item(0).text(), "park and power off")
        self.assertIn("no parking place", page.words.text())
        self.assertEqual(page.rehearsal.item(2).text(), "power off")
        page.text.appendPlainText('action "x" { move by X 5; }')
        self.assertIn("12.5 mm", page.words.text())
        self.assertFalse(page.take.isEnabled())
        self.session.edit(at(None, "jog.slow"), "500")  # an edit elsewhere leaves what is typed alone
        self.assertIn('"x"', page.text.toPlainText())
        self.click(page.back)
        self.assertNotIn('"x"', page.text.toPlainText())
        self.click(page.go)
        self.assertIn("parking place", self.window.notice.words)
        self.session.undo()
        self.session.undo()
        self.assertEqual((page.names.count(), page.text.toPlainText()), (0, ""))
        page.text.setPlainText('action "k" key "Ctrl+Alt+7" { say "here"; }')
        page.text.document().setModified(True)
        self.click(page.take)
        shortcut = self.window._action_keys._shortcuts[0]
        shortcut.activated.emit()
        self.assertIn("armed", self.window.notice.words)
        self.session.keys_armed = True
        shortcut.activated.emit()
        self.assertIn("controller", self.window.notice.words)

    def test_an_action_is_made_step_by_step_in_its_list_and_stands_in_the_text(self) -> None:
        page, steps = self.station.own, self.station.own.list
        self.station.turn_to("Actions")
        page.add_empty()
        self.assertTrue(steps.name.hasFocus())
        QTest.keyClicks(steps.name, "round")
        QTest.keyClick(steps.name, Qt.Key.Key_Return)
        self.assertEqual(page.names.item(0).text(), "round")
        steps.add_step("move")
        self.choose("frame", "machine")
        self.choose("axis1", "Z")
        self.type("place0", "12.5")
        self.type("place1", "-3 mm")
        self.type("speed", "300 mm/min")
        steps.add_step("ask")
        self.type("text", "Is it there?")
        steps.add_step("say")
        self.type("text", "Good.")
        QTest.keyClick(
            steps.steps, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier
        )  # into the other side of the question
        QTest.keyClick(steps.steps, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
        steps.add_step("dwell")
        move = "move machine X 12.5 mm Z -3 mm at 300 mm/min;"
        written = f'action "round" {{ {move} ask "Is it there?" {{ say "Good."; dwell 1 s; }} }}'
        self.assertEqual(" ".join(page.text.toPlainText().split()), written)
        self.type("seconds", "900 s")
        self.assertIn("0 to 600 s", self.window.notice.words)
        self.assertEqual(steps.editors["seconds"].text(), "900 s", "what was typed stays")  # type: ignore[attr-defined]
        QTest.keyClick(steps.steps, Qt.Key.Key_Delete)
        self.assertNotIn("dwell", page.text.toPlainText())
        page.add_empty()
        steps.add_step("call")
        QTest.keyClicks(steps.name, "again")
        QTest.keyClick(steps.name, Qt.Key.Key_Return)
        page.names.setCurrentRow(0)
        steps.name.setFocus()
        steps.name.selectAll()
        QTest.keyClicks(steps.name, "corner")
        QTest.keyClick(steps.name, Qt.Key.Key_Return)
        self.assertIn('call "corner"', page.text.toPlainText(), "what calls it knows its new name")
        page.text.appendPlainText("# being typed")
        self.assertFalse(steps.isEnabled())
        self.click(page.back)
        self.click(page.remove)
        self.assertIn("there is no such action", page.words.text())
        while self.session.machine[at(None, "actions.text")] != "none":
            self.session.undo()
        self.assertEqual((page.names.count(), steps.steps.topLevelItemCount(), steps.add.isEnabled()), (0, 0, False))

    def choose(self, field: str, key: str) -> None:
        editor = self.station.own.list.editors[field]
        assert isinstance(editor, QComboBox)
        editor.setCurrentIndex(editor.findData(key))
        editor.activated.emit(editor.currentIndex())

    def type(self, field: str, text: str) -> None:
        editor = self.station.own.list.editors[field]
        assert isinstance(editor, QLineEdit)
        editor.setFocus()
        editor.selectAll()
        QTest.keyClicks(editor, text)
        QTest.keyClick(editor, Qt.Key.Key_Return)

    def test_nothing_is_upon_anything_on_the_other_pages(self) -> None:
        self.take(PLATE.read_bytes())
        for width, height in ((1180, 660), (1280, 800), (1920, 1080)):
            self.window.resize(width, height)
            for page in ("Figures", "Run", "Work zeros", "Touch", "Actions"):
                self.station.turn_to(page)
                until(lambda: not self.window._fitting.isActive(), "the layout")
                for picture in (self.station.figures.picture, self.station.run.picture, self.station.touch.picture):
                    if picture.isVisible():
                        self.clear(lambda made=picture: overlaps(painted(made), QRectF(made.rect())))
                self.clear(lambda: cut_words(self.station))
                self.clear(lambda: sideways(self.station))


class OnTheBench(TrialCase):
    on_bench = True

    def setUp(self) -> None:
        super().setUp()
        session = self.session
        turned = not session.machine.axis(1).flag("axis.reversed")
        session.set_values({**wiring(), at(1, "axis.reversed"): turned})
        session.send()
        until(lambda: not session.busy and not session.count().to_send, "the send")
        self.power()
        for slot in (2, 0, 1):
            session.link.home((slot,))
            until(lambda slot=slot: session.axes[slot].homed and not session.moving, "home", 60)
        for slot, place in ((2, -50.0), (0, -200.0), (1, -120.0)):
            session.link.jog_step(slot, place - session.axes[slot].position, 2000)
            until(
                lambda slot=slot, place=place: (
                    abs(session.axes[slot].position - place) < 0.05 and not session.moving and session.axes[slot].reached
                ),
                "the place", 60,
            )  # fmt: skip
        self.run_page = self.station.run

    def test_what_is_to_be_done_at_power_is_done_once_each_time(self) -> None:
        self.session.edit(at(None, "actions.text"), 'action "hello" on powered { say "hello there"; }')
        told: list[str] = []
        self.session.told.subscribe(lambda _tone, words: told.append(words))
        for number in (1, 2):
            self.session.power(False)
            until(lambda: not self.session.powered, "the drives to be off", 20)
            self.session.power(True)
            until(lambda number=number: self.session.acts.count("hello") == number, "the action", 20)
            until(lambda: not self.session.floor.words, "its end", 20)
        self.assertEqual(told.count("hello there"), 2)

    def test_a_figure_is_drawn_held_and_seen(self) -> None:
        session, run = self.session, self.run_page
        self.station.turn_to("Work zeros")
        self.click(self.station.zeros.take)
        self.assertAlmostEqual(session.work.of("X") or 0.0, -200.0, delta=0.05)
        self.station.turn_to("Figures")
        self.click(self.station.figures.make)
        self.judged()
        until(run.dry.isEnabled, "all that must be so")
        QTest.keyClick(run.dry, Qt.Key.Key_Space)
        self.assertFalse(run.procedure.running, "no key starts it")
        self.bench.hands.ask(do="pace", factor=4)
        self.click(run.dry)
        until(lambda: run.procedure.running and session.link.path.at > 50, "the path", 30)
        self.assertIn("Esc ends it", self.window.header._state._words)
        run.feed.setValue(60)
        self.click(run.hold)
        until(lambda: session.link.path.along is Along.HELD, "the pause", 30)
        until(lambda: run.hold.text() == "Go on", "its button")
        self.assertIn("stands", run.left_words.text())
        self.bench.hands.ask(do="pace", factor=40)
        self.click(run.hold)
        until(lambda: run.hooks.isVisible(), "the question", 60)
        self.click(run.hooks.buttons["left_right"])
        self.assertIn("X is mirrored", run.words.text())
        before = session.machine.axis(0).flag("axis.reversed")
        self.click(run.mend)
        self.assertNotEqual(session.machine.axis(0).flag("axis.reversed"), before)
        self.assertFalse(run.dry.isEnabled())
        session.undo()
        until(run.dry.isEnabled, "what was taken back")

    def test_esc_ends_a_program_on_its_path_and_it_goes_on(self) -> None:
        session, run = self.session, self.run_page
        for slot in (0, 1, 2):
            session.work.take(slot)
        self.take(b"G21 G90\nG0 Z2\nG1 X40 F300\nG1 Y40\nM0 (look)\nG1 X0\nG0 Y0\nM30\n")
        self.station.turn_to("Run")
        until(run.dry.isEnabled, "all that must be so")
        self.bench.hands.ask(do="pace", factor=4)
        self.click(run.dry)
        until(lambda: session.link.path.at > 300 and session.link.path.line == 3, "the second move", 30)
        self.escape()
        until(run.again.isVisible, "that it is known where it stands", 30)
        self.assertIn("line 3", run.words.text())
        self.bench.hands.ask(do="pace", factor=40)
        self.click(run.again)
        until(lambda: run.procedure.question is not None, "the stop", 60)
        self.assertIn("look", run.asking.words.text())
        self.click(run.asking.done)
        until(lambda: not run.procedure.running, "the end", 60)
        self.assertIn("came to its end", run.words.text())
        self.assertTrue(run.check.isVisible())
        until(lambda: abs(session.axes[1].position + 120) < 0.05, "where it began")
