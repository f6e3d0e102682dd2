"""A spindle's drive on Modbus, described: how it is reached, and which register holds what. A file of our own, in TOML.

name = "Drive of the lathe"
[line]       port "tcp://HOST:PORT" or a serial device; unit 1 to 247; rate in bit/s; parity none, even or odd
[run]        register, with the raw values of stop, right and left
[speed]      register, type, rpm: what one step of the raw value is at the motor
[measured]   the same, of the motor's speed as the drive knows it; table "holding" or "input"
[fault]      register that is 0 while nothing is wrong
[reset]      register and value that clear a fault
Registers are counted from 0, as on the wire (Modbus Application Protocol 1.1b3, 4.4). All but run and speed may be missing.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from ..errors import IdlerError, Refusal
from ..machine import filedata
from ..machine.filedata import Unreadable

TYPES = {"u16": (1, False), "i16": (1, True), "u32": (2, False), "i32": (2, True)}  # words, signed
TABLES = ("holding", "input")
PARITIES = ("none", "even", "odd")
RATES = (1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200)
DUTIES = {
    "run": "run", "speed": "speed asked for", "measured": "speed measured", "fault": "fault", "reset": "reset of a fault",
}  # fmt: skip
MUST = ("run", "speed")
_SPEEDS = ("speed", "measured")
_VALUES = {"run": ("stop", "right", "left"), "reset": ("value",)}
_USUAL = {"stop": 0, "right": 1, "left": 2, "value": 1}


@dataclass(frozen=True)
class Register:
    """One register. rpm: of the motor for one step of the raw value, where it is a speed. values: raw ones, by their names."""

    number: int
    type: str = "u16"
    table: str = "holding"
    rpm: float = 1.0
    values: Mapping[str, int] = field(default_factory=dict)

    @property
    def words(self) -> int:
        return TYPES[self.type][0]

    def raw(self, rpm: float) -> int:
        """A speed as its raw value, within what the type holds."""
        words, signed = TYPES[self.type]
        bits = 16 * words - signed
        return max(-(1 << bits) if signed else 0, min(round(rpm / self.rpm), (1 << bits) - 1))

    def to_words(self, raw: int) -> list[int]:
        """The words on the wire, the higher one first."""
        return [(raw >> 16 * k) & 0xFFFF for k in reversed(range(self.words))]

    def from_words(self, words: list[int]) -> int:
        raw = 0
        for word in words:
            raw = raw << 16 | word
        bits = 16 * self.words
        return raw - (1 << bits) if TYPES[self.type][1] and raw >> (bits - 1) else raw


def usual(duty: str) -> Register:
    """A register as it is before anybody has said more than its duty."""
    table = "input" if duty in ("measured", "fault") else "holding"
    return Register(0, table=table, values={key: _USUAL[key] for key in _VALUES.get(duty, ())})


def _blank() -> dict[str, Register]:
    return {"run": usual("run"), "speed": replace(usual("speed"), number=1)}


@dataclass(frozen=True)
class Registers:
    """What is known of a drive. registers by the keys of DUTIES."""

    name: str = "drive"
    port: str = "/dev/ttyUSB0"
    unit: int = 1
    rate: int = 19200
    parity: str = "even"
    registers: Mapping[str, Register] = field(default_factory=_blank)

    def with_register(self, duty: str, register: Register | None) -> Registers:
        """With another register for a duty, or none. Raises Refusal for one that must be there."""
        if register is None and duty in MUST:
            raise Refusal(DUTIES[duty], "", "is needed: without it the drive cannot be told to turn")
        rest = {key: value for key, value in self.registers.items() if key != duty}
        return replace(self, registers=rest if register is None else {**rest, duty: register})


def read(text: str) -> Registers:
    """Reads a description. Raises IdlerError with the key and what it should be."""
    try:
        data = filedata.toml(text)
    except Unreadable as why:
        raise IdlerError(f"The description of the drive: {why.sentence}") from None
    line = _table(data, "line")
    unknown = [key for key in data if key not in ("name", "line", *DUTIES)]
    if unknown:
        raise IdlerError(
            f"The description of the drive: {unknown[0]} is not known. Known: name, line, {', '.join(DUTIES)}."
        )
    found = {duty: _register(duty, _table(data, duty)) for duty in DUTIES if duty in data}
    for duty in MUST:
        if duty not in found:
            raise IdlerError(
                f"The description of the drive has no [{duty}]: without it the drive cannot be told to turn."
            )
    return Registers(
        str(data.get("name", "drive"))[:60], port_of(str(line.get("port", "/dev/ttyUSB0"))),
        _whole("line.unit", line.get("unit", 1), 1, 247), _one_of("line.rate", line.get("rate", 19200), RATES),
        _one_of("line.parity", line.get("parity", "even"), PARITIES), found,
    )  # fmt: skip


def port_of(text: str) -> str:
    """A port as it is kept. Raises Refusal."""
    text = text.strip()
    if re.fullmatch(r"tcp://[^\s:/]+:\d{1,5}", text) or re.fullmatch(r"/[^\s]+", text):
        return text
    raise Refusal(
        "port", f"“{text[:40]}”", "is not understood", way_out="write tcp://HOST:PORT or a device such as /dev/ttyUSB0"
    )


def unit_of(text: str) -> int:
    """The number of a drive on its line (Modbus over serial line 1.02, 2.2). Raises Refusal."""
    word = text.strip()
    return _whole("unit", int(word[:6]) if word.isdecimal() else word, 1, 247)


def number_of(text: str) -> int:
    """The number of a register, decimal or hexadecimal ("0x2000", "2000h"). Raises Refusal."""
    word = text.strip().lower()
    try:
        number = int(word[:-1], 16) if word.endswith("h") else int(word, 0)
    except ValueError:
        number = -1
    if not 0 <= number <= 0xFFFF:
        raise Refusal("register", f"“{text[:20]}”", "is not the number of a register", "0 to 65535, or 0000h to FFFFh")
    return number


def _table(data: Mapping[str, Any], key: str) -> Mapping[str, Any]:
    found = data.get(key, {})
    if not isinstance(found, dict):
        raise IdlerError(f"The description of the drive: {key} is not a table.")
    return found


def _whole(key: str, value: object, low: int, high: int) -> int:
    if not isinstance(value, int) or isinstance(value, bool) or not low <= value <= high:
        raise Refusal(key, str(value)[:20], "cannot be taken", f"a whole number from {low} to {high}")
    return value


def _one_of(key: str, value: Any, known: tuple[Any, ...]) -> Any:
    if value not in known or isinstance(value, bool):
        raise Refusal(key, str(value)[:20], "is not known", f"one of {', '.join(str(each) for each in known)}")
    return value


def _register(duty: str, table: Mapping[str, Any]) -> Register:
    rpm = table.get("rpm", 1.0)
    if not isinstance(rpm, int | float) or isinstance(rpm, bool) or not 1e-6 <= rpm <= 1e6:
        raise Refusal(f"{duty}.rpm", str(rpm)[:20], "is not what one step can be", "above 0, in rpm of the motor")
    return Register(
        _whole(f"{duty}.register", table.get("register"), 0, 0xFFFF),
        _one_of(f"{duty}.type", table.get("type", "u16"), (*TYPES,)),
        _one_of(f"{duty}.table", table.get("table", "holding"), TABLES), float(rpm),
        {key: _whole(f"{duty}.{key}", table.get(key, _USUAL[key]), 0, 0xFFFF) for key in _VALUES.get(duty, ())},
    )  # fmt: skip


def write(found: Registers) -> str:
    """The text of a description; `read` gives it back."""
    lines = [f"name = {_quoted(found.name)}", "", "[line]", f"port = {_quoted(found.port)}", f"unit = {found.unit}",
             f"rate = {found.rate}", f"parity = {_quoted(found.parity)}"]  # fmt: skip
    for duty in DUTIES:
        register = found.registers.get(duty)
        if register is not None:
            lines += ["", f"[{duty}]", f"register = 0x{register.number:04X}", f"type = {_quoted(register.type)}"]
            lines += [f"table = {_quoted(register.table)}"]
            lines += [f"rpm = {register.rpm!r}"] if duty in _SPEEDS else []
            lines += [f"{key} = {value}" for key, value in register.values.items()]
    return "\n".join([*lines, ""])


def _quoted(text: str) -> str:
    plain = (c if c.isprintable() and c not in '"\\' else f"\\U{ord(c):08X}" for c in text)
    return f'"{"".join(plain)}"'


def is_speed(duty: str) -> bool:
    return duty in _SPEEDS
