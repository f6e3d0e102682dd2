"""The bench outlives whatever comes in at its ports, and answers afterwards as before."""

from __future__ import annotations

import random
import socket
import tempfile
import unittest
from pathlib import Path

from idler.bench.rigs import rig as rigs
from idler.core.errors import IdlerError
from idler.link.events import Connected, Failed
from tests.noise import pour
from tests.support import LinkedCase, run_idler, wait_for


class Ports(LinkedCase):
    def test_noise_at_both_ports(self) -> None:
        pour(self.bench, random.Random(15), 3000)
        self.bench.hands.ask(do="deliver")
        self.link.connect(self.bench.link)
        wait_for(lambda: self.got(Connected) or self.got(Failed), "the link")
        self.assertTrue(self.got(Connected), self.got(Failed))
        self.assertEqual(self.bench.hands.ask(do="look")["stumbles"], 0)

    def test_the_last_acknowledgement_of_a_block_said_twice(self) -> None:
        with socket.create_connection(("127.0.0.1", self.bench.port)) as line:
            line.settimeout(30)
            line.sendall(b"S6\rO\r")
            request = b"t%03X8" % (0x600 + self.bench.node)
            line.sendall(request + b"A40B20027F000000\r" + request + b"A300000000000000\r")
            for _ in range(3):
                line.sendall(request + b"A2027F0000000000\r")
            line.sendall(b"V\r")
            said = b""
            while b"V1013" not in said:
                said += line.recv(65536)
        self.assertIn(b"t%03X880" % (0x580 + self.bench.node), said)  # refused, and nothing worse
        self.assertEqual(self.bench.hands.ask(do="look")["stumbles"], 0)

    def test_a_first_request_that_is_no_command_is_refused(self) -> None:
        self.bench.hands.ask(do="deliver")
        with socket.create_connection(("127.0.0.1", self.bench.port)) as line:
            line.settimeout(30)
            line.sendall(b"S6\rO\rt%03X8FF00000000000000\rV\r" % (0x600 + self.bench.node))
            said = b""
            while b"V1013" not in said:
                said += line.recv(65536)
        self.assertIn(b"t%03X880" % (0x580 + self.bench.node), said)
        self.assertEqual(self.bench.hands.ask(do="look")["stumbles"], 0)

    def test_a_hand_that_does_not_read(self) -> None:
        host, port = self.bench.ready["hands"].removeprefix("tcp://").split(":")
        with socket.create_connection((host, int(port))) as hand:
            hand.settimeout(30)
            try:
                for _ in range(400):
                    hand.sendall(b'{"do": "look"}\n' * 50)
            except OSError:
                pass  # it was left
            self.assertTrue(self.bench.hands.look("X"))
        self.assertEqual(self.bench.hands.ask(do="look")["stumbles"], 0)


class Files(unittest.TestCase):
    def test_a_rig_or_a_memory_that_is_not_well_formed_is_one_sentence(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "rig.toml"
            for text in (
                "",
                "name = 3",
                "[rig",
                'told = "none.toml"',
                "a = " + "[" * 5000,
                "x = 1e400",
                'told = "rig.toml"',
            ):
                path.write_text(text, "utf-8")
                with self.subTest(text[:20]), self.assertRaises(IdlerError) as caught:
                    rigs.load(str(path))
                self.assertEqual(len(caught.exception.sentence.splitlines()), 1)
            memory = Path(folder) / "memory.json"
            memory.write_text("[1, 2]", "utf-8")
            done = run_idler("bench", "--memory", str(memory))
            self.assertEqual((done.returncode, len(done.stderr.splitlines())), (2, 1), done.stderr)
