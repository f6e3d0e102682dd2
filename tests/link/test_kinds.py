"""A kind of controller is one folder: a made-up one, kept in memory, is connected, sent to and proven by the usual session."""

from __future__ import annotations

import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import idler.link
from idler import new_machine, open_machine
from idler.core.machine import Address
from idler.core.proof.claims import Witness
from idler.library import Unreachable
from idler.link.controller import kind_of, kinds
from idler.procedures.engine import Ending

MADE_UP = '''
"""It keeps what it is told, and stands wherever it was sent to at once."""

from dataclasses import replace
from idler.core.controller.standing import ControllerImage
from idler.core.profile.codec import image
from idler.core.profile.pdo import PdoMap
from idler.core.machine.file import read
from idler.link.controller import Kind
from idler.link.errors import LinkError
from idler.link.trace import Trace
from idler.link.events import AxisState, Connected, Disconnected, Done, Identity, PanelState
from idler.shelf.examples import examples

OFF, ON = 0x0250, 0x0637


class Memory:
    def __init__(self, tell):
        machine = read(examples()["verge"]).machine
        self.tell, self.holding = tell, ControllerImage(machine.shape, image(machine))
        self.names, self.axes, self.panel, self.silence, self.node_words = machine.names, (), PanelState(), 0.0, ""
        self.connected, self.trace = False, Trace()  # which hears no clock: the room's counts

    def connect(self, address):
        if address == "memory:nobody":
            raise LinkError("memory:nobody: nobody is there.")
        self.connected, self.axes = True, (AxisState(OFF),) * len(self.names)
        self.tell(Connected(Identity(address, 1, "Memory", "", "", 0, 0, 0, 1, self.names, PdoMap(1, {}), 2), self.holding))

    def disconnect(self):
        self.connected, self.axes = False, ()
        self.tell(Disconnected())

    def send(self, made):
        self.holding = replace(self.holding, raws={**self.holding.raws, **made.wanted})
        self.tell(Done("send", self.holding))

    def power(self, on):
        self.axes = tuple(replace(axis, status=ON if on else OFF) for axis in self.axes)
        self.tell(Done("power"))

    def jog_step(self, slot, distance, speed, *, seek=False):
        moved = replace(self.axes[slot], position=self.axes[slot].position + distance)
        self.axes = (*self.axes[:slot], moved, *self.axes[slot + 1 :])
        self.tell(Done("jog"))

    def __getattr__(self, name):
        """What it cannot do it lets be."""
        return lambda *given, **named: None


KIND = Kind("memory", takes=lambda address: address.startswith("memory:"), open=lambda tell, _keep: Memory(tell))
'''


class MadeUp(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        room = Path(folder.name) / "rooms"
        (room / "memory").mkdir(parents=True)
        (room / "memory" / "__init__.py").write_text(MADE_UP)
        patch = mock.patch.object(idler.link, "__path__", [*idler.link.__path__, str(room)])
        patch.start()
        self.addCleanup(patch.stop)
        self.addCleanup(sys.modules.pop, "idler.link.memory", None)
        new_machine("verge", shelf=folder.name)
        self.verge = open_machine("verge", folder.name)
        self.addCleanup(self.verge.close)

    def test_it_is_known_by_its_address(self) -> None:
        self.assertEqual(set(kinds()), {"own", "plain", "memory"})
        self.assertEqual(
            [kind_of(where).key for where in ("memory:1", "can0", "slcan://a:1")], ["memory", "own", "own"]
        )

    def test_values_are_sent_and_an_axis_is_proven(self) -> None:
        verge = self.verge
        verge.connect("memory:1")
        verge["X", "chain.pitch"] = "4 mm"
        verge.send()
        self.assertFalse(verge.session.count().to_send)
        self.assertEqual(verge.session.in_controller[Address(0, "chain.pitch")], 4)
        verge.power()
        result = verge.run("direction", "X", lambda question: "plus")
        self.assertIs(result.end, Ending.PROVEN, result.words)
        self.assertIs(verge.session.proofs["direction.X"].witness, Witness.EYES)
        self.assertGreater(verge.axes[0].position, 0)

    def test_another_kind_is_taken_up_only_once_the_first_is_left(self) -> None:
        with self.assertRaises(Unreachable) as why:
            self.verge.connect("memory:nobody")
        self.assertIn("nobody is there", why.exception.sentence)
        self.verge.connect("memory:1")
        said: list[str] = []
        self.verge.session.told.subscribe(lambda _tone, words: said.append(words))
        self.verge.session.connect_to("slcan://127.0.0.1:1")
        self.assertIn("Disconnect from this one first", said[-1])
        self.assertTrue(self.verge.session.connected)
        self.verge.session.disconnect()
        self.assertTrue(self.verge.wait(lambda: not self.verge.session.connected, 5))
        with self.assertRaises(Unreachable):
            self.verge.connect("slcan://127.0.0.1:1")
