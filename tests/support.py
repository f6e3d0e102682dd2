"""What several tests need: a bench of their own, hands to it, and places in a machine."""

from __future__ import annotations

import atexit
import functools
import json
import socket
import subprocess
import sys
import tempfile
import tomllib
import unittest
from collections.abc import Callable
from fractions import Fraction
from importlib import resources
from pathlib import Path
from typing import Any, TypeVar

from idler.core.machine import Address, Machine
from idler.core.machine import file as machinefile
from idler.core.values.parameter import Value
from idler.link.events import Event
from idler.link.thread import Link
from tests.zygote import Started, Zygote

X, Y, Z, A = range(4)
DEADLINE = 30.0
LONGEST_PAUSE = 0.02  # s between two looks at what is waited for
E = TypeVar("E", bound=Event)


def verge_text() -> str:
    return (resources.files("idler") / "data" / "verge.toml").read_text("utf-8")


def verge() -> Machine:
    """The machine that Verge's controller was told."""
    return machinefile.read(verge_text()).machine


WIRED = {  # input from 1: role, axis, contact at rest; as the rig Verge is wired
    1: ("stop", "none", "closed"), 2: ("home", "X", "closed"), 3: ("home", "Y", "closed"), 4: ("guard", "none", "closed"),
    5: ("home", "Z", "closed"), 6: ("home", "A", "open"), 7: ("probe", "none", "open"), 9: ("trouble", "Z", "closed"),
    10: ("index", "A", "open"),
}  # fmt: skip
SWITCHED = {1: "spindle_on", 2: "direction", 5: "coolant", 6: "way_oil", 9: "spindle_level"}


def wiring() -> dict[Address, Value]:
    """The values that tell Verge's controller how it is wired."""
    values: dict[Address, Value] = {}
    for number, (role, axis, rest) in WIRED.items():
        values |= {
            at(number - 1, f"input.{key}"): value for key, value in (("role", role), ("axis", axis), ("rest", rest))
        }
    return values | {at(number - 1, "output.role"): role for number, role in SWITCHED.items()}


def torch() -> dict[Address, Value]:
    """The values that make a cutting table of the rig Verge, whose first output lights a torch."""
    return wiring() | {
        at(None, "build.kind"): "table", at(None, "build.cutter"): "torch", at(None, "spindle.kind"): "relay",
        at(None, "spindle.start_speed"): Fraction(1), at(1, "output.role"): "none", at(8, "output.role"): "none",
    }  # fmt: skip


def wired() -> Machine:
    """Verge with every terminal told."""
    return verge().with_values(wiring())


def at(slot: int | None, key: str) -> Address:
    return Address(slot, key)


class Hands:
    """A person's hands at the bench: one request, one answer."""

    def __init__(self, address: str) -> None:
        host, _, port = address.removeprefix("tcp://").rpartition(":")
        self._socket = socket.create_connection((host, int(port)), timeout=DEADLINE)
        self._file = self._socket.makefile("rw", encoding="utf-8")

    def ask(self, **request: Any) -> dict[str, Any]:
        return self.raw(json.dumps(request))

    def raw(self, line: str) -> dict[str, Any]:
        self._file.write(line + "\n")
        self._file.flush()
        return json.loads(self._file.readline())

    def look(self, name: str) -> dict[str, Any]:
        """One axis as it truly is."""
        return next(axis for axis in self.ask(do="look")["axes"] if axis["name"] == name)

    def switch(self, name: str) -> dict[str, Any]:
        """One switch as it truly is."""
        return next(switch for switch in self.ask(do="look")["switches"] if switch["name"] == name)

    def close(self) -> None:
        self._file.close()
        self._socket.close()


class Bench:
    """A bench process. pace 0: its clock stands still until `hands.ask(do="run", ...)`."""

    def __init__(self, *, pace: float = 20, rig: str = "verge", memory: Path | None = None, pty: bool = False) -> None:
        words = ["bench", "--rig", rig, "--pace", str(pace), "--seed", "7"]
        words += ["--memory", str(memory)] if memory else []
        words += ["--pty"] if pty else []
        self.process = self.begin(words)
        assert self.process.stdout is not None
        self.ready: dict[str, Any] = json.loads(self.process.stdout.readline())
        self.link: str = self.ready["link"]
        self.node: int = self.ready["node"]
        self.hands = Hands(self.ready["hands"])

    def begin(self, words: list[str]) -> subprocess.Popen[str] | Started:
        return zygote().start(tuple(words))

    @property
    def port(self) -> int:
        return int(self.link.rpartition(":")[2])

    def close(self) -> None:
        self.hands.close()
        assert self.process.stdin is not None and self.process.stdout is not None
        self.process.stdin.close()
        self.process.wait(DEADLINE)
        self.process.stdout.close()


def changed_rig(folder: Path, rig: str, change: Callable[[dict[str, Any]], object]) -> str:
    """The file of a rig like another, in which something is otherwise; its controller was told the same."""
    import tomli_w

    data = tomllib.loads((resources.files("idler.bench") / "rigs" / f"{rig}.toml").read_text("utf-8"))
    change(data)
    (folder / "rig.toml").write_text(tomli_w.dumps(data), "utf-8")
    told = (resources.files("idler") / "data" / f"{rig}.toml").read_text("utf-8")
    (folder / f"{rig}.toml").write_text(told, "utf-8")
    return str(folder / "rig.toml")


class BenchAlone(Bench):
    """In an interpreter of its own, as a person starts it."""

    def begin(self, words: list[str]) -> subprocess.Popen[str]:
        command = [sys.executable, "-m", "idler", *words]
        return subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)


_benches: dict[str, Bench] = {}


def shared_bench(case: type[unittest.TestCase], rig: str = "verge", pace: float = 20) -> Bench:
    """The one bench of a rig, as it was delivered, for the tests of a class; between classes its clock stands still."""
    if rig not in _benches:
        _benches[rig] = Bench(pace=0, rig=rig)
        atexit.register(_benches[rig].close)
    bench = _benches[rig]
    bench.hands.ask(do="deliver")
    bench.hands.ask(do="pace", factor=pace)
    case.addClassCleanup(lambda: bench.hands.ask(do="pace", factor=0))
    return bench


class BenchCase(unittest.TestCase):
    """The bench of a rig for all tests of a class, and a folder of its own for each test."""

    pace: float = 20
    rig = "verge"
    bench: Bench

    @classmethod
    def setUpClass(cls) -> None:
        cls.bench = shared_bench(cls, cls.rig, cls.pace)

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)


class LinkedCase(BenchCase):
    """A link of its own for each test, on the class's bench as it was delivered; not connected yet."""

    def setUp(self) -> None:
        super().setUp()
        self.bench.hands.ask(do="pace", factor=self.pace)  # a test that failed may have left another
        self.bench.hands.ask(do="deliver")
        self.events: list[Event] = []
        self.link = Link(self.events.append)
        self.addCleanup(self.link.close)

    def got(self, kind: type[E]) -> list[E]:
        """The events of one kind so far."""
        return [event for event in list(self.events) if isinstance(event, kind)]


def run_idler(*words: str, folder: Path | None = None) -> subprocess.CompletedProcess[str]:
    """The command line program, as a process of its own."""
    return zygote().run(words, folder or Path.cwd())


@functools.cache
def zygote() -> Zygote:
    return Zygote()


def wait_for(condition: Callable[[], object], what: str, step: Callable[[], object] = lambda: None) -> None:
    """Waits with a deadline for something that another thread or process does; `step` lets it happen. What takes long to be
    looked at is looked at less often, so that it is not the looking that the others wait for."""
    import threading
    import time

    pause = threading.Event()
    begun = time.monotonic()
    deadline = begun + DEADLINE
    while not condition():
        if (now := time.monotonic()) > deadline:
            raise AssertionError(f"waited {DEADLINE:g} s for {what}")
        step()
        pause.wait(min(LONGEST_PAUSE, max(0.003, 4 * (now - begun))))
        begun = time.monotonic()
