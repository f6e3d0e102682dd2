"""The electronic data sheet of a part, as its maker wrote it (CiA 306-1): its objects, their kinds, their bounds.

Makers' files have errors. What can be understood is taken, and what cannot is said by its line; nothing is guessed.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import NamedTuple

from ..errors import Refusal
from .eds import SECTION, whole_number

Object = tuple[int, int]  # index and sub
LONGEST = 4_000_000  # letters of a file
MOST_FAULTS = 200
_SHOWN = 40
_HEAD = re.compile(r"\[\s*([^\]]*?)\s*\]")
_VARIABLE, _DOMAIN = 0x7, 0x2  # object types (CiA 301, 7.4.3)
_LISTS = ("mandatoryobjects", "optionalobjects", "manufacturerobjects")
ACCESSES = ("ro", "wo", "rw", "rwr", "rww", "const")


class Kind(NamedTuple):
    """A type of whole numbers."""

    bytes: int
    signed: bool

    @property
    def low(self) -> int:
        return -(1 << 8 * self.bytes - 1) if self.signed else 0

    @property
    def high(self) -> int:
        return (1 << 8 * self.bytes - self.signed) - 1


# Whole numbers by the code of their type (CiA 301, 7.4.7.1).
KINDS = {
    0x01: Kind(1, False), 0x02: Kind(1, True), 0x03: Kind(2, True), 0x04: Kind(4, True), 0x05: Kind(1, False),
    0x06: Kind(2, False), 0x07: Kind(4, False), 0x10: Kind(3, True), 0x15: Kind(8, True), 0x16: Kind(3, False),
    0x1B: Kind(8, False),
}  # fmt: skip


@dataclass(frozen=True)
class Described:
    """One object. kind: None for what is no whole number. low, high: as the file has them, else None."""

    name: str
    kind: Kind | None
    access: str
    low: int | None = None
    high: int | None = None
    mappable: bool = False

    def beyond(self, raw: int) -> int | None:
        """The bound that a number passes; None for one that is within."""
        if self.low is not None and raw < self.low:
            return self.low
        if self.high is not None and raw > self.high:
            return self.high
        return None


@dataclass(frozen=True)
class MakersSheet:
    """vendor, product, revision: None where the file does not say them. faults: each by its line or object, in words."""

    title: str
    maker: str
    vendor: int | None
    product: int | None
    revision: int | None
    objects: Mapping[Object, Described]
    faults: tuple[str, ...] = ()


def read_sheet(text: str) -> MakersSheet:
    """Raises Refusal for what is no such file."""
    if len(text) > LONGEST or "\0" in text:
        raise Refusal(
            "maker's file", "", "is no text of a data sheet", way_out="take the .eds file of the part's maker"
        )
    faults: list[str] = []
    sections = _sections(text, faults)
    objects: dict[Object, Described] = {}
    for name, section in sections.items():
        where = SECTION.fullmatch(name)
        if where is not None:
            _describe((int(where[1], 16), int(where[2] or "0", 16)), section, objects, faults)
    if not objects:
        raise Refusal(
            "maker's file", "", "describes no object", way_out="take the .eds file of the part's maker, which is a text"
        )
    _missing(sections, faults)
    device = sections.get("deviceinfo", {})
    vendor, product, revision = (
        _number(device, f"{what}number", "[DeviceInfo]", faults) for what in ("vendor", "product", "revision")
    )
    title, maker = (device.get(key, "")[:_SHOWN] for key in ("productname", "vendorname"))
    if len(faults) > MOST_FAULTS:
        faults[MOST_FAULTS:] = [f"And {len(faults) - MOST_FAULTS} more."]
    return MakersSheet(title, maker, vendor, product, revision, objects, tuple(faults))


def _sections(text: str, faults: list[str]) -> dict[str, dict[str, str]]:
    """By names and keys in small letters."""
    found: dict[str, dict[str, str]] = {}
    section: dict[str, str] | None = None
    name = ""
    for number, line in enumerate(text.splitlines(), start=1):
        line = line.strip()
        if not line or line[0] in ";#":
            continue
        head = _HEAD.fullmatch(line.split(";")[0].strip()) if line[0] == "[" else None
        if head is not None:
            name = head[1]
            if name.lower() in found:
                faults.append(
                    f"Line {number}: [{name[:_SHOWN]}] stands twice; what the second says is added to the first."
                )
            section = found.setdefault(name.lower(), {})
            continue
        key, equals, value = line.partition("=")
        if section is None or not equals:
            faults.append(f"Line {number}: “{line[:_SHOWN]}” is not understood, and was left out.")
            continue
        key = key.strip().lower()
        if section.get(key, value.strip()) != value.strip():
            faults.append(
                f"Line {number}: “{key[:_SHOWN]}” of [{name[:_SHOWN]}] is said twice, and not alike; the first counts."
            )
        section.setdefault(key, value.strip())
    return found


def _number(section: Mapping[str, str], key: str, of: str, faults: list[str]) -> int | None:
    """None where it is not said, or not understood."""
    text = section.get(key, "").split(";")[0].strip()
    if not text:
        return None
    found = whole_number(text)
    if found is None:
        faults.append(f"{of}: {key} “{text[:_SHOWN]}” is no whole number.")
    return found


def _describe(where: Object, section: Mapping[str, str], objects: dict[Object, Described], faults: list[str]) -> None:
    """Takes what a section says of one value; arrays of which only the first is described are taken whole."""
    of = f"Object {where[0]:04X}h" + (f":{where[1]:02X}" if where[1] else "")
    sort = _number(section, "objecttype", of, faults)
    if sort not in (None, _VARIABLE, _DOMAIN):  # its values have sections of their own
        compact = _number(section, "compactsubobj", of, faults) or 0
        if "datatype" in section and 0 < compact < 0xFF:
            each = _value(section, of, faults)
            objects[where[0], 0] = Described("number of entries", KINDS[0x05], "ro")
            objects.update({(where[0], sub): each for sub in range(1, compact + 1)})
        return
    objects[where] = _value(section, of, faults)


def _value(section: Mapping[str, str], of: str, faults: list[str]) -> Described:
    code = _number(section, "datatype", of, faults)
    if code is None:
        faults.append(f"{of}: its type is not said.")
    kind = KINDS.get(code or 0)
    access = section.get("accesstype", "").lower()
    if access not in ACCESSES:
        faults.append(f"{of}: “{access[:_SHOWN]}” is no way to access it.")
    low, high = (_bound(section, key, kind, of, faults) for key in ("lowlimit", "highlimit"))
    if low is not None and high is not None and low > high:
        faults.append(f"{of}: its lowest value {low} is above its highest {high}; neither is believed.")
        low = high = None
    return Described(
        section.get("parametername", "")[:_SHOWN], kind, access, low, high,
        section.get("pdomapping", "").strip() not in ("", "0"),
    )  # fmt: skip


def _bound(section: Mapping[str, str], key: str, kind: Kind | None, of: str, faults: list[str]) -> int | None:
    """A limit; of a number with a sign it may be written as its bits are."""
    if kind is None:
        return None
    found = _number(section, key, of, faults)
    if found is None:
        return None
    if kind.signed and kind.high < found < 1 << 8 * kind.bytes:
        found -= 1 << 8 * kind.bytes
    if not kind.low <= found <= kind.high:
        faults.append(f"{of}: {key} {found} does not fit its {kind.bytes} bytes; it is not believed.")
        return None
    return found


def _missing(sections: Mapping[str, Mapping[str, str]], faults: list[str]) -> None:
    """Objects that are listed and not described."""
    for index in _listed(sections):
        if f"{index:04x}" not in sections:
            faults.append(f"Object {index:04X}h is listed in the file, and not described.")


def _listed(sections: Mapping[str, Mapping[str, str]]) -> Iterator[int]:
    for name in _LISTS:
        for key, text in sections.get(name, {}).items():
            index = whole_number(text.split(";")[0].strip())
            if key.isdecimal() and index is not None:
                yield index
