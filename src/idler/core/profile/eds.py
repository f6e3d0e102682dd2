"""The electronic data sheet of a controller (CiA 306-1), written from the entries."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping
from typing import NamedTuple

from .codec import Place, Raw
from .objects import PRODUCT, REVISION, VENDOR, Entry

SECTION = re.compile(
    r"([0-9A-Fa-f]{4})(?:sub([0-9A-Fa-f]{1,2}))?", re.IGNORECASE
)  # of an object, or of one value of it
# As C writes whole numbers (CiA 306, 4.3): 0x and hexadecimal digits, 0 and octal ones, or decimal.
_NUMBER = re.compile(
    r"\s*(\$NODEID\s*\+\s*)?(-?(?:0[xX][0-9a-fA-F]{1,16}|0[0-7]{0,21}|[1-9][0-9]{0,18}))\s*", re.IGNORECASE
)
STORED, STORE_FORMAT = 0x1021, 0x1022  # where a device may keep its own data sheet, and how it is packed; 0: not at all
_MANDATORY = (0x1000, 0x1001, 0x1018)
_VAR, _RECORD = 0x7, 0x9


def whole_number(text: str, node: int = 0) -> int | None:
    """A number as these files have them; None for what is none. node: what $NODEID stands for."""
    found = _NUMBER.fullmatch(text)
    if found is None:
        return None
    digits = found[2].lstrip("-")
    return int(found[2], 8 if digits.isdecimal() and digits.startswith("0") else 0) + (node if found[1] else 0)


class Written(NamedTuple):
    """When a file was written, as CiA 306-1 has it: mm-dd-yyyy, hh:mmAM or PM."""

    date: str = "01-01-2026"
    time: str = "12:00AM"


DAY = Written()


def _ascii(text: str) -> str:
    """A name in ASCII, at most 200 signs of it."""
    plain = text.translate({**{ord(sign): "'" for sign in "“”„‘’"}, ord("‰"): "per mille"})
    return unicodedata.normalize("NFKD", plain).encode("ascii", "ignore").decode()[:200].strip()


def eds_text(
    entries: list[Entry],
    *,
    created: Written = DAY,
    name: str = "controller.eds",
    title: str = "Controller of a machine",
    values: Mapping[Place, Raw] | None = None,
    node: int = 1,
) -> str:
    """The EDS as text, or the DCF of one device where its values are given.

    Lines end with a line feed. The date is given, since the core has no clock. Both files are ASCII (CiA 306-1, 4.2) but
    for texts that are values.
    """
    of_device = [
        "[DeviceComissioning]", f"NodeID=0x{node:X}", f"NodeName={_ascii(title)}", "Baudrate=500", "NetNumber=0",
        "NetworkName=", "CANopenManager=0", "LSS_SerialNumber=0", "",
    ] if values is not None else []  # fmt: skip
    by_index: dict[int, list[Entry]] = {}
    for entry in entries:
        by_index.setdefault(entry.index, []).append(entry)
    lines = [
        "[FileInfo]", f"FileName={_ascii(name)}", "FileVersion=1", "FileRevision=1", "EDSVersion=4.0",
        f"Description={_ascii(title)}", f"CreationTime={created.time}", f"CreationDate={created.date}", "CreatedBy=Idler",
        f"ModificationTime={created.time}", f"ModificationDate={created.date}", "ModifiedBy=Idler",
        *(["LastEDS=controller.eds"] if values is not None else []), "",
        "[DeviceInfo]", "VendorName=none", f"VendorNumber=0x{VENDOR:08X}", "ProductName=Idler controller profile",
        f"ProductNumber=0x{PRODUCT:08X}", f"RevisionNumber=0x{REVISION:08X}", "OrderCode=none",
        *(f"BaudRate_{rate}={int(rate in (250, 500, 1000))}" for rate in (10, 20, 50, 125, 250, 500, 800, 1000)),
        "SimpleBootUpMaster=0", "SimpleBootUpSlave=1", "Granularity=8", "DynamicChannelsSupported=0",
        "GroupMessaging=0", f"NrOfRXPDO={_count(by_index, 0x1400, 0x15FF)}",
        f"NrOfTXPDO={_count(by_index, 0x1800, 0x19FF)}", "LSS_Supported=0", "",
        *of_device, "[DummyUsage]", *(f"Dummy{code:04X}=0" for code in range(1, 8)), "", "[Comments]", "Lines=0", "",
    ]  # fmt: skip
    groups = {
        "MandatoryObjects": [i for i in by_index if i in _MANDATORY],
        "OptionalObjects": [i for i in by_index if i not in _MANDATORY and not 0x2000 <= i < 0x6000],
        "ManufacturerObjects": [i for i in by_index if 0x2000 <= i < 0x6000],
    }
    for title, indices in groups.items():
        lines += [f"[{title}]", f"SupportedObjects={len(indices)}"]
        lines += [f"{k}=0x{index:04X}" for k, index in enumerate(indices, start=1)] + [""]
    for index, group in by_index.items():
        if len(group) == 1 and group[0].sub == 0:
            lines += [f"[{index:04X}]", f"ParameterName={_ascii(group[0].title)}", f"ObjectType=0x{_VAR:X}",
                      *_value(group[0], values)]  # fmt: skip
            continue
        lines += [f"[{index:04X}]", f"ParameterName={_ascii(group[0].title)}", f"ObjectType=0x{_RECORD:X}",
                  f"SubNumber={len(group)}", ""]  # fmt: skip
        for entry in group:
            lines += [f"[{index:04X}sub{entry.sub:X}]", f"ParameterName={_ascii(entry.name)}", f"ObjectType=0x{_VAR:X}",
                      *_value(entry, values)]  # fmt: skip
    return "\n".join(lines) + "\n"


def _count(by_index: dict[int, list[Entry]], low: int, high: int) -> int:
    return sum(low <= index <= high for index in by_index)


def _value(entry: Entry, values: Mapping[Place, Raw] | None) -> list[str]:
    default = f"$NODEID+0x{entry.default:X}" if entry.node_offset else str(entry.default)
    lines = [f"DataType=0x{entry.type.code:04X}", f"AccessType={entry.access}", f"DefaultValue={default}"]
    if values is not None and entry.place in values:
        lines.append(f"ParameterValue={values[entry.place]}")
    if entry.row is not None and entry.row.low != entry.row.high and entry.type.bits:
        step = entry.row.wire.resolution
        lines += [f"LowLimit={round(entry.row.low / step)}", f"HighLimit={round(entry.row.high / step)}"]
    return [*lines, f"PDOMapping={int(entry.mappable)}", ""]
