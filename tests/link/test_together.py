"""A controller of our own profile and plain parts on one bus: who is there, and neither moves, stops or loses the other."""

from __future__ import annotations

import select
import socket
import threading
import time

from idler.core.controller.nodes import What
from idler.core.profile.cia402 import State
from idler.link.bus.address import parse
from idler.link.bus.survey import survey
from idler.link.events import Connected, Done
from idler.link.thread import Link

from ..support import Bench, shared_bench, wait_for
from .test_plain import PARTS, PITCHES, PlainCase


class Bridge:
    """What is said on one bus is said on the other, both ways: they are one."""

    def __init__(self, first: Bench, second: Bench) -> None:
        self._lines = [socket.create_connection(("127.0.0.1", bench.port)) for bench in (first, second)]
        for line in self._lines:
            line.sendall(b"S6\rO\r")
        self._ends = threading.Event()
        self._thread = threading.Thread(target=self._carry)
        self._thread.start()

    def _carry(self) -> None:
        left = [b"", b""]
        while not self._ends.is_set():
            for line in select.select(self._lines, [], [], 0.05)[0]:
                n = self._lines.index(line)
                *whole, left[n] = (left[n] + line.recv(1 << 16)).split(b"\r")
                frames = [each for each in whole if each[:1] in b"tTrR" and each]
                self._lines[1 - n].sendall(b"".join(each + b"\r" for each in frames))

    def close(self) -> None:
        self._ends.set()
        self._thread.join()
        for line in self._lines:
            line.close()


class Together(PlainCase):
    def setUp(self) -> None:
        super().setUp()
        self.whole = shared_bench(type(self), "longcase", 1)
        bridge = Bridge(self.bench, self.whole)
        self.addCleanup(bridge.close)
        self.own = Link(self.events.append)
        self.addCleanup(self.own.close)

    def both(self) -> None:
        """The one connected through the other's port, each by an Idler of its own."""
        found = self.after(lambda: self.own.connect(f"{self.bench.link}?node={self.whole.node}"), Connected)
        assert isinstance(found, Connected), found
        self.connect()
        self.send({**PITCHES})

    def test_all_are_found_with_what_they_are(self) -> None:
        found = {node.number: node.what for node in survey(parse(self.bench.link))}
        self.assertEqual(found[self.whole.node], What.CONTROLLER)
        self.assertEqual([found[number] for number in (1, 2, 3, 4)], [What.DRIVE] * 3 + [What.TERMINALS])

    def test_each_moves_and_stops_alone(self) -> None:
        self.both()
        self.power()
        self.assertIsInstance(self.after(lambda: self.own.power(True), Done), Done)
        wait_for(lambda: all(axis.state is State.ENABLED for axis in self.own.axes), "the whole one's power")
        before, stood = self.own.axes[0].position, self.whole.hands.look("X")["at"]
        self.own.jog_step(0, 20, 600)
        self.hold(0, -600, 0.5)  # a plain drive beside it
        self.link.stop()
        wait_for(lambda: not self.link.axes[0].moving, "rest")
        self.assertTrue(self.own.axes[0].moving)
        wait_for(lambda: not self.own.axes[0].moving, "the step to end")
        self.assertAlmostEqual(self.own.axes[0].position - before, 20, delta=0.01)
        self.assertGreater(abs(self.whole.hands.look("X")["at"] - stood), 10)  # its screw is not what it was told
        stood = self.bench.hands.look("X")["at"]
        self.link.jog_hold(0, -600)
        wait_for(lambda: self.link.axes[0].moving, "the jog", self.link.keep_holding)
        self.own.stop()
        until = time.monotonic() + 0.5
        wait_for(lambda: time.monotonic() > until, "a moment", self.link.keep_holding)
        self.assertTrue(self.link.axes[0].moving)
        self.link.jog_hold(0, 0)
        wait_for(lambda: not self.link.axes[0].moving, "rest")
        self.assertGreater(abs(self.bench.hands.look("X")["at"] - stood), 4)

    def test_one_that_goes_leaves_the_other(self) -> None:
        self.both()
        self.power()
        self.own.disconnect()
        self.hold(0, -600, 0.5)
        self.let_go(0)
        found = self.after(lambda: self.own.connect(f"{self.bench.link}?node={self.whole.node}"), Connected)
        self.assertIsInstance(found, Connected)
        self.assertTrue(all(axis.state is State.ENABLED for axis in self.link.axes))
        self.assertEqual(str(self.link._client.parts), PARTS)  # type: ignore[union-attr]
