"""Frames of the wire in words: who says what, by CiA 301 and 402 and the table of parameters."""

from __future__ import annotations

import struct
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import Enum

from ..errors import IdlerError
from ..values.parameter import WireType
from ..values.units import figure
from . import cia402 as c
from . import terminals as t
from .blockwords import Blocks
from .cia301 import ABORTS, SDO_ANSWER, SDO_REQUEST
from .codec import Place, Raw, decode
from .objects import Entry
from .partwords import words_of_part
from .pdo import Pdo, PdoKind, PdoMap

_PART = "part of a block that began earlier"


class Sort(Enum):
    """What a frame is for; the views filter by it."""

    NMT = "network management"
    EMERGENCY = "emergency"
    PROCESS = "process data"
    SDO = "objects"
    HEARTBEAT = "heartbeat"
    OTHER = "other"


@dataclass(frozen=True)
class Known:
    """What frames are read against: the controller's process data, the letters of its axes, its objects and their labels."""

    map: PdoMap
    idler: int  # the number of Idler's own heartbeat
    names: Sequence[str]
    labels: Mapping[Place, str]
    objects: Mapping[Place, Entry]
    roles: Mapping[int, str] = field(
        default_factory=dict
    )  # of the parts, where it is made of plain ones, by their nodes

    @property
    def node(self) -> int:
        return self.map.node


@dataclass(frozen=True)
class Said:
    sort: Sort
    words: str


class Reader:
    """Frames in words, in their order: of a long object's parts only the frames before them tell what they are."""

    def __init__(self, known: Known) -> None:
        self._known = known
        self._blocks = Blocks(known.labels)

    def said(self, identifier: int, data: bytes) -> Said:
        """Never raises, as `said`."""
        if identifier in (SDO_REQUEST + self._known.node, SDO_ANSWER + self._known.node):
            try:
                words = self._blocks.words(data, answer=identifier == SDO_ANSWER + self._known.node)
            except IndexError:
                words = None
            if words is not None:
                return Said(Sort.SDO, words)
        return said(identifier, data, self._known)


def said(identifier: int, data: bytes, known: Known) -> Said:
    """One frame by itself. Never raises: what is not understood is said to be so."""
    base, rest = identifier & 0x780, identifier & 0x7F
    try:
        if identifier == 0:
            return Said(Sort.NMT, _nmt(data))
        if base == c.HEARTBEAT:
            return Said(Sort.HEARTBEAT, _heartbeat(data, rest, known))
        if known.roles and (words := words_of_part(identifier, data, known.roles, known.idler)) is not None:
            return Said(_sort_of(base, rest), words)
        if identifier == SDO_REQUEST + known.node or identifier == SDO_ANSWER + known.node:
            return Said(Sort.SDO, _sdo(data, known, answer=base == SDO_ANSWER))
        if identifier == c.EMERGENCY + known.node:
            code = int.from_bytes(data[:2], "little")
            return Said(Sort.EMERGENCY, f"emergency {code:04X}h: {c.fault_text(code)}")
        pdo = known.map.routes.get(identifier)
        if pdo is not None and pdo.slot < len(known.names):
            return Said(Sort.PROCESS, _process(pdo, data, known.names[pdo.slot]))
    except (struct.error, IndexError, ValueError):
        return Said(Sort.OTHER, "a frame that is shorter than it should be")
    return Said(Sort.OTHER, "of another device, or unknown")


def _sort_of(base: int, rest: int) -> Sort:
    if base in (SDO_REQUEST, SDO_ANSWER):
        return Sort.SDO
    return Sort.EMERGENCY if base == c.EMERGENCY and rest else Sort.PROCESS


def _nmt(data: bytes) -> str:
    what = {1: "start", 2: "stop", 0x80: "enter pre-operational", 0x81: "restart", 0x82: "restart communication"}
    return f"node {data[1] or 'all'}: {what.get(data[0], f'command {data[0]}')}"


def _heartbeat(data: bytes, node: int, known: Known) -> str:
    state = {0: "has started", 4: "is stopped", 5: "is alive", 0x7F: "is pre-operational"}.get(data[0] & 0x7F, "?")
    parts = {number: f"{role} (node {number})" for number, role in known.roles.items()}
    who = ({known.node: "the controller", known.idler: "Idler"} | parts).get(node, f"node {node}")
    return f"{who} {state}"


def _sdo(data: bytes, known: Known, *, answer: bool) -> str:
    """SDO of CiA 301, 7.2.4.3: expedited transfers with their value, others by what they do."""
    command, kind = data[0] >> 5, data[0]
    place = Place(data[1] | data[2] << 8, data[3])
    label = known.labels.get(place, "")
    name = f"{place} {label}".strip()
    if kind == 0x80:
        code = int.from_bytes(data[4:8], "little")
        return f"{name}: refused, {ABORTS.get(code, f'abort {code:08X}h')}"
    if answer:
        words = {0: "a segment", 1: "a segment taken", 2: None, 3: f"{name}: taken"}.get(command, _PART)
        return f"{name}: {_value(place, data, known)}" if words is None else words
    words = {0: "a segment", 1: f"write {name}", 2: f"read {name}", 3: "next segment"}.get(command, _PART)
    return f"{words} = {_value(place, data, known)}" if command == 1 else words


def _value(place: Place, data: bytes, known: Known) -> str:
    if not data[0] & 0x02:
        return f"{int.from_bytes(data[4:8], 'little')} bytes follow"
    size = 4 - (data[0] >> 2 & 3) if data[0] & 1 else 4
    entry = known.objects.get(place)
    row = entry.row if entry is not None else None
    if entry is not None and entry.type is WireType.STRING:
        return f"“{data[4 : 4 + size].decode('utf-8', 'replace')}”"
    signed = entry is not None and entry.type.lowest < 0
    raw: Raw = int.from_bytes(data[4 : 4 + size], "little", signed=signed)
    if row is None:
        return str(raw)
    try:
        return row.show(decode(row, raw))
    except (IdlerError, ValueError):
        return f"{raw}, which the table does not know"


def _process(pdo: Pdo, data: bytes, name: str) -> str:
    """A process data object; name: of its axis. Raises struct.error where it is not as long as it should be."""
    match pdo.kind:
        case PdoKind.TERMINALS:
            closed, energised, conditions = struct.unpack(t.TERMINAL_FORMAT, data)
            listed = [bit.name.lower().replace("_", " ") for bit in t.Condition if conditions & bit and bit.name]
            tail = f", {', '.join(listed)}" if listed else ""
            return f"closed {_bits(closed)}, energised {_bits(energised)}{tail}"
        case PdoKind.LEVELS:
            return "levels " + ", ".join(str(level) for level in struct.unpack(f"<{t.LEVEL_OUTPUTS}H", data)) + " ‰"
        case PdoKind.SPINDLE:
            counts, tenths = struct.unpack(t.SPINDLE_FORMAT, data)
            return f"spindle {figure(tenths / 10, 1)} rpm, {counts} counts"
        case PdoKind.COMMAND:
            run, level, tried, tried_level, speed = struct.unpack(t.COMMAND_FORMAT, data)
            way = {1: "right", -1: "left"}.get(run, "off")
            return f"spindle {way}, {speed} rpm, {level} ‰; output tried {tried or 'none'}, {tried_level} ‰"
        case PdoKind.STATUS:
            status, position = struct.unpack(c.STATUS_FORMAT, data)
            return f"{name} {_state(status)} at {figure(c.position_from(position), 4)}"
        case PdoKind.MOTION:
            velocity, inputs = struct.unpack(c.MOTION_FORMAT, data)
            return f"{name} goes {figure(c.speed_from(velocity), 1)} a minute, inputs {inputs:X}h"
    control, target = struct.unpack(c.TARGET_FORMAT, data)
    if pdo.kind is PdoKind.VELOCITY:
        return f"{name} is told {c.control_words(control)}, velocity {figure(c.speed_from(target), 1)}"
    return f"{name} is told {c.control_words(control)}, by or to {figure(c.position_from(target), 4)}"


def _bits(word: int) -> str:
    listed = [str(k + 1) for k in range(32) if word >> k & 1]
    return " ".join(listed) or "none"


def _state(status: int) -> str:
    words = c.State.of(status).name.lower().replace("_", " ")
    return words + (", moving" if status & c.MOVING else "") + (", homed" if status & c.HOMED else "")
