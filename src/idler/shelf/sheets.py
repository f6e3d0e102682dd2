"""Makers' data sheets of plain parts (EDS), as they were given: ROOT/sheets/VENDOR-PRODUCT.eds, for all machines of a shelf.

A file that names no vendor and product is kept for the part that it was given for.
"""

from __future__ import annotations

from pathlib import Path

from idler.core.controller.makers import require_same
from idler.core.controller.parts import PartIdentity
from idler.core.profile.makersheet import LONGEST, MakersSheet, read_sheet

from .files import read_bytes, write_text


def _path(root: Path, identity: PartIdentity) -> Path:
    return root / "sheets" / f"{identity.vendor:08x}-{identity.product:08x}.eds"


def text_of(data: bytes) -> str:
    """Makers write in several ways; whatever cannot be read is of names only."""
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def sheet_from(path: Path) -> tuple[str, MakersSheet]:
    """A file of a maker: its text, and what it says. Raises FileTrouble, Refusal."""
    text = text_of(read_bytes(path, LONGEST))
    return text, read_sheet(text)


def sheet_of(root: Path, identity: PartIdentity) -> MakersSheet | None:
    """What is kept for a part, if anything. Raises FileTrouble, Refusal."""
    path = _path(root, identity)
    return sheet_from(path)[1] if path.exists() else None


def keep_sheet(root: Path, identity: PartIdentity, text: str) -> MakersSheet:
    """Takes a sheet for a part and all others like it. Raises Refusal where it is none, or of another part; FileTrouble."""
    sheet = read_sheet(text)
    require_same(sheet, identity)
    path = _path(root, identity)
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    write_text(path, text)
    return sheet
