"""Index stops at the Trial station: their table, going to one, acting their lines, and each looked at."""

from __future__ import annotations

import contextlib

from PySide6.QtCore import QRectF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from idler.app.qt_wait import TooLong, until
from idler.app.stations.trial.station import TrialStation
from idler.app.widgets.asking import Asking
from idler.core.machine import Address
from idler.core.table.stations import Station
from idler.procedures.engine import Procedure, Result, Run
from idler.procedures.questions import choice
from tests.app.gui import SessionCase
from tests.app.seen import cut_words, overlaps, painted
from tests.procedures.test_indexing import TURRET, wired


class IndexCase(SessionCase):
    rig = "fusee"

    def setUp(self) -> None:
        super().setUp()
        self.window.open_station(Station.TRIAL)
        page = self.window.page(Station.TRIAL)
        assert isinstance(page, TrialStation)
        page.turn_to("Index stops")
        self.page = page.index


class Offline(IndexCase):
    on_bench = False

    def found(self) -> list[str]:
        return list(overlaps(painted(self.page.picture), QRectF(self.page.picture.rect())))

    def test_a_table_is_judged_while_it_is_typed_and_taken_as_a_whole(self) -> None:
        page = self.page
        self.assertEqual(page.slot, TURRET)
        page.text.setPlainText("0 rough\nsixty fine\n")
        self.assertIn("“sixty fine”", page.wrong.text())
        self.assertFalse(page.take.isEnabled())
        page.text.setPlainText("0 rough\n360/7 fine\n90.5")
        self.click(page.take)
        self.assertEqual(self.session.machine.axis(TURRET).values["index.stops"], "0 rough; 360/7 fine; 90.5")
        self.assertEqual([page.stop.itemText(row) for row in range(page.stop.count())], ["1 rough", "2 fine", "3"])
        self.session.undo()
        self.assertIn("roughing", page.text.toPlainText())

    def test_nothing_is_upon_anything(self) -> None:
        for text in ("0 a; 5 b; 10 c; 15 d", "; ".join(f"{15 * n} stop {n}" for n in range(24))):
            self.session.edit(Address(TURRET, "index.stops"), text)
            with contextlib.suppress(TooLong):
                until(lambda: not self.found(), "the layout", 20)
            self.assertEqual([*self.found(), *cut_words(self.page)], [], text)


class OnBench(IndexCase):
    def setUp(self) -> None:
        super().setUp()
        self.session.set_values(wired())
        self.again(self.session.send, lambda: not self.session.count().edited, "the wiring to be sent")
        self.believe(TURRET)
        self.power()

    def test_each_is_looked_at_and_the_lines_are_acted(self) -> None:
        page = self.page
        self.click(page.go)
        self.assertIn("not homed", self.window.notice.words)
        self.session.link.home((TURRET,))
        until(lambda: self.session.homes.known(TURRET) and not self.session.moving, "home", 60)
        self.click(page.prove)
        for _ in range(6):
            until(lambda: page.procedure.question is not None, "a question", 60)
            stands = next(each for each in self.bench.hands.ask(do="look")["axes"] if each["name"] == "A")["in_front"]
            answers = page.asking.choices.findChildren(QPushButton)
            asked = page.procedure.question
            self.click(next(each for each in answers if each.text().startswith(str(stands))))
            until(lambda: page.procedure.question is not asked, "the answer")  # noqa: B023
        until(lambda: not page.procedure.running, "its end", 60)
        self.assertIn("1 place further", self.window.notice.words)
        self.click(page.mend)
        self.assertEqual(self.session.machine.axis(TURRET).number("homing.coordinate"), 57)
        self.assertTrue(page.mend.isHidden())
        self.session.undo()
        self.click(page.bits[1])
        self.click(page.act)
        until(lambda: not page.procedure.running, "the lines acted", 60)
        self.assertIn("went to stop 2 finishing", page.procedure.words)
        until(lambda: "stands at stop 2 finishing" in page.state.text(), "what it says")
        self.bench.hands.ask(do="pace", factor=0)
        for do in ("press", "release"):
            self.bench.hands.ask(do=do, switch="turret line 3")
            self.bench.hands.ask(do="run", seconds=0.008)
        self.bench.hands.ask(do="run", seconds=0.1)
        self.bench.hands.ask(do="pace", factor=self.pace)
        until(lambda: "came past and did nothing" in page.state.text(), "what passed", 20)
        self.assertTrue(page.trace.isVisible())
        self.assertIn("came past and did nothing", page.trace.accessibleName())

    def test_one_of_many_answers_is_looked_for(self) -> None:
        """A procedure that asks at once: no rig has so many stops."""

        class Asks(Procedure):
            def begin_asking(self) -> None:
                self.begin(self._asking(), "")

            def _asking(self) -> Run:
                stops = {str(number): f"{number} stop" for number in range(1, 65)}
                said = yield from self.ask(choice("index.seen", "Which one?", stops))
                return Result.of(True, f"it was {said}")

        asks = Asks(self.session)
        asking = Asking(self.session, asks, lambda _: None)
        self.addCleanup(asking.deleteLater)
        asking.show()
        asks.begin_asking()
        until(lambda: asking.found.isVisible(), "the question")
        self.assertEqual(
            (asking.found.count(), asking.found.isVisible(), asking.choices.isVisible()), (64, True, False)
        )
        QTest.keyClicks(asking.looked_for, "4")
        self.assertEqual([asking.found.item(row).text() for row in (0, 1)], ["4 stop", "40 stop"])
        QTest.keyClicks(asking.looked_for, "2x")
        QTest.keyClick(asking.looked_for, Qt.Key.Key_Return)
        self.assertIsNotNone(asks.question, "nothing was found, and nothing answered")
        QTest.keyClick(asking.looked_for, Qt.Key.Key_Backspace)
        QTest.keyClick(asking.looked_for, Qt.Key.Key_Return)
        until(lambda: not asks.running, "its end")
        self.assertEqual(asks.words, "it was 42")
        self.assertFalse(asking.found.isVisible())
