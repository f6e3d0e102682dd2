"""Reading and writing whole files safely."""

from __future__ import annotations

import os
import select
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TypeVar

from idler.core.errors import About, IdlerError
from idler.core.machine.file import LONGEST_FILE

T = TypeVar("T")
PATIENCE = 10  # seconds in which a pipe has to say something
ARCHIVE = "archive"  # folder of the machines that were taken off the shelf


class FileTrouble(IdlerError):
    """A file that cannot be read or written; names it and says why."""

    about = About.DISK


def read_bytes(path: Path, most: int) -> bytes:
    """All of a file, a pipe or a device, never more than `most` bytes of it. Raises FileTrouble."""
    found = b""
    try:
        descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK | os.O_NOCTTY)
        try:
            while len(found) <= most:
                if not select.select([descriptor], [], [], PATIENCE)[0]:
                    raise FileTrouble(f"{path}: nothing came from it for {PATIENCE} s.")
                piece = os.read(descriptor, min(most + 1 - len(found), 1 << 20))
                if not piece:
                    return found
                found += piece
        finally:
            os.close(descriptor)
    except OSError as why:
        raise FileTrouble(f"{path}: cannot be read ({(why.strerror or str(why)).lower()}).") from None
    raise FileTrouble(f"{path}: is larger than any file of ours, {most >> 20} MB.")


def read_text(path: Path, most: int = LONGEST_FILE) -> str:
    """The text of a file, in UTF-8. Raises FileTrouble."""
    try:
        return read_bytes(path, most).decode("utf-8-sig")
    except UnicodeDecodeError as why:
        raise FileTrouble(f"{path}: is not UTF-8 text (byte {why.start}).") from None


@contextmanager
def understood(what: str, path: Path, way_out: str) -> Iterator[None]:
    """Whatever a file of ours lacks or mistakes, where it is read, becomes one sentence: IdlerError."""
    try:
        yield
    except (IdlerError, KeyError, TypeError, ValueError, AttributeError, OverflowError) as why:
        said = f"no {why}" if isinstance(why, KeyError) else str(why).removeprefix(f"{path}: ").removesuffix(".")
        raise IdlerError(f"The {what} in {path} cannot be read ({said[:200]}). {way_out}") from None


def write_text(path: Path, text: str, *, private: bool = False) -> None:
    """Replaces a file as a whole, in UTF-8. private: as in write_bytes. Raises FileTrouble."""
    write_bytes(path, text.encode(), private=private)


def write_bytes(path: Path, data: bytes, *, private: bool = False) -> None:
    """Replaces a file as a whole: temporary file, fsync, rename, fsync of the folder. Raises FileTrouble.

    private: nobody but its owner may read it.
    """
    temporary = path.with_name(f".{path.name}.new")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        mode = 0o600 if private else 0o666
        with open(temporary, "wb", opener=lambda name, flags: os.open(name, flags, mode)) as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        os.replace(temporary, path)
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    except OSError as why:
        with suppress(OSError):
            temporary.unlink()  # half a file is of no use to anybody
        raise FileTrouble(f"{path}: cannot be written ({(why.strerror or str(why)).lower()}).") from None


def append_text(path: Path, text: str) -> None:
    """Adds to the end of a file, in UTF-8; on the disk when this returns. Raises FileTrouble."""
    try:
        with open(path, "a", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
    except OSError as why:
        raise FileTrouble(f"{path}: cannot be written ({(why.strerror or str(why)).lower()}).") from None


def moved(old: Path, new: Path) -> None:
    """Gives a file or folder another name, where there is one. Raises FileTrouble."""
    try:
        if old.exists():
            new.parent.mkdir(parents=True, exist_ok=True)
            os.replace(old, new)
    except OSError as why:
        raise FileTrouble(f"{old}: cannot be moved ({(why.strerror or str(why)).lower()}).") from None


class Careful:
    """Remembers which files could not be read: each is put aside before another is written in its place."""

    def __init__(self) -> None:
        self._unread: set[Path] = set()

    def read(self, path: Path, read: Callable[[Path], T]) -> T:
        """What a file holds. Raises what `read` raises."""
        try:
            return read(path)
        except (IdlerError, ValueError):
            self.spoilt(path)
            raise

    def spoilt(self, path: Path) -> None:
        """It could not be read."""
        self._unread.add(path)

    def place(self, path: Path) -> Path:
        """The same path, free to be written. Raises FileTrouble."""
        if path in self._unread:
            names = (path.with_name(f"{path.name}.damaged{k or ''}") for k in range(1000))
            moved(path, next(name for name in names if not name.exists()))
            self._unread.discard(path)
        return path


def removed(path: Path) -> None:
    """Raises FileTrouble."""
    try:
        path.unlink(missing_ok=True)
    except OSError as why:
        raise FileTrouble(f"{path}: cannot be removed ({(why.strerror or str(why)).lower()}).") from None
