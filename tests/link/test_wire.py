"""Frames as they pass, and a recording that another reader takes."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path
from types import SimpleNamespace

import can

from idler.link.bus.wire import KEPT, Frames, Tap, write_capture


class Ring(unittest.TestCase):
    def test_only_what_is_new_is_given_and_only_the_last_is_kept(self) -> None:
        frames = Frames()
        self.assertEqual(frames.since(0), [])
        for number in range(5):
            frames.add(0x180 + number, bytes([number]), sent=bool(number % 2))
        self.assertEqual([frame.identifier for frame in frames.since(3)], [0x183, 0x184])
        for _ in range(KEPT):
            frames.add(1, b"", sent=True)
        listed = frames.since(0)
        self.assertEqual((len(listed), listed[-1].number), (KEPT, KEPT + 5))

    def test_the_tap_sees_both_ways_and_changes_nothing(self) -> None:
        heard = [can.Message(arbitration_id=0x701, data=b"\x05", is_extended_id=False), None]
        sent: list[can.Message] = []
        bus = SimpleNamespace(recv=lambda _timeout: heard.pop(0), send=lambda m, _t: sent.append(m), fileno=lambda: 9)
        frames = Frames()
        tap = Tap(bus, frames)
        tap.send(can.Message(arbitration_id=0x605, data=b"\x40\x00\x10", is_extended_id=False))
        self.assertEqual(tap.recv(0).arbitration_id, 0x701)
        self.assertIsNone(tap.recv(0))
        self.assertEqual(tap.fileno(), 9)
        self.assertEqual(len(sent), 1)
        self.assertEqual([(f.identifier, f.sent) for f in frames.since(0)], [(0x605, True), (0x701, False)])


class Recording(unittest.TestCase):
    def test_an_independent_reader_takes_it(self) -> None:
        frames = Frames()
        for k in range(20):
            frames.add(0x181 + k, bytes(range(k % 9)), sent=k % 3 == 0)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "wire.log"
            write_capture(path, frames.since(0))
            with can.CanutilsLogReader(str(path)) as reader:
                read = list(reader)
        self.assertEqual([(m.arbitration_id, bytes(m.data)) for m in read],
                         [(f.identifier, f.data) for f in frames.since(0)])  # fmt: skip
        for message, frame in zip(read, frames.since(0), strict=True):
            self.assertAlmostEqual(message.timestamp, frame.when, places=5)
            self.assertEqual(message.is_rx, not frame.sent)
