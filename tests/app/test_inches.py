"""A machine whose screen is in inches: no station, sentence or picture says a figure in millimetres."""

from __future__ import annotations

import re
from collections.abc import Iterator
from fractions import Fraction

from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QTabBar, QWidget

from idler.app.qt_wait import until
from idler.core.errors import Refusal
from idler.core.mechanics.scale import Pass, fitting
from idler.core.mechanics.scalewords import proof_words
from idler.core.report import report as report_of
from idler.core.rules.findings import findings
from idler.core.table.stations import Station
from idler.core.travel import beyond
from idler.procedures.scale.onepass import PassStage
from tests.app.gui import SessionCase
from tests.support import X, Y, Z, at, verge

METRIC = re.compile(r"(?<![\w/])(?:mm|µm|m/min)(?![\w])")
INCHES = {at(None, "names.screen_unit"): "in"}


class Inches(SessionCase):
    def setUp(self) -> None:
        super().setUp()
        self.drawn: list[str] = []
        self.metric: list[tuple[str, str, str]] = []
        real = QPainter.drawText

        def noted(painter: QPainter, *words: object) -> object:
            self.drawn += [word for word in words if isinstance(word, str)]
            return real(painter, *words)

        QPainter.drawText = noted  # type: ignore[method-assign, assignment]
        self.addCleanup(setattr, QPainter, "drawText", real)
        self.session.set_values(INCHES)
        # the ends of all axes, as a picture would write them that knows nothing of inches
        machine = self.session.machine
        keys = ("low", "high", "stop_low", "stop_high")
        places = {float(machine[at(slot, f"travel.{key}")]) for slot in (X, Y, Z) for key in keys}  # type: ignore[arg-type]
        self.places = {f"{place:g}" for place in places if abs(place) > 25}

    def words(self, root: QWidget) -> Iterator[tuple[str, str]]:
        """Everything that a person can read in the window, with whose it is."""
        for widget in root.findChildren(QWidget):
            if not widget.isVisible():
                continue
            texts = [widget.toolTip(), widget.accessibleName(), widget.accessibleDescription(), widget.windowTitle()]
            if isinstance(widget, QLabel | QAbstractButton | QLineEdit):
                texts.append(widget.text())
            if isinstance(widget, QLineEdit):
                texts.append(widget.placeholderText())
            if isinstance(widget, QComboBox):
                texts += [widget.itemText(k) for k in range(widget.count())]
            if isinstance(widget, QTabBar):
                texts += [widget.tabText(k) for k in range(widget.count())]
            for text in texts:
                yield type(widget).__name__, text

    def look(self, where: str, root: QWidget | None = None) -> None:
        self.drawn.clear()
        for widget in () if root else self.window.findChildren(QWidget):
            if widget.isVisible():
                widget.repaint()
        said = (*self.words(root or self.window), *(("picture", text) for text in self.drawn))
        found = {(whose, text[:160]) for whose, text in said if METRIC.search(text) or text in self.places}
        self.metric += [(where, *each) for each in found]

    def test_no_station_says_millimetres(self) -> None:
        for station in Station:
            self.window.open_station(station)
            page = self.window.page(station)
            for button in page.findChildren(QAbstractButton):
                if (
                    button.isCheckable()
                    and button.isVisible()
                    and button.isEnabled()
                    and button.property("page") is not None
                ):
                    self.click(button)
                    self.look(f"{station.key}, {button.text()}")
            self.look(station.key)
        for address in self.session.machine.addresses():
            if address.slot in (None, X, 3):
                self.session.set_focus(address)
                self.look(f"margin, {address.key}", self.window.margin)
        self.assertEqual("\n".join(map(str, self.metric)), "")

    def test_the_instrument_is_in_inches_in_every_step_and_in_the_proof(self) -> None:
        axis = self.session.machine.axis(X)
        self.window.open_station(Station.SCALE)
        procedure = self.window.page(Station.SCALE).procedure
        for instrument in fitting(rotary=False):
            for stage in PassStage:
                self.assertNotRegex(procedure.words_at(stage, axis.reads, instrument), METRIC)
            self.assertNotRegex(proof_words([Pass(25.4, 25.4, 320.0, instrument)], 320.0, axis.reads), METRIC)

    def test_findings_refusals_and_the_report_are_in_inches(self) -> None:
        wrong = {
            at(X, "pace.top_speed"): Fraction(90_000), at(X, "play.backlash"): Fraction(2),
            at(X, "homing.search"): Fraction(10),
            at(X, "homing.coordinate"): Fraction(-300), at(Y, "pace.shape"): "limited", at(Y, "pace.jerk"): Fraction(1),
            at(X, "homing.leave"): Fraction(0),
        }  # fmt: skip
        machine = verge().with_values({**INCHES, **wrong})
        found = findings(machine)
        self.assertGreater(len(found), 5)
        self.assertEqual([item.text for item in found if METRIC.search(item.text)], [])
        self.session.set_values(wrong)
        self.type_into("chain.pitch", "900")
        self.assertIn("X pitch of the screw: 900 in", self.window.notice.words)
        self.assertNotRegex(self.window.notice.words, METRIC)
        self.type_into("chain.pitch", "5 s")
        self.assertIn("is not in inches or a unit of the same kind", self.window.notice.words)
        self.assertNotRegex(self.window.notice.words, METRIC)
        report = report_of(machine, {})
        self.assertEqual([text for text in map(str, (report,)) if re.search(r"\d mm\b", text)], [])

    def test_figures_are_whole_and_round_where_they_stand(self) -> None:
        self.session.set_values({at(X, "chain.pitch"): Fraction(127, 40), at(X, "chain.microsteps"): 16})
        self.window.open_station(Station.DRIVES)
        card = self.window.page(Station.DRIVES).chain
        for line in (card._counts, card._derivation, card._resolution):
            self.assertLessEqual(
                line.fontMetrics().horizontalAdvance(line.text()), line.contentsRect().width(), line.text()
            )
        self.assertEqual(card._counts.text(), "25\u202f600.0000")
        self.window.open_station(Station.TRAVEL)
        margin = self.window.page(Station.TRAVEL).margin
        self.assertEqual(margin.text(), "0.08 in")
        self.assertEqual(beyond(self.session.machine.axis(X)), 20.32)  # 0.8 in
        margin.setText("2 mm")
        margin.editingFinished.emit()
        self.assertEqual(margin.text(), "0.07874 in")
        self.assertLessEqual(margin.fontMetrics().horizontalAdvance(margin.text()), margin.width() - 16)  # its padding

    def test_a_reading_is_an_inch_and_a_move_is_round(self) -> None:
        self.window.open_station(Station.SCALE)
        page = self.window.page(Station.SCALE)
        self.assertRegex(page.length.text(), r"^-?\d(\.\d)? in$")
        page.length.setText("4")
        page.length.editingFinished.emit()
        self.assertEqual((page._length, page.length.text()), (Fraction(1016, 10), "4 in"))
        page.length.editingFinished.emit()
        self.assertEqual(page._length, Fraction(1016, 10))

    def test_a_step_keeps_its_size_and_is_never_larger(self) -> None:
        jog = self.window.rails.jog
        self.session.set_values({at(None, "names.screen_unit"): "mm"})
        jog.set_step("1")
        self.session.set_values(INCHES)
        self.assertEqual(jog.step, "0.01")
        self.session.set_values({at(None, "names.screen_unit"): "mm"})
        self.assertEqual(jog.step, "0.1")
        jog.set_step("10")
        self.session.set_values(INCHES)
        self.assertEqual(jog.step, "0.1")

    def test_a_hundred_small_steps_add_up(self) -> None:
        steps = at(None, "jog.steps_inch")
        self.session.set_values({steps: "1 0.1 0.01 0.0001"})
        self.session.power(True)
        until(lambda: self.session.powered, "power")
        jog = self.window.rails.jog
        jog.set_step("0.0001")
        begin = self.session.axes[X].position
        for _ in range(100):
            jog.press(X, -1)
        until(lambda: abs(self.session.axes[X].position - begin + 0.254) < 0.0016, "a hundredth of an inch")
        with self.assertRaisesRegex(Refusal, "finer than the controller can be told"):
            self.session.edit(at(None, "jog.steps_mm"), "1 0.00001")
