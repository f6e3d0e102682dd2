"""The bench on its wire, asked by an independent client that knows nothing but the EDS."""

from __future__ import annotations

import io
import json
import signal
import socket
import subprocess
import sys
import time
import unittest
from fractions import Fraction
from typing import Any

import can
import canopen

from idler.core.profile.codec import Place, derived, encode
from idler.core.profile.concise import unpack_values
from idler.core.profile.eds import eds_text
from idler.core.profile.objects import LOAD, SAVE, entries
from idler.core.profile.terminals import OIL_STROKES, OIL_TOWARDS
from tests.support import Bench, BenchAlone, BenchCase, X, Y, at, verge, wait_for


def stranger(port: int, node: int) -> tuple[canopen.Network, canopen.RemoteNode]:
    """A plain canopen client with python-can's own bus, on the printed EDS."""
    bus = can.Bus(interface="slcan", channel=f"socket://127.0.0.1:{port}", bitrate=500_000, sleep_after_open=0)
    network = canopen.Network(bus=bus).connect()
    eds = io.StringIO(eds_text(entries(verge().shape)))
    eds.name = "controller.eds"
    remote = canopen.RemoteNode(node, canopen.import_od(eds, node))
    network.add_node(remote)
    remote.sdo.RESPONSE_TIMEOUT = 5
    return network, remote


class Stranger(BenchCase):
    def setUp(self) -> None:
        super().setUp()
        self.network, self.remote = stranger(self.bench.port, self.bench.node)
        self.addCleanup(self.network.disconnect)

    def test_identity(self) -> None:
        sdo = self.remote.sdo
        self.assertEqual(sdo[0x1018][4].raw, 26110417)
        self.assertEqual(sdo[0x1008].raw, "Bench controller")
        self.assertEqual(sdo[0x1000].raw & 0xFFFF, 402)
        self.assertEqual(sdo[0x2010][1].raw, "Plate mill “Verge”")

    def test_it_holds_what_the_machine_file_says(self) -> None:
        for slot in (X, Y):
            axis, base = verge().axis(slot), 0x800 * slot
            for place, raw in derived(axis).items():
                found = self.remote.sdo[place.index]
                self.assertEqual((found[place.sub] if place.sub else found).raw, raw, place)
            resolution = Fraction(self.remote.sdo[0x608F + base][1].raw, self.remote.sdo[0x608F + base][2].raw)
            gear = Fraction(self.remote.sdo[0x6091 + base][1].raw, self.remote.sdo[0x6091 + base][2].raw)
            feed = Fraction(self.remote.sdo[0x6092 + base][1].raw, self.remote.sdo[0x6092 + base][2].raw)
            self.assertEqual(resolution * gear / feed * 10_000, 320)
            for sub, key in ((1, "travel.low"), (2, "travel.high")):
                row = at(slot, key).row
                self.assertEqual(self.remote.sdo[0x607D + base][sub].raw, encode(row, verge()[at(slot, key)]))

    def test_what_it_refuses_carries_the_code_of_the_standard(self) -> None:
        for index, sub, raw, code in (
            (0x4001, 8, 0, 0x06090032),
            (0x4001, 8, 200, 0x06090031),
            (0x4001, 6, 99, 0x06090030),
            (0x6092, 1, 0, 0x06090030),
            (0x6041, 0, 1, 0x06010002),
            (0x1010, 1, 0x1234, 0x08000020),
        ):
            with self.subTest(hex(index)), self.assertRaises(canopen.SdoAbortedError) as caught:
                found = self.remote.sdo[index]
                (found[sub] if sub else found).raw = raw
            self.assertEqual(caught.exception.code, code)

    def test_statuswords_come_at_fifty_hertz_and_heartbeats(self) -> None:
        heard: list[int] = []
        self.remote.sdo[0x1840][1].raw = 0x195
        for identifier in (0x185, 0x195, 0x705):
            self.network.subscribe(identifier, lambda number, _data, _time: heard.append(number))
        wait_for(lambda: heard.count(0x185) >= 50 and 0x705 in heard, "status PDOs")
        self.assertAlmostEqual(heard.count(0x185), heard.count(0x195), delta=2)

    def test_two_clients_hear_each_other(self) -> None:
        other, _ = stranger(self.bench.port, self.bench.node)
        self.addCleanup(other.disconnect)
        heard: list[int] = []
        other.subscribe(0x123, lambda number, _data, _time: heard.append(number))
        self.assertEqual(self.remote.sdo[0x1018][4].raw, 26110417)
        self.network.send_message(0x123, b"hello")
        wait_for(lambda: heard, "the other client's frame")

    def test_a_drive_goes_through_its_states_and_moves(self) -> None:
        sdo = self.remote.sdo
        sdo[0x6040].raw = 0x80
        for word in (0x06, 0x07, 0x0F):
            sdo[0x6040].raw = word
        self.assertEqual(sdo[0x6041].raw & 0x6F, 0x27)
        sdo[0x6060].raw = 1
        sdo[0x6081].raw = 600_000
        sdo[0x607A].raw = sdo[0x6064].raw - 50_000
        wanted = sdo[0x607A].raw
        sdo[0x6040].raw = 0x1F
        wait_for(lambda: sdo[0x6041].raw & 0x0400 and sdo[0x6064].raw == wanted, "the target")
        sdo[0x6060].raw = 3
        sdo[0x60FF].raw = 900_000
        sdo[0x6040].raw = 0x0F
        wait_for(lambda: sdo[0x606C].raw == 900_000, "the velocity")
        with self.assertRaises(canopen.SdoAbortedError) as caught:
            sdo[0x608F][1].raw = 3200
        self.assertEqual(caught.exception.code, 0x08000022)
        sdo[0x6040].raw = 0x0F | 0x100
        wait_for(lambda: sdo[0x606C].raw == 0, "the halt")
        sdo[0x6040].raw = 0x02
        self.assertEqual(sdo[0x6041].raw & 0x6F, 0x07)
        sdo[0x6040].raw = 0
        self.assertEqual(sdo[0x6041].raw & 0x4F, 0x40)

    def test_scaling_at_its_bounds_ends_nothing_and_counts_as_one(self) -> None:
        sdo = self.remote.sdo
        before = self.bench.hands.look("X")["at"]
        told = {(i, s): sdo[i][s].raw for i in (0x608F, 0x6091, 0x6092) for s in (1, 2)}
        for extreme in (1, 2**32 - 1):
            for (index, sub), raw in told.items():
                sdo[index][sub].raw = extreme
                self.assertIsInstance(sdo[0x6064].raw, int)  # the place is said with what counts, old or new
                self.bench.hands.ask(do="run", seconds=0.2)
                sdo[index][sub].raw = raw
        heard = {}
        self.network.subscribe(0x180 + self.bench.node, lambda _id, data, _time: heard.update(last=bytes(data)))
        wait_for(lambda: heard, "process data afterwards")
        self.assertEqual(self.bench.hands.look("X")["at"], before)

    def test_garbage_on_the_line_does_no_harm(self) -> None:
        with socket.create_connection(("127.0.0.1", self.bench.port)) as line:
            line.sendall(b"t12\rtXYZ8\rt1239\r\rQ\rt6058" + b"F" * 500 + b"\r" + bytes(range(256)) + b"\rV\r")
            said = b""
            while b"V1013" not in said:
                said += line.recv(4096)
        self.assertGreaterEqual(said.count(b"\a"), 4)
        self.assertEqual(self.remote.sdo[0x1018][4].raw, 26110417)


class Storing(unittest.TestCase):
    def restart(self, network: canopen.Network, node: int) -> None:
        boots: list[bytes] = []
        network.subscribe(0x700 + node, lambda _number, data, _time: boots.append(bytes(data)))
        network.send_message(0, bytes((0x81, node)))
        wait_for(lambda: b"\0" in boots, "the boot-up message")
        network.unsubscribe(0x700 + node)

    def test_stored_values_outlive_the_process_and_others_do_not(self) -> None:
        import tempfile
        from pathlib import Path

        with tempfile.TemporaryDirectory() as folder:
            memory = Path(folder) / "memory.json"
            bench = Bench(memory=memory)
            self.addCleanup(bench.close)
            network, remote = stranger(bench.port, bench.node)
            self.addCleanup(network.disconnect)
            remote.sdo[0x4001][7].raw = 4_000_000
            remote.sdo[0x1010][1].raw = SAVE
            remote.sdo[0x4001][7].raw = 3_000_000
            self.restart(network, bench.node)
            self.assertEqual(remote.sdo[0x4001][7].raw, 4_000_000)
            again = Bench(memory=memory)
            self.addCleanup(again.close)
            other, same = stranger(again.port, again.node)
            self.addCleanup(other.disconnect)
            self.assertEqual(same.sdo[0x4001][7].raw, 4_000_000)

    def test_the_count_of_the_way_oil_outlives_the_process(self) -> None:
        import tempfile
        from pathlib import Path

        with tempfile.TemporaryDirectory() as folder:
            memory = Path(folder) / "memory.json"
            memory.write_text('{"oil": [3, 4000]}')
            for _ in range(2):
                bench = Bench(memory=memory, pace=0)
                self.addCleanup(bench.close)
                network, remote = stranger(bench.port, bench.node)
                self.addCleanup(network.disconnect)
                told = [remote.sdo[place.index][place.sub].raw for place in (OIL_STROKES, OIL_TOWARDS)]
                self.assertEqual(told, [3, 4])
                remote.sdo[0x1010][1].raw = SAVE

    def old(self, remote: Any) -> dict[Place, bytes]:
        """What is in force instead of the values that wait."""
        with remote.sdo[0x200B][2].open("rb", block_transfer=True) as block:
            return unpack_values(block.read())

    def test_what_needs_a_restart_waits_for_it(self) -> None:
        bench = Bench()
        self.addCleanup(bench.close)
        network, remote = stranger(bench.port, bench.node)
        self.addCleanup(network.disconnect)
        self.assertEqual(self.old(remote), {})
        remote.sdo[0x2011][1].raw = 60_000
        self.assertEqual(self.old(remote), {Place(0x2011, 1): (120_000).to_bytes(4, "little")})
        remote.sdo[0x1010][1].raw = SAVE
        self.restart(network, bench.node)
        self.assertEqual(self.old(remote), {})
        self.assertEqual(remote.sdo[0x2011][1].raw, 60_000)
        remote.sdo[0x1011][1].raw = LOAD
        self.restart(network, bench.node)
        self.assertEqual(remote.sdo[0x2011][1].raw, 120_000)
        self.assertEqual(remote.sdo[0x607D][1].raw, 0)  # factory values: no travel yet


class Process(unittest.TestCase):
    def test_it_says_where_it_listens_and_ends_when_told(self) -> None:
        bench = BenchAlone(pty=True)
        self.assertEqual(set(bench.ready), {"link", "node", "hands", "device"})
        assert isinstance(bench.process, subprocess.Popen)
        bench.process.send_signal(signal.SIGTERM)
        self.assertEqual(bench.process.wait(30), 0)
        bench.close()

    def test_it_ends_when_its_parent_is_gone(self) -> None:
        bench = BenchAlone()
        bench.close()
        assert isinstance(bench.process, subprocess.Popen)
        self.assertEqual(bench.process.returncode, 0)

    def test_an_unknown_rig_is_one_sentence(self) -> None:
        command = [sys.executable, "-m", "idler", "bench", "--rig", "nobody"]
        done = subprocess.run(command, capture_output=True, text=True, stdin=subprocess.DEVNULL)
        self.assertEqual(done.returncode, 2)
        self.assertIn("Known rigs: fusee, longcase, pieces, verge", done.stderr)


class Pace(BenchCase):
    pace = 0.1

    def test_the_clock_keeps_it_however_much_is_asked(self) -> None:
        """Each request is done before anything is judged by it, on time that is only lent."""
        ask = self.bench.hands.ask
        begun, stood = time.monotonic(), ask(do="look")["clock"]
        for _ in range(400):
            ask(do="look")
        went = ask(do="look")["clock"] - stood
        self.assertLess(went, self.pace * (time.monotonic() - begun) + 0.005)
        self.assertGreater(went, 0.0)


class HandsPort(BenchCase):
    pace = 0

    def test_the_clock_moves_only_when_asked(self) -> None:
        before = self.bench.hands.ask(do="look")["clock"]
        self.assertEqual(self.bench.hands.ask(do="look")["clock"], before)
        self.bench.hands.ask(do="run", seconds=1.5)
        self.assertAlmostEqual(self.bench.hands.ask(do="look")["clock"] - before, 1.5)

    def test_instruments_read_in_their_divisions(self) -> None:
        for name, division in (("rule", 0.5), ("caliper", 0.02), ("dial", 0.01)):
            self.bench.hands.ask(do="zero", axis="X", instrument=name)
            reading = self.bench.hands.ask(do="read", axis="X", instrument=name)
            self.assertEqual(reading["resolution"], division)
            self.assertLessEqual(abs(reading["value"]), division)
            self.assertAlmostEqual(reading["value"] / division, round(reading["value"] / division), places=6)
        self.assertFalse(self.bench.hands.ask(do="read", axis="A", instrument="rule")["ok"])

    def test_mistakes_are_answered_with_a_sentence(self) -> None:
        for line in (
            "{",
            "[]",
            "null",
            json.dumps({"do": "fly"}),
            json.dumps({"do": "read"}),
            json.dumps({"do": "run", "seconds": -1}),
        ):
            reply = self.bench.hands.raw(line)
            self.assertFalse(reply["ok"], line)
            self.assertIn("Hands", reply["error"])

    def test_switch_and_emergency_stop(self) -> None:
        for name in ("X home", "emergency stop"):
            for what in ("press", "release"):
                self.bench.hands.ask(do=what, switch=name)
                self.assertEqual(self.bench.hands.switch(name)["held"], what == "press")
        self.assertIn("has no switch “Q home”", self.bench.hands.ask(do="press", switch="Q home")["error"])
