"""A spindle that Idler tells by plain terminals, and its encoder on a node of its own: on paper, then on the bench."""

from __future__ import annotations

import struct
import time
import unittest
from fractions import Fraction
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from idler.core.machine import Machine, Shape
from idler.core.profile.terminals import Condition
from idler.core.spindle import Meter, meters
from idler.core.values.roles import InputRole
from idler.link.errors import LinkError
from idler.link.events import Asked, Connected, Failed
from idler.link.plain import encoder as encoders
from idler.link.plain.encoder import Encoder
from idler.link.plain.part import Object, Part
from idler.link.plain.spindle import Phase, Spindle
from tests.link.test_plain import PARTS, PlainCase
from tests.support import at, wait_for

UP, DOWN = 1.5, 2.0  # s
SPINDLE = {
    at(None, "spindle.kind"): "voltage", at(None, "spindle.counts"): 4000, at(None, "spindle.start_speed"): Fraction(900),
    at(0, "output.role"): "spindle_on", at(8, "output.role"): "spindle_level", at(0, "range.high"): Fraction(18_000),
    at(0, "range.run_up"): Fraction(1500), at(0, "range.run_down"): Fraction(2000), at(1, "input.role"): "guard",
}  # fmt: skip


class Made:
    """Terminals whose contacts are told."""

    def __init__(self) -> None:
        self.closed: set[InputRole] = set()

    def made(self, role: InputRole) -> bool:
        return role in self.closed


class OnPaper(unittest.TestCase):
    def setUp(self) -> None:
        self.contacts = Made()
        self.spindle = Spindle(self.contacts, None)  # type: ignore[arg-type]
        self.machine = Machine.shaped(Shape(("X",), 8, 9)).with_values({**SPINDLE, at(1, "output.role"): "turn_left"})
        self.spindle.configure(self.machine)
        self.now = 100.0

    def after(self, seconds: float) -> int:
        """The way that it is told to turn then."""
        until = self.now + seconds
        while self.now < until - 1e-9:
            self.now = min(self.now + 0.05, until)
            self.spindle.step(self.now, powered=True)
        return self.spindle.given.run

    def test_it_is_turned_the_other_way_only_after_its_time_to_standstill(self) -> None:
        self.spindle.ask(Asked(run=1, speed=9000))
        self.assertEqual(self.after(0.1), 1)
        self.assertAlmostEqual(self.spindle.given.level, 500)
        self.assertIn(Condition.RUNNING_UP, self.spindle.conditions)
        self.after(UP)
        self.assertNotIn(Condition.RUNNING_UP, self.spindle.conditions)
        self.spindle.ask(Asked(run=-1, speed=9000))
        self.assertEqual(self.after(DOWN - 0.1), 0)
        self.assertIn(Condition.RUNNING_DOWN, self.spindle.conditions)
        self.assertEqual(self.after(0.3), -1)

    def test_what_ended_it_keeps_it_off_until_it_is_asked_for_anew(self) -> None:
        for role in (InputRole.GUARD, InputRole.STOP):
            self.spindle.ask(Asked(run=1))
            self.assertEqual(self.after(DOWN + 0.1), 1)
            self.assertAlmostEqual(self.spindle.given.level, 50)  # the speed of a bare start
            self.contacts.closed = {role}
            self.assertEqual(self.after(0.05), 0)
            self.assertTrue(self.spindle.obstacle(powered=True))
            self.contacts.closed = set()
            self.assertEqual(self.after(DOWN + 1), 0)

    def test_a_range_that_inputs_name_is_believed_and_two_are_none(self) -> None:
        self.spindle.configure(self.machine.with_values({
            at(None, "spindle.ranges"): 2, at(4, "input.role"): "range_1", at(5, "input.role"): "range_2",
            at(1, "range.high"): Fraction(3000),
        }))  # fmt: skip
        self.contacts.closed = {InputRole.RANGE_2}
        self.spindle.ask(Asked(run=1, speed=1500))
        self.assertEqual(self.after(0.1), 1)
        self.assertAlmostEqual(self.spindle.given.level, 500)
        self.contacts.closed = {InputRole.RANGE_1, InputRole.RANGE_2}
        self.assertEqual(self.after(DOWN + 0.1), 0)
        self.assertIn("name no speed range", self.spindle.obstacle(powered=True))

    @given(st.lists(st.tuples(st.sampled_from([-1, 0, 1]), st.floats(0.05, 3.0), st.booleans()), max_size=12))
    def test_it_never_turns_round_without_a_stand_nor_with_an_open_guard(
        self, said: list[tuple[int, float, bool]]
    ) -> None:
        self.setUp()
        last, left = 0, -1e9
        for run, seconds, guard in said:
            self.contacts.closed = {InputRole.GUARD} if guard else set()
            self.spindle.ask(Asked(run=run, speed=9000))
            until = self.now + seconds
            while self.now < until:
                self.now += 0.05
                before = self.spindle.given.run
                self.spindle.step(self.now, powered=True)
                turns = self.spindle.given.run
                self.assertFalse(guard and turns)
                if before and not turns:
                    last, left = before, self.now
                if turns and not before and turns != last:
                    self.assertGreaterEqual(self.now - left, DOWN - 1e-6)

    def test_pulses_that_are_looked_at_now_and_then_measure_nothing(self) -> None:
        pulse = self.machine.with_values({at(3, "input.role"): "pulse", at(None, "spindle.counts"): 0})
        self.assertEqual(meters(pulse), [Meter.PULSE, Meter.TYPED])
        self.assertEqual(meters(pulse.with_values({at(None, "build.controller"): "parts"})), [Meter.TYPED])


class Counting(unittest.TestCase):
    def encoder(self, told: dict[Object, int]) -> Encoder:
        part = mock.create_autospec(Part, instance=True)
        part.called = "node 5"
        part.has.side_effect = lambda where: where in told
        part.read_if_there.side_effect = told.get
        part.size_of.return_value = 4
        found = Encoder(part)
        found.find()
        return found

    @given(st.integers(0, 4_096_000 - 1), st.lists(st.integers(-2_000_000, 2_000_000), min_size=1, max_size=20))
    def test_it_counts_on_where_the_encoder_begins_anew(self, first: int, ways: list[int]) -> None:
        made = self.encoder({(0x6004, 0): 0, (0x6001, 0): 4096, (0x6002, 0): 4_096_000})
        at_ = first
        for n, way in enumerate([0, *ways]):
            at_ += way
            made._seen(encoders.POSITION, struct.pack("<I", at_ % 4_096_000), 10 + n, 10 + n)
        self.assertEqual(made.counts, sum(ways))

    def test_a_place_that_was_heard_late_makes_no_speed_and_no_count_is_lost(self) -> None:
        made, now = self.encoder({(0x6004, 0): 0, (0x6001, 0): 4096}), time.monotonic()
        for n in range(40):
            asked = now + n / 50
            late = 0.03 if n % 7 == 3 else 0.001  # this computer was busy, and the answer lay there
            made._seen(encoders.POSITION, struct.pack("<I", round(400 * n + 10)), asked, asked + late)
            if n > 16:
                self.assertAlmostEqual(made.rate, 20_000, delta=10)
        self.assertEqual(made.counts, 39 * 400)

    def test_one_that_falls_silent_does_not_stand(self) -> None:
        made = self.encoder({(0x6004, 0): 0, (0x6001, 0): 4096})
        now = time.monotonic()
        for n in range(3):
            made._seen(encoders.POSITION, struct.pack("<I", 400 * n), now + n / 50, now + n / 50)
        with mock.patch("time.monotonic", return_value=now + 60):
            self.assertAlmostEqual(made.rate, 20_000, delta=1)

    def test_one_that_begins_anew_too_soon_is_refused(self) -> None:
        for told in ({(0x6004, 0): 0, (0x6501, 0): 4096, (0x6502, 0): 1}, {(0x6001, 0): 4096}):
            with self.assertRaises(LinkError) as why:
                self.encoder(told)
            self.assertIn("Leave it out", why.exception.sentence)


class Left(PlainCase):
    def test_a_level_at_rest_is_told_to_nobody_before_its_outputs_are_safe(self) -> None:
        self.connect(f"{PARTS},5=encoder")
        with mock.patch.object(Part, "say") as said:
            self.send({**SPINDLE, at(None, "spindle.rest"): Fraction(10)})
            wait_for(lambda: self.link.panel.levels[0] == 0, "the levels")
        self.assertEqual([call for call in said.call_args_list if call.args[0][0] in (0x6200, 0x6411)], [])
        self.link.hold_terminals(Asked(run=1, level=600))
        wait_for(lambda: self.link.panel.levels[0] == 600, "it to be told", self.link.keep_holding)
        self.link.hold_terminals(Asked())
        wait_for(lambda: self.link.panel.levels[0] == 100, "its level at rest")


class OnBench(PlainCase):
    def setUp(self) -> None:
        super().setUp()
        self.connect(f"{PARTS},5=encoder")
        self.send(SPINDLE)

    @property
    def truth(self) -> float:
        return float(self.bench.hands.ask(do="look")["spindle"])

    def steady(self, asked: Asked) -> float:
        """Its speed in rpm, when the rig's own has come to rest."""
        self.link.hold_terminals(asked)
        wait_for(lambda: bool(self.link.panel.conditions & Condition.SPINDLE), "it to be told", self.link.keep_holding)
        since = time.monotonic()
        alike = lambda: self.truth > 500 and abs(self.link.panel.speed - self.truth) < 0.005 * self.truth  # noqa: E731
        wait_for(lambda: time.monotonic() - since > 2 and alike(), "the encoder to agree", self.link.keep_holding)
        return self.link.panel.speed

    def test_a_level_turns_it_the_encoder_tells_how_fast_and_the_guard_ends_it(self) -> None:
        self.assertEqual([self.machine[at(8, f"output.{key}")] for key in ("terminal", "kind", "own_volts")],
                         ["A1", "voltage", Fraction(10)])  # fmt: skip
        speed = self.steady(Asked(run=1, level=600))
        self.assertAlmostEqual(speed, 11_300, delta=400)  # of a curve that is bent
        self.assertEqual(self.link.panel.levels[0], 600)
        self.bench.hands.ask(do="press", switch="guard")
        self.addCleanup(self.bench.hands.ask, do="release", switch="guard")
        wait_for(lambda: not self.link.panel.is_energised(0), "it to be off", self.link.keep_holding)
        found = self.after(lambda: self.link.hold_terminals(Asked(run=1, level=600)), Connected)
        assert isinstance(found, Failed), found
        self.assertIn("guard is open", found.why)

    def test_it_is_let_go_of_where_its_terminals_have_forgotten_what_makes_them_safe(self) -> None:
        self.steady(Asked(run=1, level=600))
        self.link._client.terminals.forget(4)  # type: ignore[union-attr]  # as after a start of another block
        self.link.hold_terminals(Asked())
        wait_for(lambda: not self.link.panel.is_energised(0), "it to be off")
        wait_for(lambda: self.truth < 300, "it to run down")

    def test_it_goes_off_by_itself_where_idler_is_gone(self) -> None:
        self.steady(Asked(run=1, level=600))
        self.bench.hands.ask(do="cut")
        self.addCleanup(self.bench.hands.ask, do="mend")
        wait_for(lambda: self.truth < 300, "it to run down", self.link.keep_holding)

    def test_a_frame_that_was_lost_is_said_again(self) -> None:
        self.steady(Asked(run=1, level=600))
        say, lost = Part.say, []

        def losing(part: Part, where: Object, raw: int, size: int) -> None:
            if where == (0x6200, 1) and not lost:
                lost.append(raw)
                return
            say(part, where, raw, size)

        with mock.patch.object(Part, "say", losing):
            self.link.hold_terminals(Asked())
            wait_for(lambda: lost, "the frame to be lost")
            wait_for(lambda: self.truth < 300, "it to run down")
        self.assertEqual(self.link.panel.levels[0], 0)
        wait_for(lambda: not self.link.panel.conditions & Condition.RUNNING_DOWN, "its time to standstill")
        self.assertIs(Phase.REST, self.link._client._spindle._phase)  # type: ignore[union-attr]
