"""A controller that is made of plain parts, on the bench's bus: found, read, sent to, moved on a leash, stopped, homed."""

from __future__ import annotations

import json
import struct
import tempfile
import time
import unittest
from collections.abc import Callable
from fractions import Fraction
from importlib.resources import files
from itertools import pairwise
from pathlib import Path
from unittest import mock

import can

from idler.core.controller.makers import differences
from idler.core.controller.standing import ControllerImage, Standing, standing
from idler.core.errors import IdlerError
from idler.core.machine import Address, Machine
from idler.core.profile import cia402 as c
from idler.core.profile.codec import Place, machine_from
from idler.core.profile.homing import FIRST_PLACE, TOUCH_PLACE, HomingResult
from idler.core.profile.makersheet import read_sheet
from idler.core.profile.partunits import Measure, PartUnits
from idler.core.rules.findings import findings
from idler.core.values.parameter import Value
from idler.link import times
from idler.link.bus.address import parse
from idler.link.bus.survey import Survey
from idler.link.events import Asked, Connected, Disconnected, Done, Emergency, Event, Failed, PartNow, Read, Sheet
from idler.link.plain.axis import LEASH, Axis
from idler.link.plain.client import Client
from idler.link.plain.part import Part
from idler.link.plan import plan
from idler.link.thread import Link
from tests.support import Bench, BenchCase, X, Y, Z, at, run_idler, wait_for

PARTS = "1=X,2=Y,3=Z,4=terminals"
PITCHES = {at(X, "chain.pitch"): Fraction(8), at(Y, "chain.pitch"): Fraction(10), at(Z, "chain.pitch"): Fraction(10)}


class PlainCase(BenchCase):
    """A link on the bench of plain parts, at the pace of the room: what goes on a leash is judged by the clock on the wall."""

    rig = "pieces"
    pace = 1

    def setUp(self) -> None:
        super().setUp()
        self.bench.hands.ask(do="deliver")
        self.open()

    def open(self) -> None:
        self.events: list[Event] = []
        self.link = Link(self.events.append, keep=self.folder / "parts")
        self.addCleanup(self.link.close)

    def after(self, ask: Callable[[], None], *kinds: type[Event]) -> Event:
        """What came of it: one of these, or a failure."""
        first = len(self.events)
        ask()

        def come() -> Event | None:
            wanted = (*kinds, Failed, Disconnected)
            return next((event for event in list(self.events)[first:] if isinstance(event, wanted)), None)

        wait_for(come, "an answer", self.link.keep_holding)
        found = come()
        assert found is not None
        return found

    def connect(self, parts: str = PARTS) -> Connected:
        found = self.after(lambda: self.link.connect(f"{self.bench.link}?parts={parts}"), Connected)
        assert isinstance(found, Connected), found
        self.holding = found.holding
        return found

    @property
    def machine(self) -> Machine:
        return machine_from(self.holding.raws, self.holding.shape)

    def send(self, values: dict[Address, Value]) -> ControllerImage:
        done = self.after(lambda: self.link.send(plan(self.machine.with_values(values), self.holding)), Done)
        assert isinstance(done, Done) and done.holding is not None, done
        self.holding = done.holding
        return done.holding

    def power(self) -> None:
        self.assertIsInstance(self.after(lambda: self.link.power(True), Done), Done)
        wait_for(lambda: all(axis.state is c.State.ENABLED for axis in self.link.axes), "power")

    def hold(self, slot: int, speed: float, seconds: float) -> None:
        """A held jog for so long, on the wall's clock, from when it moves."""
        self.link.jog_hold(slot, speed)
        wait_for(lambda: self.link.axes[slot].moving, "the jog to begin", self.link.keep_holding)
        until = time.monotonic() + seconds
        wait_for(lambda: time.monotonic() > until, "the jog", self.link.keep_holding)

    def let_go(self, slot: int) -> None:
        self.link.jog_hold(slot, 0)
        wait_for(lambda: not self.link.axes[slot].moving, "rest")

    def where(self, name: str) -> float:
        return float(self.bench.hands.look(name)["at"])

    def step(self, slot: int, distance: float, speed: float = 3000, *, seek: bool = False) -> None:
        self.assertIsInstance(self.after(lambda: self.link.jog_step(slot, distance, speed, seek=seek), Done), Done)
        wait_for(lambda: not self.link.axes[slot].moving, "the end of the step")


class MakersSheets(PlainCase):
    def test_a_part_is_asked_for_the_data_sheet_that_it_keeps_of_itself(self) -> None:
        self.connect()
        found = self.after(lambda: self.link.ask_for_sheet(1), Sheet)
        assert isinstance(found, Sheet), found
        sheet = read_sheet(found.text)
        self.assertEqual((sheet.faults, sheet.title, sheet.product), ((), "Servo 200", 0x200))
        (facts,) = (each for each in self.holding.parts if each.slot == X)
        self.assertEqual(differences(facts, sheet), [])
        self.assertEqual(sheet.objects[0x607F, 0].high, 500_000)

    def test_one_with_errors_is_read_and_its_errors_are_named(self) -> None:
        self.connect()
        found = self.after(lambda: self.link.ask_for_sheet(2), Sheet)
        assert isinstance(found, Sheet), found
        sheet = read_sheet(found.text)
        self.assertEqual(len(sheet.faults), 4, sheet.faults)
        (facts,) = (each for each in self.holding.parts if each.slot == Y)
        self.assertEqual(differences(facts, sheet), ["6065h has 4 bytes in the part; the file says 2."])
        self.assertIsNone(sheet.objects[0x6085, 0].high)

    def test_a_drive_says_how_it_is_and_a_moving_machine_is_not_asked(self) -> None:
        self.connect()
        self.power()
        found = self.after(lambda: self.link.ask_for_condition(3), PartNow)
        assert isinstance(found, PartNow), found
        now = found.condition
        self.assertEqual((found.node, now.supply, now.fault), (3, 48.0, 0))
        self.assertIsNotNone(now.effort)
        self.assertIn("Now: supply 48.0 V, ", now.words(self.machine.axis(Z)))
        self.assertIn(" mm behind", now.words(self.machine.axis(Z)))
        self.link.jog_hold(X, 600)
        wait_for(lambda: self.link.axes[X].moving, "the jog to begin", self.link.keep_holding)
        self.assertIsInstance(self.after(lambda: self.link.ask_for_condition(1), PartNow), Failed)

    def test_one_that_keeps_none_says_so_and_a_moving_machine_is_not_asked(self) -> None:
        self.connect()
        found = self.after(lambda: self.link.ask_for_sheet(3), Sheet)
        assert isinstance(found, Failed), found
        self.assertIn("node 3 (Z)", found.why)
        self.power()
        self.link.jog_hold(X, 600)
        wait_for(lambda: self.link.axes[X].moving, "the jog to begin", self.link.keep_holding)
        found = self.after(lambda: self.link.ask_for_sheet(1), Sheet)
        assert isinstance(found, Failed), found
        self.assertIn("while nothing moves", found.why)


class FoundAndSent(PlainCase):
    def test_it_ends_at_once_while_it_looks_for_one_that_is_not_there(self) -> None:
        absent, asked = 99, 0x600 + 99
        self.link.connect(f"{self.bench.link}?parts={absent}=X")
        wait_for(lambda: any(frame.identifier == asked for frame in self.link.frames.since(0)), "it to be asked for")
        begun = time.monotonic()
        self.link.close()
        self.assertLess(time.monotonic() - begun, times.usual.search[-1])

    def test_who_is_there_is_asked_for_and_then_remembered(self) -> None:
        found = self.after(lambda: self.link.connect(self.bench.link), Connected)
        assert isinstance(found, Failed)
        self.assertEqual([(node.number, node.what.key) for node in found.nodes],
                         [(1, "drive"), (2, "drive"), (3, "drive"), (4, "terminals"), (5, "encoder")])  # fmt: skip
        told = self.connect().identity
        self.assertEqual([part.serial for part in told.parts[:3]], [7001, 7002, 7003])
        self.link.close()
        self.open()
        again = self.after(lambda: self.link.connect(self.bench.link), Connected)
        assert isinstance(again, Connected), again
        self.assertEqual((again.identity.axes, again.identity.serial), (("X", "Y", "Z"), told.serial))

    def test_a_role_that_is_none_is_told(self) -> None:
        for parts, words in (
            ("4=X", "profile 401"),
            ("1=X,9=Y", "node 9 (Y) does not answer"),
            ("1=terminals,2=X", "profile 402"),
        ):
            found = self.after(lambda parts=parts: self.link.connect(f"{self.bench.link}?parts={parts}"), Connected)  # type: ignore[misc]
            assert isinstance(found, Failed)
            self.assertIn(words, found.why)

    def test_what_cannot_be_had_is_neither_edited_nor_sent_nor_a_finding(self) -> None:
        self.connect()
        machine = self.machine.with_values(
            {at(None, "signals.step_rate"): Fraction(100), at(X, "homing.back_off"): Fraction(7)}
        )
        for where in (at(None, "signals.step_rate"), at(X, "homing.back_off"), at(X, "pace.jerk")):
            self.assertIs(standing(machine, self.holding, where), Standing.ABSENT)
        self.assertIs(standing(machine, self.holding, at(X, "chain.pitch")), Standing.KEPT)
        self.assertIs(standing(machine, self.holding, at(X, "pace.top_speed")), Standing.SAME)
        self.assertEqual(plan(machine, self.holding).wanted, {})
        fast = machine.with_values(
            {at(X, "pace.motor_speed"): Fraction(6000), at(X, "pace.top_speed"): Fraction(30_000)}
        )
        self.assertEqual([item.code for item in findings(fast) if "kHz" in item.text], [])

    def test_values_come_into_the_parts_in_their_units_and_outlive_a_reset(self) -> None:
        self.connect()
        self.send({**PITCHES, at(X, "pace.acceleration"): Fraction(777), at(X, "pace.top_speed"): Fraction(12_000)})
        done = self.after(self.link.restart, Done)
        assert isinstance(done, Done) and done.holding is not None
        machine = machine_from(done.holding.raws, done.holding.shape)
        self.assertEqual((machine[at(X, "pace.acceleration")], machine[at(X, "pace.top_speed")]), (777, 12_000))
        self.assertEqual(done.holding.unstored, 0)
        kept = json.loads(next((self.folder / "parts").glob("*.json")).read_text("utf-8"))
        self.assertEqual((kept["parts"], kept["sending"]), (PARTS, []))

    def test_whether_an_input_is_filtered_lies_in_its_terminals(self) -> None:
        self.connect()
        self.assertEqual(self.machine[at(2, "input.filter")], 1)  # as it is found
        self.send({at(2, "input.filter"): Fraction(0), at(3, "input.filter"): Fraction(5)})
        self.assertIsInstance(self.after(self.link.restart, Done), Done)
        self.connect()
        self.assertEqual([self.machine[at(n, "input.filter")] for n in (2, 3, 4)], [0, 5, 1])
        self.assertIs(standing(self.machine, self.holding, at(8, "input.filter")), Standing.ABSENT)  # at a drive

    def test_a_polarity_that_was_changed_in_the_terminals_turns_no_contact_round(self) -> None:
        self.connect()
        wait_for(lambda: self.link.panel.closed & 3 == 3, "the levels")
        other = can.Bus(f"socket://127.0.0.1:{self.bench.port}", interface="slcan", sleep_after_open=0, bitrate=500_000)
        self.addCleanup(other.shutdown)
        for where, raw, size in ((0x6002, 0b1, 1), (0x1010, 0x65766173, 4)):
            data = struct.pack("<BHB", 0x23 | (4 - size) << 2, where, 1) + raw.to_bytes(4, "little")
            other.send(can.Message(arbitration_id=0x604, data=data, is_extended_id=False))
            wait_for(lambda: getattr(other.recv(0.1), "arbitration_id", 0) == 0x584, "it to be taken")
        self.assertIsInstance(self.after(self.link.restart, Done), Done)
        self.assertEqual(list(self.link._client.terminals._turned.values()), [1])  # type: ignore[union-attr]
        wait_for(lambda: self.link.panel.closed & 3 == 3, "the same levels")
        self.connect()
        wait_for(lambda: self.link.panel.closed & 3 == 3, "the same levels")

    def test_a_send_is_all_of_it_or_nothing(self) -> None:
        self.connect()
        before = dict(self.holding.raws)
        wanted = {at(slot, "pace.acceleration"): Fraction(600 + slot) for slot in (X, Y, Z)}
        for kind, after in (("refuse", 0), ("refuse", 2), ("clip", 1), ("store", 1)):
            with self.subTest(kind=kind, after=after):
                self.bench.hands.ask(do="fault", kind=kind, after=after)
                found = self.after(lambda: self.link.send(plan(self.machine.with_values(wanted), self.holding)), Done)  # type: ignore[arg-type]
                assert isinstance(found, Failed), found
                self.assertIn("The parts hold their old values", found.why)
                done = self.after(self.link.read_all, Done)
                assert isinstance(done, Done) and done.holding is not None
                self.assertEqual((dict(done.holding.raws), done.holding.unstored), (before, 0))
        self.send(wanted)  # type: ignore[arg-type]

    def test_a_send_that_was_cut_off_says_so_at_the_next_connection(self) -> None:
        self.connect()
        wanted: dict[Address, Value] = {at(slot, "pace.acceleration"): Fraction(600 + slot) for slot in (X, Y, Z)}

        def begun(_old: object, _new: object) -> None:
            self.bench.hands.ask(do="fault", kind="cut", after=5)

        made = plan(self.machine.with_values(wanted), self.holding, begun=begun)
        self.assertIsInstance(self.after(lambda: self.link.send(made), Done), Failed)
        self.link.close()
        self.bench.hands.ask(do="mend")
        self.open()
        self.assertGreater(self.connect().holding.unstored, 0)
        self.send(wanted)
        self.assertEqual(self.holding.unstored, 0)

    def test_the_terminal_does_the_same(self) -> None:
        shelf = ("--shelf", str(self.folder / "shelf"))
        asked = run_idler("pull", self.bench.link, *shelf)
        self.assertEqual(asked.returncode, 2)
        self.assertIn("plain parts answer", asked.stderr)
        pulled = run_idler("pull", self.bench.link, "--parts", PARTS, "--as", "mine", *shelf)
        self.assertEqual(pulled.returncode, 0, pulled.stderr)
        file = self.folder / "mine.toml"
        file.write_text(
            run_idler("pull", self.bench.link, *shelf).stdout.replace('pitch = "5 mm"', 'pitch = "8 mm"'), "utf-8"
        )
        self.assertIn('controller = "parts"', file.read_text("utf-8"))
        sent = run_idler("send", str(file), "--to", self.bench.link, *shelf)
        self.assertEqual((sent.returncode, sent.stdout.splitlines()[-1]), (0, "Sent, read back, stored, and in force."))
        self.assertIn(
            "holds every value", run_idler("send", str(file), "--to", self.bench.link, "--plan", *shelf).stdout
        )


class Moved(PlainCase):
    def setUp(self) -> None:
        super().setUp()
        self.connect()
        self.send({**PITCHES, at(X, "pace.acceleration"): Fraction(900), at(X, "pace.deceleration"): Fraction(900)})
        self.power()

    def test_a_jog_goes_where_it_should_first_on_a_leash_and_then_without(self) -> None:
        before = self.where("X")
        self.hold(X, 1200, 1.0)
        self.let_go(X)
        first = self.where("X") - before
        self.assertAlmostEqual(first, self.link.axes[X].position, delta=0.02)
        self.assertTrue(12 < first < 26, first)
        self.hold(X, -3000, 0.5)
        self.let_go(X)
        self.assertAlmostEqual(self.where("X") - before, self.link.axes[X].position, delta=0.02)

    def test_what_is_tried_at_power_is_no_news_and_is_tried_once(self) -> None:
        """Idler is silent for a moment before anything moves; two of the drives notice, and nobody is told of an incident."""
        self.assertEqual([event.code for event in self.events if isinstance(event, Emergency)], [])
        sent = [frame for frame in self.link.frames.since(0) if frame.sent and frame.identifier & 0x780 == 0x700]
        widest = max(later.when - earlier.when for earlier, later in pairwise(sent))
        self.assertGreater(widest, 0.09)
        count = sent[-1].number
        self.power()
        again = [frame for frame in self.link.frames.since(count) if frame.sent and frame.identifier & 0x780 == 0x700]
        self.assertLess(max((b.when - a.when for a, b in pairwise(again)), default=0.0), 0.09)

    def test_what_falls_silent_stands_soon(self) -> None:
        """A drive that listens to heartbeats, and one on its leash; the plug is pulled with the finger on the button."""
        self.hold(X, 1200, 1.0)  # its unit of speed is seen to be true
        self.let_go(X)
        for slot, name, speed, most in ((X, "X", -6000, times.usual.hold + 0.06), (Z, "Z", -1200, LEASH + 0.06)):
            with self.subTest(axis=name):
                self.hold(slot, speed, 0.5)
                before = self.where(name)
                self.bench.hands.ask(do="cut")
                wait_for(lambda name=name: not self.bench.hands.look(name)["moving"], "it to stand")  # type: ignore[misc]
                gone = abs(self.where(name) - before)
                self.assertGreater(gone, 0)
                self.assertLess(gone, abs(speed) / 60 * most + (abs(speed) / 60) ** 2 / (2 * 400))
                self.bench.hands.ask(do="mend")
                self.link.close()
                self.open()
                self.connect()
                self.power()

    def test_stop_is_one_frame_for_all_that_hear_it_and_is_given_back(self) -> None:
        def held(node: int) -> int:
            with Survey(parse(self.bench.link), times.usual) as bus, bus._asking(node) as told:
                return int.from_bytes(told(0x1401, 1), "little")

        self.hold(X, 1200, 1.0)
        self.let_go(X)
        self.hold(X, -3000, 0.4)
        with mock.patch.object(Part, "say"):  # nothing that is said to one alone arrives
            self.link.stop()
            wait_for(lambda: not self.bench.hands.look("X")["moving"], "it to stand", self.link.keep_holding)
        wait_for(lambda: not self.link.axes[X].moving, "rest")
        self.assertEqual(held(1), 0x27E)
        self.send({at(X, "pace.top_speed"): Fraction(9000)})
        self.assertEqual(held(1), 0x27E)
        self.link.close()
        self.open()
        self.assertEqual(held(1), 0x80000301)  # as it was found

    def test_a_let_go_that_is_lost_is_said_again(self) -> None:
        self.hold(X, 1200, 1.0)
        self.let_go(X)
        lost: list[int] = []
        honest = Part.say

        def say(part: Part, where: tuple[int, int], raw: int, size: int) -> None:
            if where == (c.TARGET_VELOCITY, 0) and not raw and not lost:
                lost.append(raw)
            else:
                honest(part, where, raw, size)

        self.hold(X, -3000, 0.4)
        with mock.patch.object(Part, "say", say):
            before = self.where("X")
            self.let_go(X)
        self.assertEqual(lost, [0])
        self.assertLess(abs(self.where("X") - before), 3000 / 60 * 1.0)

    def test_stop_ends_all_of_it_and_power_brings_it_back(self) -> None:
        self.after(lambda: self.link.jog_step(X, -60, 3000), Done)
        self.after(lambda: self.link.jog_step(Y, 60, 3000), Done)
        wait_for(lambda: all(abs(axis.velocity) > 500 for axis in self.link.axes[:2]), "both to go")
        self.link.stop()
        wait_for(lambda: not any(axis.moving for axis in self.link.axes), "rest")
        stood = self.where("X"), self.where("Y")
        wait_for(
            lambda: all(axis.state is c.State.QUICK_STOP for axis in self.link.axes[:2]), "both to stand with power"
        )
        self.power()
        self.assertEqual((self.where("X"), self.where("Y")), stood)
        self.step(X, 5)
        self.assertAlmostEqual(self.where("X") - stood[0], 5, delta=0.03)

    def test_a_drive_whose_speed_is_another_is_stopped_and_named(self) -> None:
        honest = PartUnits.to_part

        def four_times(units: PartUnits, measure: Measure, value: Fraction) -> int:
            return honest(units, measure, value) * (4 if measure is Measure.SPEED else 1)

        with mock.patch.object(PartUnits, "to_part", four_times):
            before = self.where("Y")
            self.hold(Y, 1200, 0.6)
            self.link.jog_hold(Y, 0)
            wait_for(lambda: not self.link.axes[Y].moving, "rest")
        told = [event for event in self.events if isinstance(event, Emergency) and event.code == c.SPEED_UNTRUE]
        self.assertEqual([event.axis for event in told], [Y])
        self.assertLess(abs(self.where("Y") - before), 20 * (0.6 + LEASH))
        refused = self.after(lambda: self.link.jog_hold(Y, 600), Done)
        assert isinstance(refused, Failed)
        self.assertIn("faster than it was asked", refused.why)

    def test_a_stop_that_is_wired_takes_the_drives_and_is_told(self) -> None:
        self.after(lambda: self.link.jog_step(X, -60, 3000), Done)
        wait_for(lambda: abs(self.link.axes[X].velocity) > 500, "it to go")
        self.bench.hands.ask(do="press", switch="emergency stop")
        wait_for(lambda: not any(axis.state.powered for axis in self.link.axes), "the drives to be off")
        self.assertTrue(any(isinstance(event, Emergency) and event.code for event in self.events))
        self.bench.hands.ask(do="release", switch="emergency stop")
        wait_for(
            lambda: any(isinstance(e, Emergency) and not e.code for e in self.events), "the drives to say it is over"
        )
        self.power()


class Homed(PlainCase):
    def setUp(self) -> None:
        super().setUp()
        self.connect()
        roles: dict[Address, Value] = {
            at(X, "homing.approach"): Fraction(6000),
            at(Z, "homing.approach"): Fraction(2400),
        }
        roles |= {at(slot, "homing.touch"): Fraction(240) for slot in (X, Z)}
        roles |= {at(slot, "homing.coordinate"): Fraction(2) for slot in (X, Z)}
        roles |= {
            at(X, "travel.limits_on"): True,
            at(X, "travel.low"): Fraction(-400),
            at(X, "travel.high"): Fraction(0),
        }
        self.send({**PITCHES, **roles, at(Z, "axis.reversed"): True, at(X, "homing.acceleration"): Fraction(2500)})
        self.power()

    def home(self, slot: int) -> None:
        self.assertIsInstance(self.after(lambda: self.link.home([slot]), Done), Done)
        wait_for(lambda: not self.link.axes[slot].moving, "home")

    def test_by_its_own_method_and_on_a_leash(self) -> None:
        for slot, name, switch in ((X, "X", 414.0), (Z, "Z", 104.0)):
            with self.subTest(axis=name):
                start = self.where(name)
                self.home(slot)
                axis = self.link.axes[slot]
                self.assertTrue(axis.homed)
                self.assertIs(axis.homing_result, HomingResult.FOUND)
                self.assertAlmostEqual(axis.position - 2, self.where(name) - switch, delta=0.35)  # its hysteresis
                places = [Place(where.index + 0x100 * slot, where.sub) for where in (FIRST_PLACE, TOUCH_PLACE)]
                read = self.after(lambda places=places: self.link.ask_for(places), Read)  # type: ignore[misc]
                assert isinstance(read, Read), read
                # In the coordinates before: how far it went. The drive's own way is only watched.
                for raw, near in zip(read.raws.values(), (10, 5), strict=True):
                    self.assertAlmostEqual(c.position_from(int(raw)), switch - start, delta=near)

    def test_soft_limits_hold_when_it_is_homed(self) -> None:
        self.home(X)
        self.step(X, 100)
        self.assertAlmostEqual(self.link.axes[X].position, 0, delta=0.01)
        self.step(X, -30)
        self.hold(X, 1200, 0.8)
        self.let_go(X)
        self.hold(X, 2400, 1.2)
        wait_for(lambda: not self.link.axes[X].moving, "it to stand at its limit")
        self.link.jog_hold(X, 0)
        self.assertTrue(-5 < self.link.axes[X].position <= 0.01, self.link.axes[X].position)

    def test_a_soft_limit_holds_where_nobody_looks_on_the_last_of_the_way(self) -> None:
        self.home(X)
        self.step(X, -30)
        self.hold(X, 1200, 0.8)
        self.let_go(X)
        keep_on, held_up = Axis.keep_on, []

        def late(axis: Axis, now: float) -> None:
            if axis.slot == X and axis.state.position > -12 and not held_up:
                held_up.append(axis.state.position)
                time.sleep(0.5)
            keep_on(axis, now)

        with mock.patch.object(Axis, "keep_on", late):
            self.link.jog_hold(X, 2400)
            wait_for(lambda: held_up, "the last of its way", self.link.keep_holding)
            wait_for(lambda: not self.link.axes[X].moving, "it to stand at its limit", self.link.keep_holding)
        self.link.jog_hold(X, 0)
        self.assertTrue(-12 < self.link.axes[X].position <= 0.01, self.link.axes[X].position)

    def test_a_search_ends_at_the_edge_of_its_switch(self) -> None:
        self.home(X)
        self.after(lambda: self.link.try_values({Place(0x4002, 3): 0}), Done)  # soft limits off
        self.step(X, -20)
        self.step(X, 30, 600, seek=True)
        self.assertAlmostEqual(self.where("X"), 414, delta=2)  # of 10 beyond it
        latched = self.after(lambda: self.link.ask_for([Place(c.LATCHED, 0)]), Read)
        assert isinstance(latched, Read), latched
        self.assertAlmostEqual(c.position_from(int(next(iter(latched.raws.values())))), 2, delta=1)


class Crossed(PlainCase):
    """The home switches of X and Y hang at each other's drive, whose own ways of homing would never see them."""

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        for name, of in (("rig.toml", files("idler.bench") / "rigs"), ("pieces.toml", files("idler") / "data")):
            text = (of / "pieces.toml").read_text("utf-8")
            (Path(folder.name) / name).write_text(text.replace("X = 9\nY = 10", "X = 10\nY = 9"))
        cls.rig = str(Path(folder.name) / "rig.toml")
        super().setUpClass()

    def test_each_is_homed_by_its_own_switch_and_nothing_is_met(self) -> None:
        self.connect()
        roles: dict[Address, Value] = {}
        for slot, number in ((X, 13), (Y, 10)):  # Yh and Xh
            roles |= {
                at(number, "input.role"): "home",
                at(number, "input.axis"): "XY"[slot],
                at(number, "input.rest"): "open",
            }
            roles |= {at(slot, "homing.approach"): Fraction(1800), at(slot, "homing.touch"): Fraction(240)}
        self.send({**PITCHES, **roles})
        for slot in (X, Y):  # their units of speed are seen to be true: neither is on its leash for anything else
            self.power()
            self.hold(slot, -1200, 1.0)
            self.let_go(slot)
        for slot, switch in ((X, 414.0), (Y, 294.0)):
            self.step(slot, switch - 60 - self.where("XY"[slot]), 6000)  # most of the way
            self.assertIsInstance(self.after(lambda slot=slot: self.link.home([slot]), Done), Done)  # type: ignore[misc]
            wait_for(lambda slot=slot: not self.link.axes[slot].moving, "home")  # type: ignore[misc]
            self.assertIs(self.link.axes[slot].homing_result, HomingResult.FOUND)
            self.assertAlmostEqual(self.where("XY"[slot]), switch - 1, delta=0.4)
            self.assertEqual(self.bench.hands.look("XY"[slot])["struck"], 0)

    def test_the_drives_own_way_with_an_index_is_refused(self) -> None:
        self.connect()
        self.send({at(13, "input.role"): "home", at(13, "input.axis"): "X", at(X, "homing.method"): "switch_index"})
        self.power()
        found = self.after(lambda: self.link.home([X]), Done)
        assert isinstance(found, Failed), found
        self.assertIn("its switch does not hang at it", found.why)


class Terminals(PlainCase):
    def setUp(self) -> None:
        super().setUp()
        self.connect()
        self.send({**PITCHES, Address(2, "output.role"): "coolant", Address(1, "input.role"): "guard",
                   Address(0, "output.role"): "spindle_on"})  # fmt: skip

    def test_inputs_are_seen_with_their_edges(self) -> None:
        self.link.watch(True)
        wait_for(lambda: self.link.panel.closed & 3 == 3, "the levels")
        for switch, slot in (("guard", 1), ("Y home", 13)):
            was = self.link.panel.is_closed(slot)
            self.bench.hands.ask(do="press", switch=switch)
            wait_for(lambda slot=slot, was=was: self.link.panel.is_closed(slot) != was, switch)  # type: ignore[misc]
            self.bench.hands.ask(do="release", switch=switch)
            wait_for(lambda slot=slot, was=was: self.link.panel.is_closed(slot) == was, switch)  # type: ignore[misc]
        wait_for(lambda: sum(self.link.trace.counts()) >= 4, "the edges")

    def test_an_output_is_on_while_it_is_held_and_off_without_the_link(self) -> None:
        self.link.hold_terminals(Asked(tried=3))
        wait_for(lambda: self.link.panel.is_energised(2), "the coolant", self.link.keep_holding)
        self.link.hold_terminals(Asked())
        wait_for(lambda: not self.link.panel.is_energised(2), "the coolant to be off")
        self.link.hold_terminals(Asked(tried=3))
        wait_for(lambda: self.link.panel.is_energised(2), "the coolant", self.link.keep_holding)
        self.link.close()
        self.open()
        self.connect()
        wait_for(lambda: not self.link.panel.is_energised(2), "it to be off")

    def test_what_feeds_the_drives_is_on_while_they_have_power(self) -> None:
        self.send({Address(4, "output.role"): "drives_on"})
        self.assertFalse(self.link.panel.is_energised(4))
        self.power()
        wait_for(lambda: self.link.panel.is_energised(4), "the contactor")
        self.after(lambda: self.link.power(False), Done)
        wait_for(lambda: not self.link.panel.is_energised(4), "the contactor to be off")

    def test_an_output_that_a_cut_off_idler_left_on_goes_off_where_the_next_is_heard_in_its_place(self) -> None:
        self.link.hold_terminals(Asked(tried=3))
        wait_for(lambda: self.link.panel.is_energised(2), "the coolant", self.link.keep_holding)
        self.link.hold_terminals(Asked(tried=3))
        with mock.patch.object(Client, "let_go_of_outputs"):  # what it said last was lost
            self.link.close()
        self.open()
        self.connect()
        wait_for(lambda: not self.link.panel.is_energised(2), "it to be off")

    def test_a_limit_switch_at_a_terminal_stops_its_axis_and_leaves_the_way_off_it(self) -> None:
        """The bench's guard contact plays the limit."""
        self.send({Address(1, "input.role"): "limit_low", Address(1, "input.axis"): "X"})
        self.power()
        self.after(lambda: self.link.jog_step(X, -60, 3000), Done)
        wait_for(lambda: abs(self.link.axes[X].velocity) > 500, "it to go")
        self.bench.hands.ask(do="press", switch="guard")
        wait_for(lambda: not self.link.axes[X].moving, "rest")
        self.assertGreater(self.link.axes[X].position, -55)
        self.assertEqual([(e.code, e.axis) for e in self.events if isinstance(e, Emergency)], [(c.LIMIT_MET, X)])
        self.power()
        found = self.after(lambda: self.link.jog_step(X, -1, 600), Done)
        assert isinstance(found, Failed)
        self.assertIn("only the way off it is open", found.why)
        before = self.where("X")
        self.step(X, 5)
        self.assertAlmostEqual(self.where("X") - before, 5, delta=0.05)
        self.bench.hands.ask(do="release", switch="guard")

    def test_a_search_ends_where_the_touch_probe_is_made(self) -> None:
        """The bench's guard contact plays the plate."""
        self.send({Address(1, "input.role"): "probe"})
        self.power()
        self.after(lambda: self.link.jog_step(Z, -40, 300, seek=True), Done)
        wait_for(lambda: abs(self.link.axes[Z].velocity) > 100, "it to go")
        self.bench.hands.ask(do="press", switch="guard")
        wait_for(lambda: not self.link.axes[Z].moving, "rest")
        self.assertGreater(self.link.axes[Z].position, -20)
        read = self.after(lambda: self.link.ask_for([Place(c.LATCHED + 0x800 * Z, 0)]), Read)
        assert isinstance(read, Read), read
        latched = c.position_from(int(next(iter(read.raws.values()))))
        self.assertAlmostEqual(latched, self.link.axes[Z].position, delta=1.0)
        self.bench.hands.ask(do="release", switch="guard")

    def test_the_spindle_does_not_start_with_the_guard_open(self) -> None:
        self.bench.hands.ask(do="press", switch="guard")
        wait_for(lambda: not self.link.panel.is_closed(1), "the guard")
        found = self.after(lambda: self.link.hold_terminals(Asked(run=1)), Done)
        assert isinstance(found, Failed)
        self.assertIn("guard is open", found.why)
        self.bench.hands.ask(do="release", switch="guard")


class Stored(unittest.TestCase):
    def test_parts_of_the_bench_keep_what_they_stored_beyond_their_process(self) -> None:
        import tempfile

        with tempfile.TemporaryDirectory() as folder:
            shelf, memory = ("--shelf", str(Path(folder, "shelf"))), Path(folder, "parts.json")
            file = Path(folder, "mine.toml")
            bench = Bench(pace=1, rig="pieces", memory=memory)
            text = run_idler("pull", bench.link, "--parts", PARTS, *shelf).stdout
            file.write_text(text.replace('acceleration = "500 mm/s²"', 'acceleration = "321 mm/s²"'), "utf-8")
            self.assertEqual(run_idler("send", str(file), "--to", bench.link, *shelf).returncode, 0)
            bench.close()
            bench = Bench(pace=1, rig="pieces", memory=memory)
            self.addCleanup(bench.close)
            self.assertIn('acceleration = "321 mm/s²"', run_idler("pull", bench.link, *shelf).stdout)
            self.assertIn(
                "holds every value", run_idler("send", str(file), "--to", bench.link, "--plan", *shelf).stdout
            )


class Files(unittest.TestCase):
    def test_what_is_spoilt_is_not_written_over(self) -> None:
        import tempfile

        from idler.link.kept import Keep, known_parts

        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "0000002a.json"
            for text in ("", "{", "[]", '{"parts": "1=X", "identities": [[1]], "raws": {}, "sending": []}'):
                path.write_text(text, "utf-8")
                with self.assertRaises(IdlerError) as why:
                    Keep(Path(folder), 42).load()
                self.assertIn(str(path), why.exception.sentence)
                self.assertEqual(path.read_text("utf-8"), text)
                self.assertEqual(known_parts(Path(folder), []), "")
