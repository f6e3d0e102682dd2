"""What the shelf knows of controllers: the journal of a send that was begun, and what each held when it was last heard.

DIR/sending/NAME.json           a send that nobody has seen the end of; gone when it is known to be all old or all new
DIR/heard/NAME-SERIAL.json      the raw values that Idler and the person last knew of
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path

from idler.core.controller.sending import Sending
from idler.core.errors import IdlerError
from idler.core.machine import filedata
from idler.core.profile.codec import Place, Raw

from .files import Careful, read_text, removed, understood, write_text


class Controllers:
    """Of one machine of the shelf. Every write is on the disk when it returns. Raises FileTrouble."""

    def __init__(self, journal: Path, heard: Path, name: str, careful: Careful) -> None:
        self._journal, self._heard, self._name, self._careful = journal, heard, name, careful

    def begin(self, sending: Sending) -> None:
        """Before the first value of a send is written."""
        kept = {"serial": sending.serial, "when": sending.when, "old": _text(sending.old), "new": _text(sending.new)}
        write_text(self._careful.place(self._journal), json.dumps(kept, indent=1))

    def begun(self) -> Sending | None:
        """The send that nobody has seen the end of. Raises IdlerError where the journal cannot be read."""
        return self._careful.read(self._journal, _journal) if self._journal.exists() else None

    def ended(self) -> None:
        removed(self._careful.place(self._journal))

    def heard(self, serial: int) -> dict[Place, Raw] | None:
        """What a controller held when it was last heard; None where it never was, or where that cannot be read."""
        path = self._heard / f"{self._name}-{serial}.json"
        try:
            return _raws(filedata.json(read_text(path))) if path.exists() else None
        except (ValueError, TypeError, AttributeError, IdlerError):
            return None  # it can only be learnt anew

    def hear(self, serial: int, raws: Mapping[Place, Raw]) -> None:
        write_text(self._heard / f"{self._name}-{serial}.json", json.dumps(_text(raws), indent=0))


def _journal(path: Path) -> Sending:
    with understood("journal of a send", path, "Compare with the controller."):
        kept = filedata.json(read_text(path))
        return Sending(int(kept["serial"]), float(kept["when"]), _raws(kept["old"]), _raws(kept["new"]))


def _text(raws: Mapping[Place, Raw]) -> dict[str, Raw]:
    return {f"{where.index:04X}{where.sub:02X}": raw for where, raw in raws.items()}


def _raws(kept: Mapping[str, object]) -> dict[Place, Raw]:
    found: dict[Place, Raw] = {}
    for key, raw in kept.items():
        if not isinstance(raw, int | str) or len(key) != 6:
            raise ValueError(f"{key} is no object with a value")
        found[Place(int(key[:4], 16), int(key[4:], 16))] = raw
    return found
