"""A plain node of the bench: objects, NMT as the standard has it, heartbeats both ways. What it is stands in what derives.

The protocol itself (SDO server) is the canopen package's, which refuses block transfers.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import canopen
from canopen.objectdictionary import ODRecord, ODVariable
from canopen.sdo import SdoAbortedError

from idler.core.profile import cia301 as a
from idler.core.profile.cia402 import EMERGENCY, HEARTBEAT

from ..rigs.parttruth import Says
from ..wire.hub import Hub, Sender
from ..wire.mischief import Mischief
from .numbering import ANSWERED, ASKED, Numbering
from .object import Kept, Object
from .reports import Reports

_START, _STOP, _PREPARE, _RESETS = 0x01, 0x02, 0x80, (0x81, 0x82)  # NMT commands (CiA 301, 7.2.8.3.1)
OPERATIONAL, STOPPED, PREPARED = 0x05, 0x04, 0x7F
RESTART_TIME = 0.3  # s, of the wall clock
_TYPES = {
    (1, False): canopen.objectdictionary.UNSIGNED8, (1, True): canopen.objectdictionary.INTEGER8,
    (2, False): canopen.objectdictionary.UNSIGNED16, (2, True): canopen.objectdictionary.INTEGER16,
    (4, False): canopen.objectdictionary.UNSIGNED32, (4, True): canopen.objectdictionary.INTEGER32,
}  # fmt: skip


def identity(device_type: int, product: int, serial: int, revision: int = 1) -> dict[Object, Kept]:
    """What every node says of itself (1000h, 1001h, 1018h)."""
    said = (0x5A5, product, revision, serial)
    return {
        (0x1000, 0): Kept(4, device_type, writable=False), (0x1001, 0): Kept(1, 0, writable=False),
        (0x1018, 0): Kept(1, len(said), writable=False),
        **{(0x1018, sub): Kept(4, value, writable=False) for sub, value in enumerate(said, 1)},
    }  # fmt: skip


class PartNode:
    """texts: objects that are names. objects: all others. Times are seconds of the wall clock."""

    def __init__(
        self, hub: Hub, node: int, texts: dict[int, str], objects: dict[Object, Kept], says: Says = Says.WELL
    ) -> None:
        self.id, self.born, self._hub = node, node, hub
        identity = [each.value if (each := objects.get((0x1018, sub))) else 0 for sub in (1, 2, 3, 4)]
        self.numbering = Numbering(node, (identity[0], identity[1], identity[2], identity[3]), self._say_number)
        self._objects, self._says = objects, says
        self.memory = {where: each.value for where, each in objects.items() if each.stored}
        words = canopen.ObjectDictionary()
        for index, text in texts.items():
            made = _variable(index, 0, canopen.objectdictionary.VISIBLE_STRING, "const")
            made.value = made.default = text
            words.add_object(made)
        for index in sorted({index for index, _ in objects}):
            subs = sorted(sub for at, sub in objects if at == index)
            if subs == [0]:
                words.add_object(self._made(index, 0))
                continue
            record = ODRecord(f"{index:04X}", index)
            words.add_object(record)
            for sub in subs:
                record.add_member(self._made(index, sub))
        self._words = words
        self.refuse_moving: Callable[[], bool] = lambda: False
        self.mischief = Mischief()
        self.stored: Callable[[], None] = lambda: None  # called when it has stored; raises OSError
        self.boot()

    def _made(self, index: int, sub: int) -> Any:
        each = self._objects[index, sub]
        return _variable(index, sub, _TYPES[each.size, each.signed], "rw" if each.writable else "ro")

    def boot(self) -> None:
        """As after power-on: what was not stored is gone; it waits to be started (CiA 301, 7.3.2.2.1)."""
        self.id = self.numbering.number = self.numbering.wanted
        self._network = canopen.Network(bus=Sender(self._hub))
        self._node = canopen.LocalNode(self.id, self._words)
        self._network.add_node(self._node)
        self._node.sdo._index = self._node.sdo._subindex = 0  # what an abort names where no request came before it
        self._node.add_read_callback(self._read)
        self._node.add_write_callback(self._write)
        self.values = {where: each.value for where, each in self._objects.items()} | self.memory
        self._reports = Reports(self._objects, self.values, self._at_now, self._hub.broadcast, self._says)
        self._nmt = PREPARED
        self._restart_at: float | None = None
        self._next_heartbeat = 0.0
        self._heard: dict[int, float] = {}
        self._guarded_at: float | None = None
        self._toggle = 0
        self.told()
        self._hub.broadcast(HEARTBEAT + self.id, b"\0")

    # -- what derives says ----------------------------------------------------------------------------------------

    def told(self) -> None:
        """Takes the values as they are now."""

    def live(self, where: Object) -> int | None:
        """What an object is at this moment; None for one that is only kept."""
        return None

    def order(self, where: Object, raw: int) -> bool:
        """Something that is done and not kept; False for what is kept. Raises SdoAbortedError."""
        return False

    def process_data(self, identifier: int, data: bytes) -> None:
        """A frame that may be mapped."""

    def unheard(self) -> None:
        """Whoever it listened to is silent."""

    def halts(self) -> None:
        """It is operational no more."""

    # -- the bus --------------------------------------------------------------------------------------------------

    def frame(self, identifier: int, data: bytes, now: float) -> None:
        if self._restart_at is not None:
            return
        if identifier == ASKED and len(data) == 8:
            if self.numbering.hear(data):
                self.boot()
            return
        base, rest = identifier & 0x780, identifier & 0x7F
        if identifier == 0 and len(data) == 2 and data[1] in (0, self.id):
            self._manage(data[0], now)
        elif base == HEARTBEAT:
            for sub in range(1, 1 + self.values.get((0x1016, 0), 0)):
                told = self.values[0x1016, sub]
                if told and rest == told >> 16 & 0x7F:
                    self._heard[sub] = now
        elif identifier == a.SDO_REQUEST + self.id and len(data) == 8 and self._nmt != STOPPED:
            self._network.notify(identifier, bytearray(data), now)
        elif identifier == a.SYNC and self.operational:
            self._reports.sync()
        elif self.operational:
            self.process_data(identifier, data)

    def _say_number(self, data: bytes) -> None:
        self._hub.broadcast(ANSWERED, data)

    def _manage(self, command: int, now: float) -> None:
        if command in _RESETS:
            self.restart(now)
        elif command == _START:
            self._nmt = OPERATIONAL
        elif command in (_STOP, _PREPARE):
            self._nmt = STOPPED if command == _STOP else PREPARED
            self.halts()

    def restart(self, now: float) -> None:
        self.halts()
        self._restart_at = now + RESTART_TIME

    @property
    def operational(self) -> bool:
        return self._nmt == OPERATIONAL and self._restart_at is None

    def tick(self, now: float) -> None:
        if self._restart_at is not None:
            if now >= self._restart_at:
                self.boot()
            return
        if self.operational:
            self._reports.tick(now)
        life = self.values.get((0x100C, 0), 0) * self.values.get((0x100D, 0), 0) / 1000
        if self._guarded_at is not None and life and now - self._guarded_at > life:
            self._guarded_at = None
            self.unheard()
        for sub, heard in list(self._heard.items()):
            limit = (self.values[0x1016, sub] & 0xFFFF) / 1000
            if limit and now - heard > limit:
                del self._heard[sub]
                self.unheard()
        period = self.values.get((0x1017, 0), 0) / 1000
        if period and now >= self._next_heartbeat:
            self._next_heartbeat = now + period
            self._hub.broadcast(HEARTBEAT + self.id, bytes((self._nmt,)))

    @property
    def due(self) -> float:
        """When it next says that it lives (time.monotonic)."""
        return self._next_heartbeat if self.values.get((0x1017, 0), 0) and self._restart_at is None else math.inf

    def guard(self, identifier: int, now: float) -> None:
        """Somebody asks for its state (node guarding, CiA 301, 7.2.8.2.2.1); one that says heartbeats does not answer."""
        if identifier != HEARTBEAT + self.id or (0x100C, 0) not in self.values or self.values.get((0x1017, 0)):
            return
        self._guarded_at = now
        self._hub.broadcast(HEARTBEAT + self.id, bytes((self._nmt | self._toggle,)))
        self._toggle ^= 0x80

    def emergency(self, code: int) -> None:
        self._hub.broadcast(EMERGENCY + self.id, code.to_bytes(2, "little") + bytes((1 if code else 0, 0, 0, 0, 0, 0)))

    # -- objects --------------------------------------------------------------------------------------------------

    def _at_now(self, where: Object) -> int:
        found = self.live(where)
        return self.values.get(where, 0) if found is None else found

    def _read(self, *, index: int, subindex: int, od: Any) -> int | None:
        where = index, subindex
        return self._at_now(where) if where in self._objects else None

    def _write(self, *, index: int, subindex: int, od: Any, data: bytes) -> None:
        where = index, subindex
        raw = int(od.decode_raw(data))
        if index == 0x1010:
            if raw != 0x65766173:
                raise SdoAbortedError(a.NOT_STORED)
            if self.refuse_moving():
                raise SdoAbortedError(a.NOT_IN_THIS_STATE)
            if self.mischief.comes("store"):
                raise SdoAbortedError(a.MEMORY_FAILED)
            before, self.memory = (
                self.memory,
                {at: self.values[at] for at, each in self._objects.items() if each.stored},
            )
            try:
                self.stored()
            except OSError:
                self.memory = before
                raise SdoAbortedError(a.MEMORY_FAILED) from None
            return
        if why := self._reports.abort(where, raw):
            raise SdoAbortedError(why)
        if self.order(where, raw):
            return
        old = self.values[where]
        self.values[where] = self._spoiled(raw) if self._objects[where].stored else raw
        self._heard.pop(subindex, None) if index == 0x1016 else None
        try:
            self.told()
        except (KeyError, ZeroDivisionError, OverflowError):
            self.values[where] = old
            raise SdoAbortedError(a.BAD_VALUE) from None

    def _spoiled(self, raw: int) -> int:
        """What becomes of a setting on its way into the part: usually nothing."""
        match self.mischief.comes("refuse", "clip"):
            case "refuse":
                raise SdoAbortedError(a.BAD_VALUE)
            case "clip":
                return raw - 1 if raw else raw + 1
        return raw


def _variable(index: int, sub: int, kind: int, access: str) -> Any:
    made = ODVariable(f"{index:04X}:{sub}", index, sub)
    made.data_type, made.access_type, made.default = kind, access, 0
    return made
