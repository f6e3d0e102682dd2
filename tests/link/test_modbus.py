"""A spindle's drive on Modbus, spoken to over the bench's own port."""

from __future__ import annotations

import threading
import unittest
from dataclasses import replace
from importlib import resources

from idler.core.spindle.registers import Registers, read
from idler.link.modbus import BusDrive, DriveState
from tests.support import Bench, shared_bench, wait_for


def paper(port: str) -> Registers:
    """The description that comes with the lathe, at a port."""
    text = (resources.files("idler") / "data" / "drives" / "fusee.toml").read_text("utf-8")
    return replace(read(text), port=port)


class OnBench(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.bench = shared_bench(cls, "fusee", pace=5)

    def setUp(self) -> None:
        self.bench.hands.ask(do="deliver")

    def drive(self, found: Registers) -> BusDrive:
        self.heard: list[DriveState] = []
        made = BusDrive(found, self.heard.append)
        self.addCleanup(made.close)
        return made

    def test_it_answers_and_turns_only_while_it_is_enabled(self) -> None:
        drive = self.drive(paper(self.bench.ready["drive"]))
        wait_for(lambda: drive.state.answers, "an answer")
        drive.command(1, 1200.0)
        heard = len(self.heard)
        self.bench.hands.ask(do="run", seconds=3)
        self.assertEqual(self.bench.hands.ask(do="look")["spindle"], 0.0)  # its enable terminal is open
        self.assertEqual([state.rpm for state in self.heard[heard:]], [])

    def test_a_fault_is_told_and_reset(self) -> None:
        drive = self.drive(paper(self.bench.ready["drive"]))
        self.bench.hands.ask(do="trip")
        wait_for(lambda: drive.state.fault == 2, "the fault")
        drive.reset()
        wait_for(lambda: drive.state.answers and not drive.state.fault, "the reset")

    def test_a_register_that_is_not_there_is_named(self) -> None:
        found = paper(self.bench.ready["drive"])
        wrong = found.with_register("measured", replace(found.registers["measured"], number=0x3000))
        drive = self.drive(wrong)
        wait_for(lambda: "3000h" in drive.state.why, "the sentence")
        self.assertIn("it has no such register", drive.state.why)
        self.assertFalse(drive.state.answers)

    def test_a_value_that_the_drive_does_not_take(self) -> None:
        drive = self.drive(paper(self.bench.ready["drive"]))
        drive.command(1, 9000.0)
        wait_for(lambda: "does not take this value" in drive.state.why, "the sentence")

    def test_its_thread_ends(self) -> None:
        drive = self.drive(paper(self.bench.ready["drive"]))
        wait_for(lambda: drive.state.answers, "an answer")
        drive.close()
        self.assertNotIn("modbus", [thread.name for thread in threading.enumerate()])


class OnASerialLine(unittest.TestCase):
    """The same drive, as RTU on a pseudo terminal."""

    def test_it_answers_is_told_and_reset(self) -> None:
        bench = Bench(pace=5, rig="fusee", pty=True)
        self.addCleanup(bench.close)
        drive = BusDrive(replace(paper(bench.ready["drive_device"]), parity="none"), lambda _: None)
        self.addCleanup(drive.close)
        wait_for(lambda: drive.state.answers, "an answer")
        bench.hands.ask(do="trip")
        wait_for(lambda: drive.state.fault == 2, "the fault")
        drive.reset()
        wait_for(lambda: not drive.state.fault, "the reset")
        drive.command(-1, 1200.0)
        wait_for(lambda: drive.state.answers, "an answer to the command")


class Nobody(unittest.TestCase):
    def test_a_port_where_nobody_is(self) -> None:
        for port in ("tcp://127.0.0.1:1", "/dev/no-such-port"):
            with self.subTest(port):
                drive = BusDrive(paper(port), lambda _: None)
                self.addCleanup(drive.close)
                wait_for(lambda drive=drive: drive.state.why, "the sentence")
                self.assertIn(port, drive.state.why)
                self.assertFalse(drive.state.answers)
