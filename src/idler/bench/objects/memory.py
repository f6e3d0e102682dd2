"""What the controller keeps when its power is off: raw values by object, and the count of the way oil, in a file."""

from __future__ import annotations

import json
import os
from pathlib import Path

from idler.core.errors import IdlerError
from idler.core.machine import filedata
from idler.core.profile.codec import Place, Raw

_OIL = "oil"


class Memory:
    """path None: kept only as long as the process lives."""

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self._kept: dict[Place, Raw] | None = None
        self.oil = 0, 0  # strokes, and ticks towards the next one
        if path is not None and path.exists():
            try:
                kept = filedata.json(path.read_text("utf-8"))
                strokes, done = kept.pop(_OIL, (0, 0))
                self.oil = int(strokes), int(done)
                self._kept = {Place(int(key[:4], 16), int(key[4:], 16)): raw for key, raw in kept.items()} or None
            except (IdlerError, OSError, ValueError, AttributeError, TypeError) as why:
                raise IdlerError(f"The memory {path} of the controller cannot be read ({why}).") from None

    def load(self) -> dict[Place, Raw] | None:
        """The stored values, or None where nothing was stored yet."""
        return dict(self._kept) if self._kept is not None else None

    def forget(self) -> None:
        """As it came from the factory floor."""
        self._kept, self.oil = None, (0, 0)
        if self._path is not None:
            self._path.unlink(missing_ok=True)

    def store(self, values: dict[Place, Raw]) -> None:
        """Raises OSError where the file cannot be written; then the old values stay."""
        self._write(values)
        self._kept = dict(values)

    def count(self, strokes: int, done: int) -> None:
        """Keeps the count of the way oil, beside values that stay as they are. Raises OSError."""
        if (strokes, done) != self.oil:
            self.oil = strokes, done
            self._write(self._kept or {})

    def _write(self, values: dict[Place, Raw]) -> None:
        if self._path is None:
            return
        kept = {f"{place.index:04X}{place.sub:02X}": raw for place, raw in values.items()}
        text = json.dumps({**kept, _OIL: self.oil}, indent=0)
        self._path.parent.mkdir(parents=True, exist_ok=True)
        temporary = self._path.with_suffix(".new")
        with open(temporary, "w", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        os.replace(temporary, self._path)
