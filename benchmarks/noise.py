"""Fuzzed inputs for every reader of a text or a file, for the adapter's lines, and for both ports of a bench.

Whatever is not the value or the sentence that was promised is printed with the input that did it.
"""

from __future__ import annotations

import os
import random
import socket
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

from tests.bench.noise import frames, pour
from tests.support import Bench, wired

from idler.core.entry import read_field
from idler.core.errors import IdlerError
from idler.core.quantity import parse
from idler.core.registers import read as read_registers
from idler.core.units import DEG, MM, MM_MIN, ONE, RPM
from idler.link import address
from idler.link.bus import LineBus
from idler.shelf import settings
from idler.shelf.exchange import WRITTEN, Writing, read_machine

NUMBER = 1_000_000
SHARES = {"texts": 0.62, "lines": 0.24, "files": 0.04, "ports": 0.10}
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
        for _ in range(number):
            text, read = _text(self.dice), self.dice.choice(readers)
            begun = time.thread_time()
            self.try_one("texts", lambda text=text, read=read: read(text), text)
            took = time.thread_time() - begun
            self.worst, self.late = max(self.worst, took), self.late + (took > BOUND)

    def files(self, number: int) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            whole = {ending: kind.write(wired(), Writing("noise")).encode() for ending, kind in WRITTEN.items()}  # type: ignore[misc]
            for _ in range(number):
                ending = self.dice.choice(list(whole))
                data = _spoilt(self.dice, whole[ending])
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


def run(number: int = NUMBER, seed: int = 1) -> list[tuple[str, str, str]]:
    noise, begun = Noise(seed), time.monotonic()
    for kind, share in SHARES.items():
        getattr(noise, kind)(round(number * share))
    for line in noise.wrong[:20]:
        print(line, flush=True)
    count = ", ".join(f"{noise.count[kind]} {kind}" for kind in SHARES)
    taken = f"{noise.count['texts taken']} texts and {noise.count['files taken']} files were taken"
    return [
        (f"fuzzed inputs ({count}) that ended otherwise than in a value or a sentence", "0",
         f"{len(noise.wrong)} ({taken}; {time.monotonic() - begun:.0f} s)"),
        ("of the texts, that took more than 5 ms of processor", "0", f"{noise.late} (worst {1000 * noise.worst:.1f} ms)"),
    ]  # fmt: skip


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for row in run(*(int(word) for word in sys.argv[1:])):
        print(" | ".join(row))
