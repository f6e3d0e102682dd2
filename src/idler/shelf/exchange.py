"""Machines in files of other kinds, by the ending of the name. A file that cannot be taken changes nothing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from idler.core import machinefile
from idler.core.errors import IdlerError
from idler.core.exchange.dcf import dcf_text, read_device_file
from idler.core.exchange.imported import Imported, ImportRefusal
from idler.core.exchange.jsonfile import json_text, read_json
from idler.core.exchange.tables import csv_text, read_csv
from idler.core.machine import Machine
from idler.core.machinefile import FileRefusal
from idler.core.wire.eds import eds_text
from idler.core.wire.objects import entries

from .files import FileTrouble, write_text

LARGEST = 8 << 20  # bytes; the largest that a machine can have is about 1 MB


@dataclass(frozen=True)
class Format:
    """One kind of file."""

    label: str
    read: Callable[[str], Imported]
    write: Callable[[Machine], str]


FORMATS: dict[str, Format] = {
    ".toml": Format("Machine file", lambda text: Imported(machinefile.read(text).machine), machinefile.write),
    ".json": Format("JSON", read_json, json_text),
    ".csv": Format("Table of values", read_csv, csv_text),
    ".dcf": Format("Device configuration, CiA 306", read_device_file, dcf_text),
    ".eds": Format("Electronic data sheet, CiA 306", read_device_file, lambda m: eds_text(entries(m.shape))),
}


def format_of(path: Path) -> Format:
    """Raises IdlerError for an ending that is not known."""
    found = FORMATS.get(path.suffix.lower())
    if found is None:
        raise IdlerError(f"{path.name}: files that end with {', '.join(FORMATS)} can be read and written.")
    return found


def read_machine(path: Path) -> Imported:
    """Raises IdlerError with the file's name and why it cannot be taken."""
    kind = format_of(path)
    try:
        size = path.stat().st_size
        if size > LARGEST:
            raise FileTrouble(f"{path.name}: has {size >> 20} MB; no machine has more than {LARGEST >> 20} MB.")
        text = path.read_bytes().decode("utf-8-sig")
    except OSError as why:
        raise FileTrouble(f"{path.name}: cannot be read ({(why.strerror or str(why)).lower()}).") from None
    except UnicodeDecodeError as why:
        raise FileTrouble(f"{path.name}: is not UTF-8 text (byte {why.start}).") from None
    try:
        return kind.read(text.replace("\r\n", "\n") if path.suffix.lower() != ".csv" else text)
    except (ImportRefusal, FileRefusal) as why:
        raise FileTrouble(f"{path.name}: {why.sentence}") from None


def write_machine(path: Path, machine: Machine) -> None:
    """On the disk when this returns. Raises IdlerError."""
    write_text(path, format_of(path).write(machine))
