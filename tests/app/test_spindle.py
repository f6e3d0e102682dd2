"""The Spindle station on benches: curve, times, ways of stopping, encoder, bus, way oil."""

from __future__ import annotations

import tempfile
from fractions import Fraction
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton

from idler.app.qt_wait import TooLong, until
from idler.core.machine import Address
from idler.core.profile.terminals import Condition
from idler.core.proof.claims import (
    Proof,
    Witness,
    curve_claim,
    meter_claim,
    spindle_way_claim,
    state,
    stop_claim,
    times_claim,
)
from idler.core.spindle import Meter, ranges
from idler.core.spindle.registers import write
from idler.core.spindle.way import look_speeds
from idler.core.table.stations import Station
from idler.link.events import Asked
from idler.link.modbus import DriveState
from tests.app.gui import SessionCase
from tests.support import at, torch, wiring


class SpindleCase(SessionCase):
    more: dict[Address, object] = {}  # noqa: RUF012

    def tell(self, values: dict[Address, object]) -> None:
        self.session.set_values(values)  # type: ignore[arg-type]
        self.again(self.session.send, lambda: not self.session.count().edited, "the values to be sent")

    def as_if_counted(self, kind: Meter) -> None:
        claim = meter_claim(self.session.machine, kind)
        assert claim is not None
        self.session.prove(claim, True, "as if a hand had turned it", Witness.EYES)

    def page_of(self, name: str):
        self.window.open_station(Station.SPINDLE)
        self.page = self.window.page(Station.SPINDLE)
        self.page.turn_to(name)
        return self.page

    def stands(self, claim) -> Proof:
        return state(self.session.machine, claim, self.session.proofs)

    def ended(self, run, what: str) -> None:
        until(lambda: not run.running, what, 300)

    def through(self, button, run, good, what: str) -> None:
        """A run from its button to its good end. A computer that pauses while it turns ends it: the controller stops a
        spindle whose client is not heard; then a person begins it again."""
        for _ in range(4):
            self.again(lambda: self.click(button), lambda: run.running or good(), what)
            self.ended(run, what)
            if good():
                return
        self.fail(f"{what}: {run.words}")

    def touch(self, **request: object) -> None:
        """A hand at the machine."""
        answers: list[dict] = []
        self.session.bench_hands.ask(answers.append, **request)
        until(lambda: answers, "the hand")
        self.assertTrue(answers[0]["ok"], answers[0])


class Offline(SpindleCase):
    on_bench = False

    def test_without_a_controller_every_run_says_so(self) -> None:
        told: list[str] = []
        self.session.told.subscribe(lambda _kind, words: told.append(words))
        page = self.page_of("Curve")
        for button in (page.curve.measure, page.curve.check):
            self.click(button)
        page.turn_to("Ladder")
        self.click(page.interlocks.buttons["esc"])
        self.assertEqual(told, ["No controller is connected."] * 3)
        self.assertEqual(page.interlocks.why.text(), "No controller is connected.")

    def test_a_range_is_engaged_with_a_press_and_undone(self) -> None:
        page = self.page_of("Set-up")
        buttons = page._ranges.buttons()
        self.assertEqual([button.text() for button in buttons], ["1  low groove", "2  middle groove", "3  high groove"])
        self.click(buttons[0])
        self.assertEqual(self.value("spindle.engaged", None), 1)
        self.assertEqual(page.set_up.range.fields["range.name"].address.slot, 0)
        self.session.undo_stack.undo()
        self.assertEqual(self.value("spindle.engaged", None), 3)

    def test_a_spindle_on_a_relay_has_no_curve_and_wants_a_speed_to_start(self) -> None:
        self.session.set_values({Address(None, "spindle.kind"): "relay"})
        page = self.page_of("Curve")
        self.assertFalse(page.curve.measure.isVisible() or page.curve.check.isVisible())
        self.assertIn("only switched on and off", page.curve.words.text())
        self.window.margin.show_station(Station.SPINDLE)
        edit = next(b for b in self.window.margin.findChildren(QPushButton) if b.text() == "Set 6\u202f000 rpm")
        self.click(edit)
        self.assertEqual(self.value("spindle.start_speed", None), 6000)

    def test_the_oil_of_a_shift_follows_its_values(self) -> None:
        page = self.page_of("Oil")
        self.assertIn("6 strokes in this shift, 7.2 ml", page.oil.words.text())
        self.session.set_values({Address(None, "oil.every"): Fraction(500)})
        self.assertIn("not stroke once", page.oil.words.text())

    def test_bad_points_stay_in_their_field_with_a_sentence(self) -> None:
        told: list[str] = []
        self.session.told.subscribe(lambda _kind, words: told.append(words))
        page = self.page_of("Set-up")
        field = page.set_up.range.fields["range.points"]
        field.editor.setFocus()
        field.editor.selectAll()
        QTest.keyClicks(field.editor, "10 600, 5 700")
        QTest.keyClick(field.editor, Qt.Key.Key_Return)
        self.assertIn("does not go up", told[-1])
        self.assertEqual(self.value("range.points", 2), "none")

    def test_registers_are_edited_kept_and_refused(self) -> None:
        told: list[str] = []
        self.session.told.subscribe(lambda _kind, words: told.append(words))
        self.session.set_values({Address(None, "spindle.kind"): "modbus"})
        page = self.page_of("Bus")
        row = page.bus.rows["measured"]
        row.number.setText("2000h")
        row.number.editingFinished.emit()
        row.step.setText("0.5 rpm")
        row.step.editingFinished.emit()
        found = self.session.bus.registers.registers["measured"]
        self.assertEqual((found.number, found.rpm, found.table), (0x2000, 0.5, "input"))
        page.bus.rows["run"].number.setText("")
        page.bus.rows["run"].number.editingFinished.emit()
        self.assertIn("is needed", told[-1])
        row.number.setText("99999")
        row.number.editingFinished.emit()
        self.assertIn("0 to 65535", told[-1])
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "drive.toml"
            path.write_text("[run]\nregister = 7\n[speed]\nregister = 8\n", "utf-8")
            page.bus.load_from(path)
            self.assertEqual(self.session.bus.registers.registers["run"].number, 7)
            path.write_text("nonsense", "utf-8")
            page.bus.load_from(path)
        self.assertIn("not TOML", told[-1])
        self.application.close()
        self.open()
        self.assertEqual(self.session.bus.registers.registers["speed"].number, 8)
        self.assertTrue(write(self.session.bus.registers))


class Steady(SpindleCase):
    on_bench = False

    def test_the_speed_that_was_steady_counts_although_the_meter_goes_on(self) -> None:
        run = self.page_of("Curve").run
        said = iter((None, 1200.0, None, None))
        with mock.patch.object(type(run.meter), "steady", property(lambda _: next(said))):
            ready = run._steady()
            self.assertEqual([ready(), ready()], [False, True])
            self.assertEqual((run._speed(), run._speed()), (1200.0, 1200.0))


class OnVerge(SpindleCase):
    """0 to 10 V, three ranges, a magnet on the spindle."""

    def setUp(self) -> None:
        super().setUp()
        self.tell({**wiring(), at(7, "input.role"): "pulse", at(7, "input.rest"): "open"})
        self.as_if_counted(Meter.PULSE)

    def test_the_curve_is_measured_taken_and_proven(self) -> None:
        page = self.page_of("Curve")
        self.assertIs(page.run.meter.kind, Meter.PULSE)
        self.through(page.curve.measure, page.run, lambda: 2 in page.run.curves, "the sweep")
        curve = page.run.curves[2]
        self.assertAlmostEqual(curve.dead, 3.1, delta=0.6)
        self.assertAlmostEqual(curve.top, 5965, delta=30)
        self.assertIn("As it is told", page.curve.words.text())
        self.click(page.curve.take)
        self.assertEqual(len(ranges(self.session.machine)[2].points), len(curve.points))
        self.click(page.curve.check)
        self.assertFalse(page.run.running)  # the points are not in the controller yet
        self.tell({})
        claim = curve_claim(self.session.machine, 2)
        self.through(page.curve.check, page.run, lambda: self.stands(claim) is Proof.PROVEN, "the speeds")
        self.assertIn("within 1 % or 5 rpm", page.curve.words.text())

    def test_a_range_that_turns_as_another_is_asked_about_and_eyes_say_where_the_belt_lies(self) -> None:
        self.tell({at(None, "spindle.engaged"): 1})  # and the belt is left where it was
        page = self.page_of("Curve")
        for _ in range(5):  # a computer that pauses ends what turns
            self.click(page.curve.measure)
            until(lambda: page.run.question is not None or not page.run.running, "the question", 60)
            if page.run.question is not None:
                break
        self.assertIn("which is the top of range 3", page.curve.words.text())
        self.assertTrue(page.curve.lies.isVisible() and page.curve.lies_not.isVisible())
        self.assertFalse(page.curve.done.isVisible())
        self.assertTrue(page.curve.lies.hasFocus())
        self.click(page.curve.lies_not)
        self.ended(page.run, "its end")
        self.assertIn("Move it there while the spindle stands", page.curve.words.text())
        self.assertFalse(page.curve.take.isVisible() or page.curve.lies.isVisible())
        self.assertNotIn(0, page.run.curves)

    def test_times_are_measured_both_ways_and_their_waits_proven(self) -> None:
        page = self.page_of("Times")
        claim = times_claim(self.session.machine, 2)
        every = {"up, right", "down, right", "up, left", "down, left"}
        for _ in range(4):
            if self.stands(claim) is Proof.PROVEN:
                break
            page.run.traces.pop(2, None)
            self.through(page.times.measure, page.run, lambda: set(page.run.traces.get(2, ())) == every, "the run")
            if page.times.take.isVisible():
                self.click(page.times.take)
                self.tell({})
                claim = times_claim(self.session.machine, 2)
        found = ranges(self.session.machine)[2]
        self.assertTrue(found.run_up > 1 and found.run_down > 1)
        self.assertIs(self.stands(times_claim(self.session.machine, 2)), Proof.PROVEN)

    def test_esc_ends_a_sweep_and_the_spindle_and_keeps_nothing(self) -> None:
        page = self.page_of("Curve")
        self.again(lambda: self.click(page.curve.measure), lambda: len(page.run.samples.get(2, ())) > 3, "the sweep")
        self.escape()
        until(lambda: not page.run.running, "the end")
        until(lambda: not self.session.link.panel.conditions & Condition.SPINDLE, "the spindle to be off")
        self.assertEqual(page.run.curves, {})
        self.assertEqual(page.run.asked, Asked())

    def test_leaving_the_station_ends_it_too(self) -> None:
        page = self.page_of("Curve")
        self.again(lambda: self.click(page.curve.measure), lambda: len(page.run.samples.get(2, ())) > 3, "the sweep")
        self.click(page.curve.filter)
        self.assertFalse(page.run.running)
        until(lambda: not self.session.link.panel.conditions & Condition.SPINDLE, "the spindle to be off")
        study = self.window.page(Station.WIRING).study
        self.assertTrue(study.spindle.isChecked())

    def test_every_way_of_stopping_is_proven(self) -> None:
        page = self.page_of("Ladder")
        self.power()
        for way, do, undo in (
            ("esc", self.escape, lambda: None),
            ("guard", lambda: self.touch(do="press", switch="guard"), lambda: self.touch(do="release", switch="guard")),
            ("stop", lambda: self.touch(do="press", switch="emergency stop"),
             lambda: self.touch(do="release", switch="emergency stop")),
            ("link", lambda: self.touch(do="cut"), lambda: self.touch(do="mend")),
        ):  # fmt: skip
            with self.subTest(way):
                for _ in range(4):  # a computer that pauses ends the run, rightly, and a person tries again
                    if not self.session.powered:
                        self.power()
                    self.prove(page, way, do, undo)
                    if self.stands(stop_claim(self.session.machine, way)) is Proof.PROVEN:
                        break
                self.assertIs(self.stands(stop_claim(self.session.machine, way)), Proof.PROVEN)
        self.assertEqual(page.interlocks.why.text(), "The spindle may start.")

    def prove(self, page, way: str, do, undo) -> None:
        self.again(lambda: self.click(page.interlocks.buttons[way]), lambda: page.stops.running, "the trial")
        until(lambda: page.stops._expecting or not page.stops.running, "it to turn", 60)
        do()
        undone = False

        def over() -> bool:
            nonlocal undone
            if not undone and ("It stands." in page.stops.words or "The link is gone" in page.stops.words):
                undone = True
                undo()
            return not page.stops.running

        until(over, "the end of the trial", 60)
        if not undone:
            undo()

    def test_what_is_not_the_way_on_trial_proves_nothing(self) -> None:
        page = self.page_of("Ladder")
        self.prove(page, "guard", self.escape, lambda: None)
        self.assertIn("something else", page.stops.words)
        self.assertIs(self.stands(stop_claim(self.session.machine, "guard")), Proof.ENTERED)

    def test_a_spindle_that_turns_the_wrong_way_is_turned_round(self) -> None:
        page = self.page_of("Way")
        self.hold_and_see(page, 1, -1)
        self.assertIn("See it turn left, too", page.way.words.text())
        self.hold_and_see(page, -1, 1)
        self.assertIn("wrong way", page.way.words.text())
        self.assertEqual(self.value("output.inverted", 1), True)
        self.tell({})
        self.hold_and_see(page, 1, 1)
        self.assertIs(page.control_of("spindle.way", None), page.way.holds[-1])
        self.assertIsNot(self.stands(spindle_way_claim(self.session.machine)), Proof.PROVEN)
        self.hold_and_see(page, -1, -1)
        self.assertIs(self.stands(spindle_way_claim(self.session.machine)), Proof.PROVEN)

    def test_wires_of_on_and_direction_that_are_crossed_are_told_by_both_ways(self) -> None:
        on, direction = at(0, "output.role"), at(1, "output.role")
        self.tell({on: "direction", direction: "spindle_on"})
        page = self.page_of("Way")
        self.hold_and_see(page, 1, 0)
        self.assertIn("See whether it turns left", page.way.words.text())
        slow, faster = look_speeds(self.session.machine, page.way.run.engaged())
        self.assertIn(f"turn, asked for {slow} rpm", page.way.words.text())
        self.assertIn(f"once more, and it is asked for {faster} rpm", page.way.words.text())
        self.hold_and_see(page, 1, 0)
        self.assertIn(f"turn, asked for {faster} rpm", page.way.words.text())
        self.assertNotIn("once more", page.way.words.text())
        self.hold_and_see(page, -1, -1)
        self.assertIn("at each other's terminals", page.way.words.text())
        self.assertEqual([self.session.machine[each] for each in (on, direction)], ["spindle_on", "direction"])
        self.assertIs(self.stands(spindle_way_claim(self.session.machine)), Proof.ENTERED)

    def hold_and_see(self, page, way: int, seen: int) -> None:
        button = page.way.holds[way]
        self.again(
            lambda: QTest.mousePress(button, Qt.MouseButton.LeftButton),
            lambda: self.session.link.panel.conditions & Condition.SPINDLE, "the spindle",
        )  # fmt: skip
        QTest.mouseRelease(button, Qt.MouseButton.LeftButton)
        until(lambda: not self.session.link.panel.conditions & Condition.SPINDLE, "its end")
        until(lambda: page.way.run.question is not None, "the question")
        self.click(page.way.answers[seen])

    def test_coolant_is_tried_by_holding(self) -> None:
        page = self.page_of("Try")
        self.assertEqual(list(page.switched.buttons), ["coolant", "way_oil"])
        button = page.switched.buttons["coolant"]
        self.again(
            lambda: QTest.mousePress(button, Qt.MouseButton.LeftButton),
            lambda: self.session.link.panel.is_energised(4), "the coolant",
        )  # fmt: skip
        QTest.mouseRelease(button, Qt.MouseButton.LeftButton)
        until(lambda: not self.session.link.panel.is_energised(4), "its end")

    def test_strokes_and_the_time_to_the_next_come_from_the_controller(self) -> None:
        page = self.page_of("Oil")
        until(lambda: "0 strokes so far" in page.oil.now.text(), "the count of the controller")
        self.assertIn("the next one after", page.oil.now.text())


class OnLongcase(SpindleCase):
    """Pulse width, and nothing that measures but a tachometer in the hand."""

    rig = "longcase"

    def test_readings_are_typed(self) -> None:
        names = [str(self.value("output.terminal", slot)) for slot in range(self.session.machine.outputs)]
        self.tell(
            {at(names.index("1"), "output.role"): "spindle_on", at(names.index("PW"), "output.role"): "spindle_level"}
        )
        page = self.page_of("Curve")
        self.assertIs(page.run.meter.kind, Meter.TYPED)
        for _ in range(4):  # a computer that pauses while it turns ends it, and a person begins again
            self.type_a_sweep(page)
            if page.run.curves:
                break
        self.assertAlmostEqual(page.run.curves[0].top, 23_600, delta=80)

    def type_a_sweep(self, page) -> None:  # type: ignore[no-untyped-def]
        """Every reading by a hand tachometer: the first one typed, in a unit that there is not, then as it is shown."""
        self.again(lambda: self.click(page.curve.measure), lambda: page.run.running, "the sweep")
        asked = ""
        typed = False

        def answer() -> bool:
            nonlocal asked, typed
            words = page.curve.reading.words.text()
            if (
                page.curve.reading.isVisible()
                and words != asked
                and self.session.link.panel.conditions & Condition.SPINDLE
            ):
                asked = words
                answers: list[dict] = []
                QTest.qWait(1)
                self.session.bench_hands.ask(answers.append, do="run", seconds=6)
                until(lambda: answers, "it to be steady")
                if typed:
                    self.click(page.curve.reading.hold)
                else:
                    typed = True
                    self.touch(do="tachometer")
                    QTest.keyClicks(page.curve.reading.field, "0.12 krpm")
                    QTest.keyClick(page.curve.reading.field, Qt.Key.Key_Return)
                    self.assertEqual(len(page.run.samples[0]), 1)  # no such unit: it is asked again
                    self.click(page.curve.reading.hold)
            return not page.run.running

        until(answer, "the sweep", 300)


class OnFusee(SpindleCase):
    """A drive on Modbus, and an encoder that was told wrong."""

    rig = "fusee"

    def setUp(self) -> None:
        super().setUp()
        self.tell({at(0, "output.role"): "spindle_on", at(0, "input.role"): "stop", at(5, "input.role"): "guard"})
        self.page_of("Bus")

    def test_a_drive_that_trips_ends_it(self) -> None:
        self.tell({at(2, "input.role"): "ready", at(2, "input.rest"): "open"})
        self.speak()
        page = self.page_of("Ladder")
        until(lambda: page.interlocks.why.text() == "The spindle may start.", "the ladder")
        self.again(lambda: self.click(page.interlocks.buttons["ready"]), lambda: page.stops.running, "the trial")
        until(lambda: page.stops._expecting or not page.stops.running, "it to turn", 60)
        self.touch(do="trip")
        until(lambda: "It stands." in page.stops.words or not page.stops.running, "standstill", 60)
        self.touch(do="restore")
        self.ended(page.stops, "the trial")
        self.assertIs(self.stands(stop_claim(self.session.machine, "ready")), Proof.PROVEN)

    def speak(self) -> None:
        self.click(self.page.bus.open)
        until(lambda: self.session.bus.answers, "the drive")

    def test_a_drive_that_is_left_is_not_waited_for_and_not_heard_any_more(self) -> None:
        self.speak()
        bus = self.session.bus
        bus._drive._thread.join = None  # whoever waited for it here would fall over it
        self.click(self.page.bus.open)
        self.assertFalse(bus.opened)
        bus._take(bus._talk, DriveState(True, 100.0))
        self.assertIsNone(bus.state)
        self.speak()
        bus._take(bus._talk - 1, DriveState(True, 4321.0))
        self.assertNotEqual(bus.state.rpm, 4321.0)

    def test_nothing_runs_before_the_drive_is_spoken_to_and_while_it_is_in_a_fault(self) -> None:
        self.assertIn("is not spoken to", self.session.spindle_obstacle())
        self.speak()
        self.assertEqual(self.session.spindle_obstacle(), "")
        self.touch(do="trip")
        until(lambda: "fault 2" in self.session.spindle_obstacle(), "the fault")
        self.click(self.page.bus.reset)
        until(lambda: not self.session.spindle_obstacle(), "the reset")

    def test_the_encoder_is_learned_by_hand_and_the_speeds_proven(self) -> None:
        self.speak()
        page = self.page
        page.turn_to("Way")
        self.click(page.way.begin)
        self.touch(do="spin", turns=0.3)  # what moves it before it stands is not counted
        for turns, say in ((0.995, "encoders of 1000 and 1024 lines fit. Turn it 5 times"), (4.985, "in 5 turns")):
            until(lambda: page.way.encoder.question is not None, "the spindle to stand")
            before = self.session.link.panel.counts
            self.touch(do="spin", turns=turns)
            until(lambda before=before: self.session.link.panel.counts != before, "the counts")
            self.assertFalse(page.way.take.isVisible())
            self.click(page.way.begin)
            until(lambda say=say: say in page.way.counted.text(), say)
        self.assertIn("1024 lines, 4096 counts", page.way.counted.text())
        self.assertIn("counts downwards", page.way.counted.text())
        self.click(page.way.take)
        self.tell({})
        self.assertEqual(self.value("spindle.counts", None), 4096)
        self.assertTrue(self.value("spindle.counts_reversed", None))
        page.turn_to("Curve")
        self.assertIs(page.run.meter.kind, Meter.ENCODER)
        self.assertFalse(page.curve.measure.isVisible())
        self.as_if_counted(Meter.ENCODER)
        claim = curve_claim(self.session.machine, 0)
        self.through(page.curve.check, page.run, lambda: self.stands(claim) is Proof.PROVEN, "the speeds")
        self.assertFalse(self.session.link.panel.conditions & Condition.SPINDLE and self.page.run.running)


class OnTable(SpindleCase):
    """A cutting table: a torch in place of a spindle."""

    def setUp(self) -> None:
        super().setUp()
        self.tell(torch())

    def test_it_is_called_what_it_is_and_has_no_pages_of_speeds(self) -> None:
        page = self.page_of("Ladder")
        hidden = [name for name, button in page.segments.buttons.items() if button.isHidden()]
        self.assertEqual(hidden, ["Curve", "Times", "Way", "Bus"])
        self.assertTrue(self.window.train.words_of(Station.SPINDLE).startswith("Torch:"))
        self.assertTrue(page.chain.isHidden())
        seen = [each.text() for each in self.window.findChildren(QLabel) if each.isVisible()]
        self.assertEqual([text for text in seen if "pindle" in text], [])
        page.turn_to("Set-up")
        seen = [each.text() for each in page.findChildren(QLabel) if each.isVisible()]
        self.assertEqual([text for text in seen if "pindle" in text or "speed" in text], [])

    def test_eyes_see_that_it_goes_off(self) -> None:
        page = self.page_of("Ladder")
        claim = stop_claim(self.session.machine, "esc")

        def answers(key: str, text: str) -> None:
            until(lambda: page.stops.question is not None and page.stops.question.key == key, key, 30)
            button = page.interlocks.asking.done if not text else next(
                each for each in page.interlocks.asking.choices.findChildren(QPushButton) if each.text() == text
            )  # fmt: skip
            self.click(button)

        for _ in range(4):  # a computer that pauses lets the torch go, rightly, and a person tries again
            if not self.session.powered:
                self.power()
            self.click(page.interlocks.buttons["esc"])
            try:
                answers("cutter.ready", "")
                answers("cutter.on", "Yes, it burns")
                until(lambda: page.stops._expecting, "it to be ended", 10)
                self.escape()
                for _ in range(2):
                    answers("cutter.off", "Yes, it is off")
                self.ended(page.stops, "the proof")
            except TooLong:
                continue
            if self.stands(claim) is Proof.PROVEN:
                break
        self.assertIs(self.stands(claim), Proof.PROVEN, page.stops.words)
