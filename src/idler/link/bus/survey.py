"""Who is on a bus: all nodes that are heard or answer, and what each says of itself. Nothing is written, started or stopped."""

from __future__ import annotations

import select
import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from typing import Any

import can
import canopen
from canopen.sdo import SdoAbortedError, SdoCommunicationError

from idler.core.controller.nodes import What, what_is
from idler.core.profile.busload import Health
from idler.core.profile.cia301 import SDO_ANSWER, SDO_REQUEST
from idler.core.profile.cia402 import HEARTBEAT
from idler.core.profile.pdo import HIGHEST_NODE

from ..errors import LinkError, LinkLost
from ..times import Times, usual
from .adapter import open_bus
from .address import BusAddress
from .sdo import Responses
from .wire import Frames, Tap, health_of

LISTENED = 0.3  # s before anything is asked: whoever says that he is there
ASKED_AT_ONCE, BETWEEN = (
    8,
    0.004,
)  # nodes, s: 127 questions take a fortieth of a bus of 125 kbit/s for a tenth of a second
MOST_BYTES, LONGEST = 4096, 3.0  # of one answer, s: a name is short, and whoever answers without end is not listened to
MOST_FRAMES = 256
NAME_LETTERS = 80


@dataclass(frozen=True)
class Node:
    """number: on the bus, 1 to 127. type: the raw device type. What it does not tell is empty or 0."""

    number: int
    what: What
    name: str = ""
    vendor: int = 0
    product: int = 0
    serial: int = 0
    type: int = 0

    def as_json(self) -> dict[str, int | str]:
        return {
            "node": self.number, "what": self.what.key, "name": self.name, "vendor": self.vendor, "product": self.product,
            "serial": self.serial,
        }  # fmt: skip


def survey(address: BusAddress, times: Times = usual) -> list[Node]:
    """All nodes of a bus, by their numbers; none where nobody is. Raises LinkError where it cannot be opened or is lost."""
    with Survey(address, times) as bus:
        bus.listen(LISTENED)
        answered = bus.ask_all()
        return [
            bus.node(number) if number in answered else Node(number, What.SILENT)
            for number in sorted({*bus.heard, *answered})
        ]


def listen(address: BusAddress, seconds: float) -> Health:
    """Who speaks on a bus, and how much, while nothing is asked of anybody. Raises LinkError."""
    with Survey(address, usual) as bus:
        bus.listen(seconds)
        heard = [frame for frame in bus.frames.since(0) if not frame.sent]
        return health_of(heard, seconds, address.rate, bus.frames.faulty)


class Survey:
    """A bus that is looked at, and on which nothing else goes on. heard: numbers of nodes whose heartbeat or boot-up was.
    silent: nothing can be said on it."""

    def __init__(self, address: BusAddress, times: Times, *, silent: bool = False) -> None:
        self.address, self._times = address, times
        self.frames = Frames()
        self._bus: Any = Tap(open_bus(address, silent=silent), self.frames)
        self._network = canopen.Network(bus=self._bus)
        self.heard: set[int] = set()

    def __enter__(self) -> Survey:
        return self

    def __exit__(self, *_: object) -> None:
        with suppress(can.CanError, OSError):
            self._bus.shutdown()

    def _pump(self, seconds: float) -> None:
        """Lets time pass and takes what comes in. Raises LinkLost."""
        try:
            if not getattr(self._bus, "waiting", False):
                select.select([self._bus.fileno()], [], [], max(0.0, seconds))
            for identifier, data in self._bus.take(MOST_FRAMES):
                if identifier & 0x780 == HEARTBEAT and identifier & 0x7F:
                    self.heard.add(identifier & 0x7F)
                self._network.notify(identifier, bytearray(data), time.monotonic())
        except (can.CanError, OSError) as why:
            raise LinkLost(f"{self.address}: the line is gone ({why}).") from None

    @property
    def spoilt(self) -> int:
        """Lines of the adapter that made no sense."""
        return int(getattr(self._bus, "spoilt", 0))

    def listen(self, seconds: float) -> None:
        until = time.monotonic() + seconds
        while (left := until - time.monotonic()) > 0:
            self._pump(left)

    def subscribe(self, identifier: int, hear: Callable[[bytes], object]) -> None:
        self._network.subscribe(identifier, lambda _identifier, data, _time: hear(bytes(data)))

    def manage(self, command: int, node: int) -> None:
        """One word of NMT."""
        self.send(0, bytes((command, node)))

    def send(self, identifier: int, data: bytes) -> None:
        try:
            self._network.send_message(identifier, data)
        except (can.CanError, OSError) as why:
            raise LinkLost(f"{self.address}: nothing can be sent ({why}).") from None

    def ask_all(self) -> set[int]:
        """Numbers of the nodes that answer, if only by a refusal, when they are asked for their device type; those that stay
        silent are asked again."""
        answered: set[int] = set()

        def hear(identifier: int, _data: bytearray, _time: float) -> None:
            answered.add(identifier - SDO_ANSWER)

        numbers = range(1, HIGHEST_NODE + 1)
        for number in numbers:
            self._network.subscribe(SDO_ANSWER + number, hear)
        for patience in self._times.search[:2]:
            self._ask(number for number in numbers if number not in answered)
            self.listen(patience)
        for number in numbers:
            self._network.unsubscribe(SDO_ANSWER + number)
        return answered

    def _ask(self, numbers: Iterable[int]) -> None:
        for place, number in enumerate(numbers, start=1):
            self.send(SDO_REQUEST + number, bytes((0x40, 0x00, 0x10, 0, 0, 0, 0, 0)))
            if place % ASKED_AT_ONCE == 0:
                self.listen(BETWEEN)

    def identity(self, number: int) -> tuple[int, int, int, int]:
        """Vendor, product, revision and serial number (1018h) of a node; 0 for what it does not say."""
        with self._asking(number) as told:
            vendor, product, revision, serial = (_figure(told(0x1018, sub)) for sub in (1, 2, 3, 4))
        return vendor, product, revision, serial

    def node(self, number: int) -> Node:
        """What a node says of itself."""
        with self._asking(number) as told:
            kind, vendor, product, serial = _figure(told(0x1000, 0)), *(_figure(told(0x1018, sub)) for sub in (1, 2, 4))
            name = told(0x1008, 0).decode("latin-1").split("\0")[0].strip()
        shown = "".join(letter for letter in name if letter.isprintable())[:NAME_LETTERS]
        return Node(number, what_is(kind, vendor, product), shown, vendor, product, serial, kind)

    @contextmanager
    def _asking(self, number: int) -> Iterator[Callable[[int, int], bytes]]:
        """What asks a node for an object; what it has not is empty."""
        remote = canopen.RemoteNode(number, canopen.ObjectDictionary())
        self._network.add_node(remote)
        responses = Responses(self._pump)
        remote.sdo.responses, remote.sdo.RESPONSE_TIMEOUT, remote.sdo.MAX_RETRIES = responses, self._times.answer, 1

        def told(index: int, sub: int) -> bytes:
            responses.bound(LONGEST, MOST_BYTES, index.to_bytes(2, "little") + bytes((sub,)))
            try:
                return bytes(remote.sdo.upload(index, sub))
            except LinkError:
                raise
            except (SdoAbortedError, SdoCommunicationError, ValueError, LookupError, AttributeError):
                return b""

        yield told
        del self._network[number]


def _figure(data: bytes) -> int:
    return int.from_bytes(data[:4], "little")
