"""Drives that others would have built: the nodes are stacks by others, and keep to the standard as far as those do.

What they are told they do by the clock on the wall: a trapezoid would be more than is needed here, a ramp is enough.
"""

from __future__ import annotations

import json
import sys
import threading
import time
from collections.abc import Callable
from typing import Any

import canopen
import durand
from durand import Node, Record, Variable
from durand.datatypes import DatatypeEnum as D

from idler.core.profile import cia402 as c
from idler.link.bus.adapter import LineBus
from tests.support import DEADLINE, zygote


def adapter(port: int) -> LineBus:
    """Another adapter on the bus of a bench, read in blocks as Idler's own: byte by byte a drive would take half a core."""
    return LineBus(channel=f"socket://127.0.0.1:{port}", bitrate=500_000, sleep_after_open=0)


class DurandDrive:
    """A plain drive on the package durand, over an adapter of its own: it maps nothing, hears no heartbeat, stores nothing.

    counts: of a turn of its motor, which it tells. turns: whether it counts speeds in turns per minute and says so. lie: by how
    much its speed is another than it says. ramp: counts/s². pretends: it has 1016h and 6007h, and does nothing about them.
    coasts: its quick stop option (605Ah) lets it run out. slow: s until it answers anything. says: how many process data
    objects it has to say; this stack says in them what it was told of a change, and stale: it is told of none.
    """

    def __init__(
        self,
        port: int,
        node: int,
        *,
        counts: int = 8192,
        turns: bool = False,
        lie: float = 1.0,
        coasts: bool = False,
        ramp: float = 500_000.0,
        pretends: bool = False,
        slow: float = 0.0,
        says: int = 0,
        stale: bool = False,
    ) -> None:
        self.counts, self.turns, self.lie, self.ramp = counts, turns, lie, ramp
        self._tells = says > 0 and not stale
        self.place = self.speed = 0.0
        self.status, self.mode = 0x0250, 1
        self._goal: float | None = None
        self._velocity = self._at_most = 0.0
        self._bus = adapter(port)
        if slow:
            self._bus.send = self._late(self._bus.send, slow)
        self._network = durand.CANBusNetwork(self._bus)
        self._node: Any = Node(self._network, node, capabilities=durand.node.NodeCapabilities(1, 0, says))
        words = self._node.object_dictionary
        words.write(0x1000, 0, 0x00020192)
        words.write(0x1008, 0, b"Other drive")
        words.write(0x1018, 4, 500 + node)
        told: dict[int, tuple[Any, int]] = {
            c.CONTROL: (D.UNSIGNED16, 0), c.STATUS: (D.UNSIGNED16, 0), c.MODE: (D.INTEGER8, 1), c.MODE_SHOWN: (D.INTEGER8, 1),
            c.POSITION: (D.INTEGER32, 0), c.TARGET_POSITION: (D.INTEGER32, 0), c.PROFILE_SPEED: (D.UNSIGNED32, 0),
            c.TARGET_VELOCITY: (D.INTEGER32, 0), 0x6083: (D.UNSIGNED32, 50_000),
            c.QUICK_STOP_OPTION: (D.INTEGER16, 0 if coasts else 2), c.MODES_KNOWN: (D.UNSIGNED32, 0b101),
        }  # fmt: skip
        if turns:
            told[0x60A9] = (D.UNSIGNED32, 0x00B44700)
        for index, (kind, value) in told.items():
            writable = "ro" if index in (c.STATUS, c.POSITION, c.MODE_SHOWN, c.MODES_KNOWN, 0x60A9) else "rw"
            words[index] = Variable(kind, writable if index != c.QUICK_STOP_OPTION or not coasts else "ro", value)
        if pretends:
            words[0x6007] = Variable(D.INTEGER16, "rw", 0)
            listened = Record()
            listened[1] = Variable(D.UNSIGNED32, "rw", 0)
            words[0x1016] = listened
        record = Record()
        record[1], record[2] = Variable(D.UNSIGNED32, "rw", counts), Variable(D.UNSIGNED32, "rw", 1)
        words[0x608F] = record
        for index, read in (
            (c.STATUS, lambda: self.status),
            (c.POSITION, lambda: round(self.place)),
            (c.MODE_SHOWN, lambda: self.mode),
        ):
            words.set_read_callback(index, 0, read)
        words.update_callbacks[(c.CONTROL, 0)].add(self._control)
        words.update_callbacks[(c.MODE, 0)].add(lambda mode: setattr(self, "mode", mode))
        words.update_callbacks[(c.TARGET_VELOCITY, 0)].add(
            lambda raw: setattr(self, "_velocity", self._per_second(raw))
        )
        words.update_callbacks[(c.PROFILE_SPEED, 0)].add(
            lambda raw: setattr(self, "_at_most", abs(self._per_second(raw)))
        )
        words.update_callbacks[(c.TARGET_POSITION, 0)].add(lambda raw: setattr(self, "_told_goal", raw))
        self._told_goal = 0
        self._ends = threading.Event()
        self._thread = threading.Thread(target=self._live, daemon=True)
        self._thread.start()

    @staticmethod
    def _late(send: Callable[..., None], seconds: float) -> Callable[..., None]:
        def later(*frame: Any, **how: Any) -> None:
            time.sleep(seconds)
            send(*frame, **how)

        return later

    def _per_second(self, raw: int) -> float:
        """Counts per second of what it is told as a speed."""
        return self.lie * (raw * self.counts / 60 if self.turns else raw)

    def _control(self, word: int) -> None:
        """CiA 402-2, as much of it as is needed."""
        enabled = self.status & 0x6F == 0x27
        if not word & 2:
            self.status = 0x0250
        elif not word & 4:  # quick stop, then off: option 2
            self._goal, self._velocity = None, 0.0
            self.status = 0x0250 if not enabled else 0x0217
        elif word & 0xF == 0xF and self.status & 0x6F in (0x23, 0x27):
            self.status = 0x0237
            if word & 0x10 and self.mode == 1 and enabled:
                self._goal = self.place + self._told_goal if word & 0x40 else float(self._told_goal)
                self.status = 0x0237
        elif word & 0xF == 7:
            self.status = 0x0233
        elif word & 0xF == 6:
            self.status = 0x0231
        if self.status & 0x6F != 0x27:
            self._goal = None

    def _live(self) -> None:
        last = time.monotonic()
        while not self._ends.wait(0.004):
            now = time.monotonic()
            step, last = now - last, now
            wanted = 0.0
            if self.status & 0x6F == 0x27 and self.mode == 3:
                wanted = self._velocity
            elif self._goal is not None:
                left = self._goal - self.place
                brakes = (2 * self.ramp * abs(left)) ** 0.5
                wanted = min(self._at_most, brakes, abs(left) / step) * (1 if left > 0 else -1)
            most = self.ramp * step
            self.speed += max(-most, min(most, wanted - self.speed))
            self.place += self.speed * step
            if self._tells:
                self._node.object_dictionary.write(c.POSITION, 0, round(self.place))
            if self._goal is not None and abs(self._goal - self.place) < 2 and abs(self.speed) < 500:
                self.place, self.speed = self._goal, 0.0
                self.status |= c.TARGET_REACHED
            if self.status & 0x6F == 0x07 and abs(self.speed) < 1:
                self.status = 0x0250

    def close(self) -> None:
        self._ends.set()
        self._thread.join()
        self._network.stop()
        self._bus.shutdown()


ODD = {  # objects of a drive that nobody has set up: index, sub: bytes, sign, what it holds
    (0x6040, 0): (2, False, 0), (0x6041, 0): (2, False, 0x0240), (0x6060, 0): (1, True, 0), (0x6061, 0): (1, True, 0),
    (0x6064, 0): (4, True, -(2**31)), (0x607A, 0): (4, True, 0), (0x6081, 0): (4, False, 0),
    (0x607F, 0): (4, False, 0xFFFFFFFF), (0x6083, 0): (4, False, 0), (0x6084, 0): (4, False, 0xFFFFFFFF),
    (0x6085, 0): (4, False, 5), (0x6086, 0): (2, True, 7), (0x6065, 0): (4, False, 0xFFFFFFFF), (0x6066, 0): (2, False, 0xFFFF),
    (0x6099, 1): (4, False, 0), (0x6099, 2): (4, False, 0), (0x609A, 0): (4, False, 0), (0x608F, 1): (4, False, 0),
    (0x608F, 2): (4, False, 0), (0x60FD, 0): (4, False, 0xFFFFFFFF),
}  # fmt: skip


class StillDrive:
    """A node on the package canopen: it keeps what it is told, and moves nothing. place: what 6085h holds now."""

    def __init__(self, port: int, node: int) -> None:
        self._bus = adapter(port)
        words = canopen.ObjectDictionary()
        records: dict[int, Any] = {}
        named = {(0x1000, 0): (4, False, 0x00020192), **{(0x1018, sub): (4, False, sub) for sub in (1, 2, 3, 4)}}
        for (index, sub), (size, signed, value) in {**named, **ODD}.items():
            made = canopen.objectdictionary.ODVariable(f"{index:X}:{sub}", index, sub)
            made.data_type = {(1, True): 2, (2, True): 3, (4, True): 4, (1, False): 5, (2, False): 6, (4, False): 7}[
                size, signed
            ]
            made.access_type, made.default = "rw", value
            if sub:
                if index not in records:
                    records[index] = canopen.objectdictionary.ODRecord(f"{index:X}", index)
                    words.add_object(records[index])
                records[index].add_member(made)
            else:
                words.add_object(made)
        self._network = canopen.Network(bus=self._bus)
        self._node: Any = canopen.LocalNode(node, words)
        self._network.add_node(self._node)
        threading.Thread(target=self._live, daemon=True).start()
        self.speed = 0.0

    @property
    def place(self) -> float:
        return float(self._node.sdo[0x6085].raw)

    def _live(self) -> None:
        while True:
            if (message := self._bus.recv(0.02)) is not None and not message.is_extended_id:
                self._network.notify(message.arbitration_id, message.data, message.timestamp)

    def close(self) -> None:
        self._bus.shutdown()


class WideTerminals:
    """A block of 16 inputs and 16 outputs that knows them in sixteens only, on the package canopen."""

    def __init__(self, port: int, node: int) -> None:
        self._bus = adapter(port)
        words = canopen.ObjectDictionary()
        u8, u16, u32 = (
            canopen.objectdictionary.UNSIGNED8,
            canopen.objectdictionary.UNSIGNED16,
            canopen.objectdictionary.UNSIGNED32,
        )
        simple = {0x1000: (u32, 0x00030191), 0x1017: (u16, 0)}
        arrays = {
            0x1016: (u32, [0]), 0x1018: (u32, [7, 8, 9, 10]), 0x6100: (u16, [0]), 0x6300: (u16, [0]), 0x6306: (u16, [0xFFFF]),
            0x6307: (u16, [0]),
        }  # fmt: skip
        for index, (kind, value) in simple.items():
            words.add_object(_variable(f"{index:x}", index, 0, kind, value))
        for index, (kind, values) in arrays.items():
            record = canopen.objectdictionary.ODRecord(f"{index:x}", index)
            record.add_member(_variable("count", index, 0, u8, len(values)))
            for sub, value in enumerate(values, start=1):
                record.add_member(_variable(f"{index:x}:{sub}", index, sub, kind, value))
            words.add_object(record)
        self._network = canopen.Network(bus=self._bus)
        self.node = canopen.LocalNode(node, words)
        self._network.add_node(self.node)
        self._ends = threading.Event()
        self._thread = threading.Thread(target=self._live, daemon=True)
        self._thread.start()

    def _live(self) -> None:
        while not self._ends.is_set():
            if (message := self._bus.recv(0.02)) is not None and not message.is_extended_id:
                self._network.notify(message.arbitration_id, message.data, message.timestamp)

    def close_inputs(self, bits: int) -> None:
        self.node.set_data(0x6100, 1, bits.to_bytes(2, "little"))

    @property
    def on(self) -> int:
        return int.from_bytes(self.node.get_data(0x6300, 1), "little")

    def close(self) -> None:
        self._ends.set()
        self._thread.join()
        self._bus.shutdown()


def _variable(name: str, index: int, sub: int, kind: int, value: int) -> Any:
    made = canopen.objectdictionary.ODVariable(name, index, sub)
    made.data_type, made.access_type, made.default = kind, "rw", value
    return made


class Stranger:
    """A drive in a process of its own, so that it answers as soon as one with a processor of its own would."""

    def __init__(self, port: int, node: int, **ways: Any) -> None:
        self.counts = int(ways.get("counts", 8192))
        self._process = zygote().start((json.dumps({"port": port, "node": node, **ways}),), "tests.link.strangers")
        self._look()  # it is there

    def _look(self) -> dict[str, float]:
        self._process.stdin.write("look\n")
        self._process.stdin.flush()
        found: dict[str, float] = json.loads(self._process.stdout.readline())
        return found

    @property
    def place(self) -> float:
        """In counts."""
        return self._look()["place"]

    @property
    def speed(self) -> float:
        """In counts per second."""
        return self._look()["speed"]

    def close(self) -> None:
        """Its power is taken away; a second call does nothing."""
        if not self._process.stdin.closed:
            self._process.kill()
            self._process.wait(DEADLINE)
            self._process.stdin.close()
            self._process.stdout.close()


def main(words: str) -> None:
    ways = json.loads(words)
    made: Any = StillDrive if ways.pop("still", False) else DurandDrive
    drive = made(ways.pop("port"), ways.pop("node"), **ways)
    for _ in sys.stdin:
        print(json.dumps({"place": drive.place, "speed": drive.speed}), flush=True)
    drive.close()
