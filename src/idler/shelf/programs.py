"""Programs on disk, or from a pipe, and the lines of one."""

from __future__ import annotations

import os
import stat
import sys
from collections.abc import Sequence
from pathlib import Path

from idler.core.program.language import MARK_LINES, MOST_BYTES

from .files import FileTrouble

PIECE = 1 << 22
LONGEST_SHOWN = 512  # signs of a line, on an average of those between two marks


def program_bytes(path: Path) -> bytearray:
    """The text of a program as it stands; "-" is standard input. Read into memory and not mapped: whoever writes it anew
    meanwhile may shorten it. Raises FileTrouble."""
    if str(path) == "-":
        return _read(sys.stdin.fileno(), "standard input")
    try:
        descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NOCTTY)
    except OSError as why:
        raise FileTrouble(f"{path}: cannot be read ({(why.strerror or str(why)).lower()}).") from None
    try:
        if stat.S_ISDIR(os.fstat(descriptor).st_mode):
            raise FileTrouble(f"{path}: is a folder.")
        return _read(descriptor, str(path))
    finally:
        os.close(descriptor)


def _read(descriptor: int, name: str) -> bytearray:
    found = bytearray()
    try:
        while piece := os.read(descriptor, PIECE):
            found += piece
            if len(found) > MOST_BYTES:
                raise FileTrouble(
                    f"{name}: is more than {MOST_BYTES // 10**6} MB, which is not read. Cut it into parts."
                )
    except OSError as why:
        raise FileTrouble(f"{name}: cannot be read ({(why.strerror or str(why)).lower()}).") from None
    return found


def lines_of(text: bytes | bytearray, marks: Sequence[int], first: int, count: int) -> list[str]:
    """Lines of a program, `first` from 1, as they are shown; fewer where it ends. marks: see `Program`."""
    mark = (first - 1) // MARK_LINES
    begin = marks[mark]
    most = first - 1 - mark * MARK_LINES + count
    window = bytes(text[begin : begin + most * LONGEST_SHOWN])
    found = window.replace(b"\r\n", b"\n").replace(b"\r", b"\n").split(b"\n")[first - 1 - mark * MARK_LINES :][:count]
    return [line[:LONGEST_SHOWN].decode("latin-1") for line in found]


def comment_of(text: bytes | bytearray, marks: Sequence[int], line: int) -> str:
    """What a line says to the person: its comment, or all of it where it has none."""
    words = next(iter(lines_of(text, marks, line, 1)), "").strip()
    bracket, semicolon = words.partition("("), words.partition(";")
    comment = bracket[2].partition(")")[0] if bracket[1] else semicolon[2]
    return comment.strip() or words
