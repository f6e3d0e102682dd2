"""One bus, several nodes: nobody else's identifiers are used, everybody is found, and what an adapter spoils is dropped."""

from __future__ import annotations

import contextlib
import queue
import socket
import struct
import threading
import time
import unittest
from dataclasses import replace
from unittest import mock

from idler.core.profile.codec import Place, Raw
from idler.core.profile.objects import PRODUCT
from idler.core.profile.pdo import HIGHEST_NODE, OFF, NoRoom, Pdo, PdoKind, PdoMap, pdos
from idler.link import times
from idler.link.bus.adapter import LineBus
from idler.link.bus.address import parse
from idler.link.bus.sdo import Responses
from idler.link.errors import LinkError, LinkLost, WriteRefused
from idler.link.events import Connected, Disconnected, Done, Event, Failed
from idler.link.own.client import Client
from idler.link.own.objects import Objects
from idler.link.thread import Link
from tests.support import LinkedCase, X, Y, wait_for


class Neighbour:
    """A node of somebody else: answers three objects, and remembers what is said to it. say: a line of its own."""

    def __init__(self, port: int, number: int, product: int = 7, name: bytes = b"mill") -> None:
        self.number, self.heard = number, list[tuple[int, bytes]]()
        answers = {
            (0x1000, 0): (4, b"\x92\x01\0\0"),
            (0x1018, 2): (4, struct.pack("<I", product)),
            (0x1008, 0): (4, name),
        }
        self._answers = {struct.pack("<HB", *where): answer for where, answer in answers.items()}
        self._line = socket.create_connection(("127.0.0.1", port))
        self._line.sendall(b"S6\rO\r")
        threading.Thread(target=self._live, daemon=True).start()

    def say(self, identifier: int, data: bytes) -> None:
        self._line.sendall(b"t%03X%d%s\r" % (identifier, len(data), data.hex().encode()))

    def close(self) -> None:
        self._line.shutdown(socket.SHUT_RDWR)
        self._line.close()

    def _live(self) -> None:
        rest = b""
        while True:
            try:
                piece = self._line.recv(65536)
            except OSError:
                return
            if not piece:
                return
            *lines, rest = (rest + piece).split(b"\r")
            for line in lines:
                if line[:1] == b"t":
                    self._take(int(line[1:4], 16), bytes.fromhex(line[5:].decode()))

    def _take(self, identifier: int, data: bytes) -> None:
        if identifier & 0x7F != self.number:
            return
        if identifier & 0x780 != 0x600:
            self.heard.append((identifier, data))
        elif data[0] == 0x40:
            size, answer = self._answers.get(data[1:4], (0, b""))
            said = (
                bytes((0x43 | (4 - size) << 2,)) + data[1:4] + answer if size else b"\x80" + data[1:4] + b"\0\0\x02\x06"
            )
            self.say(0x580 + self.number, said)


class Neighbours(LinkedCase):
    def setUp(self) -> None:
        super().setUp()
        self.link.close()
        self.link = Link(self.events.append, replace(times.usual, others=2.0))  # neighbours live in this busy process
        self.addCleanup(self.link.close)

    def neighbour(self, number: int, **more: object) -> Neighbour:
        made = Neighbour(self.bench.port, number, **more)  # type: ignore[arg-type]
        self.addCleanup(made.close)
        return made

    def after(self, work, *kinds: type[Event]) -> Event:
        seen = len(self.events)
        work()
        wait_for(lambda: [e for e in self.events[seen:] if isinstance(e, kinds)], f"{kinds}")
        return next(e for e in self.events[seen:] if isinstance(e, kinds))

    def connected(self, address: str = "") -> Connected:
        found = self.after(lambda: self.link.connect(address or self.bench.link), Connected, Failed)
        assert isinstance(found, Connected), found
        return found

    def test_powering_and_moving_says_nothing_to_anybody_else(self) -> None:
        node = self.bench.node
        others = [self.neighbour(number) for number in (node + 16, node + 32, 125, 127, 1)]
        found = self.connected().identity
        self.assertEqual((found.node, found.others), (node, frozenset(other.number for other in others)))
        self.assertIsInstance(self.after(lambda: self.link.power(True), Done, Failed), Done)
        before = self.link.axes[Y].position
        self.link.jog_step(Y, 5, 2000)
        wait_for(lambda: abs(self.link.axes[Y].position - before - 5) < 0.01, "the move")
        self.link.stop()
        wait_for(lambda: not any(axis.moving for axis in self.link.axes), "rest")
        self.assertEqual([other.heard for other in others], [[]] * 5)

    def test_a_node_that_comes_later_ends_motion_and_gets_its_identifiers(self) -> None:
        self.connected()
        for _ in range(3):  # where this computer pauses, the link is lost by itself just then; so another one comes
            self.after(lambda: self.link.power(True), Done, Failed)
            self.link.jog_step(X, -20, 600)
            late, seen = self.neighbour(min(self.got(Connected)[-1].identity.map.borrowed)), len(self.events)
            late.say(0x700 + late.number, b"\0")
            wait_for(lambda late=late: late.number in self.got(Connected)[-1].identity.others, "the link again")
            lost = [event.why for event in self.events[seen:] if isinstance(event, Disconnected)]
            if any(f"node {late.number} has come onto the bus" in why for why in lost):
                break
        else:
            self.fail(f"not even at the third time: {lost}")
        self.assertNotIn(late.number, self.got(Connected)[-1].identity.map.borrowed)
        self.assertFalse(any(axis.moving for axis in self.link.axes))
        late.heard.clear()
        self.after(lambda: self.link.power(True), Done, Failed)
        self.assertEqual(late.heard, [])

    def test_a_node_that_comes_in_the_middle_of_something_is_not_overlooked(self) -> None:
        """Whatever waits just then may put up with a lost link; the newcomer is a reason that stays."""
        number = min(self.connected().identity.map.borrowed)
        real, said = Objects.read, list[int]()

        def read(objects: Objects, where: Place, label: str = "") -> Raw:
            if label == "statusword" and not said:
                said.append(number)
                client = self.link._client
                assert client is not None
                with contextlib.suppress(LinkLost):
                    client._frame(0x700 + number, bytearray(b"\0"))
            return real(objects, where, label)

        self.after(lambda: self.link.power(True), Done, Failed)
        with mock.patch.object(Objects, "read", read):
            lost = self.after(lambda: self.link.jog_step(X, -5, 600), Disconnected)
        self.assertIn(f"node {number} has come onto the bus", lost.why)

    def test_emergencies_of_others_are_not_ours(self) -> None:
        other = self.neighbour(33)
        self.connected()
        seen = len(self.events)
        other.say(0x80 + 33, bytes.fromhex("01FF010100000000"))
        self.after(lambda: self.link.read_all(), Done)
        self.assertFalse([event for event in self.events[seen:] if type(event).__name__ == "Emergency"])

    def test_where_several_are_controllers_of_ours_the_person_chooses(self) -> None:
        self.neighbour(77, product=PRODUCT, name=b"twin")
        self.neighbour(100)
        failed = self.after(lambda: self.link.connect(self.bench.link), Failed, Connected)
        self.assertEqual(
            [(node.number, node.ours) for node in failed.nodes], [(self.bench.node, True), (77, True), (100, False)]
        )
        self.assertIn("node 77 (twin)", failed.why)
        chosen = self.connected(str(parse(self.bench.link).of_node(self.bench.node)))
        self.assertEqual(chosen.identity.node, self.bench.node)
        failed = self.after(lambda: self.link.connect(f"{self.bench.link}?node=99"), Failed, Connected)
        self.assertIn("node 99 does not answer; these do", failed.why)

    def test_a_controller_without_an_object_that_it_need_not_have_stays(self) -> None:
        real = Objects.read

        def read(objects: Objects, where, label: str = ""):
            if where.index in (0x1009, 0x6077, 0x1400):
                raise WriteRefused(f"{label}: the controller refuses it.")
            return real(objects, where, label)

        with mock.patch.object(Objects, "read", read):
            self.assertEqual(self.connected().identity.hardware, "not told")
            self.after(lambda: self.link.power(True), Done, Failed)
            before = self.link.axes[X].position
            self.link.jog_step(X, -5, 1200)
            wait_for(lambda: self.link.axes[X].position <= before - 5, "the move")
        self.assertEqual(self.got(Disconnected), [])

    def test_disconnecting_waits_for_nobody(self) -> None:
        self.connected()
        with mock.patch.object(Client, "_frame", lambda *_: None):  # nothing that it says is heard any more
            self.link.read_all()
            begun = time.monotonic()
            self.after(self.link.disconnect, Disconnected)
        self.assertLess(time.monotonic() - begun, self.link._times.answer)
        self.assertFalse(self.link.connected)


class Adapter(unittest.TestCase):
    def setUp(self) -> None:
        server = socket.create_server(("127.0.0.1", 0))
        self.addCleanup(server.close)
        self.bus = LineBus(channel=f"socket://127.0.0.1:{server.getsockname()[1]}", bitrate=500_000, sleep_after_open=0)
        self.addCleanup(self.bus.shutdown)
        self.adapter, _ = server.accept()
        self.addCleanup(self.adapter.close)

    def took(self, data: bytes, most: int = 64) -> list[tuple[int, bytes]]:
        self.adapter.sendall(data + b"t7FF0\r")
        found: list[tuple[int, bytes]] = []
        wait_for(lambda: found.extend(self.bus.take(most)) or (0x7FF, b"") in found, "the last frame")
        return found[:-1]

    def test_what_makes_no_sense_is_dropped_and_counted(self) -> None:
        ours = b"t1853AABBCC\r"
        for noise, spoilt in (
            (b"", 0), (b"z\r", 0), (b"\r", 0), (b"V1013\r", 0), (b"\a", 0), (b"T000001853AABBCC\r", 0), (b"r1850\r", 0),
            (b"t1853AABB\r", 1), (b"t1853AABBCCDD\r", 1), (b"t18\r", 1), (b"\xff\xfe\0\r", 1),
            (b"t1859" + b"0" * 18 + b"\r", 1), (b"t1853AABBt1853AABBCC\r", 1), (b"A" * 5000 + b"\r", 1),
        ):  # fmt: skip
            with self.subTest(noise[:12]):
                before = self.bus.spoilt
                self.assertEqual(self.took(noise + ours), [(0x185, b"\xaa\xbb\xcc")])
                self.assertEqual(self.bus.spoilt - before, spoilt)

    def test_a_time_stamp_behind_the_data_is_no_data(self) -> None:
        self.assertEqual(self.took(b"t1851AA1F40\r"), [(0x185, b"\xaa")])

    def test_all_that_has_arrived_is_taken(self) -> None:
        frames = b"".join(b"t1851%02X\r" % k for k in range(100))
        self.assertEqual(len(self.took(frames)), 100)

    def test_a_line_without_end_fills_no_memory(self) -> None:
        self.adapter.sendall(b"B" * 100_000)
        dropped = lambda: self.bus.take(64) or (self.bus.spoilt and len(self.bus._buffer) < 2048)  # noqa: E731
        wait_for(dropped, "the noise to be dropped")


class Transfers(unittest.TestCase):
    def test_an_answer_without_end_is_not_listened_to(self) -> None:
        responses = Responses(lambda _: responses.put(b"more"))
        responses.bound(60, 700)
        with self.assertRaises(queue.Empty):
            for _ in range(200):
                responses.get(timeout=1)
        responses.bound(0, 10**9)
        with self.assertRaises(queue.Empty):
            responses.get(timeout=1)


class Identifiers(unittest.TestCase):
    def test_nobody_s_identifiers_are_used(self) -> None:
        for there in (set(), {6, 21, 22, 37}, set(range(1, 110)) - {5}):
            made = PdoMap.planned(5, 8, {*there, 126}, {})
            self.assertEqual(set(made.cobs), set(pdos(8)))
            self.assertEqual(len(set(made.cobs.values())), len(made.cobs))
            self.assertFalse({cob & 0x7F for cob in made.cobs.values()} & {*there, 126})
            self.assertTrue(all(0x180 < cob < 0x580 for cob in made.cobs.values()))

    def test_what_another_client_uses_stays(self) -> None:
        first = PdoMap.planned(5, 4, {21, 126}, {})
        self.assertEqual(PdoMap.planned(5, 4, {21, 126, 125}, first.cobs), first)
        moved = PdoMap.planned(5, 4, {min(first.borrowed)}, first.cobs)
        self.assertFalse(moved.borrowed & {min(first.borrowed)})

    def test_a_full_bus_is_told(self) -> None:
        with self.assertRaises(NoRoom):
            PdoMap.planned(5, 4, set(range(1, HIGHEST_NODE + 1)) - {5}, {})

    def test_after_a_start_only_its_own(self) -> None:
        for pdo in pdos(8):
            self.assertEqual(pdo.usual == OFF, pdo.slot > 0 or pdo.kind is PdoKind.SPINDLE)
        self.assertIsNone(PdoMap.usual(5, 4).routes.get(0x195))
        self.assertEqual(PdoMap.usual(5, 4).routes[0x185], Pdo(PdoKind.STATUS))


class Addresses(unittest.TestCase):
    def test_a_node_may_stand_in_an_address(self) -> None:
        for text in ("slcan://host:9?node=5", "can0?bitrate=250000&node=127", "/dev/ttyACM0?node=1"):
            self.assertEqual(str(parse(text)), text)
        for text in ("can0?node=0", "can0?node=128", "can0?node=", "can0?nod=3", "can0?node=5&x", "can0?bitrate=7"):
            with self.subTest(text), self.assertRaisesRegex(LinkError, "number from 1 to 127"):
                parse(text)
