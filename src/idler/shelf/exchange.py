"""Machines in files of other kinds, by the ending of the name. A file that cannot be taken changes nothing."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from idler.core.errors import IdlerError
from idler.core.exchange.dcf import NODE, dcf_text, read_device_file
from idler.core.exchange.imported import Imported, ImportRefusal, not_given
from idler.core.exchange.jsonfile import json_text, read_json
from idler.core.exchange.tables import csv_text, read_csv
from idler.core.machine import Machine
from idler.core.machine import file as machinefile
from idler.core.machine.file import FileRefusal
from idler.core.profile.eds import Written

from .files import FileTrouble, read_bytes, read_text, write_text

LARGEST = 8 << 20  # bytes; the largest that a machine can have is about 1 MB


@dataclass(frozen=True)
class Writing:
    """What a file says beside the values.

    name: of the file. template: a machine file whose comments a machine file keeps. node: of the controller.
    """

    name: str
    template: str = ""
    node: int = NODE
    when: float = 0.0

    @property
    def created(self) -> Written:
        day = time.localtime(self.when)
        hour, half = (day.tm_hour - 1) % 12 + 1, "PM" if day.tm_hour > 11 else "AM"
        return Written(time.strftime("%m-%d-%Y", day), f"{hour:02d}:{day.tm_min:02d}{half}")


@dataclass(frozen=True)
class Format:
    """One kind of file."""

    label: str
    read: Callable[[str], Imported]
    write: Callable[[Machine, Writing], str] | None  # None: it holds no values, so that a machine cannot be kept in it


def _machine_file(text: str) -> Imported:
    machine = machinefile.read(text).machine
    return Imported(machine, not_given(machine), text)


def _dcf(machine: Machine, how: Writing) -> str:
    return dcf_text(machine, node=how.node, name=how.name, created=how.created)


FORMATS: dict[str, Format] = {
    ".toml": Format("Machine file", _machine_file, lambda machine, how: machinefile.write(machine, how.template)),
    ".json": Format("JSON", read_json, lambda machine, _: json_text(machine)),
    ".csv": Format("Table of values", read_csv, lambda machine, _: csv_text(machine)),
    ".dcf": Format("Device configuration, CiA 306", read_device_file, _dcf),
    ".eds": Format("Electronic data sheet, CiA 306", read_device_file, None),
}
WRITTEN = {ending: kind for ending, kind in FORMATS.items() if kind.write is not None}


def format_of(path: Path) -> Format:
    """Raises IdlerError for an ending that is not known."""
    found = FORMATS.get(path.suffix.lower())
    if found is None:
        raise IdlerError(f"{path.name}: files that end with {', '.join(FORMATS)} can be read and written.")
    return found


def read_machine(path: Path) -> Imported:
    """Raises IdlerError with the file's name and why it cannot be taken."""
    kind, table = format_of(path), path.suffix.lower() == ".csv"
    text = _spreadsheet(path) if table else read_text(path, LARGEST)
    try:
        return kind.read(text if table else text.replace("\r\n", "\n"))
    except (ImportRefusal, FileRefusal) as why:
        raise FileTrouble(f"{path.name}: {why.sentence}") from None


def _spreadsheet(path: Path) -> str:
    """The text of a table as spreadsheets write it: UTF-8, UTF-16 with its mark, or else the Windows code page 1252."""
    data = read_bytes(path, LARGEST)
    encoding = "utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig"
    try:
        return data.decode(encoding)
    except UnicodeDecodeError as why:
        if encoding == "utf-16":
            raise FileTrouble(f"{path.name}: begins as UTF-16 text and is none (byte {why.start}).") from None
        return data.decode("cp1252", "replace")


def write_machine(path: Path, machine: Machine, *, template: str = "", node: int = NODE) -> None:
    """On the disk when this returns. template, node: as in Writing. Raises IdlerError."""
    write = format_of(path).write
    if write is None:
        raise IdlerError(
            f"{path.name}: a data sheet says which values a controller has and holds none of them. Write a .dcf instead, "
            "or take the data sheet of a controller with “./idler eds”."
        )
    if not path.parent.is_dir():
        raise FileTrouble(f"{path.parent}: is no folder. Make it first, or write elsewhere.")
    write_text(path, write(machine, Writing(path.name, template, node, time.time())))
