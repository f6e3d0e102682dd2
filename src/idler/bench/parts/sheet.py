"""The data sheet that a plain part of the bench keeps of itself (1021h), as its maker wrote it: well, or with errors."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from ..rigs.parttruth import MakersCare

if TYPE_CHECKING:
    from .object import Kept, Object

_TYPES = {(1, False): 5, (1, True): 2, (2, False): 6, (2, True): 3, (4, False): 7, (4, True): 4}
_NAMES = {0x607F: "Max profile velocity", 0x6083: "Profile acceleration", 0x6084: "Profile deceleration"}
_MOST = {(0x607F, 0): 500_000, (0x6083, 0): 4_000_000, (0x6084, 0): 4_000_000, (0x6085, 0): 8_000_000}
_WRONG = ((0x6085, 0),)  # whose bounds a careless one confuses
_LISTED_ONLY = 0x60B0
_MAPPABLE = ((0x6040, 0), (0x6041, 0), (0x6064, 0), (0x60FD, 0))
_TOO_SHORT = (0x6065, 0)


def sheet_text(name: str, identity: tuple[int, int], objects: Mapping[Object, Kept], care: MakersCare) -> str:
    """identity: vendor and product as the file has them."""
    careless = care is MakersCare.CARELESS
    by_index: dict[int, list[int]] = {}
    for index, sub in objects:
        by_index.setdefault(index, []).append(sub)
    listed = [*sorted(by_index), 0x1008, *([_LISTED_ONLY] if careless else [])]
    lines = [
        "[FileInfo]", "FileName=part.eds", "EDSVersion=4.0", "", "[DeviceInfo]", "VendorName=made up",
        f"VendorNumber=0x{identity[0]:X}", f"ProductName={name}", f"ProductNumber=0x{identity[1]:X}", "",
        "[OptionalObjects]", f"SupportedObjects={len(listed)}", *(f"{n}=0x{index:04X}" for n, index in enumerate(listed, 1)),
        *(["SupportedObjects=9"] if careless else []),
    ]  # fmt: skip
    for index, subs in sorted(by_index.items()):
        title = _NAMES.get(index, f"Object {index:04X}h")
        if sorted(subs) == [0]:
            lines += [
                "",
                f"[{index:04X}]",
                f"ParameterName={title}",
                "ObjectType=0x7",
                *_one(objects, (index, 0), careless),
            ]
            continue
        lines += ["", f"[{index:04X}]", f"ParameterName={title}", "ObjectType=0x9", f"SubNumber={len(subs)}"]
        for sub in sorted(subs):
            lines += ["", f"[{index:04X}sub{sub:X}]", f"ParameterName=value {sub}", "ObjectType=0x7"]
            lines += _one(objects, (index, sub), careless)
    lines += ["", "[1008]", "ParameterName=Device name", "ObjectType=0x7", "DataType=0x0009", "AccessType=const"]
    if careless:
        lines += ["", "see the printed manual for all other objects"]
    return "\r\n".join(lines) + "\r\n"


def _one(objects: Mapping[Object, Kept], where: Object, careless: bool) -> list[str]:
    each, wrong = objects[where], careless and where in _WRONG
    kind = 6 if careless and where == _TOO_SHORT else _TYPES[each.size, each.signed]
    access = "rw" if each.writable else "ro"
    lines = [
        f"DataType=0x{kind:04X}",
        f"AccessType={access}",
        f"DefaultValue={each.value}",
        f"PDOMapping={int(where in _MAPPABLE)}",
    ]
    if where in _MOST:
        low, high = (_MOST[where], 1) if wrong else (1, _MOST[where])
        lines += [f"LowLimit={low}", f"HighLimit={high}"]
    return lines
