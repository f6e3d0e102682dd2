"""Hand devices as they come: events of the kernel and of a simulated one, what makes no sense, and one that is unplugged."""

from __future__ import annotations

import errno
import os
import sys
import tempfile
import unittest
from collections import namedtuple
from pathlib import Path
from types import ModuleType
from unittest import mock

from idler.core.errors import Refusal
from idler.core.hand.assignment import Control, Sort
from idler.link.errors import LinkError
from idler.link.hand import sources
from idler.link.hand.simulated import SimulatedHand
from idler.link.hand.sources import HandDevice, HandReader
from tests.support import wait_for

Event = namedtuple("Event", "type code value")


class Reading(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.heard: list[tuple[Control, float]] = []
        self.gone: list[str] = []

    def read(self, device: HandDevice) -> HandReader:
        reader = HandReader(device, lambda control, value: self.heard.append((control, value)), self.gone.append)
        self.addCleanup(reader.close)
        return reader

    def test_a_simulated_one_is_found_read_and_missed(self) -> None:
        made = SimulatedHand("Pendant 2", self.folder)
        self.addCleanup(made.close)
        (self.folder / "nobody.hand").touch()
        with mock.patch.object(sources, "SOCKETS", self.folder):
            (device,), why = sources.find()
        self.assertEqual((device.name, why), ("Pendant 2", ""))
        self.read(device)
        wait_for(lambda: made.listeners >= 1, "the reader")
        for words in ("wheel 8 -2", "stick 1 0.5", "button 288 down", "button 288 up"):
            made.do(words)
        wait_for(lambda: len(self.heard) == 4, "what was done")
        self.assertEqual(self.heard, [
            (Control(Sort.WHEEL, 8), -2.0), (Control(Sort.STICK, 1), 0.5), (Control(Sort.BUTTON, 288), 1.0),
            (Control(Sort.BUTTON, 288), 0.0),
        ])  # fmt: skip
        for client in made._heard:
            client.sendall(b'nonsense\n{"type": 9, "code": 1, "value": 1}\n{"type": 1}\n')
        made.do("wheel 8 1")
        wait_for(lambda: len(self.heard) == 5, "what makes sense")
        made.close()
        wait_for(lambda: self.gone, "that it is gone")
        for words in ("wheel 8 far", "lever 1 1", ""):
            with self.assertRaises(Refusal):
                made.do(words)

    def test_one_of_the_kernel_is_taken_alone_and_its_sticks_go_from_end_to_end(self) -> None:
        """A stand-in for the package: no computer of the tests has a device."""
        read_end, write_end = os.pipe()
        self.addCleanup(os.close, write_end)
        node = self.folder / "event0"
        node.touch()
        device = mock.Mock(fd=read_end)
        batches = [
            [Event(*each) for each in ((3, 0, 0), (3, 0, 255), (3, 7, 9), (2, 8, -1), (1, 30, 1), (1, 30, 2), (0, 0, 0))],
            OSError(errno.ENODEV, "No such device"),  # as the kernel says it
        ]  # fmt: skip

        def read() -> list[Event]:
            os.read(read_end, 1)
            batch = batches.pop(0)
            if isinstance(batch, OSError):
                raise batch
            return batch

        device.read.side_effect = read
        package = ModuleType("evdev")
        package.InputDevice = mock.Mock(return_value=device)  # type: ignore[attr-defined]
        with mock.patch.dict(sys.modules, {"evdev": package}):
            self.read(HandDevice(node, "Wheel", 1, 2, {0: (0.0, 255.0), 7: (0.0, 0.0)}))
            device.grab.assert_called_once()
            os.write(write_end, b"x")
            wait_for(lambda: len(self.heard) == 4, "its events")
            os.write(write_end, b"x")
            wait_for(lambda: self.gone, "that it is gone")
        self.assertEqual([value for _, value in self.heard], [-1.0, 1.0, -1.0, 1.0])
        self.assertIn("was unplugged", self.gone[0])
        device.close.assert_called()
        os.close(read_end)

    def test_one_that_is_not_there_is_said(self) -> None:
        with self.assertRaises(LinkError):
            self.read(HandDevice(self.folder / "nothing", "Nothing", 1, 2))


if __name__ == "__main__":
    unittest.main()
