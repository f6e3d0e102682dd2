"""Inputs that nobody should send: at both ports of the bench, from an adapter, and to every reader of a file or a text."""

from __future__ import annotations

import contextlib
import gc
import json
import random
import socket
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path

from idler.core.errors import IdlerError
from idler.core.machine import Machine
from idler.core.mechanics.entry import read_field
from idler.core.spindle.registers import read as read_registers
from idler.core.values.quantity import parse
from idler.core.values.units import DEG, MM, MM_MIN, ONE, RPM
from idler.link.bus import address
from idler.link.bus.adapter import LineBus
from idler.shelf import settings
from idler.shelf.exchange import WRITTEN, Writing, read_machine
from tests.support import Bench, wired

SHARES = {"texts": 0.62, "lines": 0.24, "files": 0.04, "ports": 0.10}  # of all inputs
BOUND = 0.005  # s of processor for a text
_SEEDS = (
    "5 mm", "1/3 in", "−2.5e3 mm/min", "20 to 40 teeth", "3 : 1", "20:40, belt", "8 tpi", "10 threads per inch", "4,000",
    "1 200,5 mm", "10 rpm motor", "0.3 s", "12.5 %", "200 mm/s²", "5 60, 97 5948", "0 2.1, 600 1.4", "0.001 0.01 0.1 1",
    "1/4 -20",
    "slcan://127.0.0.1:29536?bitrate=250000&node=5", "/dev/ttyACM0", "can0", "switch", "on", "home_second", "90°", "2 (3)^2",
)  # fmt: skip
_SIGNS = "0123456789.,/:;eE+-−()[]*^²°%\"' \t\nµ·×½٣൦①∞\0abcdefghijklmnopqrstuvwxyzMN"


def _text(dice: random.Random) -> str:
    """One of the seeds, or nothing, with some of its signs changed, taken out, repeated or put in."""
    text = list(dice.choice(_SEEDS) if dice.random() < 0.9 else "")
    for _ in range(dice.randrange(1, 9)):
        at = dice.randrange(len(text) + 1)
        what = dice.random()
        if what < 0.5:
            text.insert(at, dice.choice(_SIGNS))
        elif what < 0.8 and at < len(text):
            text[at] = dice.choice(_SIGNS)
        elif what < 0.9:
            del text[at : at + 3]
        else:
            text[at:at] = text[at : at + 6] * dice.randrange(1, 30)
    return "".join(text)


def _seconds(read: Callable[[str], object], text: str) -> float:
    """s of processor that this text takes."""
    begun = time.thread_time()
    with contextlib.suppress(Exception):
        read(text)
    return time.thread_time() - begun


def _spoilt(dice: random.Random, data: bytes) -> bytes:
    """Bytes changed, a piece taken out, repeated or cut off."""
    found = bytearray(data)
    for _ in range(dice.randrange(1, 6)):
        at = dice.randrange(len(found) + 1)
        what = dice.random()
        if what < 0.4:
            found[at : at + 1] = bytes((dice.randrange(256),))
        elif what < 0.6:
            del found[at : at + dice.randrange(40)]
        elif what < 0.8:
            found[at:at] = found[at : at + dice.randrange(60)] * dice.randrange(1, 40)
        elif what < 0.95:
            found[at:at] = dice.choice(
                (b"[", b"9" * 400, b"1e999", b"\xff\xfe", b"\r", b'"', b"[[[[" * 99, b"0x", b"\0")
            )
        else:
            del found[at:]
    return bytes(found)


class Noise:
    """Counts what came of each kind of input."""

    def __init__(self, seed: int) -> None:
        self.dice = random.Random(seed)
        self.count: Counter[str] = Counter()
        self.wrong: list[str] = []
        self.worst = 0.0
        self.late = 0

    def try_one(self, kind: str, work: Callable[[], object], shown: object) -> None:
        self.count[kind] += 1
        try:
            work()
            self.count[f"{kind} taken"] += 1
        except IdlerError as why:
            if len(why.sentence.splitlines()) != 1:
                self.wrong.append(f"{kind} {shown!r:.200}: more than one line")
        except Exception as why:  # whatever it is, it is the fault that is looked for
            self.wrong.append(f"{kind} {shown!r:.200}: {type(why).__name__}: {why!s:.100}")

    def texts(self, number: int) -> None:
        machine = wired()
        addresses = list(machine.addresses())
        readers: list[Callable[[str], object]] = [
            *(lambda text, unit=unit: parse(text, unit) for unit in (MM, MM_MIN, DEG, RPM, ONE)),
            address.parse, *[lambda text: read_field(machine, self.dice.choice(addresses), text)] * 6,
        ]  # fmt: skip
        gc.disable()  # what others have left is not the reader's time
        try:
            for _ in range(number):
                text, read = _text(self.dice), self.dice.choice(readers)
                begun = time.thread_time()
                self.try_one("texts", lambda text=text, read=read: read(text), text)
                took = time.thread_time() - begun
                if (
                    took > BOUND
                ):  # a processor that was taken away and came back with cold caches is not the reader's time
                    took = min(took, *(_seconds(read, text) for _ in range(2)))
                self.worst, self.late = max(self.worst, took), self.late + (took > BOUND)
        finally:
            gc.enable()

    def files(self, number: int) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            whole = [
                (ending, kind.write(machine, Writing("noise")).encode())  # type: ignore[misc]
                for ending, kind in WRITTEN.items()
                for machine in (wired(), Machine(("X", "A"), {}, 1, 1))
            ]
            shares = [1 / len(good) for _, good in whole]  # long ones take longer: as much time for each
            for _ in range(number):
                ending, good = self.dice.choices(whole, shares)[0]
                data = _spoilt(self.dice, good)
                path = folder / f"file{ending}"
                path.write_bytes(data)
                reader = self.dice.random()
                if reader < 0.8:
                    self.try_one("files", lambda path=path: read_machine(path), data)
                elif reader < 0.9:
                    text = data.decode("utf-8", "replace")
                    self.try_one("files", lambda text=text: read_registers(text), data)
                else:
                    self.try_one("files", lambda path=path: settings.read(path), data)

    def lines(self, number: int) -> None:
        with socket.create_server(("127.0.0.1", 0)) as server:
            bus = LineBus(channel=f"socket://127.0.0.1:{server.getsockname()[1]}", bitrate=500_000, sleep_after_open=0)
            adapter, _ = server.accept()
        with adapter:
            for begin in range(0, number, 100):
                many = min(100, number - begin)
                data = b"\r".join(_spoilt(self.dice, line) for line in frames(self.dice, 5, many))
                self.count["lines"] += many - 1
                adapter.sendall(data[:60_000] + b"\rt7FF0\r")

                def take() -> None:
                    deadline = time.monotonic() + 10
                    while (0x7FF, b"") not in bus.take(64):
                        if time.monotonic() > deadline:
                            raise TimeoutError("the frame behind the noise did not come")

                self.try_one("lines", take, data)
            bus.shutdown()

    def ports(self, number: int) -> None:
        bench = Bench(pace=1)
        try:
            for begin in range(0, number // 2, 2000):
                some = min(2000, number // 2 - begin)
                self.try_one("ports", lambda some=some: pour(bench, self.dice, some), begin)
                self.count["ports"] += 2 * some - 1
            stumbles = bench.hands.ask(do="look")["stumbles"]
            if stumbles:
                self.wrong.append(f"ports: the bench stumbled {stumbles} times")
        finally:
            bench.close()


_ODD = (b"", b"\0", b"\xff" * 8, b"1e400", b"[" * 200, b'{"do":' * 50, b"-1", b"NaN", b"9" * 50)
_DOES = (
    "look", "zero", "read", "press", "release", "break", "loosen", "sound", "jam", "free", "push", "belt", "spin", "tachometer",
    "trip", "restore", "fault", "events", "pace", "nothing",
)  # fmt: skip
_VALUES = (
    None,
    True,
    -1,
    0,
    1,
    10**30,
    1.5,
    -1e308,
    "X",
    "X home",
    "",
    "dial",
    [],
    {},
    [[]] * 3,
    "caliper",
    "clip",
    "deg",
)


def frames(dice: random.Random, node: int, number: int) -> Iterator[bytes]:
    """Lines of a serial CAN adapter: mostly frames to the node in every service, some that are no frames."""
    bases = (0x000, 0x080, 0x180, 0x200, 0x300, 0x400, 0x500, 0x580, 0x600, 0x600, 0x600, 0x700)
    places = (0x1000, 0x1010, 0x1011, 0x1016, 0x1400, 0x1800, 0x2002, 0x200B, 0x4001, 0x6040, 0x607A, 0x60FF, 0x7FFF)
    for _ in range(number):
        kind = dice.random()
        if kind < 0.1:
            yield dice.choice(_ODD) + bytes(dice.randrange(256) for _ in range(dice.randrange(20)))
            continue
        identifier = (dice.choice(bases) + dice.choice((node, node, node, 0, dice.randrange(128)))) & 0x7FF
        size = 8 if kind < 0.8 else dice.randrange(9)
        data = bytearray(dice.randrange(256) for _ in range(size))
        if identifier & 0x780 == 0x600 and size == 8:
            data[0] = dice.choice(
                (0x40, 0x23, 0x2B, 0x2F, 0x60, 0x70, 0x80, 0xA0, 0xA1, 0xA2, 0xA3, 0xA4, 0xC2, data[0])
            )
            place = dice.choice(places)
            data[1:4] = bytes((place & 0xFF, place >> 8, dice.choice((0, 1, 2, 255))))
        if identifier == 0 and size > 1 and data[0] in (0x81, 0x82):
            continue  # a restart is silent for a while; it has tests of its own
        yield b"t%03X%d%s" % (identifier, size, bytes(data).hex().upper().encode())


def hands(dice: random.Random, number: int) -> Iterator[bytes]:
    """Lines to the bench's hands."""
    for _ in range(number):
        if dice.random() < 0.2:
            yield dice.choice(_ODD) + bytes(dice.randrange(32, 256) for _ in range(dice.randrange(30)))
            continue
        keys = ("axis", "switch", "instrument", "place", "turns", "kind", "after", "factor")
        asked = {key: dice.choice(_VALUES) for key in dice.sample(keys, dice.randrange(len(keys)))}
        asked["do"] = dice.choice(_DOES)
        if asked["do"] == "pace":
            asked["factor"] = dice.choice((-1, 1e308, "fast", None))
        if asked["do"] == "fault":
            asked["kind"] = "none"  # what is planned would spoil the count of answers
        yield json.dumps(asked).encode()


def pour(bench: Bench, dice: random.Random, number: int) -> None:
    """So many inputs at each port, in pieces that end anywhere; a client that does not read its answers among them."""
    deaf = socket.create_connection(("127.0.0.1", bench.port))
    deaf.sendall(b"S6\rO\r")
    with deaf, socket.create_connection(("127.0.0.1", bench.port)) as line:
        line.settimeout(30)
        line.sendall(b"S6\rO\r")
        for begin in range(0, number, 200):
            text = b"\r".join(frames(dice, bench.node, min(200, number - begin))) + b"\rV\r"
            for at in range(0, len(text), 997):
                line.sendall(text[at : at + 997])
            said = b""
            while b"V1013\r" not in said:
                said = said[-8:] + line.recv(65536)
    host, port = bench.ready["hands"].removeprefix("tcp://").split(":")
    with socket.create_connection((host, int(port))) as hand:
        hand.settimeout(30)
        for begin in range(0, number, 100):
            lines = [line.replace(b"\n", b" ") for line in hands(dice, min(100, number - begin))]
            hand.sendall(b"\n".join(lines) + b"\n")
            answers = b""
            while answers.count(b"\n") < len(lines):
                answers += hand.recv(65536)
