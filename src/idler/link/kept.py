"""What Idler keeps of controllers that are made of parts: which node is what, and every value that no part holds.

DIR/SERIAL.json, SERIAL by `serial_of`: the parts, who they are, raw values by place, and the places that were being sent.
"""

from __future__ import annotations

import contextlib
import json
import os
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from idler.core.controller.parts import PartIdentity, parse_parts, serial_of
from idler.core.controller.quirks import Quirk, read_quirk
from idler.core.errors import IdlerError
from idler.core.machine import filedata
from idler.core.profile.codec import Place, Raw

from .errors import LinkError

QUIRKS = "quirks"  # the folder of files about makers' parts, beside the controllers that are kept
_MOST = 1000  # files that are looked through


@dataclass
class Kept:
    """raws: as they were sent last. sending: places of a send that nobody has seen the end of."""

    parts: str = ""
    identities: tuple[PartIdentity, ...] = ()
    raws: dict[Place, Raw] = field(default_factory=dict)
    sending: tuple[Place, ...] = ()


class Keep:
    """folder: None, and nothing outlives the connection."""

    def __init__(self, folder: Path | None, serial: int) -> None:
        self._path = folder / f"{serial:08x}.json" if folder is not None else None
        self._quirks = folder / QUIRKS if folder is not None else None

    def load(self) -> Kept:
        """What was kept; nothing where there is none yet. Raises LinkError where it cannot be read: it is not written over."""
        if self._path is None or not self._path.exists():
            return Kept()
        try:
            return _kept(filedata.json(self._path.read_text("utf-8")))
        except (OSError, ValueError, LookupError, TypeError, AttributeError, IdlerError) as why:
            said = why.sentence if isinstance(why, IdlerError) else str(why)
            raise LinkError(
                f"What Idler keeps of this controller cannot be read: {self._path} ({said}). Mend that file, or move it away "
                "and send the machine again."
            ) from None

    def quirks(self) -> list[Quirk]:
        """Of makers' parts, in the order of their files. Raises LinkError for a file that cannot be understood."""
        found = []
        for path in sorted(self._quirks.glob("*.toml")) if self._quirks is not None else ():
            try:
                found.append(read_quirk(path.read_text("utf-8")))
            except (OSError, ValueError, IdlerError) as why:
                said = why.sentence if isinstance(why, IdlerError) else str(why)
                raise LinkError(f"{path}: {said} Mend that file, or move it away.") from None
        return found

    def save(self, kept: Kept) -> None:
        """On the disk when this returns. Raises LinkError."""
        if self._path is None:
            return
        text = json.dumps(
            {
                "parts": kept.parts,
                "identities": [[p.node, p.name, p.vendor, p.product, p.serial] for p in kept.identities],
                "raws": {_key(where): raw for where, raw in kept.raws.items()},
                "sending": [_key(where) for where in kept.sending],
            },
            indent=0, ensure_ascii=False,
        )  # fmt: skip
        fresh = self._path.with_suffix(".new")
        try:
            self._path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            with open(fresh, "w", encoding="utf-8") as file:
                file.write(text)
                file.flush()
                os.fsync(file.fileno())
            os.replace(fresh, self._path)
        except OSError as why:
            with contextlib.suppress(OSError):
                fresh.unlink()
            raise LinkError(
                f"{self._path}: what Idler keeps cannot be written ({(why.strerror or '').lower()})."
            ) from None


def known_parts(folder: Path | None, there: Iterable[PartIdentity]) -> str:
    """Which part is which, where exactly these nodes made a controller before: the newest file of whose parts all are there
    with the same serial numbers. Else empty."""
    if folder is None or not folder.is_dir():
        return ""
    found = set(there)
    with contextlib.suppress(OSError):
        for path in sorted(folder.glob("*.json"), key=lambda each: -each.stat().st_mtime)[:_MOST]:
            with contextlib.suppress(OSError, ValueError, LookupError, TypeError, AttributeError, IdlerError):
                kept = _kept(filedata.json(path.read_text("utf-8")))
                if kept.identities and {*kept.identities} <= found and f"{serial_of(kept.identities):08x}" == path.stem:
                    return str(parse_parts(kept.parts))
    return ""


def _key(where: Place) -> str:
    return f"{where.index:04X}{where.sub:02X}"


def _place(key: str) -> Place:
    return Place(int(key[:4], 16), int(key[4:], 16))


def _kept(read: Mapping[str, Any]) -> Kept:
    rows: Sequence[Sequence[Any]] = read["identities"]
    identities = tuple(PartIdentity(int(n), str(name), int(v), int(p), int(s)) for n, name, v, p, s in rows)
    raws = {_place(key): raw if isinstance(raw, str) else int(raw) for key, raw in read["raws"].items()}
    return Kept(str(read["parts"]), identities, raws, tuple(_place(key) for key in read["sending"]))
