"""Frames of a controller that is made of plain parts, in words: objects of the standards by their names there."""

from __future__ import annotations

import struct
from collections.abc import Mapping

from . import cia402 as c
from .cia301 import ABORTS, PDO_HEARD, PDO_SENT, SDO_ANSWER, SDO_REQUEST, SYNC
from .codec import Place

NAMES = {
    # CiA 301
    0x1000: "device type", 0x1001: "error register", 0x1005: "identifier of SYNC", 0x1008: "name", 0x100C: "guard time",
    0x100D: "life time factor", 0x1010: "store", 0x1016: "heartbeats that it waits for", 0x1017: "time of its heartbeat",
    0x1018: "identity", 0x1019: "counter of SYNC", 0x1021: "data sheet", 0x1022: "format of the data sheet",
    # CiA 401
    0x6000: "inputs", 0x6002: "inputs turned round", 0x6003: "filters of inputs", 0x6100: "inputs", 0x6120: "inputs",
    0x6200: "outputs", 0x6206: "outputs that change at an error", 0x6207: "outputs at an error", 0x6300: "outputs",
    0x6320: "outputs", 0x6411: "levels", 0x6443: "levels that change at an error", 0x6444: "levels at an error",
    # CiA 402
    0x6007: "at a lost connection", 0x603F: "error code", 0x6040: "controlword", 0x6041: "statusword", 0x6042: "target speed",
    0x6044: "speed", 0x6046: "bounds of the speed", 0x604B: "factor of the target speed", 0x604C: "factor of the speed",
    0x605A: "quick stop option", 0x6060: "mode", 0x6061: "mode now", 0x6064: "position", 0x6065: "following error window",
    0x606C: "velocity", 0x6077: "torque", 0x6079: "supply", 0x607A: "target position", 0x607C: "home offset",
    0x607D: "soft limits", 0x607F: "highest profile velocity", 0x6080: "highest motor speed", 0x6081: "profile velocity",
    0x6083: "profile acceleration", 0x6084: "profile deceleration", 0x6085: "quick stop deceleration",
    0x608F: "counts of the encoder", 0x6091: "gear", 0x6092: "feed", 0x6098: "homing method", 0x6099: "homing speeds",
    0x609A: "homing acceleration", 0x60A8: "unit of position", 0x60A9: "unit of velocity", 0x60E3: "homing methods that it has",
    0x60F4: "following error", 0x60FD: "digital inputs", 0x60FF: "target velocity", 0x6502: "modes that it has",
}  # fmt: skip
OF_ENCODERS = {  # CiA 406
    0x6001: "counts in a turn", 0x6002: "counts in all", 0x6004: "position", 0x6501: "counts in a turn",
    0x6502: "turns that it tells apart",
}  # fmt: skip
_RANGES = (
    (range(0x1400, 0x1600), "what it hears"), (range(0x1600, 0x1800), "what it hears, its contents"),
    (range(0x1800, 0x1A00), "what it says"), (range(0x1A00, 0x1C00), "what it says, its contents"),
)  # fmt: skip
_SIGNED = {0x6064, 0x606C, 0x6077, 0x607A, 0x60F4, 0x60FF, 0x6042, 0x6044, 0x6098, 0x607C, 0x6060, 0x6061, 0x605A}
_MORE = "part of a long object"


def words_of_part(identifier: int, data: bytes, roles: Mapping[int, str], idler: int) -> str | None:
    """None for a frame that is none of theirs. roles: of each node. Raises IndexError, struct.error for one that is too
    short."""
    base, node = identifier & 0x780, identifier & 0x7F
    if identifier == SYNC:
        return "SYNC: each says what it was told to say then"
    if base == PDO_HEARD and node == idler:  # the frame in which all drives hear STOP
        return f"all drives that hear it: {c.control_words(struct.unpack('<H', data)[0])}"
    if node not in roles:
        return None
    who = f"{roles[node]} (node {node})"
    if base in (SDO_REQUEST, SDO_ANSWER):
        return f"{who}: {_object(data, roles[node] == 'encoder', answer=base == SDO_ANSWER)}"
    if base == c.EMERGENCY:
        code = int.from_bytes(data[:2], "little")
        return f"{who}: emergency {code:04X}h, {c.fault_text(code)}"
    if PDO_SENT <= base < SDO_ANSWER:
        return f"{who}: process data, {len(data)} bytes"
    return None


def name_of(index: int, *, encoder: bool = False) -> str:
    """As the standards have it; nothing for an object of a maker's own."""
    found = (OF_ENCODERS if encoder else {}).get(index) or NAMES.get(index, "")
    return found or next((words for where, words in _RANGES if index in where), "")


def _object(data: bytes, encoder: bool, *, answer: bool) -> str:
    """SDO of CiA 301, 7.2.4.3."""
    kind, command = data[0], data[0] >> 5
    where = Place(data[1] | data[2] << 8, data[3])
    name = f"{where} {name_of(where.index, encoder=encoder)}".strip()
    if kind == 0x80:
        code = int.from_bytes(data[4:8], "little")
        return f"{name}: refused, {ABORTS.get(code, f'abort {code:08X}h')}"
    if answer:
        return {2: f"{name} is {_value(where, data)}", 3: f"{name}: taken"}.get(command, _MORE)
    words = {1: f"{name} = {_value(where, data)}", 2: f"read {name}", 3: "next segment"}
    return words.get(command, _MORE)


def _value(where: Place, data: bytes) -> str:
    if not data[0] & 0x02:
        return f"{int.from_bytes(data[4:8], 'little')} bytes, which follow"
    size = 4 - (data[0] >> 2 & 3) if data[0] & 1 else 4
    raw = int.from_bytes(data[4 : 4 + size], "little", signed=where.index in _SIGNED)
    match where.index:
        case c.STATUS:
            return f"{raw:04X}h, {c.State.of(raw).name.lower().replace('_', ' ')}"
        case c.CONTROL:
            return f"{raw:04X}h, {c.control_words(raw)}"
        case c.ERROR_CODE:
            return f"{raw:04X}h, {c.fault_text(raw)}"
    return f"{raw:X}h" if where.index < 0x6000 else str(raw)
