"""Hub, memory, instruments and rigs of the bench, each on its own."""

from __future__ import annotations

import os
import random
import socket
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from idler.bench.objects.memory import Memory
from idler.bench.plant.instruments import KNOWN, Toolbox, read
from idler.bench.rigs.rig import load, names
from idler.bench.wire.hub import Hub
from idler.core.errors import IdlerError
from idler.core.mechanics.chain import Chain
from idler.core.profile.codec import Place


class Lines(unittest.TestCase):
    def setUp(self) -> None:
        self.heard: list[tuple[int, bytes]] = []
        self.hub = Hub(lambda identifier, data: self.heard.append((identifier, data)))
        self.clients = []
        for _ in range(2):
            ours, theirs = socket.socketpair()
            self.addCleanup(theirs.close)
            line = self.hub.add_descriptor(os.dup(ours.fileno()))
            ours.close()
            self.addCleanup(self.hub.drop, line)
            self.clients.append((theirs, line))

    def say(self, text: bytes, client: int = 0) -> bytes:
        theirs, line = self.clients[client]
        theirs.sendall(text)
        self.assertTrue(self.hub.take(line))
        self.hub.flush()
        theirs.setblocking(False)
        try:
            return theirs.recv(4096)
        except BlockingIOError:
            return b""

    def test_a_frame_reaches_the_controller_and_the_other_client(self) -> None:
        self.say(b"O\r", 1)
        self.assertEqual(self.say(b"O\rt1232AABB\r"), b"\rz\r")
        self.assertEqual(self.heard, [(0x123, b"\xaa\xbb")])
        self.assertEqual(self.clients[1][0].recv(100), b"t1232AABB\r")

    def test_closed_or_at_another_bit_rate_nothing_goes_through(self) -> None:
        self.assertEqual(self.say(b"t1230\r"), b"\a")
        self.assertEqual(self.say(b"S5\rO\rt1230\r"), b"\r\r\a")
        self.assertEqual(self.say(b"S6\rt1230\r"), b"\rz\r")
        self.assertEqual(self.heard, [(0x123, b"")])

    def test_frames_in_pieces_and_in_heaps(self) -> None:
        self.say(b"O\rt12")
        self.say(b"31")
        self.say(b"7F\rt1241")
        self.say(b"01\r")
        self.assertEqual(self.heard, [(0x123, b"\x7f"), (0x124, b"\x01")])

    def test_what_is_no_frame_rings_the_bell(self) -> None:
        self.say(b"O\r")
        for text in (b"t12\r", b"tXYZ0\r", b"t1239\r", b"t1232AA\r", b"t1231ZZ\r", b"q\r"):
            self.assertEqual(self.say(text), b"\a", text)
        self.assertEqual(self.heard, [])

    def test_extended_and_remote_frames_pass_between_clients_only(self) -> None:
        self.say(b"O\r", 1)
        self.assertEqual(self.say(b"O\rT123456780\rr1230\r"), b"\rZ\rz\r")
        self.assertEqual(self.heard, [])
        self.assertIn(b"T123456780\rr1230\r", self.clients[1][0].recv(100))

    def test_a_pulled_plug_carries_nothing(self) -> None:
        self.say(b"O\r")
        self.hub.cut = True
        self.assertEqual(self.say(b"t1230\r"), b"\a")
        self.hub.broadcast(0x700, b"\x05")
        self.assertEqual(self.heard, [])
        self.hub.cut = False
        self.hub.broadcast(0x705, b"\x05")
        self.hub.flush()
        self.assertEqual(self.clients[0][0].recv(100), b"t705105\r")

    def test_a_client_that_is_gone_is_noticed(self) -> None:
        theirs, line = self.clients[0]
        theirs.close()
        self.assertFalse(self.hub.take(line))


class Memories(unittest.TestCase):
    def test_stored_values_come_back_in_another_process(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "deep" / "memory.json"
            self.assertIsNone(Memory(path).load())
            values = {Place(0x4001, 7): 4_000_000, Place(0x2010, 1): "Plate mill “Verge”"}
            Memory(path).store(values)
            self.assertEqual(Memory(path).load(), values)
            self.assertEqual(Memory(path).oil, (0, 0))
            Memory(path).count(3, 4000)
            self.assertEqual((Memory(path).load(), Memory(path).oil), (values, (3, 4000)))
            Memory(path).forget()
            self.assertIsNone(Memory(path).load())

    def test_a_failing_disk_keeps_the_old_values(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            memory = Memory(Path(folder) / "memory.json")
            memory.store({Place(1, 1): 1})
            with mock.patch.object(os, "replace", side_effect=OSError(28, "full")), self.assertRaises(OSError):
                memory.store({Place(1, 1): 2})
            self.assertEqual(memory.load(), {Place(1, 1): 1})


class Instruments(unittest.TestCase):
    def test_readings_scatter_about_the_truth_by_less_than_a_division(self) -> None:
        dice = random.Random(5)
        for item in KNOWN.values():
            truth = 7.123456
            readings = [read(item, truth, dice) for _ in range(400)]
            self.assertLess(max(abs(value - truth) for value in readings), item.resolution * 1.6)
            self.assertAlmostEqual(sum(readings) / 400, truth, delta=item.resolution / 4)

    def test_zero_reach_and_fit(self) -> None:
        box = Toolbox(1)
        box.zero("dial", "X", False, 100.0)
        value, resolution = box.read("dial", "X", False, 104.0)
        self.assertAlmostEqual(value, 4, delta=0.03)
        self.assertEqual(resolution, 0.01)
        with self.assertRaisesRegex(IdlerError, "reaches 10; X has moved 50.0"):
            box.read("dial", "X", False, 150.0)
        with self.assertRaisesRegex(IdlerError, "does not fit A"):
            box.read("rule", "A", True, 0.0)

    def test_the_same_seed_reads_the_same(self) -> None:
        def readings(box: Toolbox) -> list[float]:
            box.zero("caliper", "X", False, 0.0)
            return [box.read("caliper", "X", False, at)[0] for at in (1.0, 2.0, 3.0)]

        box = Toolbox(4)
        first = readings(box)
        box.deliver()
        self.assertEqual(readings(box), first)
        self.assertEqual(readings(Toolbox(4)), first)


class Rigs(unittest.TestCase):
    def test_every_rig_that_ships_can_be_loaded_and_is_wrong_somewhere(self) -> None:
        self.assertIn("verge", names())
        for name in names():
            rig = load(name)
            told = {axis.name: axis for axis in rig.told.axes}
            self.assertEqual({motor.name for motor in rig.motors if motor.beam < 0} - {"Y"}, set(told) - {"Y"})
            self.assertLessEqual(rig.node, 15)
            wrong = [
                motor.name
                for motor in rig.motors
                if (motor.name in told and abs(float(Chain.of(told[motor.name]).travel_per_turn) / motor.lead - 1) > 1e-4)
                or motor.full_steps * motor.microsteps != Chain.of(told[motor.name[0]]).counts_per_turn
                or motor.direction < 0
            ]  # fmt: skip
            self.assertTrue(wrong, name)

    def test_verge_was_told_a_wrong_screw_and_a_wrong_sign(self) -> None:
        rig = load("verge")
        told = {axis.name: float(Chain.of(axis).travel_per_turn) for axis in rig.told.axes}
        true = {axis.name: axis.lead for axis in rig.motors}
        self.assertEqual({name for name in told if told[name] != true[name]}, {"X"})
        self.assertEqual([axis.name for axis in rig.motors if axis.direction < 0], ["Y"])

    def test_what_cannot_be_loaded(self) -> None:
        for name, why in (
            ("nobody", "Known rigs: fusee, longcase, pieces, verge"),
            ("/nowhere/rig.toml", "cannot be read"),
        ):
            with self.assertRaisesRegex(IdlerError, why):
                load(name)
