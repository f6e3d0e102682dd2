"""Who is on a bus: nodes of other makers with the gaps that they have, made by an independent stack and by hand."""

from __future__ import annotations

import json
import struct
import threading
import time
import unittest
from unittest import mock

import can
import canopen

from idler.core.controller.nodes import What, what_is
from idler.core.profile.busload import BUSY, health, most_bits, share, talkers
from idler.core.profile.objects import PRODUCT
from idler.link.bus.address import parse
from idler.link.bus.survey import survey
from idler.link.bus.wire import Frames, Tap
from idler.link.errors import LinkError
from tests.link.strangers import adapter
from tests.link.test_bus import Neighbour
from tests.support import BenchCase, run_idler

DRIVE, TERMINALS, ENCODER, LIFT = 0x00020192, 0x00030191, 0x00020196, 0x000001A1


class Load(unittest.TestCase):
    def beats(self, node: int, *times: float) -> list[tuple[float, int, int]]:
        return [(when, 0x700 + node, 1) for when in times]

    def test_a_heartbeat_that_is_missing_a_full_bus_and_faulty_frames_are_said(self) -> None:
        even = self.beats(3, *(number / 10 for number in range(50)))
        found = health(even, 5.0, 500_000)
        self.assertEqual((found.troubles, found.talkers[0].usual), ((), found.talkers[0].usual))
        self.assertAlmostEqual(found.talkers[0].usual, 0.1)
        lost = [each for each in even if each[0] != 2.0]
        (said,) = health(lost, 5.0, 500_000).troubles
        self.assertEqual(health(lost, 5.0, 500_000, own=3).troubles, ())
        self.assertIn("Node 3 was not heard for 200 ms, and its heartbeats come every 100 ms", said)
        full = [(number / 10_000, 0x180 + 5, 8) for number in range(10_000)]
        (said,) = health(full, 1.0, 1_000_000).troubles
        self.assertIn("by node 5", said)
        self.assertGreater(health(full, 1.0, 1_000_000).load, BUSY)
        self.assertIn("2 faulty frames", health(even, 5.0, 500_000, 2).troubles[0])
        self.assertEqual(health([], 0.0, 500_000).load, 0.0)

    def test_frames_of_29_bits_and_what_an_adapter_says_is_faulty_are_nobodys(self) -> None:
        frames = Frames()
        messages = [
            can.Message(arbitration_id=0x701, data=b"\x05", is_extended_id=False),
            can.Message(arbitration_id=0x581, data=bytes(8), is_extended_id=True), can.Message(is_error_frame=True),
            can.Message(arbitration_id=0x701, is_remote_frame=True, is_extended_id=False),
        ]  # fmt: skip
        tap = Tap(mock.Mock(spec=["recv"], recv=lambda _timeout: messages.pop(0) if messages else None), frames)
        self.assertEqual(tap.take(10), [(0x701, b"\x05")])
        self.assertEqual(([each.identifier for each in frames.since(0)], frames.faulty), ([0x701], 1))


class Stranger:
    """A node of the canopen package on the bench's bus, over an adapter of its own. gaps: objects that it has not."""

    def __init__(self, port: int, number: int, kind: int, name: str, *gaps: tuple[int, int]) -> None:
        self._bus = adapter(port)
        told: dict[tuple[int, int], int | str] = {
            (0x1000, 0): kind, (0x1018, 1): 0x5A5, (0x1018, 2): 77, (0x1018, 3): 1, (0x1018, 4): 1000 + number,
            (0x1008, 0): name,
        }  # fmt: skip
        words = canopen.ObjectDictionary()
        identity = canopen.objectdictionary.ODRecord("Identity", 0x1018)
        words.add_object(identity)
        for (index, sub), value in told.items():
            if (index, sub) in gaps:
                continue
            made = canopen.objectdictionary.ODVariable(f"{index:x}:{sub}", index, sub)
            text = isinstance(value, str)
            made.data_type = canopen.objectdictionary.VISIBLE_STRING if text else canopen.objectdictionary.UNSIGNED32
            made.access_type, made.default = "ro", value
            (identity.add_member if index == 0x1018 else words.add_object)(made)
        self._network = canopen.Network(bus=self._bus)
        self._network.add_node(canopen.LocalNode(number, words))
        self._ends = threading.Event()
        self._thread = threading.Thread(target=self._live, daemon=True)
        self._thread.start()

    def _live(self) -> None:
        while not self._ends.is_set():
            if (message := self._bus.recv(0.02)) is not None and not message.is_extended_id:
                self._network.notify(message.arbitration_id, message.data, message.timestamp)

    def close(self) -> None:
        self._ends.set()
        self._thread.join()
        self._bus.shutdown()


class OnBus(BenchCase):
    def stranger(self, number: int, kind: int, name: str, *gaps: tuple[int, int]) -> None:
        self.addCleanup(Stranger(self.bench.port, number, kind, name, *gaps).close)

    def test_all_are_listed_with_what_they_are_and_what_they_do_not_tell_is_left_empty(self) -> None:
        self.stranger(3, DRIVE, "spindle drive of a long name, in segments")
        self.stranger(12, TERMINALS, "terminals", (0x1018, 4))
        self.stranger(13, ENCODER, "", (0x1008, 0), (0x1018, 1), (0x1018, 2))
        self.stranger(90, LIFT, "lift")
        self.stranger(127, DRIVE, "nameless", (0x1000, 0))  # it refuses to say what it is, and is there all the same
        silent = Neighbour(self.bench.port, 55)
        self.addCleanup(silent.close)
        silent._answers.clear()
        beats = threading.Event()
        beating = threading.Thread(
            target=lambda: [silent.say(0x700 + 56, b"\x05") or time.sleep(0.05) for _ in iter(beats.is_set, True)]
        )
        beating.start()
        self.addCleanup(beating.join)
        self.addCleanup(beats.set)
        found = {node.number: node for node in survey(parse(self.bench.link))}
        self.assertEqual(set(found), {3, 12, 13, 55, 56, 90, 127, self.bench.node})
        self.assertEqual(
            {number: node.what for number, node in found.items()},
            {3: What.DRIVE, 12: What.TERMINALS, 13: What.ENCODER, 55: What.OTHER, 56: What.SILENT, 90: What.OTHER,
             127: What.OTHER, self.bench.node: What.CONTROLLER},
        )  # fmt: skip
        self.assertEqual(found[3].name, "spindle drive of a long name, in segments")
        self.assertEqual((found[3].vendor, found[3].product, found[3].serial), (0x5A5, 77, 1003))
        self.assertEqual((found[12].serial, found[12].name), (0, "terminals"))
        self.assertEqual((found[13].vendor, found[13].serial, found[13].name), (0, 1013, ""))

    def test_nothing_is_written_started_or_stopped(self) -> None:
        watcher = Neighbour(self.bench.port, 99)
        self.addCleanup(watcher.close)
        heard: list[tuple[int, bytes]] = []
        watcher._take = lambda identifier, data: heard.append((identifier, data))  # type: ignore[method-assign]
        survey(parse(self.bench.link))
        asked = [(identifier, data) for identifier, data in heard if 0x600 < identifier < 0x680]
        self.assertGreater(len(asked), 100)
        for identifier, data in heard:
            self.assertTrue(0x180 < identifier < 0x780, hex(identifier))  # no NMT, no SYNC
            if 0x600 < identifier < 0x680:
                self.assertIn(
                    data[0] >> 5, (2, 3), data.hex()
                )  # begins an upload, or goes on with one (CiA 301, 7.2.4.3)

    def test_the_terminal_lists_them_for_a_person_and_for_a_program(self) -> None:
        told = json.loads(run_idler("nodes", self.bench.link, "--json").stdout)
        self.assertEqual(
            [(each["node"], each["what"], each["product"]) for each in told], [(self.bench.node, "controller", PRODUCT)]
        )
        self.assertEqual(set(told[0]), {"node", "what", "name", "vendor", "product", "serial"})
        self.assertIn("controller of Idler's own profile", run_idler("nodes", self.bench.link).stdout)
        heard = json.loads(run_idler("nodes", self.bench.link, "--json", "--listen", "0.5").stdout.splitlines()[-1])
        self.assertTrue(0 < heard["load"] < 0.5, heard)
        own = next(each for each in heard["talkers"] if each["node"] == self.bench.node)
        self.assertTrue(0.05 < own["widest_heartbeat"] < 1, own)
        nobody = run_idler("nodes", "slcan://127.0.0.1:1")
        self.assertEqual(nobody.returncode, 2)
        self.assertRaises(LinkError, lambda: survey(parse("slcan://127.0.0.1:1")))


class Kinds(unittest.TestCase):
    def test_the_profile_is_the_lower_half_of_the_device_type(self) -> None:
        for kind, what in ((DRIVE, What.DRIVE), (TERMINALS, What.TERMINALS), (ENCODER, What.ENCODER), (LIFT, What.OTHER),
                           (0, What.OTHER), (0xFFFFFFFF, What.OTHER)):  # fmt: skip
            self.assertIs(what_is(kind, 5, 5), what, hex(kind))
        self.assertIs(what_is(DRIVE, 0, PRODUCT), What.CONTROLLER)
        self.assertEqual(struct.pack("<I", DRIVE)[:2], b"\x92\x01")

    def test_bits_of_a_frame(self) -> None:
        """By hand: 47 and 8 for each byte, and one for every four of 34 + 8 n after the first (ISO 11898-1)."""
        self.assertEqual([most_bits(n) for n in (0, 1, 8)], [47 + 8, 55 + 10, 111 + 24])
        self.assertRaises(ValueError, lambda: most_bits(9))
        heard = talkers(
            [
                (0.0, 0x703, 1),
                (0.1, 0x703, 1),
                (0.35, 0x703, 1),
                (0.36, 0x80, 0),
                (0.4, 0x603, 8),
                (0.5, 0x185, 6),
                (0.6, 0x607, 8),
            ]
        )
        self.assertEqual([(each.node, each.frames) for each in heard], [(0, 1), (3, 4), (5, 1), (7, 1)])
        self.assertEqual([each.node for each in heard if not each.spoke], [7])  # asked in vain
        self.assertAlmostEqual(heard[1].widest, 0.25)
        self.assertAlmostEqual(share(most_bits(8) * 1000, 1.0, 500_000), 0.27)
