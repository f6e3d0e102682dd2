"""The Geometry station on the bench: what is asked is answered at the page, and what is proposed is taken with one press."""

from __future__ import annotations

import unittest
from fractions import Fraction
from typing import Any
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from idler.app.bridge import follow
from idler.app.qt_wait import until
from idler.core.proof.claims import Proof, Witness, ends_claim, pace_claim
from idler.core.table.stations import Station
from idler.procedures.engine import Ending
from tests.app.gui import SessionCase
from tests.support import A, X, Y, Z, at


class GeometryCase(SessionCase):
    pace = 40

    def setUp(self) -> None:
        super().setUp()
        self.tell_it()
        self.believe(X, Y)
        machine = self.session.machine
        for slot in (X, Y):  # so that it need not crawl
            for claim in (pace_claim(machine, slot), ends_claim(machine, slot)):
                self.session.prove(claim, True, "as if it had been seen", Witness.EYES)
        self.power()
        self.home(X)
        self.home(Y)
        self.window.open_station(Station.GEOMETRY)
        self.page: Any = self.window.page(Station.GEOMETRY)

    def tell_it(self) -> None:
        self.wire()
        self.session.set_values({at(Y, "axis.reversed"): True})
        self.sent()

    def sent(self) -> None:
        self.again(
            lambda: self.session.send(restart=True),
            lambda: not self.session.count().edited and not self.session.count().waiting, "the values to be sent",
        )  # fmt: skip

    def answer(self, page: Any) -> None:
        """One question: done, or read at the bench."""
        run, asking = page.procedure, page.asking
        until(lambda: run.question is not None or not run.running, "a question", 60)
        if not run.running:
            return
        if asking.done.isVisible():
            self.click(asking.done)
            return
        self.click(asking.from_bench)
        until(asking.reading.text, "the bench's reading")
        QTest.keyClick(asking.reading, Qt.Key.Key_Return)

    def go_through(self, page: Any) -> None:
        if not page.procedure.running:
            self.click(page.go)
        while page.procedure.running:
            self.answer(page)


class Play(GeometryCase):
    def test_the_play_of_a_worn_screw_is_measured_and_taken_up(self) -> None:
        page = self.page.play
        page.show_axis(Y)
        page.tolerance.setText("0.03")
        page.tolerance.editingFinished.emit()
        self.go_through(page)
        self.assertIn("the controller can take it up", page.title.text())
        self.assertIn("Take up 0.0", page.accept.text())
        self.assertEqual(list(self.session.offered), [at(Y, "play.backlash")])  # the margin says what it would change
        self.page.turn_to("Comes back")
        self.assertEqual(self.session.offered, {})
        self.page.turn_to("Play")
        self.assertTrue(self.session.offered)
        self.click(page.accept)
        self.assertEqual(self.session.offered, {})
        self.assertAlmostEqual(float(self.session.machine[at(Y, "play.backlash")]), 0.035, delta=0.006)  # type: ignore[arg-type]
        self.click(page.go)
        self.assertFalse(page.procedure.running)  # what is not sent yet is not proven

    def test_what_is_no_reading_is_refused_and_asked_for_still_and_esc_keeps_what_is_whole(self) -> None:
        page = self.page.play
        page.show_axis(Y)
        self.click(page.go)
        run, asking = page.procedure, page.asking
        for _ in range(10):  # zero, whether it follows and six readings of the first place; the first two of the second
            self.answer(page)
        until(lambda: run.question is not None and run.question.key == "play.reading", "the second place", 60)
        for typed, why in (("", "dial at Y"), ("abc", "dial at Y"), ("12 mm", "beyond the reach of the dial")):
            asking.reading.setText(typed)
            self.click(asking.add)
            self.assertIn(why, self.window.notice.words)
            self.assertEqual((run.question.key, asking.reading.text()), ("play.reading", typed))
        self.escape()
        self.assertIs(run.result.end, Ending.STOPPED)
        self.assertEqual((len(run.found(Y)), page.go.text()), (1, "Measure what is left"))
        page.show_axis(X)
        self.assertEqual((run.found(X), page.go.text()), ([], "Measure the play"))
        page.show_axis(Y)
        self.assertEqual(len(run.found(Y)), 1)

    def test_what_is_not_homed_is_refused_in_a_sentence(self) -> None:
        page = self.page.play
        page.show_axis(Z)
        self.click(page.go)
        self.assertIn("Z is not homed yet", self.window.notice.words)

    def test_of_an_axis_that_turns_it_is_asked_where_the_dial_stands(self) -> None:
        self.home(A)
        page = self.page.play
        page.show_axis(A)
        self.click(page.go)
        run, asking = page.procedure, page.asking
        for typed, why in (("5 mm", "too near or too far"), ("60 mm", "")):
            self.assertEqual(run.question.key, "play.radius")
            self.assertFalse(asking.from_bench.isVisible())
            asking.reading.setText(typed)
            self.click(asking.add)
            self.assertIn(why, self.window.notice.words)
        self.go_through(page)
        self.assertIn("the controller can take it up", page.title.text())
        self.assertIn("°", page.accept.text())

    def test_inches(self) -> None:
        self.session.set_values({at(None, "names.screen_unit"): "in"})
        page = self.page.play
        page.show_axis(Y)
        self.assertIn(" in", page.tolerance.text())
        self.assertNotIn("mm", page.beforehand.text())


class Square(GeometryCase):
    rig = "longcase"

    def tell_it(self) -> None:
        told: dict[Any, Any] = {at(X, "chain.microsteps"): 8, at(Y, "axis.second_reversed"): True}
        for number, role, axis, rest in (
            (3, "stop", "none", "closed"), (1, "home", "X", "closed"),
            (5, "home", "Y", "closed"), (6, "home_second", "Y", "open"),
        ):  # fmt: skip
            told |= {
                at(number - 1, f"input.{key}"): value for key, value in (("role", role), ("axis", axis), ("rest", rest))
            }
        self.session.set_values(told)
        self.sent()

    def test_a_beam_out_of_square_is_found_corrected_and_proven(self) -> None:
        self.page.turn_to("Square")
        page = self.page.square
        self.assertEqual(page.instrument.currentText(), "beam trammel, 0.02 mm")  # what can tell 0.3 mm per m
        self.go_through(page)
        self.assertIn("out of square", page.title.text())
        self.assertIn("where the second side of the beam stands", page.words.text())
        self.assertFalse(page.accept.isVisible())
        self.assertIs(self.page.control_of("square.XY", None), page.across)
        page.across.setText("1400 mm")
        page.across.editingFinished.emit()
        self.assertIn("Set squaring offset: 0.", page.accept.text())
        self.assertIs(self.page.control_of("square.XY", None), page.accept)
        self.click(page.accept)
        self.assertAlmostEqual(float(self.session.machine[at(Y, "homing.squaring")]), 0.6, delta=0.15)  # type: ignore[arg-type]
        self.assertIs(self.page.control_of("square.XY", None), page.go)
        self.sent()
        self.power()
        self.home(X)
        self.home(Y)
        self.go_through(page)
        self.assertIs(page.mark.state, Proof.PROVEN, page.words.text())

    def test_a_height_that_is_taken_once_makes_the_other_marks(self) -> None:
        self.page.turn_to("Square")
        page = self.page.square
        run = page.procedure
        self.click(page.go)
        until(lambda: run.question is not None, "the first corner", 60)
        high, asked = self.session.axes[Z].position, [run.question.key]
        follow(run.changed, lambda: asked.append(run.question.key) if run.question is not None else None, page)
        self.session.link.jog_step(Z, -4, 600)
        until(lambda: self.session.axes[Z].position < high - 3.99 and not self.session.moving, "the tool to be down")
        self.escape()  # with the tool on the bed: it is raised before it is taken anywhere
        until(lambda: not self.session.moving and self.session.powered, "rest")
        with mock.patch.object(self.session.link, "jog_step", wraps=self.session.link.jog_step) as told:
            self.click(page.go)
            until(lambda: run.question is not None, "the first corner again", 60)
        self.assertEqual(told.call_args_list[0].args[0], Z)  # before X and Y
        self.assertAlmostEqual(self.session.axes[Z].position, high, places=2)
        self.session.link.jog_step(Z, -4, 600)
        until(lambda: self.session.axes[Z].position < high - 3.99 and not self.session.moving, "the tool to be down")
        self.again(lambda: self.answer(page), lambda: run.question is None, "the mark to be made")  # it may move still
        until(lambda: not run.running or (run.question and run.question.key == "square.rising"), "all four marks", 90)
        self.assertTrue(run.running, run.words)
        self.assertEqual(set(asked), {"square.mark", "square.rising"})
        self.assertEqual((run.corner, round(run.lowered, 2)), (4, 4.0))
        self.assertAlmostEqual(self.session.axes[Z].position, high, places=2)
        page.with_sides.click()  # while it runs: they are asked for after the diagonals
        self.go_through(page)
        self.assertIn("out of square", page.title.text())
        self.assertEqual(len(run.sides), 4)
        self.page.turn_to("By a square")
        upright = self.page.blade
        upright.plane.setCurrentIndex(1)
        upright.plane.activated.emit(1)
        self.assertEqual(upright.title.text(), "X and Z: not measured yet")
        self.assertFalse(upright.across.isVisible())  # no beam turns upright
        self.assertIn("Its sides say nothing against either scale", page.words.text())

    def test_bounds_of_the_rectangle_and_of_what_is_wanted(self) -> None:
        self.page.turn_to("Square")
        page = self.page.square
        for editor, typed, why in (
            (page.width_edit, "5000", "does not fit into its travel"), (page.height_edit, "3", "tells nothing"),
        ):  # fmt: skip
            page.procedure.propose()
            editor.setText(typed)
            editor.editingFinished.emit()
            self.assertIn(why, page.beforehand.text())
            self.click(page.go)
            self.assertIn(why, self.window.notice.words)
            self.assertFalse(page.procedure.running)
        page.tolerance.setText("much")
        page.tolerance.editingFinished.emit()
        self.assertIn("0.005 to 20 mm per m", self.window.notice.words)
        self.assertEqual(page.tolerance.text(), "0.3")

    def test_an_axis_that_was_moved_while_a_mark_was_made_goes_back_to_its_corner(self) -> None:
        self.page.turn_to("Square")
        page = self.page.square
        run = page.procedure
        self.click(page.go)
        until(lambda: run.question is not None, "the first corner", 60)
        self.session.link.jog_step(X, 3, 60)
        until(lambda: self.session.axes[X].moving, "X to move")
        self.click(page.asking.done)
        self.assertIn("still moves", self.window.notice.words)
        self.assertIsNotNone(run.question)  # nothing is lost: it is asked still
        until(lambda: self.session.axes[X].position > page.procedure.marked.x + 2, "X to be away")
        self.rest()
        self.click(page.asking.done)
        until(lambda: run.question is None, "X to go back")
        until(lambda: run.question is not None, "the corner again", 60)
        self.assertEqual(run.corner, 0)
        self.assertAlmostEqual(self.session.axes[X].position, run.marked.x, delta=0.03)
        self.escape()
        self.assertIs(run.result.end, Ending.STOPPED)


class Comeback(GeometryCase):
    def test_an_axis_that_comes_back_is_proven_and_what_is_wanted_is_judged_anew(self) -> None:
        self.page.turn_to("Comes back")
        page = self.page.comeback
        page.show_axis(Y)
        self.assertIn("12 arrivals", page.beforehand.text())
        self.go_through(page)
        self.assertIn("comes back within", page.title.text())
        self.assertIs(page.mark.state, Proof.PROVEN, page.words.text())
        self.assertEqual(self.page.axis, Y)
        page.tolerance.setText("0.005")
        page.tolerance.editingFinished.emit()
        self.assertIs(page.mark.state, Proof.FAILED)  # no dial of 0.01 mm can prove that
        self.assertIn("cannot be told with this", page.title.text())
        self.session.set_values({at(Y, "pace.acceleration"): Fraction(300)})
        page.tolerance.setText("0.02")
        page.tolerance.editingFinished.emit()
        self.assertIs(page.mark.state, Proof.ENTERED)  # read with another pace, and not proven then
        self.click(page.drop)
        self.assertIn("not measured yet", page.title.text())

    def test_esc_ends_it_and_what_turns_is_refused(self) -> None:
        self.page.turn_to("Comes back")
        page = self.page.comeback
        page.show_axis(Y)
        self.click(page.go)
        until(lambda: page.procedure.question is not None, "the dial", 60)
        self.answer(page)
        self.answer(page)
        self.escape()
        self.assertIs(page.procedure.result.end, Ending.STOPPED)
        self.assertNotIn("return.Y", self.session.proofs)
        page.show_axis(3)
        self.click(page.go)
        self.assertIn("A is not homed yet", self.window.notice.words)


class Level(GeometryCase):
    def tell_it(self) -> None:
        super().tell_it()
        self.session.set_values({at(X, "chain.pitch"): Fraction(4)})
        self.sent()

    def test_a_bed_that_lies_askew_is_mapped_and_judged_by_what_is_wanted(self) -> None:
        self.page.turn_to("Level")
        page = self.page.level
        self.click(page.go)
        self.assertIn(
            "Z is not homed yet", self.window.notice.words
        )  # nothing moves over the bed at a height that is not known
        self.assertFalse(page.procedure.running)
        machine = self.session.machine
        self.believe(Z)
        for claim in (pace_claim(machine, Z), ends_claim(machine, Z)):
            self.session.prove(claim, True, "as if it had been seen", Witness.EYES)
        self.home(Z)
        page.counts[0].setCurrentIndex(0)
        page.counts[0].activated.emit(0)  # two along X
        self.click(page.go)
        until(lambda: page.procedure.question is not None, "the first place", 60)
        self.session.link.jog_step(Z, -20, 900)
        until(lambda: self.session.axes[Z].position < -19, "the dial to be lowered")
        self.rest()
        self.go_through(page)
        self.assertEqual(len(page.procedure.heights), 6, page.procedure.words + self.window.notice.words)
        self.assertIn("lies askew", page.title.text())
        self.assertIn("Raise X\u2212 Y\u2212 by 0.1", page.words.text())
        self.assertIs(page.mark.state, Proof.FAILED)
        for typed, state in (("0.3", Proof.PROVEN), ("0.05", Proof.FAILED)):
            page.tolerance.setText(typed)
            page.tolerance.editingFinished.emit()
            self.assertIs(page.mark.state, state)
        self.click(page.drop)
        self.assertEqual(page.procedure.heights, {})
        self.assertIn("not measured yet", page.title.text())


class Blade(GeometryCase):
    def test_the_square_is_laid_turned_over_and_an_interruption_loses_no_whole_laying(self) -> None:
        for slot, place in ((X, -150), (Y, -95)):
            self.session.link.jog_step(slot, place, 3000)
            until(lambda slot=slot, place=place: self.session.axes[slot].position < place + 1, "the middle")  # type: ignore[misc]
        self.rest()
        self.page.turn_to("By a square")
        page = self.page.blade
        page.length.setText("5")
        page.length.editingFinished.emit()
        self.assertIn("From 20 to", self.window.notice.words)
        page.length.setText("60")
        page.length.editingFinished.emit()
        self.click(page.go)
        until(lambda: page.procedure.question is not None, "the square")
        while len(page.procedure.layings) < 1:
            self.answer(page)
        until(lambda: page.procedure.question is not None, "the square again")
        self.escape()
        self.assertIs(page.procedure.result.end, Ending.STOPPED)
        self.assertEqual(len(page.procedure.layings), 1)
        self.assertIn("turned over", page.go.text())
        self.go_through(page)
        found = page.procedure.found
        self.assertAlmostEqual(found.angle, 0.0, delta=found.expanded + 0.01)  # the ways of Verge stand well
        self.assertIn("The square itself has", page.words.text())
        page.tolerance.setText("1")
        page.tolerance.editingFinished.emit()
        self.assertIs(page.mark.state, Proof.PROVEN, page.words.text())
        self.click(page.drop)
        self.assertIsNone(page.procedure.found)


class Kept(GeometryCase):
    def test_what_is_not_proven_goes_nowhere_fast_and_what_is_keeps_its_steps(self) -> None:
        self.page.turn_to("Steps kept")
        page = self.page.kept
        self.click(page.go)
        self.assertIn("Z and A are not homed yet", self.window.notice.words)
        machine = self.session.machine
        self.believe(Z, 3)
        for slot in (Z, 3):
            self.home(slot)
        self.click(page.go)
        self.assertIn("the pace must be proven first", self.window.notice.words)
        for claim in (pace_claim(machine, Z), ends_claim(machine, Z), pace_claim(machine, 3)):
            self.session.prove(claim, True, "as if it had been seen", Witness.EYES)
        self.click(page.go)
        until(lambda: page.procedure.done > 2, "some moves", 60)
        self.escape()
        self.assertIs(page.procedure.result.end, Ending.STOPPED)
        self.assertNotIn("kept", self.session.proofs)
        self.rest()
        self.assertEqual(page.procedure.try_it(5), "")
        until(lambda: not page.procedure.running, "the moves", 120)
        self.assertIs(page.mark.state, Proof.PROVEN, page.words.text())
        self.assertIn("no steps were lost", page.words.text())


class Runout(SessionCase):
    pace = 40

    def test_a_bar_beside_the_middle_is_found_and_a_dial_that_touches_nothing_is_not_believed(self) -> None:
        self.wire()
        self.believe(3)
        self.power()
        self.home(3)
        self.window.open_station(Station.GEOMETRY)
        station: Any = self.window.page(Station.GEOMETRY)
        station.turn_to("Runout")
        page = station.runout
        self.assertEqual(page.slot, 3)  # the one that turns
        self.click(page.go)
        until(lambda: page.procedure.question is not None, "the dial", 60)
        self.click(page.asking.done)
        until(
            lambda: page.procedure.question is not None and page.procedure.question.key == "runout.follows",
            "the feeler",
        )
        page.asking.reading.setText("0")
        QTest.keyClick(page.asking.reading, Qt.Key.Key_Return)
        self.assertIn("does not stand against the bar", self.window.notice.words)
        self.assertFalse(page.procedure.running)
        self.click(page.go)
        GeometryCase.go_through(self, page)  # type: ignore[arg-type]
        found = page.procedure.found(3)
        self.assertAlmostEqual(found.total, 0.024, delta=found.expanded)
        for typed, state in (("0.06", Proof.PROVEN), ("0.005", Proof.FAILED)):
            page.tolerance.setText(typed)
            page.tolerance.editingFinished.emit()
            self.assertIs(page.mark.state, state, page.words.text())
        page.show_axis(X)
        self.assertIn("turns nothing", page.title.text())
        self.assertFalse(page.go.isEnabled())

    answer = GeometryCase.answer


class Lathe(SessionCase):
    rig = "fusee"

    def test_the_tailstock_of_a_lathe_by_two_diameters(self) -> None:
        self.window.open_station(Station.GEOMETRY)
        station: Any = self.window.page(Station.GEOMETRY)
        station.turn_to("Tailstock")
        page = station.tail
        self.click(page.go)
        for typed, refused in (("24 mm", ""), ("30 mm", "cannot be"), ("24.06 mm", ""), ("5 mm", "cannot be"), ("150 mm", ""),
                               ("100 mm", "cannot be")):  # fmt: skip
            page.asking.reading.setText(typed)
            QTest.keyClick(page.asking.reading, Qt.Key.Key_Return)
            said = f"{typed}: {page.procedure.words} {self.window.notice.words}"
            self.assertEqual(
                bool(refused), bool(page.asking.reading.text()), said
            )  # what was refused stays to be mended
            if refused:
                self.assertIn(refused, self.window.notice.words)
        self.escape()
        self.assertIn("Go on", page.go.text())  # what was told stays
        self.click(page.go)
        page.asking.reading.setText("300 mm")
        QTest.keyClick(page.asking.reading, Qt.Key.Key_Return)
        self.assertIn("0.060 mm", page.words.text())
        self.assertIn("towards the tool", page.words.text())
        self.assertIs(page.mark.state, Proof.FAILED)
        page.tolerance.setText("0.1")
        page.tolerance.editingFinished.emit()
        self.assertIs(page.mark.state, Proof.PROVEN)


class NoBed(SessionCase):
    rig = "fusee"
    on_bench = False

    def test_a_lathe_has_no_bed_to_be_squared(self) -> None:
        self.window.open_station(Station.GEOMETRY)
        page: Any = self.window.page(Station.GEOMETRY)
        page.turn_to("Square")
        self.assertIn("no bed", page.square.title.text())
        self.assertFalse(page.square.go.isEnabled())
        self.assertEqual(page.play._tolerance, Fraction(1, 50))


if __name__ == "__main__":
    unittest.main()
