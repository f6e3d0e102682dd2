"""The spindle on the bench: what ends it and what does not start it, its waits, encoder, way oil, and its bus."""

from __future__ import annotations

import unittest
from fractions import Fraction
from itertools import permutations

from pymodbus.framer import FramerSocket
from pymodbus.pdu import DecodePDU
from pymodbus.pdu.register_message import (
    ReadHoldingRegistersRequest,
    ReadInputRegistersRequest,
    WriteMultipleRegistersRequest,
    WriteSingleRegisterRequest,
)

from idler.bench.plant.turning import curve
from idler.bench.rigs.rig import load
from idler.bench.server import modbus
from idler.bench.world import World
from idler.core.machine import Address
from idler.core.profile import terminals as t
from idler.core.profile.speeds import pack_speeds, unpack_speeds
from idler.core.profile.terminals import Condition
from tests.bench.spindles import LEVEL_RIGS, SpindleStand, correct, random_spindle, shipped, wired_for_its_spindle
from tests.support import at

STOP, GUARD, READY, RANGES = 0, 3, 6, (10, 11)  # inputs from 0; the last ones are nobody's on this rig
WIRED = {
    at(STOP, "input.role"): "stop", at(GUARD, "input.role"): "guard", at(READY, "input.role"): "ready",
    at(READY, "input.rest"): "open", at(RANGES[0], "input.role"): "range_1", at(RANGES[1], "input.role"): "range_2",
    at(RANGES[0], "input.rest"): "open", at(RANGES[1], "input.rest"): "open",
    Address(None, "spindle.ranges"): 2, Address(0, "range.run_up"): Fraction(400), Address(0, "range.run_down"): Fraction(900),
}  # fmt: skip


class Stand(unittest.TestCase):
    """Verge with stop, guard, a ready output (input 7) and two range contacts (inputs 11 and 12); the belt lies in range 1."""

    def setUp(self) -> None:
        rig, _ = shipped("verge", 1)
        self.stand = SpindleStand(rig, wired_for_its_spindle(rig, {**WIRED, at(10, "input.filter"): Fraction(5)}))
        self.world, self.ctl, self.panel = self.stand.world, self.stand.ctl, self.stand.panel
        for slot in (READY, *RANGES):
            self.world.wires[slot]["source"], self.world.wires[slot]["loose_rate"] = 1, 0
            self.world.wires[slot]["noise_rate"], self.world.wires[slot]["closed_at_rest"] = 0, 0
        self.hold(READY)
        self.hold(RANGES[0])
        self.world.run(100)

    def hold(self, slot: int, on: bool = True) -> None:
        self.world.wires[slot]["held"] = on

    @property
    def speed(self) -> float:
        return float(self.world.spindle["speed"])

    def start(self, way: int = 1, speed: float = 800) -> None:
        self.stand.ask(0)
        self.world.run(1500)
        self.stand.ask(way, speed=speed)
        self.world.run(1500)
        self.assertGreater(self.speed * way, 300)


class Stopping(Stand):
    """Events that end the spindle, in every order up to three of them, each undone again in every order of that."""

    def events(self):
        fault = lambda on: self.ctl.__setitem__("trouble_hit", int(on))  # noqa: E731
        return {
            "esc": (lambda: self.stand.ask(0), lambda: None),
            "stop": (lambda: self.hold(STOP), lambda: self.hold(STOP, False)),
            "guard": (lambda: self.hold(GUARD), lambda: self.hold(GUARD, False)),
            "link": (self.panel.unheard, lambda: None),
            "trip": (lambda: self.hold(READY, False), lambda: self.hold(READY)),
            "belt": (lambda: self.hold(RANGES[0], False), lambda: self.hold(RANGES[0])),
            "trouble": (lambda: fault(True), lambda: fault(False)),
        }

    def test_each_of_them_up_to_three_in_every_order(self) -> None:
        tried = 0
        events = self.events()
        for count in (1, 2, 3):
            for names in permutations(events, count):
                with self.subTest(names):
                    self.start()
                    for name in names:
                        events[name][0]()
                        self.world.run(40)
                        self.assertEqual(int(self.ctl["run"]), 0)
                    self.world.run(4000)
                    self.assertEqual(self.speed, 0.0)
                    for name in names if tried % 2 else reversed(names):
                        events[name][1]()
                        self.world.run(300)
                        self.assertEqual((int(self.ctl["run"]), self.speed), (0, 0.0))
                    self.world.run(2000)
                    self.assertEqual((int(self.ctl["run"]), self.speed), (0, 0.0))
                tried += 1
        self.assertEqual(tried, 7 + 42 + 210)

    def test_the_same_command_again_does_not_start_it_and_a_new_one_does(self) -> None:
        self.start()
        self.hold(GUARD)
        self.world.run(3000)
        self.hold(GUARD, False)
        self.world.run(100)
        self.panel.command(1, 0, 0, 0, 800)  # as it stood
        self.world.run(2000)
        self.assertEqual(self.speed, 0.0)
        self.start()

    def test_what_forbids_a_start_is_reported(self) -> None:
        for hold, undo, bit in (
            (lambda: self.hold(READY, False), lambda: self.hold(READY), Condition.NOT_READY),
            (lambda: self.hold(RANGES[1]), lambda: self.hold(RANGES[1], False), Condition.NO_RANGE),
        ):
            hold()
            self.world.run(50)
            self.stand.ask(1, speed=800)
            self.world.run(500)
            self.assertEqual(self.speed, 0.0)
            self.assertTrue(self.panel.conditions & bit and self.panel.conditions & Condition.REFUSED)
            undo()
            self.stand.ask(0)
            self.world.run(50)
            self.assertFalse(self.panel.conditions & (bit | Condition.REFUSED))

    def test_a_speed_above_zero_is_needed_or_one_for_a_bare_start(self) -> None:
        self.stand.ask(1)
        self.world.run(500)
        self.assertTrue(self.panel.conditions & Condition.REFUSED)
        self.stand.tell(self.stand.machine.with_values({Address(None, "spindle.start_speed"): Fraction(700)}))
        self.stand.ask(0)
        self.stand.ask(1)
        self.assertAlmostEqual(self.stand.steady(), 700, delta=60)


class Waits(Stand):
    def test_the_other_way_only_after_the_time_to_standstill(self) -> None:
        self.start()
        self.stand.ask(-1, speed=800)
        self.world.run(2)
        self.assertEqual(int(self.ctl["run"]), 0)
        self.assertTrue(self.panel.conditions & Condition.RUNNING_DOWN)
        self.world.run(880)
        self.assertEqual(int(self.ctl["run"]), 0)
        self.world.run(40)
        self.assertEqual(int(self.ctl["run"]), -1)
        self.world.run(2000)
        self.assertLess(self.speed, -300)

    def test_motion_that_begins_while_it_runs_up_waits(self) -> None:
        for waits, moves in ((1, 0), (0, 1)):
            self.ctl["waits"] = waits
            self.stand.ask(0)
            self.world.run(1500)
            ax = self.world.firmware[0]
            ax["powered"], ax["wait_ticks"], ax["moving"] = 1, 0, 0
            self.stand.ask(1, speed=800)
            self.world.run(2)
            self.assertTrue(self.panel.conditions & Condition.RUNNING_UP)
            self.assertEqual(int(ax["wait_ticks"]) > 350, bool(waits), moves)
            self.world.run(420)
            self.assertEqual(int(ax["wait_ticks"]), 0)
            self.assertFalse(self.panel.conditions & Condition.RUNNING_UP)

    def test_a_moving_axis_is_not_held_up(self) -> None:
        ax = self.world.firmware[0]
        ax["powered"], ax["moving"] = 1, 1
        self.stand.ask(1, speed=800)
        self.world.run(1)
        self.assertEqual(int(ax["wait_ticks"]), 0)


class Measuring(unittest.TestCase):
    def test_encoder_speed_and_record(self) -> None:
        rig = load("fusee")
        machine = wired_for_its_spindle(rig, {Address(None, "spindle.counts"): 4096})
        stand = SpindleStand(rig, machine)
        stand.ask(1, speed=900)
        stand.world.spindle["bus_run"], stand.world.spindle["bus_level"] = 1, 0.5
        for _ in range(40):
            stand.world.spindle["bus_left"] = 1000
            stand.world.run(100)
        self.assertAlmostEqual(stand.panel.measured / 10, -900, delta=3)  # its tracks are swapped
        stand.tell(machine.with_values({Address(None, "spindle.counts_reversed"): True}))
        for _ in range(10):
            stand.world.spindle["bus_left"] = 1000
            stand.world.run(100)
        self.assertAlmostEqual(stand.panel.measured / 10, 900, delta=3)
        record = unpack_speeds(stand.panel.read(t.SPEED_RECORD))
        self.assertAlmostEqual(record[1][0] - record[0][0], 0.02)
        self.assertLess(abs(record[2][1]), 200)
        self.assertAlmostEqual(abs(record[150][1]), 900, delta=5)

    def test_counts_begin_again_from_below(self) -> None:
        rig = load("fusee")
        stand = SpindleStand(rig, rig.told)
        stand.ctl["counts"] = 2**31
        self.assertEqual(stand.panel.counts, -(2**31))

    def test_a_record_that_is_not_whole(self) -> None:
        data = pack_speeds(0.02, [1.0, 2.5])
        self.assertEqual(unpack_speeds(data), [(0.0, 1.0), (0.02, 2.5)])
        for cut in (b"", data[:3], data[:-1]):
            with self.assertRaises(ValueError):
                unpack_speeds(cut)


class Correcting(unittest.TestCase):
    def test_every_range_of_the_rigs_comes_within_a_percent_or_5_rpm(self) -> None:
        for name, place in LEVEL_RIGS:
            with self.subTest(f"{name} {place}"):
                found = correct(*shipped(name, place))
                self.assertGreater(found.before, 1)  # each comes wrong
                self.assertLessEqual(found.after, 1)

    def test_random_spindles_too(self) -> None:
        for seed in range(8):
            with self.subTest(seed):
                self.assertLessEqual(correct(*random_spindle(seed), seed).after, 1)

    def test_what_the_drive_gives_ends_at_dead_band_and_saturation(self) -> None:
        spindle = World(load("verge")).spindle
        self.assertEqual([float(curve(spindle, level)) for level in (0.0, 0.03, 0.98, 1.0)], [0.0, 0.0, 1.0, 1.0])


class Oil(unittest.TestCase):
    def test_strokes_come_by_the_time_that_is_counted(self) -> None:
        rig, _ = shipped("verge", 3)
        oil = {
            Address(None, "oil.seconds"): Fraction(2), Address(None, "oil.every"): Fraction(1, 10),
            Address(None, "oil.of"): "spindle", at(5, "output.role"): "way_oil",
        }  # fmt: skip
        stand = SpindleStand(rig, wired_for_its_spindle(rig, oil))
        stand.world.run(20_000)
        self.assertEqual(stand.panel.read(t.OIL_STROKES), 0)
        stand.ask(1, speed=1000)
        stand.world.run(5900)
        self.assertEqual((stand.panel.read(t.OIL_STROKES), stand.panel.read(t.OIL_TOWARDS)), (0, 6))
        stand.world.run(200)
        self.assertEqual((stand.panel.read(t.OIL_STROKES), int(stand.world.outputs[5]["energised"])), (1, 1))
        stand.world.run(2000)
        self.assertEqual(int(stand.world.outputs[5]["energised"]), 0)
        stand.world.run(12_000)
        self.assertEqual(stand.panel.read(t.OIL_STROKES), 3)
        towards = stand.panel.read(t.OIL_TOWARDS)
        self.assertGreater(towards, 0)
        stand.panel.boot(stand.machine.names)
        self.assertEqual((stand.panel.read(t.OIL_STROKES), stand.panel.read(t.OIL_TOWARDS)), (3, towards))

    def test_motion_power_and_neither(self) -> None:
        rig, _ = shipped("verge", 3)
        for kind, moving, powered, strokes in (
            ("motion", 1, 1, 1),
            ("motion", 0, 1, 0),
            ("power", 0, 1, 1),
            ("either", 0, 1, 0),
        ):
            oil = {Address(None, "oil.every"): Fraction(1, 10), Address(None, "oil.of"): kind}
            stand = SpindleStand(rig, wired_for_its_spindle(rig, oil))
            for _ in range(70):
                stand.world.firmware[0]["moving"], stand.world.firmware[0]["powered"] = moving, powered
                stand.world.firmware[0]["wait_ticks"] = 200  # so that the stepping code leaves it as it is
                stand.world.run(100)
            self.assertEqual(stand.panel.read(t.OIL_STROKES), strokes, kind)


class Bus(unittest.TestCase):
    """The drive on Modbus, frame by frame."""

    def setUp(self) -> None:
        self.world = World(load("fusee"))
        self.bus = modbus.DriveBus(self.world)
        self._framer = FramerSocket(DecodePDU(False))

    def ask(self, request):
        request.dev_id, request.transaction_id = 1, 7
        frame = self._framer.buildFrame(request)
        self.assertEqual(self.bus.take(frame[:5]), b"")  # a part is no request yet
        _, answer = self._framer.handleFrame(self.bus.take(frame[5:]), 1, 7)
        return answer

    def test_way_and_speed_are_taken_and_read_back(self) -> None:
        for number, raw in ((modbus.RUN, 2), (modbus.SPEED, 240)):
            self.assertFalse(self.ask(WriteSingleRegisterRequest(address=number, registers=[raw])).isError())
        self.assertEqual(self.ask(ReadHoldingRegistersRequest(address=modbus.RUN, count=2)).registers, [2, 240])
        self.assertEqual(self.ask(ReadInputRegistersRequest(address=modbus.SPEED_NOW, count=2)).registers, [0, 0])

    def test_what_it_does_not_take(self) -> None:
        for request, code in (
            (WriteSingleRegisterRequest(address=modbus.RUN, registers=[9]), 3),
            (WriteSingleRegisterRequest(address=modbus.SPEED, registers=[9999]), 3),
            (WriteSingleRegisterRequest(address=1, registers=[1]), 2), (ReadHoldingRegistersRequest(address=0, count=1), 2),
            (WriteMultipleRegistersRequest(address=modbus.RUN, registers=[1, 2]), 1),
        ):  # fmt: skip
            answer = self.ask(request)
            self.assertEqual((answer.isError(), answer.exception_code), (True, code))

    def test_it_stops_when_nobody_speaks_to_it(self) -> None:
        self.world.outputs[0]["role"] = 3  # spindle on: its enable terminal
        ctl = self.world.controller
        ctl["engaged_told"], ctl["wanted"], ctl["asked_speed"] = 1, 1, 500.0
        for number, raw in ((modbus.RUN, 1), (modbus.SPEED, 300)):
            self.ask(WriteSingleRegisterRequest(address=number, registers=[raw]))
        self.world.run(900)
        self.assertGreater(float(self.world.spindle["speed"]), 500)
        self.world.run(3000)
        self.assertEqual(float(self.world.spindle["speed"]), 0.0)

    def test_rubbish_on_the_line_is_dropped(self) -> None:
        self.assertEqual(self.bus.take(b"\x00\x07\x00\x00\x00\x02\x01\x99"), b"")
        self.assertFalse(self.ask(ReadHoldingRegistersRequest(address=modbus.RUN, count=1)).isError())
