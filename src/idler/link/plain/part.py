"""One part of a controller: a node with its objects, read and written one at a time, and looked at again and again."""

from __future__ import annotations

import struct
import time
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

import canopen

from idler.core.controller.parts import PartIdentity
from idler.core.profile.cia301 import SDO_REQUEST

from ..bus.line import Line
from ..bus.sdo import BETWEEN_TRIES, LATELY, SLOWER, TRIES, Pump, Responses, soon, transfer
from ..errors import NoAnswer, NotUnderstood, WriteRefused

if TYPE_CHECKING:
    from .reports import Reports

Object = tuple[int, int]  # index and sub

ONCE = (0x6040, 0x1010, 0x1011)  # not said twice unlooked: STOP may have come between, and storing takes its time
MOST_OF_ONE = 4096  # bytes of a single value
UNANSWERED, LONGEST_LOOK = 0.1, 1.0  # s for one look: of a part that answers quickly, and at most
FORGOTTEN, MOST_OPEN = 2.0, 16  # s after which a look is taken to be lost; looks that may wait for their answers
COMPARED = 0.1  # s after which what it says by itself is compared with an answer again
UNASKED = 0.5  # s in which an answer that nobody waits for may come
NMT_START, NMT_STOP, NMT_RESET = 0x01, 0x02, 0x81  # CiA 301, 7.2.8.3.1
STOPPED, OPERATIONAL, PREPARED = 0x04, 0x05, 0x7F
_UPLOAD, _EXPEDITED = 0x40, 0x23
NAME_LETTERS = 80
USUAL_SIZES: dict[Object, int] = {  # bytes, by CiA 402-2, of what some parts do not let anybody read
    (0x6040, 0): 2, (0x6060, 0): 1, (0x607A, 0): 4, (0x6081, 0): 4, (0x6098, 0): 1, (0x60FF, 0): 4, (0x1010, 1): 4,
}  # fmt: skip


class Part:
    """called: what sentences call it. Everything raises NoAnswer where it does not answer, LinkLost where the line is gone."""

    def __init__(self, line: Line, node: int, called: str, wait: Pump, patience: float) -> None:
        self.node, self.called = node, called
        self._line, self._wait = line, wait
        self.identity = PartIdentity(node, "", 0, 0, 0)
        self.heard_at = time.monotonic()
        self.nmt = OPERATIONAL
        self.booted = False
        self._sizes: dict[Object, int] = {}  # bytes of each object that was read
        self._missing: set[Object] = set()
        self._unasked: dict[Object, deque[float]] = {}  # until when answers to what it was only told may come
        self._busy = 0  # transfers that are under way: nothing else is asked meanwhile
        self._looks: tuple[Object, ...] = ()
        self.together: tuple[Object, ...] = ()  # of these, what is worth to be seen at one moment
        self.places: frozenset[Object] = frozenset()  # of these, what counts on, and may do so while it is looked at
        self.reports: Reports | None = None  # what it says of them by itself
        self._compared, self._compared_at = 0, 0.0  # how often that was compared with its answers, and when last
        self.taken: set[int] = set()  # identifiers that it was told to speak with; some may come late
        self.strange: set[int] = set()  # identifiers with its number that it, or somebody, was heard with
        self._next_look, self._asked, self._asked_at = 0, None, 0.0  # type: int, Object | None, float
        self._open: dict[Object, deque[float]] = {}  # when each look was asked for that nobody has answered
        self._patience = UNANSWERED  # s until a look is asked for once more
        self.takes = 0.0  # s that its last answers took
        self._unheard_from: float | None = None  # since when it owes an answer
        self._round_from = 0.0
        self.period = 0.02  # s between two rounds of looks
        self.seen: Callable[[Object, bytes, float, float], None] = lambda _where, _data, _asked, _now: None
        remote = canopen.RemoteNode(node, canopen.ObjectDictionary())
        line.network.add_node(remote)
        self._responses = Responses(wait, lambda: self.mute)
        remote.sdo.responses, remote.sdo.RESPONSE_TIMEOUT, remote.sdo.MAX_RETRIES = self._responses, patience, 1
        self._sdo: Any = remote.sdo
        self._longest = patience  # s for an answer

    @property
    def mute(self) -> bool:
        """Whether it will not answer what it was asked: it has started anew, or is stopped."""
        return self.booted or self.nmt == STOPPED

    @property
    def unheard(self) -> float:
        """For how many seconds it has owed an answer and said nothing. What was not asked owes none: a computer that was held
        up has asked nothing meanwhile."""
        if self._unheard_from is None or self.nmt == STOPPED:
            return 0.0
        return time.monotonic() - self._unheard_from

    @property
    def behind(self) -> bool:
        """Whether answers to what it was only told are still to come."""
        now = time.monotonic()
        return any(now < until for told in self._unasked.values() for until in told)

    def heard(self, now: float) -> None:
        self.heard_at, self._unheard_from = now, None

    def _asks(self, now: float) -> None:
        if self._unheard_from is None:
            self._unheard_from = now

    # -- single objects -------------------------------------------------------------------------------------------

    @contextmanager
    def _transfer(
        self,
        where: Object,
        label: str,
        refusal: str = "does not give it",
        most: int = MOST_OF_ONE,
        *,
        last: bool = True,
    ) -> Iterator[None]:
        """last: it is not asked again."""
        self._busy += 1
        self._asked = None
        self._asks(time.monotonic())
        usual = self._sdo.RESPONSE_TIMEOUT
        if not last:
            self._sdo.RESPONSE_TIMEOUT = soon(self.takes, self._longest)
        try:
            with transfer(
                self._responses, self._line.address, self.called, label or _name(where), refusal,
                asked=struct.pack("<HB", *where), most=most,
            ):  # fmt: skip
                yield
        finally:
            self._sdo.RESPONSE_TIMEOUT = usual
            self._busy -= 1
            self._open.clear()  # a part answers in turn: what was asked before is answered, or lost

    def bytes_of(self, where: Object, label: str = "", most: int = MOST_OF_ONE) -> bytes:
        """At most so many. Raises WriteRefused where it has not this object."""
        found: list[bytes] = []

        def ask(last: bool) -> None:
            with self._transfer(where, label, most=most, last=last):
                found.append(bytes(self._sdo.upload(*where)))

        self._until_answered(ask)
        self._sizes[where] = len(found[-1])
        return found[-1]

    def _until_answered(self, ask: Callable[[bool], None]) -> None:
        """A frame may be lost: asks again, and the last time with all patience."""
        for number in range(1, TRIES + 1):
            try:
                ask(number == TRIES)
                return
            except NoAnswer:
                if number == TRIES or self.mute:
                    raise
                self._wait(number * BETWEEN_TRIES)

    def read(self, where: Object, label: str = "", *, signed: bool = False) -> int:
        data = self.bytes_of(where, label)
        if not 1 <= len(data) <= 8:
            raise NotUnderstood(
                f"{label or _name(where)}: {self.called} answers with {len(data)} bytes, which is no number."
            )
        return int.from_bytes(data, "little", signed=signed)

    def read_if_there(self, where: Object, *, signed: bool = False) -> int | None:
        """None where it has not this object; that is asked once."""
        if where in self._missing:
            return None
        try:
            return self.read(where, signed=signed)
        except (WriteRefused, NotUnderstood):
            self._missing.add(where)
            return None

    def text_if_there(self, index: int) -> str:
        try:
            data = self.bytes_of((index, 0))
        except (WriteRefused, NotUnderstood):
            return ""
        shown = data.decode("latin-1").split("\0")[0].strip()
        return "".join(letter for letter in shown if letter.isprintable())[:NAME_LETTERS]

    def has(self, where: Object) -> bool:
        """Asked once."""
        return where in self._sizes or self.read_if_there(where) is not None

    @property
    def sizes(self) -> dict[Object, int]:
        return dict(self._sizes)

    @property
    def missing(self) -> frozenset[Object]:
        """What it was asked for and has not."""
        return frozenset(self._missing)

    def size_of(self, where: Object) -> int:
        """In bytes; it is read where that was not done yet."""
        if where not in self._sizes:
            try:
                self.read(where)
            except WriteRefused:
                if where not in USUAL_SIZES:
                    raise
                return USUAL_SIZES[where]  # one that can only be written
        return self._sizes[where]

    def write(self, where: Object, raw: int, label: str = "") -> None:
        """A whole number, in as many bytes as the part itself uses. Raises WriteRefused."""
        if where[0] in ONCE:
            with self._transfer(where, label, f"refused {raw}"):
                self._sdo.download(*where, self._packed(where, raw, label))
        else:
            self.tell(where, raw, lambda: None, label)

    def tell(self, where: Object, raw: int, may: Callable[[], None], label: str = "") -> None:
        """The same, said again where no answer comes. may: the look before each time; raises Overtaken."""
        data = self._packed(where, raw, label)

        def ask(last: bool) -> None:
            may()
            with self._transfer(where, label, f"refused {raw}", last=last):
                self._sdo.download(*where, data)

        self._until_answered(ask)

    def put(self, where: Object, raw: int, label: str = "", *, signed: bool = False) -> None:
        """The same, and read back. Raises WriteRefused where it holds something else then."""
        self.write(where, raw, label)
        back = self.read(where, label, signed=signed)
        if back != raw:
            raise WriteRefused(f"{label or _name(where)}: {self.called} holds {back} after {raw} was written.")

    def _packed(self, where: Object, raw: int, label: str) -> bytes:
        size = self.size_of(where)
        lowest, highest = -(1 << 8 * size - 1), (1 << 8 * size) - 1
        if not lowest <= raw <= highest:
            raise WriteRefused(
                f"{label or _name(where)}: {raw} does not fit the {size} bytes that {self.called} has for it."
            )
        return (raw & highest).to_bytes(size, "little")

    def say(self, where: Object, raw: int, size: int) -> None:
        """Writes without waiting for the answer (expedited download, CiA 301, 7.2.4.3.3): what ends motion must go out now."""
        now = time.monotonic()
        self._unasked.setdefault(where, deque(maxlen=MOST_OPEN)).append(now + UNASKED)
        if self._patience <= UNANSWERED:
            self._asked = None  # one that answers quickly is asked anew: it may drop what it was asked before
        self._asks(now)
        command = _EXPEDITED | (4 - size) << 2
        data = struct.pack("<BHB", command, *where) + (raw & (1 << 8 * size) - 1).to_bytes(4, "little")
        self._line.send(SDO_REQUEST + self.node, data)

    def manage(self, command: int) -> None:
        """A word of NMT; a part without a heartbeat does not say what has become of it."""
        self._line.send(0, bytes((command, self.node)))
        self.nmt = {NMT_STOP: STOPPED, NMT_START: OPERATIONAL}.get(command, self.nmt)

    def look_for(self, patience: float) -> None:
        """Asks once whether it is there. patience: s for the answer. Raises NoAnswer."""
        usual, self._sdo.RESPONSE_TIMEOUT = self._sdo.RESPONSE_TIMEOUT, patience
        try:
            with self._transfer((0x1000, 0), "device type"):
                self._sdo.upload(0x1000, 0)
        finally:
            self._sdo.RESPONSE_TIMEOUT = usual

    def identify(self) -> int:
        """Asks who it is; its device type (1000h)."""
        kind = self.read((0x1000, 0), "device type")
        vendor, product, serial = (self.read_if_there((0x1018, sub)) or 0 for sub in (1, 2, 4))
        self.identity = PartIdentity(self.node, self.text_if_there(0x1008), vendor, product, serial)
        return kind

    # -- looked at again and again --------------------------------------------------------------------------------

    def watch(self, objects: Sequence[Object], together: Sequence[Object] = (), places: Sequence[Object] = ()) -> None:
        """These are asked for in turn, every `period`, while nothing else is asked; `seen` is told of each answer, and when
        it was asked for and came. together: of them, what is best seen at one moment, the most important first. places: what
        counts on meanwhile."""
        self._looks, self._next_look = tuple(objects), 0
        self.together, self.places = tuple(together), frozenset(places)

    def frame(self, identifier: int, data: bytes, now: float) -> None:
        """Process data with its number."""
        reports = self.reports
        if reports is None or identifier != reports.taken.identifier:
            if identifier not in self.taken:
                self.strange.add(identifier)
            return
        came = reports.answer(data, now)
        if came is None or not reports.believed:
            return
        asked, found = came
        self.heard_at = now  # which settles nothing that it was asked singly
        for where, raw in found.items():
            if reports.tells(where):
                self.seen(where, raw, asked, now)

    def _is_said(self, where: Object, now: float) -> bool:
        """Whether it says this by itself, and is not late with it."""
        reports = self.reports
        return reports is not None and reports.tells(where) and not reports.overdue(now)

    def look_on(self, now: float) -> None:
        """Asks for the next of them where it is time to."""
        if not self._looks or self._busy or self.nmt == STOPPED:
            return
        said = [where for where in self._looks if self._is_said(where, now)]
        looks = [where for where in self._looks if where not in said]
        if said and now - self._compared_at > COMPARED:
            looks.append(said[self._compared % len(said)])
        if not looks:
            return
        if self._asked is not None:
            if now - self._asked_at < self._patience:
                return
            # It is slow, and is not asked faster than it answers.
            self._patience = min(2 * self._patience, LONGEST_LOOK)
            self._next_look, self._asked = 0, None
        if self._next_look == 0 and now < self._round_from + self.period:
            return
        if self._next_look == 0:
            self._round_from = now
        self._next_look %= len(looks)
        self._asked, self._asked_at = looks[self._next_look], now
        self._open.setdefault(self._asked, deque(maxlen=MOST_OPEN)).append(now)
        self._asks(now)
        self._next_look = (self._next_look + 1) % len(looks)
        self._line.send(SDO_REQUEST + self.node, struct.pack("<BHBI", _UPLOAD, *self._asked, 0))

    def answer(self, data: bytes, now: float) -> None:
        """An answer of SDO: to a look, to what was only said, or to whoever waits. One that comes late may be that to an
        earlier look for the same: it is taken for that to the earliest."""
        self.heard(now)
        where = int.from_bytes(data[1:3], "little"), data[3]
        if data[0] in (0x60, 0x80) and self._was_told(where, now):
            return
        if self._open.get(where) and not self._busy and data[0] >> 5 in (2, 4):
            asked = self._earliest(where, now)
            self._asked = None if self._asked == where else self._asked
            self.takes += (now - asked - self.takes) * LATELY
            self._patience = min(max(UNANSWERED, SLOWER * self.takes), LONGEST_LOOK)
            if data[0] >> 5 == 2 and data[0] & 2:  # an expedited answer; what is longer is no number
                size = 4 - (data[0] >> 2 & 3) if data[0] & 1 else 4
                self._take(where, data[4 : 4 + size], asked, now)
            self.look_on(now)
            return
        self._line.answer(0x580 + self.node, data)

    def _take(self, where: Object, data: bytes, asked: float, now: float) -> None:
        if self.reports is not None and where in self.reports.objects:
            self.reports.compare(where, data, asked, now)
        if self._is_said(where, now):
            self._compared, self._compared_at = self._compared + 1, now
        else:
            self.seen(where, data, asked, now)

    def _was_told(self, where: Object, now: float) -> bool:
        """Whether this may be the answer to something that it was only told: to the first that is not answered."""
        told = self._unasked.get(where, deque())
        while told and told[0] <= now:
            told.popleft()
        return bool(told) and bool(told.popleft())

    def _earliest(self, where: Object, now: float) -> float:
        """When the first look was asked for that this may be the answer to. A part answers in turn: what was asked before that
        is answered, or lost."""
        waiting = self._open[where]
        while len(waiting) > 1 and now - waiting[0] > FORGOTTEN:
            waiting.popleft()
        asked = waiting.popleft()
        for others in self._open.values():
            while others and others[0] < asked:
                others.popleft()
        return asked

    def heartbeat(self, state: int, now: float) -> None:
        self.heard(now)
        if state == 0:
            self.booted = True
        else:
            self.nmt = state & 0x7F


def _name(where: Object) -> str:
    return f"{where[0]:04X}h:{where[1]:02X}"
