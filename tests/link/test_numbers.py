"""Numbers given to nodes over the bus: to one that has another, and to one that has none."""

from __future__ import annotations

import threading
import unittest
from unittest import mock

import can
from hypothesis import given
from hypothesis import strategies as st

from idler.bench.parts.numbering import ANSWERED, ASKED, UNCONFIGURED, Numbering
from idler.core.errors import IdlerError, Refusal
from idler.link.bus.address import RATES_MET, parse
from idler.link.bus.numbers import Numbered, _Numbering, give_number
from idler.link.bus.rates import find_rate
from idler.link.bus.survey import Survey, survey
from idler.link.errors import LinkError
from idler.link.times import usual
from tests.link.strangers import adapter
from tests.support import BenchCase, run_idler

WORD = st.integers(0, 2**32 - 1)


class Wire:
    """A bus on paper: what is said is heard at once."""

    address = parse("can0")

    def __init__(self, *nodes: Numbering) -> None:
        self._nodes, self.heard = nodes, set[int]()

    def subscribe(self, _identifier: int, hear: object) -> None:
        for node in self._nodes:
            node._say = hear  # type: ignore[assignment]

    def send(self, _identifier: int, data: bytes) -> None:
        for node in self._nodes:
            if node.hear(data):
                self.heard.add(node.number)

    def listen(self, _seconds: float) -> None:
        pass

    def ask_all(self) -> set[int]:
        return set()


class OnPaper(unittest.TestCase):
    @given(st.lists(st.tuples(WORD, WORD, WORD, WORD), min_size=1, max_size=3, unique=True))
    def test_nodes_without_a_number_are_found_one_after_the_other_by_their_whole_identity(
        self, identities: list[tuple[int, int, int, int]]
    ) -> None:
        nodes = [Numbering(UNCONFIGURED, identity, lambda _data: None) for identity in identities]
        wire = Wire(*nodes)

        with mock.patch("idler.link.bus.numbers.SCAN_PATIENCES", (0.0,)):
            found = [_Numbering(wire).give(number, 0) for number in range(10, 10 + len(nodes))]  # type: ignore[arg-type]
        self.assertEqual(sorted(each.identity for each in found), sorted(identities))
        self.assertEqual(
            {node.number: node._identity for node in nodes}, {each.number: each.identity for each in found}
        )


class Blank:
    """A node without a number on the bench's bus, over an adapter of its own."""

    def __init__(self, port: int, identity: tuple[int, int, int, int]) -> None:
        self._bus = adapter(port)
        self.numbering = Numbering(UNCONFIGURED, identity, lambda data: self._say(ANSWERED, data))
        self._ends = threading.Event()
        self._thread = threading.Thread(target=self._live, daemon=True)
        self._thread.start()

    def _say(self, identifier: int, data: bytes) -> None:
        self._bus.send(can.Message(arbitration_id=identifier, data=data, is_extended_id=False))

    def _live(self) -> None:
        while not self._ends.is_set():
            said = self._bus.recv(0.02)
            if said is not None and said.arbitration_id == ASKED and self.numbering.hear(bytes(said.data)):
                self._say(0x700 + self.numbering.number, b"\0")

    def close(self) -> None:
        self._ends.set()
        self._thread.join()
        self._bus.shutdown()


class OnBus(BenchCase):
    rig = "pieces"
    pace = 1

    def setUp(self) -> None:
        super().setUp()
        self.bench.hands.ask(do="deliver")
        self.address = parse(self.bench.link)

    def refused(self, number: int, node: int) -> str:
        with self.assertRaises(IdlerError) as why:
            give_number(self.address, number, node)
        return why.exception.sentence

    def test_a_node_gets_another_number_and_keeps_it(self) -> None:
        told = run_idler("number", self.bench.link, "--node", "3", "--to", "9")
        self.assertEqual((told.returncode, "serial number 7003 has number 9." in told.stdout), (0, True), told.stderr)
        there = {node.number: node.serial for node in survey(self.address)}
        self.assertEqual((there.get(9), 3 in there), (7003, False))
        self.assertEqual(give_number(self.address, 3, 9), Numbered(3, (0x5A5, 0x200, 0x10000, 7003), True))

    def test_the_bit_rate_is_found_by_listening_alone(self) -> None:
        told: list[int] = []
        (found,) = find_rate(parse(f"{self.bench.link}?bitrate=250000"), 0.5, told.append)
        self.assertEqual((found.rate, set(found.nodes)), (500_000, {1, 2, 3}))
        self.assertEqual(set(told), set(RATES_MET))
        with Survey(self.address, usual, silent=True) as bus:
            self.assertEqual(bus.ask_all() & {4, 5}, set())  # those that send no heartbeat: nothing was said to them
        with self.assertRaises(LinkError):
            find_rate(parse("can0"))

    def test_what_cannot_be_is_said_and_changes_nothing(self) -> None:
        before = survey(self.address)
        self.assertIn("is taken on this bus", self.refused(2, 3))
        self.assertIn("node 77 does not answer", self.refused(9, 77))
        self.assertIn("no node without a number", self.refused(9, 0))
        with self.assertRaises(Refusal):
            give_number(self.address, 128, 3)
        self.assertEqual(survey(self.address), before)

    def test_one_without_a_number_is_found_and_gets_one(self) -> None:
        identity = (0x5A5, 0x777, 3, 0xDEADBEEF)
        blank = Blank(self.bench.port, identity)
        self.addCleanup(blank.close)
        self.assertEqual(give_number(self.address, 11), Numbered(11, identity, True))
        self.assertEqual(blank.numbering.number, 11)
